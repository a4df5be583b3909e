import { describe, expect, it } from 'vitest';
import fc from 'fast-check';
import { cutLattice, OUTSIDE, SIDE, withTriangles, type Decision } from './cut-lattice';
import { openEdges, solidOf, surfaceOf, volumeOf } from './extract';
import { expectClosedSolids, sampledOn } from './for-tests';
import { cubeCount, latticeOf, nodeOfCube } from './lattice';
import { seededRandom } from '../statistics/random';
import { TETRAHEDRA } from './tetrahedra';

const box = { minX: 0, minY: 0, minZ: 0, maxX: 100, maxY: 80, maxZ: 60 };

let leaves = 0;
const leaf = (label: number): Decision => ({ leaf: leaves++, label });

describe('a mesh with some of its triangles', () => {
	it('keeps all that is told by triangle, in the order asked, with numbers up to the greatest', () => {
		const mesh = {
			positions: new Float64Array(12),
			triangles: Uint32Array.of(0, 1, 2, 1, 2, 3, 0, 2, 3),
			front: Int16Array.of(-3, 32767, 5),
			back: Int16Array.of(-32768, 0, 1),
			surface: Int16Array.of(7, 8, 9),
			frontLeaf: Uint16Array.of(65535, 32768, 2),
			backLeaf: Uint16Array.of(0, 65534, 1),
			volumes: new Map([[0, 1]])
		};
		for (const kept of [[2, 0, 2, 1], Uint32Array.of(2, 0, 2, 1)]) {
			const got = withTriangles(mesh, kept);
			expect(got.triangles).toEqual(Uint32Array.of(0, 2, 3, 0, 1, 2, 0, 2, 3, 1, 2, 3));
			expect(got.front).toEqual(Int16Array.of(5, -3, 5, 32767));
			expect(got.back).toEqual(Int16Array.of(1, -32768, 1, 0));
			expect(got.frontLeaf).toEqual(Uint16Array.of(2, 65535, 2, 32768));
			expect(got.backLeaf).toEqual(Uint16Array.of(1, 0, 1, 65534));
			expect(got.positions).toBe(mesh.positions);
		}
		expect(withTriangles(mesh, []).front).toHaveLength(0);
	});
});

