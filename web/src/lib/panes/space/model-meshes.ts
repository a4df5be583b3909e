import { FAULT_RED, PAPER, UNKNOWN } from '#core/palette';
import * as THREE from 'three';
import { creasedHulls } from '#core/mesh/creased-hulls';
import type { SolidMesh } from '#core/mesh/cut-lattice';
import type { PatternName } from '#core/styles/patterns';
import { hatch, type HatchScale } from './hatching';

/** Colours by vertex instead of those of the units. */
export interface ModelPaint {
	/** 3 a vertex of the model, 0 to 1, as they stand on the screen. */
	rgb: Float32Array;
	/** Draws contacts and faults only: no sides of the box, no terrain. */
	surfacesOnly: boolean;
}

/** The model in space: one mesh for each unit and each fault. */
export class ModelMeshes {
	readonly units = new Map<number, THREE.Mesh>();
	readonly faults = new Map<number, THREE.Mesh>();
	private painted = false;
	/** Surfaces without sides: one looks between them. */
	private bare = false;
	/** Corners of the outside of each mesh. */
	private readonly outside = new Map<THREE.Mesh, number>();
	/** All of it, as it lies under the root. */
	private readonly box = new THREE.Box3();

	constructor(
		private readonly root: THREE.Object3D,
		private readonly clip: THREE.Plane[],
		private readonly hatching: HatchScale
	) {}

	/**
	 * @param model with its vertices in the coordinates of the scene
	 * @param patternOf the pattern of a unit on the sides of the block, none for plain
	 */
	set(
		model: { mesh: SolidMesh; position: Float32Array } | null,
		paint: ModelPaint | null,
		patternOf: (unit: number) => PatternName | null = () => null
	): void {
		for (const m of [...this.units.values(), ...this.faults.values()]) {
			this.root.remove(m);
			m.geometry.dispose();
			(m.material as THREE.Material).dispose();
		}
		this.units.clear();
		this.faults.clear();
		this.outside.clear();
		this.painted = paint !== null;
		this.bare = paint?.surfacesOnly ?? false;
		if (!model) return;
		this.box.setFromArray(model.position);
		const rgb = paint ? linear(paint.rgb) : null;
		for (const [key, hull] of creasedHulls(model.mesh, model.position, this.bare)) {
			const index = Number(key.slice(1));
			const isUnit = key[0] === 'u';
			const geometry = new THREE.BufferGeometry();
			geometry.setAttribute('position', new THREE.BufferAttribute(taken(model.position, hull.vertex), 3));
			geometry.setAttribute('normal', new THREE.BufferAttribute(hull.normals, 3));
			if (rgb) geometry.setAttribute('color', new THREE.BufferAttribute(taken(rgb, hull.vertex), 3));
			geometry.setIndex(new THREE.BufferAttribute(hull.triangles, 1));
			const material = new THREE.MeshLambertMaterial({
				color: rgb ? PAPER : isUnit ? UNKNOWN : FAULT_RED,
				vertexColors: rgb !== null,
				side: THREE.DoubleSide,
				clippingPlanes: this.clip,
				polygonOffset: true,
				polygonOffsetFactor: isUnit ? 1 : 0,
				// What is older stands a hair farther back: a unit thinner than the depth buffer can tell does not flicker with what lies below it.
				polygonOffsetUnits: isUnit ? 1 + 6 * index : 1
			});
			const pattern = isUnit && !paint ? patternOf(index) : null;
			if (pattern) hatch(material, pattern, this.hatching);
			const m = new THREE.Mesh(geometry, material);
			m.userData = { isUnit };
			(isUnit ? this.units : this.faults).set(index, m);
			this.outside.set(m, hull.outside);
			this.root.add(m);
		}
	}

	/**
	 * Leaves undrawn what can not be seen, as it stands now: of a whole block all that is inside it, of what is closed its inner side. That
	 * is most of a model, and all of what a renderer without a graphics card has to do.
	 * @param eye where one looks from, in the scene; null for a view without a place, which sees all from outside
	 * @param near how close to the eye things are drawn still
	 */
	spare(eye: THREE.Vector3 | null, near: number): void {
		const isOutside = !eye || this.box.distanceToPoint(this.root.worldToLocal(eye.clone())) * Math.min(1, this.root.scale.z) > near;
		const isClosed = isOutside && !this.bare && this.clip.length === 0;
		const whole = isClosed && [...this.units.values()].every((m) => m.visible && m.position.z === 0 && !materialOf(m).transparent);
		for (const [m, outside] of this.outside) {
			m.geometry.setDrawRange(0, whole ? outside : Infinity);
			const isFault = !(m.userData as { isUnit: boolean }).isUnit;
			const side = isClosed && !isFault && !materialOf(m).transparent ? THREE.FrontSide : THREE.DoubleSide;
			if (materialOf(m).side === side) continue;
			materialOf(m).side = side;
			materialOf(m).needsUpdate = true;
		}
	}

	/** Lifts units out of their places. @param lifts by unit, project units; what is not named stands where it is */
	setApart(lifts: ReadonlyMap<number, number>): void {
		for (const [index, m] of this.units) m.position.z = lifts.get(index) ?? 0;
	}

	styleUnit(index: number, color: string, visible: boolean, opacity: number): void {
		const m = this.units.get(index);
		if (!m) return;
		if (!this.painted) materialOf(m).color.set(color);
		styleMesh(m, visible, opacity);
	}

	styleFault(index: number, visible: boolean): void {
		const m = this.faults.get(index);
		if (m) styleMesh(m, visible, 1);
	}
}

/** Three numbers for each of the vertices that are named. */
function taken(of: Float32Array, vertex: Uint32Array): Float32Array {
	const out = new Float32Array(3 * vertex.length);
	for (let i = 0; i < vertex.length; i++) for (let c = 0; c < 3; c++) out[3 * i + c] = of[3 * vertex[i]! + c]!;
	return out;
}

/** Colours of the screen in the light that the renderer works in. */
function linear(rgb: Float32Array): Float32Array {
	const c = new THREE.Color();
	const out = new Float32Array(rgb.length);
	for (let i = 0; i < rgb.length; i += 3) c.setRGB(rgb[i]!, rgb[i + 1]!, rgb[i + 2]!, THREE.SRGBColorSpace).toArray(out, i);
	return out;
}

const materialOf = (m: THREE.Mesh) => m.material as THREE.MeshLambertMaterial;

export function styleMesh(m: THREE.Mesh, visible: boolean, opacity: number): void {
	const material = materialOf(m);
	m.visible = visible;
	material.opacity = opacity;
	material.transparent = opacity < 1;
	material.depthWrite = opacity >= 0.95;
	m.renderOrder = opacity < 1 ? 2 : 1;
	material.needsUpdate = true;
}
