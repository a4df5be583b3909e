import * as THREE from 'three';
import { afterAll, beforeAll, describe, expect, it, vi } from 'vitest';
import { FAULT, LIMIT, SIDE, TERRAIN, type SolidMesh } from '#core/mesh/cut-lattice';
import type { TubeSegments } from '#core/scene/hole-index';
import { dataSet, numbers, workspaceOf } from '../for-tests';
import { hatchScale } from './hatching';
import { ModelMeshes, styleMesh, type ModelPaint } from './model-meshes';
import { RowsInSpace, type PlacedRows } from './placed-rows';
import type { Stage } from './stage';
import { Tubes } from './tubes';

/** Triangles, each with what is on its two sides and which surface it is of. */
function meshOf(triangles: [front: number, back: number, surface: number][]): { mesh: SolidMesh; position: Float32Array } {
	const n = triangles.length;
	const position = Float32Array.from({ length: 9 * n }, (_, i) => i);
	const take = (k: 0 | 1 | 2) => Int16Array.from(triangles, (t) => t[k]);
	return {
		position,
		mesh: {
			positions: Float64Array.from(position),
			triangles: Uint32Array.from({ length: 3 * n }, (_, i) => i),
			front: take(0),
			back: take(1),
			surface: take(2),
			volumes: new Map()
		}
	};
}
/** Vertices of the model that a mesh stands on, in order: each has its number in its coordinates. */
const verticesOf = (m: THREE.Mesh | undefined) => {
	const at = m!.geometry.getAttribute('position');
	return [...(m!.geometry.getIndex()!.array as Uint32Array)].map((v) => at.getX(v) / 3).sort((a, b) => a - b);
};
const materialOf = (m: THREE.Mesh | undefined) => m!.material as THREE.MeshLambertMaterial;

