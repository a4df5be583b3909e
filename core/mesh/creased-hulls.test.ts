import { describe, expect, it } from 'vitest';
import { creasedHulls, type CreasedHull } from './creased-hulls';
import { FAULT, SIDE, TERRAIN, type SolidMesh } from './cut-lattice';

/** Triangles over given vertices, each with front, back and surface. */
function meshOf(positions: number[], triangles: [number, number, number, front: number, back: number, surface: number][]): SolidMesh {
	return {
		positions: Float64Array.from(positions),
		triangles: Uint32Array.from(triangles.flatMap((t) => t.slice(0, 3))),
		front: Int16Array.from(triangles, (t) => t[3]),
		back: Int16Array.from(triangles, (t) => t[4]),
		surface: Int16Array.from(triangles, (t) => t[5]),
		volumes: new Map()
	};
}
const normalOf = (h: CreasedHull, own: number) =>
	Array.from(h.normals.subarray(3 * own, 3 * own + 3), (v) => Math.round(v * 1e6) / 1e6 + 0);

describe('skins of units', () => {
	// A roof: two slopes that share their ridge (vertices 1 and 2).
	const roof = [-1, 0, 0, 0, 0, 1, 0, 1, 1, 1, 0, 0];
	const twoSlopes = (a: number, b: number) =>
		meshOf(roof, [
			[0, 1, 2, 0, 1, a],
			[1, 3, 2, 0, 1, b]
		]);

	it('are even over a ridge within one surface, and have a crease there between two', () => {
		const even = creasedHulls(twoSlopes(5, 5), roof).get('u1')!;
		expect(even.vertex).toHaveLength(4);
		const ridge = [...even.vertex].indexOf(1);
		const [x, , z] = normalOf(even, ridge);
		expect(x).toBeCloseTo(0, 6);
		expect(z).toBeCloseTo(1, 6);
		const creased = creasedHulls(twoSlopes(5, 6), roof).get('u1')!;
		expect(creased.vertex).toHaveLength(6);
		const own = [...creased.vertex].flatMap((v, i) => (v === 1 ? [normalOf(creased, i)[0]!] : []));
		expect(own.map((v) => Math.round(v * 1e3) / 1e3).sort()).toEqual([-0.707, 0.707]);
	});

	it('point out of the unit on either side of a contact', () => {
		const flat = [0, 0, 0, 1, 0, 0, 0, 1, 0];
		const hulls = creasedHulls(meshOf(flat, [[0, 1, 2, 7, 8, 8]]), flat);
		expect([...hulls.keys()].sort()).toEqual(['u7', 'u8']);
		expect(normalOf(hulls.get('u8')!, 0)).toEqual([0, 0, 1]);
		expect(normalOf(hulls.get('u7')!, 0)).toEqual([0, 0, -1]);
	});

	it('have what is outside first: air, sides of the box and limits, whichever way round', () => {
		const flat = [0, 0, 0, 1, 0, 0, 0, 1, 0, 0, 0, 1, 1, 0, 1, 0, 1, 1];
		const hulls = creasedHulls(
			meshOf(flat, [
				[0, 1, 2, 0, 1, 3],
				[0, 1, 2, 0, 0, FAULT],
				[3, 4, 5, 0, -1, 3],
				[3, 4, 5, -2, 0, SIDE]
			]),
			flat
		);
		const u0 = hulls.get('u0')!;
		expect([u0.outside, u0.triangles.length]).toEqual([6, 9]);
		expect([...u0.triangles].map((v) => (u0.vertex[v]! > 2 ? 'out' : 'in'))).toEqual([...Array(6).fill('out'), ...Array(3).fill('in')]);
		expect([hulls.get('u1')!.outside, hulls.get('f0')!.outside]).toEqual([0, 0]);
	});

	it('have every triangle once a unit, those of faults apart, and none of air; sides are left out where they are not wanted', () => {
		const flat = [0, 0, 0, 1, 0, 0, 0, 1, 0];
		const mesh = meshOf(flat, [
			[0, 1, 2, 0, 1, 3],
			[0, 1, 2, 0, 0, FAULT],
			[0, 1, 2, 1, 0, FAULT + 1],
			[0, 1, 2, -2, 1, SIDE],
			[0, 1, 2, -1, 0, TERRAIN]
		]);
		const counts = (hulls: Map<string, CreasedHull>) => Object.fromEntries([...hulls].map(([k, h]) => [k, h.triangles.length / 3]));
		expect(counts(creasedHulls(mesh, flat))).toEqual({ u0: 3, u1: 3, f0: 1, f1: 1 });
		expect(counts(creasedHulls(mesh, flat, true))).toEqual({ u0: 2, u1: 2, f0: 1, f1: 1 });
	});

	it('stand a sliver without area, and are unit vectors', () => {
		const flat = [0, 0, 0, 1, 0, 0, 2, 0, 0, 0, 5, 1];
		const hull = creasedHulls(meshOf(flat, [[0, 1, 2, -1, 0, 4], [0, 1, 3, -1, 0, 9]]), flat).get('u0')!; // prettier-ignore
		for (let i = 0; i < hull.vertex.length; i++) expect(Math.hypot(...hull.normals.subarray(3 * i, 3 * i + 3))).toBeCloseTo(1, 6);
	});
});
