import { describe, expect, it } from 'vitest';
import { bendsBetween, gridIndex, shapesOf } from './shapes';

const square = (x: number, y: number, side: number) => Float64Array.from([x, y, x + side, y, x + side, y + side, x, y + side]);

describe('rings filled even-odd', () => {
	it('make a shape for each ring of its own, with the rings inside as holes', () => {
		const shapes = shapesOf([square(4, 4, 2), square(0, 0, 10), square(20, 0, 3)]);
		expect(shapes.map((s) => s.holes.length)).toEqual([1, 0]);
	});
	it('put what lies in a hole back as a shape', () => {
		const shapes = shapesOf([square(0, 0, 10), square(2, 2, 6), square(4, 4, 2)]);
		expect(shapes.map((s) => s.holes.length)).toEqual([1, 0]);
	});
	it('leave out rings without area', () =>
		expect(shapesOf([Float64Array.from([0, 0, 1, 1]), Float64Array.from([0, 0, 1, 1, 2, 2])])).toEqual([]));
});

describe('grids and traces', () => {
	it('a cell that touches a node without value has no triangles', () => {
		expect(gridIndex(3, 2, () => false)).toHaveLength(12);
		expect(gridIndex(3, 2, (k) => k === 0)).toEqual([1, 2, 5, 1, 5, 4]);
		expect(gridIndex(1, 1, () => false)).toEqual([]);
	});
	it('a trace bends at its inner vertices, as far as they are asked for', () => {
		const trace = [
			[0, 0],
			[10, 0],
			[10, 5],
			[0, 5]
		] as const;
		expect(bendsBetween(trace, 0, 25)).toEqual([10, 15]);
		expect(bendsBetween(trace, 10, 25)).toEqual([15]);
		expect(
			bendsBetween(
				[
					[0, 0],
					[9, 0]
				],
				0,
				9
			)
		).toEqual([]);
	});
});
