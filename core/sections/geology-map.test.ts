import { describe, expect, it } from 'vitest';
import { polygonsOf, ringArea } from './geology-map';

const square = (x: number, y: number, side: number, hole = false): Float64Array => {
	const corners = [
		[x, y],
		[x + side, y],
		[x + side, y + side],
		[x, y + side],
		[x, y]
	];
	return Float64Array.from((hole ? corners.reverse() : corners).flat());
};

describe('rings of a geological map', () => {
	it('have an area, positive anticlockwise, wherever they lie', () => {
		expect(ringArea(square(0, 0, 10))).toBe(100);
		expect(ringArea(square(0, 0, 10, true))).toBe(-100);
		expect(ringArea(square(4e5, 5e6, 10))).toBe(100);
	});

	it('become polygons: each hole in the smallest ring around it', () => {
		const island = square(40, 40, 10);
		const [outer, lake, far] = [square(0, 0, 100), square(30, 30, 40, true), square(500, 0, 50)];
		const polygons = polygonsOf([lake, outer, far, island]);
		expect(polygons).toHaveLength(3);
		const of = (ring: Float64Array) => polygons.find((p) => p[0] === ring)!;
		expect(of(outer)).toEqual([outer, lake]);
		expect(of(island)).toEqual([island]);
		expect(of(far)).toEqual([far]);
	});

	it('with lakes on islands in lakes keep each lake to its own land', () => {
		const [land, lake, island, pond] = [square(0, 0, 100), square(20, 20, 60, true), square(30, 30, 40), square(45, 45, 5, true)];
		const polygons = polygonsOf([pond, island, lake, land]);
		expect(polygons.map((p) => p.length)).toEqual([2, 2]);
		expect(polygons.find((p) => p[0] === land)![1]).toBe(lake);
		expect(polygons.find((p) => p[0] === island)![1]).toBe(pond);
		const area = polygons.flat().reduce((s, r) => s + ringArea(r), 0);
		expect(area).toBe(100 ** 2 - 60 ** 2 + 40 ** 2 - 5 ** 2);
	});

	it('with a hole that touches its ring in a corner keep it', () => {
		const [outer, hole] = [square(0, 0, 100), Float64Array.of(0, 50, 10, 60, 20, 50, 10, 40, 0, 50)];
		expect(ringArea(hole)).toBe(-200);
		expect(polygonsOf([outer, hole])).toEqual([[outer, hole]]);
	});

	it('are none for nothing', () => expect(polygonsOf([])).toEqual([]));
});
