import * as THREE from 'three';
import type { DataSet, NumberColumn } from '#core/datasets/dataset';
import { planeNormal, RADIANS } from '#core/geometry/angles';
import type { Painter } from '#core/styles/style';
import { dots } from './points';
import { clearGroup } from './shapes';
import type { Stage } from './stage';

/** Rows of a data set with their places, to be drawn. */
export interface PlacedRows {
	set: DataSet;
	painter: Painter;
	place: (i: number) => [number, number, number] | null;
	size: number;
	inPixels: boolean;
	opacity: number;
	/** Rows as discs by their dip and dip azimuth. */
	discs: boolean;
}

/** Rows of data sets in space: discs, rods or dots. */
export class RowsInSpace {
	private readonly group = new THREE.Group();
	/** What is drawn, with the rows that it stands for. */
	instanced: { mesh: THREE.InstancedMesh | THREE.Points; set: string; rows: Uint32Array }[] = [];

	constructor(private readonly stage: Stage) {
		stage.root.add(this.group);
		stage.before.push(() => {
			for (const { mesh } of this.instanced)
				if (mesh instanceof THREE.Points) {
					const { uniforms } = mesh.material as THREE.ShaderMaterial;
					uniforms['pixel']!.value = stage.pixel;
					uniforms['perspective']!.value = !stage.isParallel;
				}
		});
	}

	/** Rows as discs, rods or dots. */
	set(list: readonly PlacedRows[]): void {
		clearGroup(this.group);
		this.instanced = [];
		for (const l of list) {
			const rows: number[] = [];
			const places: [number, number, number][] = [];
			for (let i = 0; i < l.set.rowCount; i++) {
				if (l.painter.rgb(i) < 0) continue;
				const p = l.place(i);
				if (!p || p.some(Number.isNaN)) continue;
				rows.push(i);
				places.push(p);
			}
			if (rows.length === 0) continue;
			const drawn = l.discs ? this.discs(l, rows, places) : this.dotsOf(l, rows, places);
			for (const mesh of drawn) this.group.add(mesh);
			this.instanced.push({ mesh: drawn[0]!, set: l.set.id, rows: Uint32Array.from(rows) });
		}
		this.stage.draw();
	}

	private dotsOf(l: PlacedRows, rows: number[], places: [number, number, number][]): [THREE.Points] {
		const colors = new Float32Array(3 * rows.length);
		const c = new THREE.Color();
		rows.forEach((i, k) => c.setHex(l.painter.rgb(i), THREE.LinearSRGBColorSpace).toArray(colors, 3 * k));
		return [
			dots(
				this.stage.local(places.flat()),
				colors,
				Float32Array.from(rows, (i) => l.painter.size(i)),
				l.size,
				l.inPixels,
				l.opacity,
				this.stage.clip
			)
		];
	}

	/** Planes as discs; rows with plunge and trend as rods. */
	private discs(l: PlacedRows, rows: number[], places: [number, number, number][]): [THREE.InstancedMesh] {
		const values = (key: string) => l.set.columns.find((c): c is NumberColumn => c.key === key && c.type === 'number')?.values;
		const [dip, dipAzimuth, plunge, trend] = [values('dip'), values('dipAzimuth'), values('plunge'), values('trend')];
		const thick = 0.06;
		const mesh = new THREE.InstancedMesh(
			new THREE.CylinderGeometry(1, 1, 1, 20),
			new THREE.MeshLambertMaterial({ transparent: l.opacity < 1, opacity: l.opacity, clippingPlanes: this.stage.clip }),
			rows.length
		);
		const matrix = new THREE.Matrix4();
		const turn = new THREE.Quaternion();
		const up = new THREE.Vector3(0, 1, 0);
		const at = new THREE.Vector3();
		const c = new THREE.Color();
		const local = this.stage.local(places.flat());
		rows.forEach((i, k) => {
			at.fromArray(local, 3 * k);
			const pixels = l.inPixels ? this.stage.pixelAt(at) : 1;
			const size = (l.size / 2) * l.painter.size(i) * pixels;
			if (plunge && trend && !Number.isNaN(plunge[i]!) && !Number.isNaN(trend[i]!)) {
				const d = new THREE.Vector3(
					Math.cos(plunge[i]! * RADIANS) * Math.sin(trend[i]! * RADIANS),
					Math.cos(plunge[i]! * RADIANS) * Math.cos(trend[i]! * RADIANS),
					-Math.sin(plunge[i]! * RADIANS)
				);
				matrix.compose(at, turn.setFromUnitVectors(up, d), new THREE.Vector3(size * 0.12, size * 2, size * 0.12));
			} else {
				const n = planeNormal(dip?.[i] ?? 0, dipAzimuth?.[i] ?? 0);
				const hidden = Number.isNaN(n[0]);
				matrix.compose(
					at,
					turn.setFromUnitVectors(up, hidden ? up : new THREE.Vector3(n[0], n[1], n[2])),
					hidden ? new THREE.Vector3(0, 0, 0) : new THREE.Vector3(size, size * thick, size)
				);
			}
			mesh.setMatrixAt(k, matrix);
			mesh.setColorAt(k, c.set(l.painter.rgb(i)));
		});
		mesh.renderOrder = 4.5;
		mesh.frustumCulled = false;
		return [mesh];
	}
}
