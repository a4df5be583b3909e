import * as THREE from 'three';
import { TransformControls } from 'three/addons/controls/TransformControls.js';
import type { DataSet, NumberColumn } from '#core/datasets/dataset';
import { placeAt as placeOn, type HolePaths } from '#core/datasets/hole-paths';
import { planeNormal, RADIANS } from '#core/geometry/angles';
import type { Box } from '#core/geometry/box';
import { sampleRaster, type Raster } from '#core/grids/raster';
import type { SolidMesh } from '#core/mesh/cut-lattice';
import { curveShape } from '#core/scene/hole-curves';
import { tubeSegments } from '#core/scene/hole-index';
import { cutPlane, onPlane, planeThrough } from '#core/sections/section';
import type { Painter } from '#core/styles/style';
import type { HoleCurve, Slice } from '$lib/workbench/state';
import { BroughtIn } from './brought-in';
import { ModelMeshes, styleMesh, type ModelPaint } from './model-meshes';
import { Overlay } from './overlay';
import { dots } from './points';
import { clearGroup, gridIndex, shapesOf } from './shapes';
import { Stage } from './stage';
import { Tubes } from './tubes';

/** What a ray met. */
export interface Picked {
	x: number;
	y: number;
	z: number;
	what: { kind: 'unit'; index: number } | { kind: 'fault'; index: number } | { kind: 'terrain' } | { kind: 'hole'; hole: number; depth: number } | { kind: 'row'; set: string; row: number };
}

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

const MOST_SEGMENTS = 260_000;

/** The 3D scene of a project. */
export class SpaceScene {
	readonly stage: Stage;
	readonly overlay: Overlay;
	private readonly model: ModelMeshes;
	readonly broughtIn: BroughtIn;
	private readonly groups: Record<'rows' | 'curves' | 'caps', THREE.Group>;
	private marks: THREE.Points | null = null;
	private terrain: THREE.Mesh | null = null;
	private raster: Raster | null = null;
	private readonly tubes: Tubes;
	private paths: HolePaths | null = null;
	private axis: THREE.LineSegments | null = null;
	private highlight: THREE.LineSegments | null = null;
	private frame: THREE.LineSegments | null = null;
	private readonly probe: THREE.Mesh;
	private readonly handle = new THREE.Object3D();
	private readonly gizmo: TransformControls;
	private sliceSet = false;
	private filling: (() => void) | null = null;
	private curvesFilling: (() => void) | null = null;
	private instanced: { mesh: THREE.InstancedMesh | THREE.Points; set: string; rows: Uint32Array }[] = [];
	/** The slice was dragged. */
	sliced: (at: [number, number, number], normal: [number, number, number]) => void = () => {};

	/** @throws Error when the browser has no WebGL */
	constructor(host: HTMLElement) {
		this.stage = new Stage(host);
		this.overlay = new Overlay(this.stage, host);
		const { root, scene, clip } = this.stage;
		this.groups = { rows: new THREE.Group(), curves: new THREE.Group(), caps: new THREE.Group() };
		root.add(...Object.values(this.groups));
		this.model = new ModelMeshes(root, clip);
		this.broughtIn = new BroughtIn(this.stage, () => this.raster);
		this.tubes = new Tubes(clip);
		root.add(this.tubes.mesh);
		this.probe = new THREE.Mesh(new THREE.SphereGeometry(1, 16, 12), new THREE.MeshBasicMaterial({ color: 0xb4622d, depthTest: false }));
		this.probe.renderOrder = 10;
		this.probe.visible = false;
		scene.add(this.probe, this.handle);
		this.gizmo = new TransformControls(this.stage.camera, this.stage.renderer.domElement);
		this.gizmo.setSpace('local');
		this.gizmo.size = 0.9;
		this.gizmo.showX = this.gizmo.showY = false;
		this.gizmo.setColors(0xb4622d, 0xb4622d, 0xb4622d, 0x0f7b5f);
		this.gizmo.addEventListener('dragging-changed', (e) => (this.stage.controls.enabled = !e.value));
		this.gizmo.addEventListener('change', () => this.stage.draw());
		this.gizmo.addEventListener('objectChange', () => {
			const n = new THREE.Vector3(0, 0, 1).applyQuaternion(this.handle.quaternion);
			this.sliced(this.stage.toProject(this.handle.position), [n.x, n.y, n.z * this.stage.exaggeration]);
		});
		this.stage.before.push(() => {
			this.probe.scale.setScalar(this.stage.pixelAt(this.probe.position) * 6);
			this.gizmo.camera = this.stage.camera;
			const perspective = !this.stage.isParallel;
			this.tubes.view(this.stage.pixel, perspective);
			for (const { mesh } of this.instanced)
				if (mesh instanceof THREE.Points) {
					const { uniforms } = mesh.material as THREE.ShaderMaterial;
					uniforms['pixel']!.value = this.stage.pixel;
					uniforms['perspective']!.value = perspective;
				}
		});
		this.stage.after.push(() => this.overlay.draw());
		this.stage.settled = () => {
			// What was made for this view already is not made again.
			const view = this.viewKey;
			if (this.filledFor !== view) {
				this.filling?.();
				this.curvesFilling?.();
				this.filledFor = view;
			}
			this.moved();
		};
	}

