import * as THREE from 'three';
import type { DataSet } from '#core/datasets/dataset';
import type { HolePaths } from '#core/datasets/hole-paths';
import type { Box } from '#core/geometry/box';
import type { SolidMesh } from '#core/mesh/cut-lattice';
import { hullLines } from '#core/mesh/hull-lines';
import { DRAWN } from '#core/palette';
import { tubeSegments } from '#core/scene/hole-index';
import type { PatternName } from '#core/styles/patterns';
import type { Painter } from '#core/styles/style';
import { lineSegments } from './block-lines';
import { BroughtIn } from './brought-in';
import { curveMeshes, type CurveOfHoles } from './curve-meshes';
import { hatchScale } from './hatching';
import { pickHole } from './pick-hole';
import { dots } from './points';
import { ModelMeshes, type ModelPaint } from './model-meshes';
import { Overlay } from './overlay';
import { RowsInSpace } from './placed-rows';
import { Slicing } from './slicing';
import { clearGroup } from './shapes';
import { Stage } from './stage';
import { TerrainSurface } from './terrain-surface';
import { Tubes } from './tubes';

/** What a ray met. */
export interface Picked {
	x: number;
	y: number;
	z: number;
	what:
		| { kind: 'unit'; index: number }
		| { kind: 'fault'; index: number }
		| { kind: 'terrain' }
		| { kind: 'hole'; hole: number; depth: number }
		| { kind: 'row'; set: string; row: number };
}

const MOST_SEGMENTS = 260_000;
const GLOW = parseInt(DRAWN.slice(1), 16);

/** The 3D scene of a project. */
export class SpaceScene {
	readonly stage: Stage;
	readonly overlay: Overlay;
	private readonly model: ModelMeshes;
	readonly broughtIn: BroughtIn;
	readonly terrain: TerrainSurface;
	readonly rows: RowsInSpace;
	readonly slicing: Slicing;
	private readonly curves: THREE.Group;
	private readonly hatching = hatchScale();
	private marks: THREE.Points | null = null;
	private readonly tubes: Tubes;
	/** Behind the tubes of rows that are selected. */
	private readonly glow: Tubes;
	/** Contacts, faults and edges on what is seen of the solids. */
	private readonly lines: Tubes;
	private linesDue: ReturnType<typeof setTimeout> | null = null;
	private solid: { mesh: SolidMesh; position: Float32Array } | null = null;
	private readonly seenUnits = new Map<number, number>();
	private readonly seenFaults = new Map<number, boolean>();
	private bare = false;
	private paths: HolePaths | null = null;
	private axis: THREE.LineSegments | null = null;
	private highlight: THREE.LineSegments | null = null;
	private frame: THREE.LineSegments | null = null;
	private readonly probe: THREE.Mesh;
	private filling: (() => void) | null = null;
	private curvesFilling: (() => void) | null = null;

