import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { hydrographs, levelAt } from './levels';

const RULE = { threshold: 6, least: 0.5 };
const months = Array.from({ length: 24 }, (_, i) => 30 * i);
const season = months.map((d) => 8 + Math.sin((2 * Math.PI * d) / 365));

describe('hydrographs', () => {
	it('are sorted by day and well, without what is no reading', () => {
		const [a, b] = hydrographs(['A', 'B', 'A', 'A', 'A'], [5, 1, 2, NaN, 3], [50, 10, 20, 30, NaN], RULE);
		expect(a).toMatchObject({ well: 'A', rows: [2, 0] });
		expect([...a!.days]).toEqual([2, 5]);
		expect(b!.rows).toEqual([1]);
	});
	it('a slip of ten metres or of the decimal point stands out, the season and a step do not', () => {
		const slip = season.slice();
		slip[7] = season[7]! * 10;
		slip[18] = season[18]! + 10;
		const [h] = hydrographs(
			slip.map(() => 'W'),
			months,
			slip,
			RULE
		);
		expect([...h!.outlier].flatMap((o, k) => (o ? [k] : []))).toEqual([7, 18]);
		expect(
			hydrographs(
				season.map(() => 'W'),
				months,
				season,
				RULE
			)[0]!.outlier.some(Boolean)
		).toBe(false);
		const step = season.map((v, k) => (k < 12 ? v : v + 2));
		expect(
			hydrographs(
				step.map(() => 'W'),
				months,
				step,
				RULE
			)[0]!.outlier.reduce((a, b) => a + b, 0)
		).toBeLessThanOrEqual(2);
	});
	it('one slip does not make those beside it stand out, near an end either', () => {
		for (const at of [0, 1, 4, 5]) {
			const short = [5, 5.1, 5.2, 5.3, 5.2, 5.1].map((v, k) => (k === at ? v + 40 : v));
			const [h] = hydrographs(
				short.map(() => 'W'),
				short.map((_, k) => 30 * k),
				short,
				RULE
			);
			expect([...h!.outlier].flatMap((o, k) => (o ? [k] : []))).toEqual([at]);
		}
	});
	it('of few or equal readings have none that stands out', () =>
		fc.assert(
			fc.property(
				fc.array(fc.constant(3), { maxLength: 10 }),
				fc.array(fc.double({ min: 0, max: 100, noNaN: true }), { maxLength: 3 }),
				(same, few) => {
					for (const list of [same, few])
						for (const h of hydrographs(
							list.map(() => 'W'),
							list.map((_, i) => i),
							list,
							RULE
						))
							expect(h.outlier.some(Boolean)).toBe(false);
				}
			)
		));
});

describe('the level at a time', () => {
	const [h] = hydrographs(['W', 'W', 'W', 'W'], [10, 20, 40, 41.5], [1, 2, 4, 100], { threshold: 1e9, least: 1e9 });
	it('of a day lies between readings in reach, or is the one in reach, or none', () => {
		expect(levelAt(h!, { when: 'day', day: 15, reach: 30 }, true)).toEqual({ value: 1.5, count: 2, day: 15 });
		expect(levelAt(h!, { when: 'day', day: 30, reach: 30 }, true).value).toBe(3);
		expect(levelAt(h!, { when: 'day', day: 22, reach: 5 }, true)).toEqual({ value: 2, count: 1, day: 20 });
		expect(levelAt(h!, { when: 'day', day: 30, reach: 5 }, true).value).toBeNaN();
		expect(levelAt(h!, { when: 'day', day: 41, reach: 0 }, true)).toMatchObject({ value: 100, count: 1 });
	});
	it('of a period takes its last day in, of all is the mean, and the last is the last', () => {
		expect(levelAt(h!, { when: 'period', from: 10, to: 40 }, true)).toMatchObject({ value: 7 / 3, count: 3 });
		expect(levelAt(h!, { when: 'period', from: 50, to: 60 }, true)).toMatchObject({ value: NaN, count: 0 });
		expect(levelAt(h!, { when: 'all' }, true).value).toBeCloseTo(107 / 4, 9);
		expect(levelAt(h!, { when: 'last' }, true).value).toBe(100);
	});
	it('leaves out what stands out, if that is wanted', () => {
		const out = { ...h!, outlier: Uint8Array.of(0, 0, 0, 1) };
		expect(levelAt(out, { when: 'last' }, false).value).toBe(4);
		expect(levelAt(out, { when: 'all' }, false).count).toBe(3);
	});
});