	private filledFor = '';

	private get viewKey(): string {
		const { camera, controls, width, height, exaggeration } = this.stage;
		return [...camera.position.toArray(), ...controls.target.toArray(), camera.zoom, width, height, exaggeration].map((v) => v.toPrecision(5)).join();
	}

	/** The camera came to rest. */
	moved: () => void = () => {};

	get canvas(): HTMLCanvasElement {
		return this.stage.renderer.domElement;
	}

	/** Segments of the tubes that are drawn, and how often they were made. */
	get tubeCount(): number {
		return this.tubes.mesh.visible ? this.tubes.count : 0;
	}
	tubeVersion = 0;

	get drawCalls(): number {
		return this.stage.renderer.info.render.calls;
	}

	draw(): void {
		this.stage.draw();
	}

	setExtent(e: Box): void {
		this.stage.setExtent(e);
		if (this.frame) this.stage.root.remove(this.frame);
		const box = new THREE.BoxGeometry(e.maxX - e.minX, e.maxY - e.minY, e.maxZ - e.minZ);
		this.frame = new THREE.LineSegments(new THREE.EdgesGeometry(box), new THREE.LineBasicMaterial({ color: 0x8c8877, transparent: true, opacity: 0.55 }));
		this.stage.root.add(this.frame);
		this.draw();
	}

	private get origin(): [number, number, number] {
		return [this.stage.center.x, this.stage.center.y, this.stage.center.z];
	}

	/** Marks at places with open findings. */
	setMarks(marks: readonly { x: number; y: number; z: number; color: string }[]): void {
		if (this.marks) {
			this.stage.root.remove(this.marks);
			this.marks.geometry.dispose();
			this.marks = null;
		}
		if (marks.length) {
			const geometry = new THREE.BufferGeometry();
			geometry.setAttribute('position', new THREE.BufferAttribute(this.stage.local(marks.flatMap((m) => [m.x, m.y, m.z])), 3));
			geometry.setAttribute('color', new THREE.Float32BufferAttribute(marks.flatMap((m) => new THREE.Color(m.color).toArray()), 3));
			this.marks = new THREE.Points(geometry, new THREE.PointsMaterial({ size: 11, sizeAttenuation: false, vertexColors: true, depthTest: false }));
			this.marks.renderOrder = 9;
			this.stage.root.add(this.marks);
		}
		this.draw();
	}

	/** One mesh a unit and a fault, all on the same vertices. */
	setModel(mesh: SolidMesh | null, paint: ModelPaint | null = null): void {
		this.model.set(mesh && { mesh, position: this.stage.local(mesh.positions) }, paint);
		this.draw();
	}

	styleUnit(index: number, color: string, visible: boolean, opacity: number): void {
		this.model.styleUnit(index, color, visible, opacity);
		this.draw();
	}

