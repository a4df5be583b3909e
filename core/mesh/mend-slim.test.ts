import { describe, expect, it } from 'vitest';
import fc from 'fast-check';
import { slimShares } from '../../bench/slim';
import { seededRandom } from '../statistics/random';
import { AIR, cutLattice, FAULT, TERRAIN, withTriangles, type CutMesh, type Decision } from './cut-lattice';
import { surfaceOf } from './extract';
import { expectClosedSolids, longestEdge, sampledOn } from './for-tests';
import { AIR_LEAF } from './labels';
import { cubeCount, latticeOf } from './lattice';
import { mendSlim } from './mend-slim';
import { NearestTriangle } from './nearest-triangle';
import { refineLattice } from './refine';

const BOX = { minX: 0, minY: 0, minZ: 0, maxX: 60, maxY: 50, maxZ: 60 };
const VOLUME = 60 * 50 * 60;
const leaf = (leaf: number, label: number): Decision => ({ leaf, label });

/** Three layers, cut and moved by a fault. @param halvings of cubes in a part of it, at most */
async function ground(seed: number, spacing = 5, halvings = 0): Promise<{ mesh: CutMesh; lattice: ReturnType<typeof latticeOf> }> {
	const { uniform: r } = seededRandom(seed);
	const [a, b, c, d] = [r(), r(), r(), r()];
	const whole = latticeOf(BOX, spacing);
	const finer = refineLattice(
		whole,
		Uint8Array.from({ length: cubeCount(whole) }, (_, cube) => (cube % whole.nx < whole.nx / 2 ? Math.floor((halvings + 1) * r()) : 0))
	);
	const lattice = finer ? { ...whole, finer } : whole;
	const height = (by: number) => (x: number, y: number, z: number) =>
		z - by - 6 * Math.sin(x / 14 + 6 * a) * Math.cos(y / 17 + 6 * b) - 0.2 * (c - 0.5) * x;
	const functions = [
		sampledOn(lattice, FAULT, (x, y, z) => x - 30 + 0.5 * (z - 30) + 3 * (d - 0.5) * Math.sin(y / 20)),
		...[38, 22, 44, 28].map((by, k) => sampledOn(lattice, 1 + (k % 2), height(by + d)))
	];
	const layers = (f: number, first: number): Decision => ({
		function: f,
		above: leaf(first, 0),
		below: { function: f + 1, above: leaf(first + 1, 1), below: leaf(first + 2, 2) }
	});
	const mesh = await cutLattice(lattice, { function: 0, above: layers(1, 0), below: layers(3, 3) }, functions, 2e-4 * spacing);
	return { mesh, lattice };
}

/** Pairs of triangles that pass through each other, found by brute force. */
function crossings({ positions: p, triangles }: CutMesh): number {
	const at = (v: number) => [p[3 * v]!, p[3 * v + 1]!, p[3 * v + 2]!] as const;
	const side = (o: number, a: number, b: number, c: number) => {
		const [q, u, v, w] = [at(o), at(a), at(b), at(c)];
		const [x, y, z] = [u, v, w].map((e) => [e[0] - q[0], e[1] - q[1], e[2] - q[2]]) as unknown as [number[], number[], number[]];
		const volume =
			x[0]! * (y[1]! * z[2]! - y[2]! * z[1]!) + x[1]! * (y[2]! * z[0]! - y[0]! * z[2]!) + x[2]! * (y[0]! * z[1]! - y[1]! * z[0]!);
		return Math.abs(volume) < 1e-6 ? 0 : Math.sign(volume);
	};
	const of = (t: number) => [triangles[3 * t]!, triangles[3 * t + 1]!, triangles[3 * t + 2]!] as const;
	const pierces = (u: number, v: number, [a, b, c]: readonly [number, number, number]) => {
		if ([a, b, c].includes(u) || [a, b, c].includes(v) || side(u, a, b, c) * side(v, a, b, c) >= 0) return false;
		const turn = side(u, v, a, b) + side(u, v, b, c) + side(u, v, c, a);
		return Math.abs(turn) === 3;
	};
	let found = 0;
	const boxes = Array.from({ length: triangles.length / 3 }, (_, t) =>
		[0, 1, 2].flatMap((k) => [Math.min(...of(t).map((v) => p[3 * v + k]!)), Math.max(...of(t).map((v) => p[3 * v + k]!))])
	);
	for (let s = 0; s < boxes.length; s++)
		for (let t = s + 1; t < boxes.length; t++) {
			const [i, j] = [boxes[s]!, boxes[t]!];
			if (i[1]! < j[0]! || j[1]! < i[0]! || i[3]! < j[2]! || j[3]! < i[2]! || i[5]! < j[4]! || j[5]! < i[4]!) continue;
			const [a, b] = [of(s), of(t)];
			if (a.filter((v) => b.includes(v)).length > 1) continue;
			if ([0, 1, 2].some((k) => pierces(a[k]!, a[(k + 1) % 3]!, b) || pierces(b[k]!, b[(k + 1) % 3]!, a))) found++;
		}
	return found;
}

