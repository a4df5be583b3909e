import { describe, expect, it } from 'vitest';
import fc from 'fast-check';
import { cutChunk } from './cut-chunk';
import { cutLattice } from './cut-lattice';
import { expectClosedSolids, sampledOn } from './for-tests';
import { cubeCount, latticeOf, latticePlaces, nodeOfCube, type Lattice } from './lattice';
import { refineLattice } from './refine';
import { TETRAHEDRA } from './tetrahedra';

const small = latticeOf({ minX: 0, minY: 0, minZ: 0, maxX: 40, maxY: 30, maxZ: 30 }, 10);
const with0 = (l: Lattice, cubes: Record<number, number>): Lattice => {
	const wanted = new Uint8Array(cubeCount(l));
	for (const [cube, w] of Object.entries(cubes)) wanted[Number(cube)] = w;
	const finer = refineLattice(l, wanted);
	return finer ? { ...l, finer } : l;
};

/** All tetrahedra, those of whole cubes included, as sorted node numbers. */
function tetrahedraOf(l: Lattice): number[][] {
	const out: number[][] = [];
	const [sx, sxy] = [l.nx + 1, (l.nx + 1) * (l.ny + 1)];
	for (let cube = 0; cube < cubeCount(l); cube++) {
		if (l.finer?.opened[cube]) continue;
		const node = nodeOfCube(l, cube);
		for (const t of TETRAHEDRA) out.push(t.corners.map((b) => node + (b & 1) + ((b >> 1) & 1) * sx + (b >> 2) * sxy));
	}
	const f = l.finer?.tetrahedra ?? [];
	for (let t = 0; t < f.length; t += 4) out.push([f[t]!, f[t + 1]!, f[t + 2]!, f[t + 3]!]);
	return out;
}

function volume(l: Lattice, t: number[]): number {
	const p = latticePlaces(l, Uint32Array.from(t));
	const e = (c: number, x: number) => p[3 * c + x]! - p[x]!;
	return (
		Math.abs(
			e(1, 0) * (e(2, 1) * e(3, 2) - e(2, 2) * e(3, 1)) +
				e(1, 1) * (e(2, 2) * e(3, 0) - e(2, 0) * e(3, 2)) +
				e(1, 2) * (e(2, 0) * e(3, 1) - e(2, 1) * e(3, 0))
		) / 6
	);
}

const wishes = fc.dictionary(fc.integer({ min: 0, max: cubeCount(small) - 1 }).map(String), fc.integer({ min: 1, max: 3 }), {
	minKeys: 1,
	maxKeys: 4
});