	styleFault(index: number, visible: boolean): void {
		this.model.styleFault(index, visible);
		this.draw();
	}

	setTerrain(r: Raster | null): void {
		this.raster = r;
		if (this.terrain) {
			this.stage.root.remove(this.terrain);
			this.terrain.geometry.dispose();
			this.terrain = null;
		}
		if (!r) return this.draw();
		const step = Math.max(1, Math.ceil(Math.max(r.nx, r.ny) / 220));
		const nx = Math.floor((r.nx - 1) / step) + 1;
		const ny = Math.floor((r.ny - 1) / step) + 1;
		const positions = new Float64Array(3 * nx * ny);
		for (let j = 0; j < ny; j++)
			for (let i = 0; i < nx; i++) {
				const [x, y] = [r.x0 + i * step * r.dx, r.y0 + j * step * r.dy];
				positions.set([x, y, sampleRaster(r, x, y)], 3 * (j * nx + i));
			}
		const geometry = new THREE.BufferGeometry();
		geometry.setAttribute('position', new THREE.BufferAttribute(this.stage.local(positions), 3));
		geometry.setIndex(gridIndex(nx, ny, (k) => Number.isNaN(positions[3 * k + 2]!)));
		geometry.computeVertexNormals();
		this.terrain = new THREE.Mesh(geometry, new THREE.MeshLambertMaterial({ color: 0xd8d2bf, side: THREE.DoubleSide, transparent: true, depthWrite: false, clippingPlanes: this.stage.clip }));
		this.terrain.renderOrder = 3;
		this.terrain.position.z = this.stage.size * 0.0004;
		this.stage.root.add(this.terrain);
		this.draw();
	}

	styleTerrain(visible: boolean, opacity: number): void {
		if (this.terrain) styleMesh(this.terrain, visible, opacity);
		this.draw();
	}

	/** Contours of the terrain in their height. */
	setContours(contours: readonly { value: number; lines: [number, number][][] }[]): void {
		const old = this.stage.root.getObjectByName('contours');
		if (old) this.stage.root.remove(old);
		const ends: number[] = [];
		const lift = this.stage.size * 0.0006;
		for (const c of contours) for (const l of c.lines) for (let i = 0; i + 1 < l.length; i++) ends.push(...l[i]!, c.value + lift, ...l[i + 1]!, c.value + lift);
		if (ends.length) {
			const geometry = new THREE.BufferGeometry();
			geometry.setAttribute('position', new THREE.BufferAttribute(this.stage.local(ends), 3));
			const lines = new THREE.LineSegments(geometry, new THREE.LineBasicMaterial({ color: 0x9a7b4f, transparent: true, opacity: 0.8, clippingPlanes: this.stage.clip }));
			lines.name = 'contours';
			lines.renderOrder = 3.6;
			this.stage.root.add(lines);
		}
		this.draw();
	}

	/** Axes of the holes as thin lines, and the tubes of a data set along them. */
	setHoles(paths: HolePaths | null, tubes: { set: DataSet; painter: Painter; size: number; inPixels: boolean; opacity: number } | null, wanted: (h: number) => boolean): void {
		this.paths = paths;
		if (this.axis) {
			this.stage.root.remove(this.axis);
			this.axis.geometry.dispose();
			this.axis = null;
		}
		this.filling = null;
		this.tubes.mesh.visible = tubes !== null && paths !== null;
		if (!paths) return this.draw();
		const ends: number[] = [];
		for (let h = 0; h < paths.holes.length; h++) {
			if (!wanted(h)) continue;
			for (let v = paths.start[h]!; v + 1 < paths.start[h + 1]!; v++) for (let c = 0; c < 6; c++) ends.push(paths.xyz[3 * v + c]!);
		}
		const geometry = new THREE.BufferGeometry();
		geometry.setAttribute('position', new THREE.BufferAttribute(this.stage.local(ends), 3));
		this.axis = new THREE.LineSegments(geometry, new THREE.LineBasicMaterial({ color: 0x4a5450, clippingPlanes: this.stage.clip }));
		this.axis.renderOrder = 3.9;
		this.axis.frustumCulled = false;
		this.stage.root.add(this.axis);
		if (tubes) {
			const { set, painter } = tubes;
			this.tubes.style(tubes.size / 2, tubes.inPixels, tubes.opacity);
			this.filling = () => {
				this.tubeVersion++;
				this.tubes.set(tubeSegments(set, paths, { origin: this.origin, rgb: painter.rgb, shown: painter.all ? null : painter.shown, size: painter.size, resolution: this.resolution(2.5), wanted, most: MOST_SEGMENTS }));
				this.draw();
			};
			this.filling();
			this.filledFor = this.viewKey;
		}
		this.draw();
	}