	/** @throws Error when the browser has no WebGL */
	constructor(host: HTMLElement) {
		this.stage = new Stage(host);
		this.overlay = new Overlay(this.stage, host);
		const { root, scene, clip } = this.stage;
		this.curves = new THREE.Group();
		root.add(this.curves);
		this.rows = new RowsInSpace(this.stage);
		this.slicing = new Slicing(this.stage, this.hatching);
		this.model = new ModelMeshes(root, clip, this.hatching);
		this.terrain = new TerrainSurface(this.stage);
		this.broughtIn = new BroughtIn(this.stage, () => this.terrain.heights);
		this.tubes = new Tubes(clip);
		root.add(this.tubes.mesh, this.tubes.hidden);
		this.glow = new Tubes(clip);
		this.glow.mesh.renderOrder = 3.95;
		this.glow.hidden.renderOrder = 2.6;
		root.add(this.glow.mesh, this.glow.hidden);
		this.lines = new Tubes(clip);
		this.lines.mesh.renderOrder = 1.8;
		this.lines.style(1, true, 1);
		root.add(this.lines.mesh);
		this.probe = new THREE.Mesh(new THREE.SphereGeometry(1, 16, 12), new THREE.MeshBasicMaterial({ color: 0xb4622d, depthTest: false }));
		this.probe.renderOrder = 10;
		this.probe.visible = false;
		scene.add(this.probe);
		this.stage.before.push(() => {
			const marked = this.marks?.material as THREE.ShaderMaterial | undefined;
			if (marked) {
				marked.uniforms['pixel']!.value = this.stage.pixel;
				marked.uniforms['perspective']!.value = !this.stage.isParallel;
			}
			this.probe.scale.setScalar(this.stage.pixelAt(this.probe.position) * 6);
			this.tubes.view(this.stage.pixel, !this.stage.isParallel);
			this.glow.view(this.stage.pixel, !this.stage.isParallel);
			this.lines.view(this.stage.pixel, !this.stage.isParallel);
			// Patterns keep their size on the screen, in steps so that they stand still while the view turns.
			this.hatching.tile.value = 2 ** Math.round(Math.log2(this.stage.pixelAt(this.stage.controls.target) * 18));
			this.hatching.exaggeration.value = this.stage.exaggeration;
			this.hatching.half.value.copy(this.stage.half);
			this.model.spare(this.stage.isParallel ? null : this.stage.camera.position, this.stage.camera.near);
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
		return [...camera.position.toArray(), ...controls.target.toArray(), camera.zoom, width, height, exaggeration]
			.map((v) => v.toPrecision(5))
			.join();
	}

	/** The camera came to rest. */
	moved: () => void = () => {};

	get canvas(): HTMLCanvasElement {
		return this.stage.renderer.domElement;
	}

	/** Segments of the tubes that are drawn, and how often they were made. */
	get tubeCount(): number {
		return this.tubes.visible ? this.tubes.count : 0;
	}
	tubeVersion = 0;

	get drawCalls(): number {
		return this.stage.renderer.info.render.calls;
	}

	draw(): void {
		this.stage.draw();
	}

	/** @param isDrawn whether it is shown as a frame */
	setExtent(e: Box, isDrawn = true): void {
		this.stage.setExtent(e);
		if (this.frame) this.stage.root.remove(this.frame);
		this.frame = null;
		if (!isDrawn) return this.draw();
		const box = new THREE.BoxGeometry(e.maxX - e.minX, e.maxY - e.minY, e.maxZ - e.minZ);
		this.frame = new THREE.LineSegments(
			new THREE.EdgesGeometry(box),
			new THREE.LineBasicMaterial({ color: 0x8c8877, transparent: true, opacity: 0.55 })
		);
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
			this.marks = dots(
				this.stage.local(marks.flatMap((m) => [m.x, m.y, m.z])),
				Float32Array.from(marks.flatMap((m) => new THREE.Color().setStyle(m.color, THREE.LinearSRGBColorSpace).toArray())),
				new Float32Array(marks.length).fill(1),
				7,
				true,
				1,
				this.stage.clip
			);
			this.marks.renderOrder = 9;
			this.stage.root.add(this.marks);
		}
		this.draw();
	}

	/** One mesh a unit and a fault. @param patternOf by unit, for the sides of the block */
	setModel(mesh: SolidMesh | null, paint: ModelPaint | null = null, patternOf?: (unit: number) => PatternName | null): void {
		this.solid = mesh && { mesh, position: this.stage.local(mesh.positions) };
		this.bare = paint?.surfacesOnly ?? false;
		this.model.set(this.solid, paint, patternOf);
		this.model.setApart(this.lifts);
		this.drawLines();
		this.draw();
	}

	styleUnit(index: number, color: string, visible: boolean, opacity: number): void {
		this.model.styleUnit(index, color, visible, opacity);
		const shown = visible ? opacity : 0;
		if (this.seenUnits.get(index) !== shown) {
			this.seenUnits.set(index, shown);
			this.drawLines();
		}
		this.draw();
	}

	styleFault(index: number, visible: boolean): void {
		this.model.styleFault(index, visible);
		if (this.seenFaults.get(index) !== visible) {
			this.seenFaults.set(index, visible);
			this.drawLines();
		}
		this.draw();
	}

	/** Lifts units out of their places. @param lifts by unit, project units */
	setApart(lifts: ReadonlyMap<number, number>): void {
		this.lifts = lifts;
		this.stage.setHeadroom(Math.max(0, ...lifts.values()));
		this.model.setApart(lifts);
		this.drawLines();
		this.draw();
	}
	private lifts: ReadonlyMap<number, number> = new Map();

	/** The lines of the block, a moment later: they are drawn anew when what is seen has changed, and after the faces. */
	private drawLines(): void {
		if (this.linesDue) clearTimeout(this.linesDue);
		this.linesDue = setTimeout(() => {
			this.linesDue = null;
			const { solid } = this;
			this.lines.visible = solid !== null && !this.bare;
			if (!solid || this.bare) return this.draw();
			const flags = <T>(of: Map<number, T>, is: (v: T) => boolean) =>
				Array.from({ length: Math.max(-1, ...of.keys()) + 1 }, (_, i) => {
					const v = of.get(i);
					return v !== undefined && is(v);
				});
			const seen = flags(this.seenUnits, (o) => o > 0.3);
			const faulted = flags(this.seenFaults, (v) => v);
			// Units that stand apart have lines each of their own.
			const parts = this.lifts.size
				? seen.flatMap((is, u) =>
						is
							? [
									{
										lines: hullLines(
											solid.mesh,
											seen.map((_, i) => i === u),
											faulted
										),
										lift: this.lifts.get(u) ?? 0
									}
								]
							: []
					)
				: [{ lines: hullLines(solid.mesh, seen, faulted), lift: 0 }];
			this.lines.set(lineSegments(solid.position, parts));
			this.draw();
		}, 60);
	}

	/** Axes of the holes as thin lines, and the tubes of a data set along them. */
	setHoles(
		paths: HolePaths | null,
		tubes: { set: DataSet; painter: Painter; size: number; inPixels: boolean; opacity: number } | null,
		wanted: (h: number) => boolean
	): void {
		this.paths = paths;
		if (this.axis) {
			this.stage.root.remove(this.axis);
			this.axis.geometry.dispose();
			this.axis = null;
		}
		this.filling = null;
		this.tubes.visible = tubes !== null && paths !== null;
		if (!paths) return this.draw();
		this.axis = new THREE.LineSegments(
			this.pathsOf(paths, [...paths.holes.keys()].filter(wanted)),
			new THREE.LineBasicMaterial({ color: 0x4a5450, clippingPlanes: this.stage.clip })
		);
		this.axis.renderOrder = 3.9;
		this.axis.frustumCulled = false;
		this.stage.root.add(this.axis);
		if (tubes) {
			const { set, painter } = tubes;
			this.tubes.style(tubes.size / 2, tubes.inPixels, tubes.opacity);
			this.filling = () => {
				this.tubeVersion++;
				this.tubes.set(
					tubeSegments(set, paths, {
						origin: this.origin,
						rgb: painter.rgb,
						shown: painter.all ? null : painter.shown,
						size: painter.size,
						resolution: this.resolution(2.5),
						wanted,
						most: MOST_SEGMENTS
					})
				);
				this.draw();
			};
			this.filling();
			this.filledFor = this.viewKey;
		}
		this.draw();
	}

	/** Pieces of the paths of holes, two ends each. */
	private pathsOf(paths: HolePaths, holes: readonly number[]): THREE.BufferGeometry {
		const ends: number[] = [];
		for (const h of holes)
			for (let v = paths.start[h]!; v + 1 < paths.start[h + 1]!; v++) for (let c = 0; c < 6; c++) ends.push(paths.xyz[3 * v + c]!);
		return new THREE.BufferGeometry().setAttribute('position', new THREE.BufferAttribute(this.stage.local(ends), 3));
	}

	/** Length along a hole that is so many pixels, from where the camera stands. */
	private resolution(pixels: number): (h: number) => number {
		const paths = this.paths!;
		const p = new THREE.Vector3();
		return (h) => {
			const c = paths.holes[h]!;
			p.copy(this.stage.toScene(c.collar[0], c.collar[1], c.collar[2] - c.totalDepth / 2));
			// Of a long hole near the camera the nearest part counts.
			return Math.max(
				this.stage.pixel *
					pixels *
					(this.stage.isParallel ? 1 : Math.max(this.stage.size * 1e-3, p.distanceTo(this.stage.camera.position) - c.totalDepth / 2)),
				1e-6
			);
		};
	}

	/** Curves beside the holes. */
	setCurves(curves: readonly CurveOfHoles[], wanted: (h: number) => boolean): void {
		this.curvesFilling = null;
		const paths = this.paths;
		if (!paths || curves.length === 0) {
			clearGroup(this.curves);
			return this.draw();
		}
		this.curvesFilling = () => {
			clearGroup(this.curves);
			const drawn = curveMeshes(curves, paths, { origin: this.origin, resolution: this.resolution(2), wanted, clip: this.stage.clip });
			if (drawn.length) this.curves.add(...drawn);
			this.draw();
		};
		this.curvesFilling();
	}

	setHighlight(paths: HolePaths | null, holes: readonly number[]): void {
		if (this.highlight) {
			this.stage.root.remove(this.highlight);
			this.highlight.geometry.dispose();
			this.highlight = null;
		}
		if (paths && holes.length) {
			this.highlight = new THREE.LineSegments(
				this.pathsOf(paths, holes),
				new THREE.LineBasicMaterial({ color: 0x2b5fa8, depthTest: false, transparent: true })
			);
			this.highlight.renderOrder = 8;
			this.stage.root.add(this.highlight);
		}
		this.draw();
	}

	/** Lets rows along holes glow. @param size of their tubes */
	setGlow(paths: HolePaths | null, set: DataSet | null, rows: ReadonlySet<number>, size: number, inPixels: boolean): void {
		this.glow.visible = paths !== null && set !== null && rows.size > 0;
		if (paths && set && rows.size) {
			this.glow.style(inPixels ? size / 2 + 3 : size * 0.9, inPixels, 1);
			// What it belongs to is drawn over it.
			this.glow.mesh.material.depthWrite = false;
			this.glow.set(
				tubeSegments(set, paths, {
					origin: this.origin,
					rgb: () => GLOW,
					shown: (i) => rows.has(set.row[i]!),
					size: () => 1,
					resolution: () => 1e-6,
					wanted: () => true,
					most: MOST_SEGMENTS
				})
			);
		}
		this.draw();
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
		const meshes = this.rows.instanced.map((i) => i.mesh);
		const hitRow = ray.intersectObjects<THREE.Object3D>(meshes, false).find((h) => this.visible(h.point));
		if (hitRow) {
			const own = this.rows.instanced.find((i) => i.mesh === hitRow.object)!;
			const [x, y, z] = this.stage.toProject(hitRow.point);
			return { x, y, z, what: { kind: 'row', set: own.set, row: own.rows[hitRow.instanceId ?? hitRow.index ?? 0]! } };
		}
		const met = this.paths && this.axis?.visible ? pickHole(this.stage, this.paths, [nx, ny], wanted, this.visible) : null;
		if (met) return { x: met.x, y: met.y, z: met.z, what: { kind: 'hole', hole: met.hole, depth: met.depth } };
		const shown = [...this.model.units, ...this.model.faults]
			.filter(([, m]) => m.visible && (m.material as THREE.Material).opacity > 0.2)
			.map(([, m]) => m as THREE.Object3D);
		if (this.terrain.hides) shown.push(this.terrain.mesh!);
		const hit = ray.intersectObjects(shown, false).find((h) => this.visible(h.point));
		if (!hit) return null;
		const [x, y, z] = this.stage.toProject(hit.point);
		if (hit.object === this.terrain.mesh) return { x, y, z, what: { kind: 'terrain' } };
		// What stands apart tells where it belongs.
		for (const [index, m] of this.model.units)
			if (m === hit.object) return { x, y, z: z - (this.lifts.get(index) ?? 0), what: { kind: 'unit', index } };
		for (const [index, m] of this.model.faults) if (m === hit.object) return { x, y, z, what: { kind: 'fault', index } };
		return null;
	}

	showHoles(visible: boolean): void {
		if (this.axis) this.axis.visible = visible;
		this.tubes.visible = visible && this.filling !== null;
		this.curves.visible = visible;
		this.draw();
	}

	dispose(): void {
		this.slicing.dispose();
		this.stage.dispose();
		this.overlay.canvas.remove();
	}
}