describe('the model in space', () => {
	// A contact between units 0 and 1, a fault within 0, one between 0 and 1, a side of the box, terrain, a limit.
	const model = meshOf([
		[0, 1, 5],
		[0, 0, FAULT],
		[1, 0, FAULT + 1],
		[-2, 1, SIDE],
		[-1, 0, TERRAIN],
		[-2, 0, LIMIT]
	]);
	const made = (paint: ModelPaint | null = null) => {
		const root = new THREE.Group();
		const meshes = new ModelMeshes(root, [], hatchScale());
		meshes.set(model, paint);
		return { root, meshes };
	};

	it('has a mesh for each unit with the triangles on either side of it, and one for each fault', () => {
		const { meshes, root } = made();
		expect([...meshes.units.keys()].sort()).toEqual([0, 1]);
		expect([...meshes.faults.keys()].sort()).toEqual([0, 1]);
		expect(verticesOf(meshes.units.get(0))).toEqual([0, 1, 2, 6, 7, 8, 12, 13, 14, 15, 16, 17]);
		expect(verticesOf(meshes.units.get(1))).toEqual([0, 1, 2, 6, 7, 8, 9, 10, 11]);
		expect(verticesOf(meshes.faults.get(0))).toEqual([3, 4, 5]);
		expect(root.children).toHaveLength(4);
	});

	it('lifts units out of their places, and puts them back', () => {
		const { meshes } = made();
		meshes.setApart(new Map([[0, 120]]));
		expect([...meshes.units].map(([u, m]) => [u, m.position.z])).toEqual([
			[1, 0],
			[0, 120]
		]);
		meshes.setApart(new Map());
		expect(meshes.units.get(0)!.position.z).toBe(0);
	});

	it('is lit by normals of its own', () => {
		const g = made().meshes.units.get(0)!.geometry;
		expect(g.getAttribute('normal').count).toBe(g.getAttribute('position').count);
	});

	it('painted by vertex shows contacts and faults alone, and no colour of a unit over them', () => {
		const rgb = Float32Array.from({ length: model.position.length }, () => 0.5);
		const { meshes } = made({ rgb, surfacesOnly: true });
		expect(verticesOf(meshes.units.get(0))).toEqual([0, 1, 2, 6, 7, 8]);
		expect(materialOf(meshes.units.get(0)).vertexColors).toBe(true);
		meshes.styleUnit(0, '#ff0000', true, 1);
		expect(materialOf(meshes.units.get(0)).color.getHexString()).toBe('ffffff');
		// Half of the light of the screen is about a fifth of the light that the renderer reckons with.
		expect(meshes.units.get(0)!.geometry.getAttribute('color').getX(0)).toBeCloseTo(0.214, 3);
	});

	it('takes the look of its units: colour, hidden, seen through', () => {
		const { meshes } = made();
		meshes.styleUnit(1, '#d8b25c', true, 0.4);
		const m = meshes.units.get(1)!;
		expect(materialOf(m).color.getHexString()).toBe('d8b25c');
		expect([m.visible, materialOf(m).transparent, materialOf(m).depthWrite, m.renderOrder]).toEqual([true, true, false, 2]);
		meshes.styleUnit(1, '#d8b25c', false, 1);
		expect([m.visible, materialOf(m).transparent, materialOf(m).depthWrite]).toEqual([false, false, true]);
		meshes.styleFault(0, false);
		expect(meshes.faults.get(0)!.visible).toBe(false);
		// What is not there is no trouble.
		meshes.styleUnit(77, '#000000', true, 1);
		meshes.styleFault(77, true);
	});

	it('leaves undrawn what is hidden: of a whole block its inside, of what is closed its inner side; not from within, nor when it is opened', () => {
		const clip: THREE.Plane[] = [];
		const meshes = new ModelMeshes(new THREE.Group(), clip, hatchScale());
		meshes.set(model, null);
		for (const u of [0, 1]) meshes.styleUnit(u, '#d8b25c', true, 1);
		const far = new THREE.Vector3(500, 500, 500);
		/** What is drawn of units 0 and 1 and fault 0: corners, and whether both sides. */
		const drawn = (eye: THREE.Vector3 | null) => {
			meshes.spare(eye, 1);
			return [meshes.units.get(0)!, meshes.units.get(1)!, meshes.faults.get(0)!].map((m) => {
				const { count } = m.geometry.drawRange;
				return `${Math.min(count, m.geometry.getIndex()!.count)}${materialOf(m).side === THREE.DoubleSide ? ' both' : ''}`;
			});
		};
		const whole = ['6', '3', '0 both'];
		const closed = ['12', '9', '3 both'];
		const open = ['12 both', '9 both', '3 both'];
		expect(drawn(far)).toEqual(whole);
		expect(drawn(null)).toEqual(whole);
		// From within, and from so near that the nearest of it is not drawn.
		expect(drawn(new THREE.Vector3(20, 20, 20))).toEqual(open);
		expect(drawn(new THREE.Vector3(20, 20, 54))).toEqual(open);
		expect(drawn(new THREE.Vector3(20, 20, 56))).toEqual(whole);
		meshes.styleUnit(0, '#d8b25c', false, 1);
		expect(drawn(far)).toEqual(closed);
		meshes.styleUnit(0, '#d8b25c', true, 0.5);
		expect(drawn(far)).toEqual(['12 both', '9', '3 both']);
		meshes.styleUnit(0, '#d8b25c', true, 1);
		meshes.setApart(new Map([[1, 30]]));
		expect(drawn(far)).toEqual(closed);
		meshes.setApart(new Map());
		expect(drawn(far)).toEqual(whole);
		clip.push(new THREE.Plane());
		expect(drawn(far)).toEqual(open);
		clip.length = 0;
		meshes.set(model, { rgb: new Float32Array(model.position.length), surfacesOnly: true });
		expect(drawn(far)).toEqual(['6 both', '6 both', '3 both']);
	});

	it('makes room for the next one, and is gone without one', () => {
		const { meshes, root } = made();
		meshes.set(meshOf([[0, 2, 1]]), null);
		expect([...meshes.units.keys()].sort()).toEqual([0, 2]);
		expect(root.children).toHaveLength(2);
		meshes.set(null, null);
		expect(root.children).toHaveLength(0);
	});

	it('nearly opaque things still hide what is behind them', () => {
		const m = new THREE.Mesh(new THREE.BufferGeometry(), new THREE.MeshLambertMaterial());
		styleMesh(m, true, 0.96);
		expect([materialOf(m).transparent, materialOf(m).depthWrite]).toEqual([true, true]);
	});
});