	/** Length along a hole that is so many pixels, from where the camera stands. */
	private resolution(pixels: number): (h: number) => number {
		const paths = this.paths!;
		const p = new THREE.Vector3();
		return (h) => {
			const c = paths.holes[h]!;
			p.copy(this.stage.toScene(c.collar[0], c.collar[1], c.collar[2] - c.totalDepth / 2));
			// Of a long hole near the camera the nearest part counts.
			return Math.max(this.stage.pixel * pixels * (this.stage.isParallel ? 1 : Math.max(this.stage.size * 1e-3, p.distanceTo(this.stage.camera.position) - c.totalDepth / 2)), 1e-6);
		};
	}

	/** Curves beside the holes. */
	setCurves(curves: readonly { curve: HoleCurve; set: DataSet; column: NumberColumn; at: (v: number) => number }[], wanted: (h: number) => boolean): void {
		this.curvesFilling = null;
		const paths = this.paths;
		if (!paths || curves.length === 0) {
			clearGroup(this.groups.curves);
			return this.draw();
		}
		this.curvesFilling = () => {
			clearGroup(this.groups.curves);
			const ends: number[] = [];
			const endColors: number[] = [];
			const fills: number[] = [];
			const fillColors: number[] = [];
			for (const { curve, set, column, at } of curves) {
				const shape = curveShape(set, column, paths, { origin: this.origin, side: curve.side, reach: curve.reach, at, threshold: curve.threshold, fill: curve.fill, shape: curve.shape ?? 'line', resolution: this.resolution(2), wanted });
				const c = new THREE.Color(curve.color).toArray();
				for (const v of shape.lines) ends.push(v);
				for (let i = 0; i < shape.lines.length / 3; i++) endColors.push(...c);
				for (const v of shape.fill) fills.push(v);
				for (let i = 0; i < shape.fill.length / 3; i++) fillColors.push(...c);
			}
			const make = (positions: number[], colors: number[]) => {
				const g = new THREE.BufferGeometry();
				g.setAttribute('position', new THREE.Float32BufferAttribute(positions, 3));
				g.setAttribute('color', new THREE.Float32BufferAttribute(colors, 3));
				return g;
			};
			const lines = new THREE.LineSegments(make(ends, endColors), new THREE.LineBasicMaterial({ vertexColors: true, clippingPlanes: this.stage.clip }));
			lines.renderOrder = 4.2;
			this.groups.curves.add(lines);
			if (fills.length) this.groups.curves.add(new THREE.Mesh(make(fills, fillColors), new THREE.MeshBasicMaterial({ vertexColors: true, side: THREE.DoubleSide, transparent: true, opacity: 0.75, clippingPlanes: this.stage.clip })));
			this.draw();
		};
		this.curvesFilling();
	}

