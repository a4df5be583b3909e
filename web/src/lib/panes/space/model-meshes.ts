import * as THREE from 'three';
import { FAULT, LIMIT, SIDE, TERRAIN, type SolidMesh } from '#core/mesh/cut-lattice';

/** Colours by vertex instead of those of the units. */
export interface ModelPaint {
	/** 3 a vertex of the model, 0 to 1, as they stand on the screen. */
	rgb: Float32Array;
	/** Draws contacts and faults only: no sides of the box, no terrain. */
	surfacesOnly: boolean;
}

/** The model in space: one mesh for each unit and each fault, all on the same vertices. */
export class ModelMeshes {
	readonly units = new Map<number, THREE.Mesh>();
	readonly faults = new Map<number, THREE.Mesh>();
	private painted = false;

	constructor(
		private readonly root: THREE.Object3D,
		private readonly clip: THREE.Plane[]
	) {}

	/** @param model with its vertices in the coordinates of the scene */
	set(model: { mesh: SolidMesh; position: Float32Array } | null, paint: ModelPaint | null): void {
		for (const m of [...this.units.values(), ...this.faults.values()]) {
			this.root.remove(m);
			m.geometry.dispose();
			(m.material as THREE.Material).dispose();
		}
		this.units.clear();
		this.faults.clear();
		this.painted = paint !== null;
		if (!model) return;
		const { mesh } = model;
		const position = new THREE.BufferAttribute(model.position, 3);
		const color = paint ? new THREE.BufferAttribute(linear(paint.rgb), 3) : null;
		for (const [key, list] of trianglesByMesh(mesh, paint?.surfacesOnly ?? false)) {
			const index = Number(key.slice(1));
			const geometry = new THREE.BufferGeometry();
			geometry.setAttribute('position', position);
			if (color) geometry.setAttribute('color', color);
			geometry.setIndex(new THREE.BufferAttribute(list, 1));
			const isUnit = key[0] === 'u';
			const material = new THREE.MeshLambertMaterial({
				color: color ? '#ffffff' : isUnit ? '#888888' : '#8A2F2F',
				vertexColors: color !== null,
				side: THREE.DoubleSide,
				flatShading: true,
				clippingPlanes: this.clip,
				polygonOffset: true,
				polygonOffsetFactor: isUnit ? 1 : 0,
				polygonOffsetUnits: 1
			});
			const m = new THREE.Mesh(geometry, material);
			(isUnit ? this.units : this.faults).set(index, m);
			this.root.add(m);
		}
	}

	styleUnit(index: number, color: string, visible: boolean, opacity: number): void {
		const m = this.units.get(index);
		if (!m) return;
		if (!this.painted) (m.material as THREE.MeshLambertMaterial).color.set(color);
		styleMesh(m, visible, opacity);
	}

	styleFault(index: number, visible: boolean): void {
		const m = this.faults.get(index);
		if (m) styleMesh(m, visible, 1);
	}
}

/**
 * The triangles that bound each unit (`u` and its number) and those of each fault (`f` and its number), as vertices.
 * @param surfacesOnly leaves sides of the box, terrain and limits out
 */
export function trianglesByMesh(mesh: SolidMesh, surfacesOnly: boolean): Map<string, Uint32Array> {
	// Twice over the triangles: once to count, once to write, so that no list has to grow.
	const each = (take: (key: number, t: number) => void) => {
		for (let t = 0; t < mesh.front.length; t++) {
			const [front, back, surface] = [mesh.front[t]!, mesh.back[t]!, mesh.surface[t]!];
			if (surfacesOnly && (surface >= SIDE || surface === TERRAIN || surface === LIMIT)) continue;
			if (front !== back) {
				if (back >= 0) take(back, t);
				if (front >= 0) take(front, t);
			}
			if (surface >= FAULT && surface < SIDE) take(-1 - (surface - FAULT), t);
		}
	};
	const counts = new Map<number, number>();
	each((key) => counts.set(key, (counts.get(key) ?? 0) + 1));
	const lists = new Map([...counts].map(([key, n]) => [key, { at: 0, list: new Uint32Array(3 * n) }]));
	each((key, t) => {
		const l = lists.get(key)!;
		for (let c = 0; c < 3; c++) l.list[l.at++] = mesh.triangles[3 * t + c]!;
	});
	return new Map([...lists].map(([key, { list }]) => [key >= 0 ? `u${key}` : `f${-1 - key}`, list]));
}

/** Colours of the screen in the light that the renderer works in. */
function linear(rgb: Float32Array): Float32Array {
	const c = new THREE.Color();
	const out = new Float32Array(rgb.length);
	for (let i = 0; i < rgb.length; i += 3) c.setRGB(rgb[i]!, rgb[i + 1]!, rgb[i + 2]!, THREE.SRGBColorSpace).toArray(out, i);
	return out;
}

export function styleMesh(m: THREE.Mesh, visible: boolean, opacity: number): void {
	const material = m.material as THREE.MeshLambertMaterial;
	m.visible = visible;
	material.opacity = opacity;
	material.transparent = opacity < 1;
	material.depthWrite = opacity >= 0.95;
	m.renderOrder = opacity < 1 ? 2 : 1;
	material.needsUpdate = true;
}