describe('tubes along holes', () => {
	const segments = (n: number): TubeSegments => ({
		count: n,
		ends: Float32Array.from({ length: 6 * n }, (_, i) => i),
		colors: Uint8Array.from({ length: 3 * n }, (_, i) => i),
		sizes: Float32Array.from({ length: n }, (_, i) => 1 + i)
	});

	it('are strips of four vertices and two triangles a segment', () => {
		const tubes = new Tubes([]);
		tubes.set(segments(3));
		const g = tubes.mesh.geometry;
		expect([tubes.count, g.drawRange.count]).toEqual([3, 18]);
		for (let k = 0; k < 4; k++) {
			const [upper, lower, tint, size] = ['upper', 'lower', 'tint', 'size'].map((name) => g.getAttribute(name));
			expect([upper!.getX(4 + k), upper!.getZ(4 + k), lower!.getX(4 + k), lower!.getZ(4 + k)]).toEqual([6, 8, 9, 11]);
			expect(tint!.getY(4 + k)).toBeCloseTo(4 / 255, 6);
			expect(size!.getX(4 + k)).toBe(2);
		}
		expect([...(g.getIndex()!.array as Uint32Array).subarray(6, 12)]).toEqual([4, 5, 6, 4, 6, 7]);
	});

	it('keep their room for fewer segments, and get more only when it is needed', () => {
		const tubes = new Tubes([]);
		tubes.set(segments(10));
		const room = tubes.mesh.geometry.getAttribute('corner');
		tubes.set(segments(2));
		expect([tubes.count, tubes.mesh.geometry.drawRange.count]).toEqual([2, 12]);
		tubes.set(segments(13));
		expect(tubes.mesh.geometry.getAttribute('corner')).toBe(room);
		tubes.set(segments(14));
		expect(tubes.mesh.geometry.getAttribute('corner')).not.toBe(room);
		expect(tubes.mesh.geometry.drawRange.count).toBe(84);
	});

	it('have a radius in pixels or in the ground, and may be seen through', () => {
		const tubes = new Tubes([]);
		tubes.style(4, true, 0.5);
		tubes.view(0.002, false);
		const { uniforms, transparent, depthWrite } = tubes.mesh.material;
		expect(['radius', 'inPixels', 'opacity', 'pixel', 'perspective'].map((k) => uniforms[k]!.value)).toEqual([4, true, 0.5, 0.002, false]);
		expect([transparent, depthWrite]).toEqual([true, false]);
		tubes.style(20, false, 1);
		expect([tubes.mesh.material.transparent, tubes.mesh.material.depthWrite]).toEqual([false, true]);
	});
});