describe('a lattice with finer parts', () => {
	it('fills the box without gaps: each face belongs to two tetrahedra or lies on a side', () => {
		fc.assert(
			fc.property(wishes, (cubes) => {
				const l = with0(small, cubes);
				const faces = new Map<string, number>();
				let sum = 0;
				for (const t of tetrahedraOf(l)) {
					sum += volume(l, t);
					for (let c = 0; c < 4; c++) {
						const key = t.filter((_, i) => i !== c).join();
						faces.set(key, (faces.get(key) ?? 0) + 1);
					}
				}
				expect(sum).toBeCloseTo(cubeCount(l), 9);
				const most = [l.nx, l.ny, l.nz];
				for (const [key, n] of faces) {
					if (n === 2) continue;
					expect(n).toBe(1);
					const p = latticePlaces(l, Uint32Array.from(key.split(',').map(Number)));
					expect([0, 1, 2].some((x) => [0, most[x]!].some((wall) => [0, 1, 2].every((c) => p[3 * c + x] === wall)))).toBe(true);
				}
			}),
			{ numRuns: 15, seed: 3 }
		);
	});

	it('has tetrahedra of an eighth of the edge where three halvings are asked, of three shapes only', () => {
		const l = with0(small, { 17: 3 });
		const inside = tetrahedraOf(l).filter((t) => {
			const p = latticePlaces(l, Uint32Array.from(t));
			const node = latticePlaces(l, Uint32Array.of(nodeOfCube(l, 17)));
			return [0, 1, 2, 3].every((c) => [0, 1, 2].every((x) => p[3 * c + x]! >= node[x]! && p[3 * c + x]! <= node[x]! + 1));
		});
		expect(inside).toHaveLength(6 * 512);
		for (const t of inside) expect(volume(l, t)).toBeCloseTo(1 / (6 * 512), 12);
		const shapes = new Set(
			tetrahedraOf(l).map((t) => {
				const p = latticePlaces(l, Uint32Array.from(t));
				const edges = [
					[0, 1],
					[0, 2],
					[0, 3],
					[1, 2],
					[1, 3],
					[2, 3]
				]
					.map(([a, b]) => [0, 1, 2].reduce((s, x) => s + (p[3 * a! + x]! - p[3 * b! + x]!) ** 2, 0))
					.sort((a, b) => a - b);
				return edges.map((e) => (e / edges[0]!).toFixed(6)).join();
			})
		);
		expect(shapes.size).toBe(3);
	});

	it('is nothing where nothing is asked', () => {
		expect(refineLattice(small, new Uint8Array(cubeCount(small)))).toBeNull();
	});

	it('gives closed, touching solids whose volumes add up, whatever is finer, by parts in any order', async () => {
		await fc.assert(
			fc.asyncProperty(wishes, fc.array(fc.double({ min: -1, max: 1, noNaN: true }), { minLength: 6, maxLength: 6 }), async (cubes, r) => {
				const l = with0(small, cubes);
				const wave = (a: number, b: number, c: number) => (x: number, y: number, z: number) =>
					z - 15 - 8 * a - 6 * b * Math.sin(x / 7 + c) - 4 * c * Math.cos(y / 5);
				const functions = [
					sampledOn(l, 2000, (x, y, z) => x - 19.7 - 3 * r[0]! + 0.3 * (z - 15) + 0.2 * r[1]! * y),
					sampledOn(l, 0, wave(r[2]!, r[3]!, 0.4)),
					sampledOn(l, 0, wave(r[4]!, r[5]!, 1.2)),
					sampledOn(l, 1, wave(r[5]! - 0.8, r[2]!, 0.1))
				];
				const root = {
					function: 0,
					above: {
						function: 1,
						above: { leaf: 0, label: 0 },
						below: { function: 3, above: { leaf: 1, label: 1 }, below: { leaf: 4, label: 2 } }
					},
					below: { function: 2, above: { leaf: 2, label: 0 }, below: { leaf: 3, label: 1 } }
				};
				const mesh = await cutLattice(l, root, functions, 1e-7);
				expectClosedSolids(mesh, 36000);
				// Threads that take their time change nothing.
				let n = 0;
				const slow = await cutLattice(l, root, functions, 1e-7, undefined, async (task) => {
					await new Promise((done) => setTimeout(done, n++ % 2 ? 0 : 3));
					return cutChunk(structuredClone(task));
				});
				expect(slow).toEqual(mesh);
			}),
			{ numRuns: 12, seed: 11 }
		);
	});

	it('tells a ball better: half the edge, a quarter of the error', async () => {
		const error = async (w: number) => {
			const l = with0(
				latticeOf({ minX: -12, minY: -12, minZ: -12, maxX: 12, maxY: 12, maxZ: 12 }, 3),
				Object.fromEntries(Array.from({ length: 512 }, (_, i) => [i, w]))
			);
			const f = sampledOn(l, 0, (x, y, z) => 10 - Math.hypot(x, y, z));
			const mesh = await cutLattice(l, { function: 0, above: { leaf: 0, label: 0 }, below: { leaf: 1, label: 1 } }, [f], 1e-9);
			return Math.abs(mesh.volumes.get(0)! / ((4 / 3) * Math.PI * 1000) - 1);
		};
		const [none, one, two] = [await error(0), await error(1), await error(2)];
		expect(one / none).toBeLessThan(0.32);
		expect(two / one).toBeLessThan(0.32);
	});
});