	/** Rows as discs, rods or dots. */
	setRows(list: readonly PlacedRows[]): void {
		clearGroup(this.groups.rows);
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
			for (const mesh of drawn) this.groups.rows.add(mesh);
			this.instanced.push({ mesh: drawn[0]!, set: l.set.id, rows: Uint32Array.from(rows) });
		}
		this.draw();
	}

	private dotsOf(l: PlacedRows, rows: number[], places: [number, number, number][]): [THREE.Points] {
		const colors = new Float32Array(3 * rows.length);
		const c = new THREE.Color();
		rows.forEach((i, k) => c.setHex(l.painter.rgb(i), THREE.LinearSRGBColorSpace).toArray(colors, 3 * k));
		return [dots(this.stage.local(places.flat()), colors, Float32Array.from(rows, (i) => l.painter.size(i)), l.size, l.inPixels, l.opacity, this.stage.clip)];
	}

	/** Planes as discs; rows with plunge and trend as rods. */
	private discs(l: PlacedRows, rows: number[], places: [number, number, number][]): [THREE.InstancedMesh] {
		const values = (key: string) => l.set.columns.find((c): c is NumberColumn => c.key === key && c.type === 'number')?.values;
		const [dip, dipAzimuth, plunge, trend] = [values('dip'), values('dipAzimuth'), values('plunge'), values('trend')];
		const thick = 0.06;
		const mesh = new THREE.InstancedMesh(new THREE.CylinderGeometry(1, 1, 1, 20), new THREE.MeshLambertMaterial({ transparent: l.opacity < 1, opacity: l.opacity, clippingPlanes: this.stage.clip }), rows.length);
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
				const d = new THREE.Vector3(Math.cos(plunge[i]! * RADIANS) * Math.sin(trend[i]! * RADIANS), Math.cos(plunge[i]! * RADIANS) * Math.cos(trend[i]! * RADIANS), -Math.sin(plunge[i]! * RADIANS));
				matrix.compose(at, turn.setFromUnitVectors(up, d), new THREE.Vector3(size * 0.12, size * 2, size * 0.12));
			} else {
				const n = planeNormal(dip?.[i] ?? 0, dipAzimuth?.[i] ?? 0);
				const hidden = Number.isNaN(n[0]);
				matrix.compose(at, turn.setFromUnitVectors(up, hidden ? up : new THREE.Vector3(n[0], n[1], n[2])), hidden ? new THREE.Vector3(0, 0, 0) : new THREE.Vector3(size, size * thick, size));
			}
			mesh.setMatrixAt(k, matrix);
			mesh.setColorAt(k, c.set(l.painter.rgb(i)));
		});
		mesh.renderOrder = 4.5;
		mesh.frustumCulled = false;
		return [mesh];
	}

	setHighlight(paths: HolePaths | null, holes: readonly number[]): void {
		if (this.highlight) {
			this.stage.root.remove(this.highlight);
			this.highlight.geometry.dispose();
			this.highlight = null;
		}
		if (paths && holes.length) {
			const ends: number[] = [];
			for (const h of holes) for (let v = paths.start[h]!; v + 1 < paths.start[h + 1]!; v++) for (let c = 0; c < 6; c++) ends.push(paths.xyz[3 * v + c]!);
			const geometry = new THREE.BufferGeometry();
			geometry.setAttribute('position', new THREE.BufferAttribute(this.stage.local(ends), 3));
			this.highlight = new THREE.LineSegments(geometry, new THREE.LineBasicMaterial({ color: 0x2b5fa8, depthTest: false, transparent: true }));
			this.highlight.renderOrder = 8;
			this.stage.root.add(this.highlight);
		}
		this.draw();
	}

	/**
	 * Cuts everything by a plane: one side away, or all but a slab. The cut is closed with what the model shows on it.
	 * @param line vertical plane along a section, which stands for the numbers of the slice
	 * @param solids the model and the colour of each unit that is shown, to close the cut with
	 */
	setSlice(slice: Slice, line: readonly [readonly [number, number], readonly [number, number]] | null, solids: { mesh: SolidMesh; colors: readonly (string | null)[] } | null): void {
		const { clip, exaggeration } = this.stage;
		clip.length = 0;
		clearGroup(this.groups.caps);
		const normal = this.sliceNormal(slice, line);
		if (normal) {
			const at = line && slice.kind === 'section' ? this.stage.toScene(line[0][0], line[0][1], this.stage.center.z) : this.stage.toScene(...slice.at);
			const n = new THREE.Vector3(normal[0], normal[1], normal[2] / exaggeration).normalize();
			if (slice.flipped) n.negate();
			if (slice.thickness > 0) {
				const half = (slice.thickness / 2) * Math.hypot(n.x, n.y, n.z * exaggeration);
				clip.push(new THREE.Plane().setFromNormalAndCoplanarPoint(n, at.clone().addScaledVector(n, -half)), new THREE.Plane().setFromNormalAndCoplanarPoint(n.clone().negate(), at.clone().addScaledVector(n, half)));
			} else clip.push(new THREE.Plane().setFromNormalAndCoplanarPoint(n, at));
			if (solids) {
				// The faces of a slab lie half its thickness to either side, measured along the true normal.
				const long = Math.hypot(...normal);
				const own = normal.map((c) => ((slice.flipped ? -1 : 1) * c) / long) as [number, number, number];
				const place = this.stage.toProject(at);
				for (const off of slice.thickness > 0 ? [-slice.thickness / 2, slice.thickness / 2] : [0]) this.addCaps(solids, [place[0] + off * own[0], place[1] + off * own[1], place[2] + off * own[2]], own);
			}
			if (slice.kind !== 'section') {
				if (!this.gizmo.dragging) {
					this.handle.position.copy(at);
					this.handle.quaternion.setFromUnitVectors(new THREE.Vector3(0, 0, 1), n);
				}
				this.gizmo.attach(this.handle);
				if (!this.sliceSet) this.stage.scene.add(this.gizmo.getHelper());
				this.sliceSet = true;
			}
		}
		if (!normal || slice.kind === 'section') {
			this.gizmo.detach();
			if (this.sliceSet) this.stage.scene.remove(this.gizmo.getHelper());
			this.sliceSet = false;
		}
		this.stage.scene.traverse((o) => {
			const m = (o as THREE.Mesh).material;
			for (const material of m ? [m].flat() : []) if (material.clippingPlanes) material.needsUpdate = true;
		});
		this.draw();
	}

	private sliceNormal(s: Slice, line: readonly [readonly [number, number], readonly [number, number]] | null): readonly [number, number, number] | null {
		if (s.kind === 'none') return null;
		if (s.kind === 'section') return line ? [-(line[1][1] - line[0][1]), line[1][0] - line[0][0], 0] : null;
		if (s.kind === 'horizontal') return [0, 0, -1];
		if (s.kind === 'vertical') return [-Math.cos(s.azimuth * RADIANS), Math.sin(s.azimuth * RADIANS), 0];
		const n = planeNormal(s.dip, s.azimuth);
		return [-n[0], -n[1], -n[2]];
	}

	private addCaps({ mesh, colors }: { mesh: SolidMesh; colors: readonly (string | null)[] }, at: [number, number, number], normal: [number, number, number]): void {
		const plane = planeThrough(at, normal);
		for (const [unit, rings] of cutPlane(mesh, plane)) {
			const color = colors[unit];
			if (!color) continue;
			for (const shape of shapesOf(rings)) {
				const flat = new THREE.ShapeGeometry(shape);
				const p = flat.getAttribute('position');
				const positions: number[] = [];
				for (let i = 0; i < p.count; i++) positions.push(...onPlane(plane, p.getX(i), p.getY(i)));
				const geometry = new THREE.BufferGeometry();
				geometry.setAttribute('position', new THREE.BufferAttribute(this.stage.local(positions), 3));
				geometry.setIndex(flat.getIndex());
				const cap = new THREE.Mesh(geometry, new THREE.MeshBasicMaterial({ color, side: THREE.DoubleSide, polygonOffset: true, polygonOffsetFactor: -1, polygonOffsetUnits: -2 }));
				cap.renderOrder = 1.5;
				this.groups.caps.add(cap);
			}
		}
	}

	setProbe(p: { x: number; y: number; z: number } | null): void {
		this.probe.visible = p !== null;
		if (p) this.probe.position.copy(this.stage.toScene(p.x, p.y, p.z));
		this.draw();
	}

	private readonly visible = (p: THREE.Vector3) => this.stage.clip.every((c) => c.distanceToPoint(p) >= 0);

	/** What lies under a place of the canvas (−1 … 1 both ways): rows and holes first, then the nearest surface that is not cut away. */
	pick(nx: number, ny: number, wanted: (h: number) => boolean): Picked | null {
		const ray = this.stage.ray(nx, ny);
		ray.params.Points.threshold = this.stage.pixelAt(this.stage.controls.target) * 7;
		const meshes = this.instanced.map((i) => i.mesh);
		const hitRow = ray.intersectObjects<THREE.Object3D>(meshes, false).find((h) => this.visible(h.point));
		if (hitRow) {
			const own = this.instanced.find((i) => i.mesh === hitRow.object)!;
			const [x, y, z] = this.stage.toProject(hitRow.point);
			return { x, y, z, what: { kind: 'row', set: own.set, row: own.rows[hitRow.instanceId ?? hitRow.index ?? 0]! } };
		}
		const hole = this.pickHole(nx, ny, wanted);
		if (hole) return hole;
		const shown = [...this.model.units, ...this.model.faults].filter(([, m]) => m.visible && (m.material as THREE.Material).opacity > 0.2).map(([, m]) => m as THREE.Object3D);
		if (this.terrain?.visible && (this.terrain.material as THREE.Material).opacity > 0.5) shown.push(this.terrain);
		const hit = ray.intersectObjects(shown, false).find((h) => this.visible(h.point));
		if (!hit) return null;
		const [x, y, z] = this.stage.toProject(hit.point);
		if (hit.object === this.terrain) return { x, y, z, what: { kind: 'terrain' } };
		for (const [index, m] of this.model.units) if (m === hit.object) return { x, y, z, what: { kind: 'unit', index } };
		for (const [index, m] of this.model.faults) if (m === hit.object) return { x, y, z, what: { kind: 'fault', index } };
		return null;
	}

	/** The hole within six pixels of a place that lies nearest to the viewer. */
	private pickHole(nx: number, ny: number, wanted: (h: number) => boolean): Picked | null {
		const paths = this.paths;
		if (!paths || !(this.axis?.visible ?? false)) return null;
		const px = ((nx + 1) / 2) * this.stage.width;
		const py = ((1 - ny) / 2) * this.stage.height;
		const near = 6;
		let best: { h: number; depth: number; far: number } | null = null;
		const p = new THREE.Vector3();
		for (let h = 0; h < paths.holes.length; h++) {
			if (!wanted(h)) continue;
			let before: { x: number; y: number; depth: number } | null = null;
			for (let v = paths.start[h]!; v < paths.start[h + 1]!; v++) {
				p.copy(this.stage.toScene(paths.xyz[3 * v]!, paths.xyz[3 * v + 1]!, paths.xyz[3 * v + 2]!));
				const q = this.stage.project(p);
				if (before && q.depth < 1 && before.depth < 1) {
					const [dx, dy] = [q.x - before.x, q.y - before.y];
					const square = dx * dx + dy * dy;
					const t = square === 0 ? 0 : Math.min(1, Math.max(0, ((px - before.x) * dx + (py - before.y) * dy) / square));
					const off = Math.hypot(px - before.x - t * dx, py - before.y - t * dy);
					const far = before.depth + t * (q.depth - before.depth);
					if (off < near && (!best || far < best.far)) best = { h, depth: paths.depths[v - 1]! + t * (paths.depths[v]! - paths.depths[v - 1]!), far };
				}
				before = q;
			}
		}
		if (!best) return null;
		const at: [number, number, number] = [0, 0, 0];
		placeOn(paths, best.h, best.depth, at);
		if (!this.visible(this.stage.toScene(...at))) return null;
		return { x: at[0], y: at[1], z: at[2], what: { kind: 'hole', hole: best.h, depth: best.depth } };
	}

	showHoles(visible: boolean): void {
		if (this.axis) this.axis.visible = visible;
		this.tubes.mesh.visible = visible && this.filling !== null;
		this.groups.curves.visible = visible;
		this.draw();
	}

	dispose(): void {
		this.gizmo.dispose();
		this.stage.dispose();
		this.overlay.canvas.remove();
	}
}
