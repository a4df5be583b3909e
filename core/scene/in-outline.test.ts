import { describe, expect, it } from 'vitest';
import { isInOutline, withinOutline, type Pixel } from './in-outline';

const SQUARE: Pixel[] = [
	[10, 10],
	[110, 10],
	[110, 110],
	[10, 110]
];

describe('an outline on a picture', () => {
	it('holds what lies within, whichever way it was drawn, and not what lies in its bays', () => {
		for (const outline of [SQUARE, [...SQUARE].reverse()]) {
			expect(isInOutline([60, 60], outline)).toBe(true);
			for (const out of [
				[5, 60],
				[115, 60],
				[60, 5],
				[60, 115]
			] as Pixel[])
				expect(isInOutline(out, outline)).toBe(false);
		}
		// A bay from the right to the middle.
		const bay: Pixel[] = [
			[10, 10],
			[110, 10],
			[50, 60],
			[110, 110],
			[10, 110]
		];
		expect([isInOutline([30, 60], bay), isInOutline([90, 60], bay)]).toEqual([true, false]);
	});

	it('has as large a share of places as its area is of the picture', () => {
		const inside = withinOutline(SQUARE, 40_000, (i) => [(i % 200) + 0.5, Math.floor(i / 200) + 0.5]);
		expect(inside).toHaveLength(100 * 100);
	});

	it('holds nothing when it is a line, nor what is not seen', () => {
		expect(withinOutline(SQUARE.slice(0, 2), 5, () => [60, 10])).toEqual([]);
		expect(withinOutline([], 5, () => [0, 0])).toEqual([]);
		expect(withinOutline(SQUARE, 3, (i) => (i === 1 ? null : [60, 60]))).toEqual([0, 2]);
	});
});
