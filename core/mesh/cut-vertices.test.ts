import { describe, expect, it } from 'vitest';
import { CubeVertices, SmallVertices, wholeKey } from './cut-vertices';
import { MeshBuilder } from './mesh-builder';

/** Two layers of 3 × 2 cubes: 12 nodes a layer. */
const NODES = 12;
const tetrahedron = (...nodes: number[]) => ({ nodes: Int32Array.from(nodes), corner: new Float64Array(12) });
/** The first tetrahedron of a cube, and the vertices of the part that it is in. */
function partWith(nodes: [number, number, number, number], base: number, shared: number[], startAt: number) {
	const mesh = new MeshBuilder();
	const v = new CubeVertices(tetrahedron(...nodes), mesh, NODES, base, shared, false);
	v.bits = [0, 1, 3, 7];
	v.startLayer(startAt);
	return { mesh, v };
}
const keysOf = (mesh: MeshBuilder) => {
	const { keys } = mesh.finish();
	return Array.from({ length: keys.length / 3 }, (_, k) => [...keys.slice(3 * k, 3 * k + 3)]);
};

describe('vertices of cubes', () => {
	it('are found again on their edge by the function that cuts there, whichever way they are asked for', () => {
		const { mesh, v } = partWith([0, 1, 5, 17], 0, [], 0);
		expect(v.findOnEdge(0, 0, 1, 4)).toBe(-1);
		v.addOnEdge(mesh.vertex(0.5, 0, 0), 0, 1, 0, 1, 4);
		expect(v.findOnEdge(0, 0, 1, 4)).toBe(0);
		expect(v.find([0, 1], 4, 0)).toBe(0);
		// Another function cuts the same edge elsewhere.
		expect(v.find([0, 1], 9, 0)).toBe(-1);
		v.add(mesh.vertex(0.7, 0, 0), [0, 1], 9, 0);
		expect([v.findOnEdge(0, 0, 1, 9), v.findOnEdge(0, 0, 1, 4)]).toEqual([1, 0]);
		// Inside a face two functions cut each other.
		expect(v.find([0, 1, 3], 4, 9)).toBe(-1);
		v.add(mesh.vertex(0.6, 0.1, 0.1), [0, 1, 3], 4, 9);
		expect(v.find([0, 1, 3], 4, 9)).toBe(2);
		expect(v.find([0, 1, 2], 4, 9)).toBe(-1);
	});

	it('are forgotten two layers on, and kept one layer on', () => {
		const mesh = new MeshBuilder();
		const v = new CubeVertices(tetrahedron(0, 1, 2, 3), mesh, NODES, 0, [], false);
		v.startLayer(0);
		v.findOnEdge(14, 1, 1, 0);
		v.addOnEdge(mesh.vertex(2.5, 0, 1), 14, 15, 1, 1, 0);
		v.startLayer(1);
		expect(v.findOnEdge(14, 1, 1, 0)).toBe(0);
		v.startLayer(2);
		// The same room, another node: it is not taken for the one before.
		expect(v.findOnEdge(14 + 2 * NODES, 3, 1, 0)).toBe(-1);
	});

	it('get keys in layers that other parts have, too, the same as those of smaller tetrahedra', () => {
		const { mesh, v } = partWith([12, 13, 17, 29], 100, [1], 1);
		for (const [on, f1, f2] of [
			[[0], 0, 0],
			[[0, 1], 3, 0],
			[[0, 1, 2], 3, 5],
			[[0, 3], 3, 0]
		] as [number[], number, number][]) {
			v.find(on, f1, f2);
			v.add(mesh.vertex(0, 0, 0), on, f1, f2);
		}
		// The last edge leaves the layer: it is nobody else's.
		expect(keysOf(mesh)).toEqual([
			[0, ...wholeKey(112, 112, -1, 0, 0)],
			[1, ...wholeKey(112, 113, -1, 3, 0)],
			[2, ...wholeKey(112, 113, 117, 3, 5)]
		]);
		const small = new MeshBuilder();
		const s = new SmallVertices(tetrahedron(0, 1, 2, 3), small, {
			nodes: Uint32Array.of(112, 113, 117, 129),
			places: new Float64Array(12),
			tetrahedra: Uint32Array.of(0, 1, 2, 3)
		});
		expect(s.find([0, 1, 2], 3, 5)).toBe(-1);
		s.add(small.vertex(0, 0, 0));
		expect(s.find([0, 1, 2], 3, 5)).toBe(0);
		expect(s.find([0, 1, 2], 3, 6)).toBe(-1);
		expect(keysOf(small)).toEqual([[0, ...wholeKey(112, 113, 117, 3, 5)]]);
	});

	it('all get keys beside smaller tetrahedra', () => {
		const mesh = new MeshBuilder();
		const v = new CubeVertices(tetrahedron(0, 1, 5, 17), mesh, NODES, 0, [], true);
		v.startLayer(0);
		v.findOnEdge(0, 0, 4, 2);
		v.addOnEdge(mesh.vertex(0, 0, 0.5), 0, 12, 0, 4, 2);
		expect(keysOf(mesh)).toEqual([[0, ...wholeKey(0, 12, -1, 2, 0)]]);
	});
});

describe('a builder of meshes', () => {
	it('grows past its first room and gives the room on to the next without leaving anything in it', () => {
		const first = new MeshBuilder();
		for (let i = 0; i < 40_000; i++) {
			const v = first.vertex(i, i + 1, 0.5 * i);
			first.key(v, i, 2 * i);
			first.facing(i % 2 === 1, v, v + 1, v + 2, i % 7, i % 5, i % 3);
		}
		const a = first.finish();
		expect([a.positions.length, a.triangles.length, a.keys.length]).toEqual([120_000, 120_000, 120_000]);
		expect([...a.positions.slice(-3)]).toEqual([39_999, 40_000, 19_999.5]);
		expect([...a.triangles.slice(-6)]).toEqual([39_998, 39_999, 40_000, 39_999, 40_001, 40_000]);
		const second = new MeshBuilder();
		second.triangle(second.vertex(1, 2, 3), 0, 0, 1, 2, 3);
		const b = second.finish();
		expect([[...b.positions], [...b.triangles], [...b.keys], [...b.front], [...b.back], [...b.surface]]).toEqual([
			[1, 2, 3],
			[0, 0, 0],
			[],
			[1],
			[2],
			[3]
		]);
		expect([...a.positions.slice(0, 3)]).toEqual([0, 1, 0]);
	});
});