describe('cutting a lattice', () => {
	it('gives the exact volumes on both sides of a plane', async () => {
		const l = latticeOf(box, 10);
		// z above 20 + 0.3 x + 0.1 y: volume below is the mean height times the area.
		const mesh = await cutLattice(
			l,
			{ function: 0, above: leaf(0), below: leaf(1) },
			[sampledOn(l, 0, (x, y, z) => z - 20.037 - 0.3 * x - 0.1 * y)],
			1e-9
		);
		expect(mesh.volumes.get(1)).toBeCloseTo(100 * 80 * (20.037 + 15 + 4), 6);
		expect(volumeOf(solidOf(mesh, 1))).toBeCloseTo(100 * 80 * 39.037, 6);
		expect(openEdges(solidOf(mesh, 0))).toBe(0);
		const p = surfaceOf(mesh, 0).positions;
		for (let i = 0; i < p.length; i += 3) expect(p[i + 2]).toBeCloseTo(20.037 + 0.3 * p[i]! + 0.1 * p[i + 1]!, 9);
	});

	it('points normals of a contact to the upper side', async () => {
		const l = latticeOf(box, 20);
		const mesh = await cutLattice(l, { function: 0, above: leaf(0), below: leaf(1) }, [sampledOn(l, 0, (_x, _y, z) => z - 33)], 1e-9);
		const { positions: p, triangles: t } = surfaceOf(mesh, 0);
		for (let i = 0; i < t.length; i += 3) {
			const [a, b, c] = [3 * t[i]!, 3 * t[i + 1]!, 3 * t[i + 2]!];
			expect((p[b]! - p[a]!) * (p[c + 1]! - p[a + 1]!) - (p[b + 1]! - p[a + 1]!) * (p[c]! - p[a]!)).toBeGreaterThan(0);
		}
	});

	it('makes closed, touching solids of random surfaces, faults and their truncations, whose volumes add up to the box', async () => {
		await fc.assert(
			fc.asyncProperty(fc.integer({ min: 1, max: 100000 }), async (seed) => {
				const random = mulberry(seed);
				const l = latticeOf({ ...box, maxX: 60, maxY: 50, maxZ: 50 }, 10);
				const wave = () => {
					const [a, b, c, d, e] = Array.from({ length: 5 }, () => random() * 2 - 1);
					return (x: number, y: number, z: number) =>
						z - 25 - 15 * a! - 8 * b! * Math.sin(x / 12 + c! * 5) - 0.4 * d! * (y - 25) - 6 * e! * Math.cos(y / 9);
				};
				const plane = () => {
					const [a, b, c] = Array.from({ length: 3 }, () => random() * 2 - 1);
					return (x: number, y: number, z: number) => a! * (x - 30) + b! * (y - 25) + 0.3 * c! * (z - 25);
				};
				// Two faults; the second cuts both sides of the first. Each block has its own layers below a shared unconformity.
				const fns = [
					sampledOn(l, 0, wave()),
					sampledOn(l, 2000, plane()),
					sampledOn(l, 2001, plane()),
					...[1, 1, 1, 1, 2, 2, 2, 2].map((s) => sampledOn(l, s, wave()))
				];
				const layers = (b: number): Decision => ({
					function: 3 + b,
					above: leaf(1),
					below: { function: 7 + b, above: leaf(2), below: leaf(3) }
				});
				const second = (b: number): Decision => ({ function: 2, above: layers(b), below: layers(b + 1) });
				const mesh = await cutLattice(
					l,
					{ function: 0, above: leaf(0), below: { function: 1, above: second(0), below: second(2) } },
					fns,
					1e-6
				);
				expectClosedSolids(mesh, 60 * 50 * 50);
			}),
			{ numRuns: 25, seed: 4 }
		);
	});

	it('cuts one cube by more functions than a word has bits: thin layers, and a fan through its middle', async () => {
		const l = latticeOf({ minX: 0, minY: 0, minZ: 0, maxX: 10, maxY: 10, maxZ: 10 }, 10);
		const [layers, blades] = [70, 40];
		const fan = Array.from({ length: blades }, (_, i) => (Math.PI * (i + 0.37)) / blades);
		// Planes about one line.
		const functions = [
			...Array.from({ length: layers }, (_, k) => sampledOn(l, k, (x, _y, z) => z - 9.93 + 0.13 * k - 0.021 * x)),
			...fan.map((a, i) => sampledOn(l, 2000 + i, (x, y) => (x - 5.1) * Math.cos(a) + (y - 4.8) * Math.sin(a)))
		];
		const chain = (first: number, count: number, label: number): Decision =>
			count === 0 ? leaf(label) : { function: first, above: leaf(label), below: chain(first + 1, count - 1, label + 1) };
		const piled = await cutLattice(l, chain(0, layers, 0), functions, 1e-9);
		expectClosedSolids(piled, 1000);
		// Layers that meet neither the top nor the bottom.
		for (let k = 30; k < 40; k++) expect(piled.volumes.get(k)).toBeCloseTo(13, 9);
		expectClosedSolids(await cutLattice(l, chain(layers, blades, 0), functions, 1e-9), 1000);
		// Both at once: every layer down to the last is cut by all blades.
		const both = (k: number): Decision =>
			k === 12 ? chain(layers, blades, 100) : { function: 5 * k, above: chain(layers, blades, 100 * (k + 2)), below: both(k + 1) };
		expectClosedSolids(await cutLattice(l, both(0), functions, 1e-9), 1000);
	});

	it('stays closed where functions all but coincide, as those of two models of one ground do', async () => {
		await fc.assert(
			fc.asyncProperty(fc.integer({ min: 0, max: 1e6 }), fc.constantFrom(1e-3, 1e-6, 1e-9, 1e-12, 1e-15), async (seed, size) => {
				const random = seededRandom(seed);
				const [a, b, c] = [random.uniform(), random.uniform(), random.uniform()];
				const l = latticeOf(box, 10);
				const f = (x: number, y: number, z: number) => z - 25 - 8 * Math.sin(x / (9 + 9 * a)) - 7 * Math.cos(y / (8 + 9 * b));
				const tilt = 0.2 + c;
				const functions = [
					sampledOn(l, 2000, (x, _, z) => x - 30 + tilt * (z - 25)),
					...[1, 2, 3, 4].map((s) =>
						sampledOn(l, s, (x, y, z) => f(x, y, z) * (1 + size * s) + size * Math.sin((s + 1) * (x + 2 * y + 3 * z)))
					)
				];
				const pairs = (first: number, second: number, unit: number): Decision => ({
					function: first,
					above: { function: second, above: leaf(unit), below: leaf(unit + 1) },
					below: { function: second, above: leaf(unit + 2), below: leaf(unit + 3) }
				});
				const mesh = await cutLattice(
					l,
					{ function: 0, above: pairs(1, 2, 0), below: { function: 3, above: pairs(1, 4, 4), below: pairs(2, 4, 8) } },
					functions,
					1e-6
				);
				expectClosedSolids(mesh, 100 * 80 * 60, 1e-9);
			}),
			{ numRuns: 60 }
		);
	});

	it('cuts cubes at once as it cuts their tetrahedra one by one', async () => {
		const l = latticeOf(box, 10);
		const root: Decision = { function: 0, above: leaf(0), below: { function: 1, above: leaf(1), below: leaf(2) } };
		const functions = [
			sampledOn(l, 2000, (x, y, z) => x - 47.3 + 0.4 * z - 6 * Math.sin(y / 11)),
			sampledOn(l, 1, (x, y, z) => z - 31.7 - 9 * Math.sin(x / 17) * Math.cos(y / 13))
		];
		const whole = await cutLattice(l, root, functions, 1e-9);
		// The same tetrahedra, as a list of smaller ones.
		const node = (cube: number) => nodeOfCube(l, cube);
		const [sx, sxy] = [l.nx + 1, (l.nx + 1) * (l.ny + 1)];
		const tetrahedra = Uint32Array.from(
			Array.from({ length: cubeCount(l) }, (_, cube) =>
				TETRAHEDRA.flatMap((t) => t.corners.map((b) => node(cube) + (b & 1) + ((b >> 1) & 1) * sx + (b >> 2) * sxy))
			).flat()
		);
		const listed = await cutLattice(
			{ ...l, finer: { places: new Float64Array(0), tetrahedra, opened: new Uint8Array(cubeCount(l)).fill(1) } },
			root,
			functions,
			1e-9
		);
		expect(listed.front.length).toBe(whole.front.length);
		for (const [label, volume] of whole.volumes) expect(listed.volumes.get(label)).toBeCloseTo(volume, 6);
		const picture = (m: typeof whole) =>
			Array.from(
				m.front,
				(_, t) =>
					[0, 1, 2]
						.map((c) => [0, 1, 2].map((x) => m.positions[3 * m.triangles[3 * t + c]! + x]!.toFixed(6)).join())
						.sort()
						.join(' ') + ` ${m.frontLeaf[t]} ${m.backLeaf[t]} ${m.surface[t]}`
			).sort();
		expect(picture(listed)).toEqual(picture(whole));
		expect(listed.positions.length).toBe(whole.positions.length);
	});

	it('closes the solids along the sides of the box', async () => {
		const l = latticeOf(box, 20);
		const mesh = await cutLattice(l, leaf(0), [], 1e-9);
		expect(openEdges(solidOf(mesh, 0))).toBe(0);
		expect([...mesh.front].every((f) => f === OUTSIDE)).toBe(true);
		expect([...mesh.surface].every((s) => s >= SIDE)).toBe(true);
		expect(volumeOf(solidOf(mesh, 0))).toBeCloseTo(480000, 6);
	});

	it('refuses an extent of zero size, a spacing of zero and one that is too fine', async () => {
		expect(() => latticeOf({ ...box, maxZ: 0 }, 5)).toThrow('no volume');
		expect(() => latticeOf(box, 0)).toThrow('greater than 0');
		expect(() => latticeOf(box, 0.01)).toThrow('cells');
	});
});

function mulberry(seed: number): () => number {
	let a = seed;
	return () => {
		a = (a + 0x6d2b79f5) | 0;
		let t = Math.imul(a ^ (a >>> 15), 1 | a);
		t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t;
		return ((t ^ (t >>> 14)) >>> 0) / 4294967296;
	};
}
