import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { regression } from './regression';
import { histogramOf, lowerBound, quantileSorted, sortedValues, statisticsOf } from './spread';

describe('statistics of a window', () => {
	it('are those of the textbook', () => {
		const s = statisticsOf(sortedValues([2, 4, 4, 4, 5, 5, 7, 9]));
		expect(s).toMatchObject({ count: 8, mean: 5, median: 4.5, least: 2, greatest: 9 });
		// The squares of the differences sum up to 32.
		expect(s.deviation).toBeCloseTo(Math.sqrt(32 / 7), 12);
	});
	it('take both limits in, and say nothing of an empty window', () => {
		const sorted = sortedValues([1, 2, 2, 3, 10]);
		expect(statisticsOf(sorted, 2, 3)).toMatchObject({ count: 3, mean: 7 / 3, median: 2 });
		expect(statisticsOf(sorted, 4, 9).count).toBe(0);
		expect(statisticsOf(sorted, 4, 9).mean).toBeNaN();
		expect(statisticsOf(sorted, 9, 4).count).toBe(0);
		expect(statisticsOf([], 0, 1).count).toBe(0);
	});
	it('lose no digits with a large offset', () => {
		const s = statisticsOf(sortedValues([1e9 + 1, 1e9 + 2, 1e9 + 3]));
		expect(s.deviation).toBeCloseTo(1, 9);
	});
	it('agree with counting by hand for any values and window', () => {
		fc.assert(
			fc.property(
				fc.array(fc.double({ min: -1e3, max: 1e3, noNaN: true }), { maxLength: 40 }),
				fc.double({ min: -1e3, max: 1e3, noNaN: true }),
				fc.double({ min: 0, max: 500, noNaN: true }),
				(values, low, wide) => {
					const inside = values.filter((v) => v >= low && v <= low + wide);
					const s = statisticsOf(sortedValues(values), low, low + wide);
					expect(s.count).toBe(inside.length);
					if (inside.length) expect(s.mean).toBeCloseTo(inside.reduce((a, b) => a + b) / inside.length, 6);
				}
			)
		);
	});
});

describe('quantiles', () => {
	it('follow type 7 of Hyndman and Fan', () => {
		expect([0, 0.25, 0.5, 0.75, 1].map((q) => quantileSorted([1, 2, 3, 4], q))).toEqual([1, 1.75, 2.5, 3.25, 4]);
		expect(quantileSorted([], 0.5)).toBeNaN();
		expect(quantileSorted([7], 0.9)).toBe(7);
	});
	it('values that are none are left out, and the type of the array stays', () => {
		expect([...sortedValues(Float32Array.of(3, NaN, 1, Infinity, 2))]).toEqual([1, 2, 3]);
		expect(sortedValues(Float32Array.of(1))).toBeInstanceOf(Float32Array);
		expect(sortedValues([1])).toBeInstanceOf(Float64Array);
	});
	it('the lower bound is the number of smaller values', () => {
		fc.assert(
			fc.property(fc.array(fc.integer({ min: -20, max: 20 })), fc.integer({ min: -22, max: 22 }), (values, v) => {
				expect(lowerBound(sortedValues(values), v)).toBe(values.filter((x) => x < v).length);
			})
		);
	});
});

describe('histograms', () => {
	it('count every value once, whatever the values', () => {
		fc.assert(
			fc.property(
				fc.array(fc.double({ min: -1e6, max: 1e6, noNaN: true }), { minLength: 1, maxLength: 300 }),
				fc.integer({ min: 1, max: 40 }),
				fc.boolean(),
				(values, bins, trimmed) => {
					const h = histogramOf(sortedValues(values), bins, { trimmed });
					expect(h.counts.reduce((a, b) => a + b)).toBe(values.length);
					expect(h.limits).toHaveLength(h.counts.length + 1);
				}
			)
		);
	});
	it('on a logarithmic axis have bins of equal ratio and leave out what has no logarithm', () => {
		const h = histogramOf(sortedValues([-5, 0, 1, 10, 100, 1000]), 3, { log: true });
		expect(h.limits.map((l) => Math.round(l))).toEqual([1, 10, 100, 1000]);
		expect(h.counts).toEqual([1, 1, 2]);
	});
	it('are one bin where all values are equal, and empty without values', () => {
		expect(histogramOf([4, 4, 4], 10)).toEqual({ limits: [3.8, 4.2], counts: [3] });
		expect(histogramOf([0, 0], 10).limits).toEqual([-0.5, 0.5]);
		expect(histogramOf([], 10).counts).toEqual([0]);
	});
	it('one wild value does not flatten the rest', () => {
		const values = [...Array.from({ length: 999 }, (_, i) => i / 100), 1e9];
		const h = histogramOf(sortedValues(values), 20, { trimmed: true });
		expect(h.limits[20]).toBeLessThan(11);
		expect(h.counts.filter((n) => n > 0)).toHaveLength(20);
	});
});

describe('regression', () => {
	it('finds a line, and its correlation', () => {
		const x = [1, 2, 3, 4, NaN];
		expect(
			regression(
				x,
				x.map((v) => 3 - 2 * v)
			)
		).toMatchObject({ slope: -2, intercept: 3, correlation: -1, count: 4 });
		// Anscombe's first set (1973): 3.00 + 0.500 x, correlation 0.816.
		const a = regression([10, 8, 13, 9, 11, 14, 6, 4, 12, 7, 5], [8.04, 6.95, 7.58, 8.81, 8.33, 9.96, 7.24, 4.26, 10.84, 4.82, 5.68])!;
		expect(a.intercept).toBeCloseTo(3.0, 2);
		expect(a.slope).toBeCloseTo(0.5, 3);
		expect(a.correlation).toBeCloseTo(0.816, 3);
	});
	it('is none for one point, or when all x are alike', () => {
		expect(regression([1], [1])).toBeNull();
		expect(regression([2, 2, 2], [1, 2, 3])).toBeNull();
	});
});

describe('a trimmed histogram', () => {
	const values = Float64Array.from({ length: 1001 }, (_, i) => (i === 1000 ? 1e6 : i));
	it('ends at the percentiles 0.5 and 99.5, and counts what lies beyond in its last bins', () => {
		const h = histogramOf(values, 10, { trimmed: true });
		expect(h.limits[0]).toBeCloseTo(5, 9);
		expect(h.limits.at(-1)).toBeCloseTo(995, 9);
		expect(h.counts.reduce((s, c) => s + c, 0)).toBe(1001);
		expect(h.counts.at(-1)).toBe(105);
	});
	it('of few values is not trimmed', () => expect(histogramOf(values.slice(801), 4, { trimmed: true }).limits.at(-1)).toBe(1e6));
});