describe('slim triangles', () => {
	it('become few, while solids stay closed, touch, and add up to the box', async () => {
		await fc.assert(
			fc.asyncProperty(fc.integer({ min: 1, max: 100_000 }), async (seed) => {
				const { mesh, lattice } = await ground(seed);
				const mended = await mendSlim(mesh, lattice, 5, null);
				expectClosedSolids(mended, VOLUME);
				for (const [label, volume] of mesh.volumes) expect(Math.abs(mended.volumes.get(label)! / volume - 1)).toBeLessThan(2e-3);
				expect(slimShares(mesh)[0]).toBeGreaterThan(0.05);
				expect(slimShares(mended)[0]).toBeLessThan(0.4 * slimShares(mesh)[0]);
				expect(slimShares(mended)[1]).toBeLessThan(0.25 * slimShares(mesh)[1]);
			}),
			{ numRuns: 12 }
		);
	});

	it('go without moving what stays: places are a part of those before, and surfaces lie where they lay', async () => {
		const { mesh, lattice } = await ground(3);
		const mended = await mendSlim(mesh, lattice, 5, null);
		const places = ({ positions: p }: CutMesh) => Array.from({ length: p.length / 3 }, (_, v) => p.subarray(3 * v, 3 * v + 3).join());
		const before = new Set(places(mesh));
		expect(places(mended).length).toBeLessThan(before.size);
		expect(places(mended).every((at) => before.has(at))).toBe(true);
		for (const s of [1, 2, FAULT]) {
			// What went lay beside what is there now, by no more than a few times what is allowed at once.
			const distance = new NearestTriangle(surfaceOf(mended, s));
			const { positions: p } = surfaceOf(mesh, s);
			for (let v = 0; v < p.length; v += 3) expect(distance.nearest(p[v]!, p[v + 1]!, p[v + 2]!).distance).toBeLessThan(0.012 * 5);
		}
	});

	it('go from the terrain, too, which lies where it lay: what is below it has the volume that it had, whatever it is', async () => {
		const lattice = latticeOf(BOX, 5);
		const hills = (x: number, y: number) => 48 + 2 * Math.sin(x / 13 + 1) * Math.cos(y / 15 + 2);
		const slope = (x: number, y: number) => 45.1 + 0.04 * x + 0.03 * y;
		const base = sampledOn(lattice, 1, (x, y, z) => z - 36 - 0.25 * x + 0.1 * y);
		const below: Decision = { function: 1, above: leaf(0, 0), below: { function: 2, above: leaf(1, 1), below: leaf(2, 2) } };
		for (const [height, thick] of [
			[hills, 1.5],
			[hills, 3],
			[hills, 6],
			[slope, 4]
		] as const) {
			const terrain = sampledOn(lattice, TERRAIN, (x, y, z) => z - height(x, y));
			const grade = sampledOn(lattice, 0, (x, y, z) => z - height(x, y) + thick * (1 + 0.2 * Math.sin(y / 11)));
			const mesh = await cutLattice(lattice, { function: 0, above: leaf(AIR_LEAF, AIR), below }, [terrain, grade, base], 1e-3);
			const mended = await mendSlim(mesh, lattice, 5, null);
			expectClosedSolids(
				mended,
				[...mesh.volumes].reduce((sum, [label, v]) => sum + (label >= 0 ? v : 0), 0)
			);
			const own = (m: CutMesh) =>
				withTriangles(
					m,
					Array.from(m.surface.keys()).filter((t) => m.surface[t] === TERRAIN)
				);
			expect(slimShares(own(mended))[0]).toBeLessThan(0.7 * slimShares(own(mesh))[0]);
			expect(slimShares(mended)[1]).toBeLessThan(0.5 * slimShares(mesh)[1]);
			const distance = new NearestTriangle(surfaceOf(mended, TERRAIN));
			const { positions: p } = surfaceOf(mesh, TERRAIN);
			for (let v = 0; v < p.length; v += 3) expect(distance.nearest(p[v]!, p[v + 1]!, p[v + 2]!).distance).toBeLessThan(0.2 * 0.012 * 5);
		}
	});

	it('stay in a terrain of which no vertex is its own: what lies below it could not be brought back', async () => {
		const small = latticeOf({ minX: 0, minY: 0, minZ: 0, maxX: 10, maxY: 10, maxZ: 10 }, 10);
		const terrain = sampledOn(small, TERRAIN, (x, y, z) => z - 6.3 - 0.1 * x + 0.02 * x * y);
		const mesh = await cutLattice(small, { function: 0, above: leaf(AIR_LEAF, AIR), below: leaf(0, 0) }, [terrain], 2e-3);
		const mended = await mendSlim(mesh, small, 10, null);
		expectClosedSolids(mended, mesh.volumes.get(0)!);
	});

	it('become few in parts that are finer, too, which stay so', async () => {
		await fc.assert(
			fc.asyncProperty(fc.integer({ min: 1, max: 100_000 }), fc.integer({ min: 1, max: 2 }), async (seed, halvings) => {
				const { mesh, lattice } = await ground(seed, 10, halvings);
				expect(lattice.finer).toBeDefined();
				const mended = await mendSlim(mesh, lattice, 10, null);
				expectClosedSolids(mended, VOLUME);
				expect(slimShares(mesh)[0]).toBeGreaterThan(0.05);
				expect(slimShares(mended)[0]).toBeLessThan(0.5 * slimShares(mesh)[0]);
				expect(slimShares(mended)[1]).toBeLessThan(0.25 * slimShares(mesh)[1]);
				// Each step may add 30 % to the longest edge there, and few follow each other.
				for (const s of [1, 2, FAULT]) expect(longestEdge(surfaceOf(mended, s))).toBeLessThan(1.5 * longestEdge(surfaceOf(mesh, s)));
			}),
			{ numRuns: 6 }
		);
	});

	it('bring no surface through another', async () => {
		for (const [seed, spacing, halvings] of [
			[1, 7, 0],
			[2, 7, 0],
			[3, 20, 2],
			[4, 30, 3]
		] as const) {
			const { mesh, lattice } = await ground(seed, spacing, halvings);
			const mended = await mendSlim(mesh, lattice, spacing, null);
			expect(mended.front.length).toBeLessThan(mesh.front.length);
			expect([crossings(mesh), crossings(mended)]).toEqual([0, 0]);
		}
	});

	it('stay where their vertices are to stay, and keep what every triangle is of', async () => {
		const { mesh, lattice } = await ground(5);
		const all = await mendSlim(mesh, lattice, 5, new Uint8Array(mesh.positions.length / 3).fill(1));
		for (const key of ['positions', 'triangles', 'front', 'back', 'surface', 'frontLeaf', 'backLeaf'] as const)
			expect(all[key]).toEqual(mesh[key]);
		const mended = await mendSlim(mesh, lattice, 5, null);
		const kinds = ({ front, back, surface, frontLeaf, backLeaf }: CutMesh) =>
			new Set(Array.from(front, (f, t) => [f, back[t], surface[t], frontLeaf[t], backLeaf[t]].join()));
		expect(kinds(mended)).toEqual(kinds(mesh));
	});

	it('are none where nothing is', async () => {
		const lattice = latticeOf(BOX, 10);
		const { mesh } = await ground(1);
		const empty = { ...mesh, positions: new Float64Array(0), triangles: new Uint32Array(0), front: new Int16Array(0), back: new Int16Array(0), surface: new Int16Array(0), frontLeaf: new Uint16Array(0), backLeaf: new Uint16Array(0) }; // prettier-ignore
		expect((await mendSlim(empty, lattice, 10, null)).triangles).toHaveLength(0);
	});
});
