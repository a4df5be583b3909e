import * as THREE from 'three';
import { TransformControls } from 'three/addons/controls/TransformControls.js';
import { planeNormal, RADIANS } from '#core/geometry/angles';
import type { SolidMesh } from '#core/mesh/cut-lattice';
import { cutPlane, onPlane, planeThrough } from '#core/sections/section';
import type { Slice } from '$lib/workbench/state';
import type { PatternName } from '#core/styles/patterns';
import { hatch, type HatchScale } from './hatching';
import { clearGroup, shapesOf } from './shapes';
import type { Stage } from './stage';

/** The model, and colour and pattern of each unit that is shown. */
export interface Solids {
	mesh: SolidMesh;
	colors: readonly (string | null)[];
	patterns: readonly (PatternName | null)[];
}

/** Cuts the scene open along a plane or to a slab, closes the cut through the model, and lets the plane be dragged. */
export class Slicing {
	private readonly caps = new THREE.Group();
	private readonly handle = new THREE.Object3D();
	private readonly gizmo: TransformControls;
	private sliceSet = false;
	/** The slice was dragged. */
	moved: (at: [number, number, number], normal: [number, number, number]) => void = () => {};

	constructor(
		private readonly stage: Stage,
		private readonly hatching: HatchScale
	) {
		stage.root.add(this.caps);
		stage.scene.add(this.handle);
		this.gizmo = new TransformControls(stage.camera, stage.renderer.domElement);
		this.gizmo.setSpace('local');
		this.gizmo.size = 0.9;
		this.gizmo.showX = this.gizmo.showY = false;
		this.gizmo.setColors(0xb4622d, 0xb4622d, 0xb4622d, 0x0f7b5f);
		this.gizmo.addEventListener('dragging-changed', (e) => (stage.controls.enabled = !e.value));
		this.gizmo.addEventListener('change', () => stage.draw());
		this.gizmo.addEventListener('objectChange', () => {
			const n = new THREE.Vector3(0, 0, 1).applyQuaternion(this.handle.quaternion);
			this.moved(stage.toProject(this.handle.position), [n.x, n.y, n.z * stage.exaggeration]);
		});
		stage.before.push(() => (this.gizmo.camera = stage.camera));
	}

