import { describe, expect, it } from 'vitest';
import { partsOf, type TriangleMesh } from './extract';
import { proposeSpacing } from './lattice';

/** Tetrahedra with a right corner at a place, edges of a length; turned inside out when the length is negative. */
function tetrahedra(list: readonly [number, number][]): TriangleMesh {
	const positions: number[] = [];
	const triangles: number[] = [];
	list.forEach(([at, edge], k) => {
		const e = Math.abs(edge);
		positions.push(at, 0, 0, at + e, 0, 0, at, e, 0, at, 0, e);
		const faces = [
			[0, 2, 1],
			[0, 1, 3],
			[0, 3, 2],
			[1, 2, 3]
		];
		for (const f of faces) triangles.push(...(edge > 0 ? f : [...f].reverse()).map((v) => v + 4 * k));
	});
	return { positions: Float64Array.from(positions), triangles: Uint32Array.from(triangles) };
}

describe('connected parts of a solid', () => {
	it('have their own volumes, the greatest first', () => {
		const parts = partsOf(
			tetrahedra([
				[0, 3],
				[100, 6],
				[200, 1]
			])
		);
		expect(parts).toHaveLength(3);
		[36, 4.5, 1 / 6].forEach((v, i) => expect(parts[i]).toBeCloseTo(v, 9));
	});
	it('that have a cavity lose it', () => {
		const [one, ...others] = partsOf(
			tetrahedra([
				[0, 6],
				[1, -3]
			])
		);
		expect(others).toEqual([]);
		expect(one).toBeCloseTo(36 - 4.5, 9);
	});
	it('of nothing are none', () => expect(partsOf({ positions: new Float64Array(0), triangles: new Uint32Array(0) })).toEqual([]));
});

describe('a proposed spacing', () => {
	const box = { minX: 0, minY: 0, minZ: -200, maxX: 2000, maxY: 2000, maxZ: 0 };
	const grid = (step: number) => Array.from({ length: 100 }, (_, i) => [100 + step * (i % 10), 100 + step * Math.floor(i / 10)] as const);
	it('is an eighth of the distance between neighbours', () => {
		expect(proposeSpacing(box, grid(160))).toBe(20);
		// Holes from one place, and holes outside of the box, say nothing.
		expect(proposeSpacing(box, [...grid(160), ...grid(160), [9000, 9000], [9001, 9000]])).toBe(20);
	});
	it('makes no more than two million cells, however dense the data are', () => {
		const s = proposeSpacing(box, grid(2));
		expect((2000 * 2000 * 200) / s ** 3).toBeLessThanOrEqual(2_000_000);
	});
	it('comes from the box alone without data, and is never nothing', () => {
		for (const places of [
			[],
			[[5, 5]],
			[
				[5, 5],
				[5, 5]
			]
		] as [number, number][][])
			expect(proposeSpacing(box, places)).toBeGreaterThan(5);
	});
});