describe('rows in space', () => {
	beforeAll(() => void vi.stubGlobal('devicePixelRatio', 1));
	afterAll(() => void vi.unstubAllGlobals());
	const before: (() => void)[] = [];
	let drawn = 0;
	const stage = {
		root: new THREE.Group(),
		before,
		clip: [],
		pixel: 0.01,
		isParallel: false,
		draw: () => drawn++,
		pixelAt: () => 2,
		local: (xyz: number[]) => Float32Array.from(xyz, (v, i) => v - [100, 200, 0][i % 3]!)
	} as unknown as Stage;
	const at = Float64Array.of(110, 220, 5, 130, 240, 6, 150, 260, 7);
	const planes = dataSet('Planes', {
		kind: 'orientations',
		place: 'map',
		xyz: at,
		columns: [
			numbers('dip', [0, 90, NaN]),
			numbers('dipAzimuth', [0, 90, NaN]),
			numbers('plunge', [NaN, NaN, 90]),
			numbers('trend', [NaN, NaN, 0])
		]
	});
	const spots = dataSet('Spots', { kind: 'places', place: 'map', xyz: at, columns: [numbers('Cu', [1, 2, NaN])] });
	const listed = (set: typeof spots, more: Partial<PlacedRows> = {}): PlacedRows => ({
		set,
		painter: workspaceOf([set]).sets.painter(set),
		place: (i) => [set.xyz[3 * i]!, set.xyz[3 * i + 1]!, set.xyz[3 * i + 2]!],
		size: 10,
		inPixels: false,
		opacity: 1,
		discs: false,
		...more
	});
	const matrixOf = (mesh: THREE.InstancedMesh, k: number) => {
		const m = new THREE.Matrix4();
		mesh.getMatrixAt(k, m);
		const [position, turn, scale] = [new THREE.Vector3(), new THREE.Quaternion(), new THREE.Vector3()];
		m.decompose(position, turn, scale);
		return { position, scale, axis: new THREE.Vector3(0, 1, 0).applyQuaternion(turn) };
	};

	it('are dots at their places, with the row that each stands for; a place that nobody knows is none', () => {
		const rows = new RowsInSpace(stage);
		rows.set([listed(spots, { place: (i) => (i === 1 ? null : [at[3 * i]!, at[3 * i + 1]!, i === 0 ? 5 : NaN]) })]);
		expect(rows.instanced).toHaveLength(1);
		expect([...rows.instanced[0]!.rows]).toEqual([0]);
		const points = rows.instanced[0]!.mesh as THREE.Points;
		expect([...points.geometry.getAttribute('position').array].slice(0, 3)).toEqual([10, 20, 5]);
		before.forEach((f) => f());
		expect((points.material as THREE.ShaderMaterial).uniforms['pixel']!.value).toBe(0.01);
		expect(drawn).toBeGreaterThan(0);
	});

	it('of planes are discs square to them, of lines rods along them', () => {
		const rows = new RowsInSpace(stage);
		rows.set([listed(planes, { discs: true, painter: { ...listed(spots).painter, rgb: () => 0x336699, size: () => 1 } })]);
		const mesh = rows.instanced[0]!.mesh as THREE.InstancedMesh;
		const [level, upright, rod] = [0, 1, 2].map((k) => matrixOf(mesh, k));
		expect(level!.axis.z).toBeCloseTo(1, 6);
		expect(Math.abs(upright!.axis.x)).toBeCloseTo(1, 6);
		expect(level!.scale.x).toBeCloseTo(5, 6);
		expect(level!.scale.y).toBeLessThan(0.5);
		expect(rod!.axis.z).toBeCloseTo(-1, 6);
		expect(rod!.scale.y).toBeGreaterThan(10 * rod!.scale.x);
		expect(level!.position.toArray()).toEqual([10, 20, 5]);
	});

	it('in pixels are as large as a pixel is there', () => {
		const rows = new RowsInSpace(stage);
		rows.set([listed(planes, { discs: true, inPixels: true, painter: { ...listed(spots).painter, rgb: () => 0, size: () => 1 } })]);
		expect(matrixOf(rows.instanced[0]!.mesh as THREE.InstancedMesh, 0).scale.x).toBeCloseTo(10, 6);
	});

	it('that are all hidden draw nothing, and the next list replaces the last', () => {
		const rows = new RowsInSpace(stage);
		rows.set([listed(spots)]);
		rows.set([listed(spots, { painter: { ...listed(spots).painter, rgb: () => -1 } })]);
		expect(rows.instanced).toEqual([]);
	});
});