	/**
	 * Cuts everything by a plane: one side away, or all but a slab. The cut is closed with what the model shows on it.
	 * @param line vertical plane along a section, which stands for the numbers of the slice
	 * @param solids to close the cut with
	 */
	set(slice: Slice, line: readonly [readonly [number, number], readonly [number, number]] | null, solids: Solids | null): void {
		const { clip, exaggeration } = this.stage;
		clip.length = 0;
		clearGroup(this.caps);
		this.stage.cornerCut = slice.kind === 'corner';
		if (slice.kind === 'corner') this.cutCorner(slice, solids);
		const normal = normalOf(slice, line);
		if (normal) {
			const at =
				line && slice.kind === 'section'
					? this.stage.toScene(line[0][0], line[0][1], this.stage.center.z)
					: this.stage.toScene(...slice.at);
			const n = new THREE.Vector3(normal[0], normal[1], normal[2] / exaggeration).normalize();
			if (slice.flipped) n.negate();
			if (slice.thickness > 0) {
				const half = (slice.thickness / 2) * Math.hypot(n.x, n.y, n.z * exaggeration);
				clip.push(
					new THREE.Plane().setFromNormalAndCoplanarPoint(n, at.clone().addScaledVector(n, -half)),
					new THREE.Plane().setFromNormalAndCoplanarPoint(n.clone().negate(), at.clone().addScaledVector(n, half))
				);
			} else clip.push(new THREE.Plane().setFromNormalAndCoplanarPoint(n, at));
			if (solids) {
				// The faces of a slab lie half its thickness to either side, measured along the true normal.
				const long = Math.hypot(...normal);
				const own = normal.map((c) => ((slice.flipped ? -1 : 1) * c) / long) as [number, number, number];
				const place = this.stage.toProject(at);
				for (const off of slice.thickness > 0 ? [-slice.thickness / 2, slice.thickness / 2] : [0])
					this.addCaps(solids, [place[0] + off * own[0], place[1] + off * own[1], place[2] + off * own[2]], own);
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
		if (!normal || slice.kind === 'section' || slice.kind === 'corner') {
			this.gizmo.detach();
			if (this.sliceSet) this.stage.scene.remove(this.gizmo.getHelper());
			this.sliceSet = false;
		}
		this.stage.scene.traverse((o) => {
			const m = (o as THREE.Mesh).material;
			for (const material of m ? [m].flat() : [])
				if (material.clippingPlanes) {
					// Of a corner only what lies beyond both planes goes; of a slab what lies beyond either.
					if (material.clippingPlanes === clip) material.clipIntersection = this.stage.cornerCut;
					material.needsUpdate = true;
				}
		});
		this.stage.draw();
	}

	/** Takes away what lies beyond two upright planes that are square to each other. */
	private cutCorner(slice: Slice, solids: Solids | null): void {
		const at = this.stage.toScene(...slice.at);
		const normals = [slice.azimuth, slice.azimuth - 90].map(
			(a) => [-Math.cos(a * RADIANS), Math.sin(a * RADIANS), 0] as [number, number, number]
		);
		const planes = normals.map((n) => new THREE.Plane().setFromNormalAndCoplanarPoint(new THREE.Vector3(...n), at));
		this.stage.clip.push(...planes);
		// Each side of the cut ends at the other one.
		if (solids) normals.forEach((n, i) => this.addCaps(solids, slice.at, n, [planes[1 - i]!.clone().negate()]));
	}

	private addCaps(
		{ mesh, colors, patterns }: Solids,
		at: [number, number, number],
		normal: [number, number, number],
		within: THREE.Plane[] = []
	): void {
		const plane = planeThrough(at, normal);
		const isLevel = Math.abs(normal[2]) > 0.7 * Math.hypot(...normal);
		const strike = new THREE.Vector3(-normal[1], normal[0], 0).normalize();
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
				const material = new THREE.MeshBasicMaterial({
					color,
					side: THREE.DoubleSide,
					clippingPlanes: within,
					polygonOffset: true,
					polygonOffsetFactor: 0.6,
					polygonOffsetUnits: 1
				});
				if (patterns[unit]) hatch(material, patterns[unit], this.hatching, { along: strike, isLevel });
				const cap = new THREE.Mesh(geometry, material);
				cap.renderOrder = 1.5;
				this.caps.add(cap);
				this.caps.add(this.capOutline(shape, plane, within));
			}
		}
	}

	/** The thin dark line round what a unit fills of a cut. */
	private capOutline(shape: THREE.Shape, plane: ReturnType<typeof planeThrough>, within: THREE.Plane[]): THREE.LineSegments {
		const ends: number[] = [];
		const { shape: outer, holes } = shape.extractPoints(1);
		for (const ring of [outer, ...holes])
			ring.forEach((p, i) => {
				const q = ring[(i + 1) % ring.length]!;
				ends.push(...onPlane(plane, p.x, p.y), ...onPlane(plane, q.x, q.y));
			});
		const geometry = new THREE.BufferGeometry();
		geometry.setAttribute('position', new THREE.BufferAttribute(this.stage.local(ends), 3));
		const line = new THREE.LineSegments(geometry, new THREE.LineBasicMaterial({ color: 0x1e2a26, clippingPlanes: within }));
		line.renderOrder = 1.6;
		return line;
	}

	dispose(): void {
		this.gizmo.dispose();
	}
}

function normalOf(
	s: Slice,
	line: readonly [readonly [number, number], readonly [number, number]] | null
): readonly [number, number, number] | null {
	if (s.kind === 'none') return null;
	if (s.kind === 'section') return line ? [-(line[1][1] - line[0][1]), line[1][0] - line[0][0], 0] : null;
	if (s.kind === 'horizontal') return [0, 0, -1];
	if (s.kind === 'vertical') return [-Math.cos(s.azimuth * RADIANS), Math.sin(s.azimuth * RADIANS), 0];
	const n = planeNormal(s.dip, s.azimuth);
	return [-n[0], -n[1], -n[2]];
}
