import { describe, expect, it } from 'vitest';
import { seededRandom } from '../statistics/random';
import { outlying } from '../geometry/outlying';
import { proposeSection } from './propose-section';
import { traceLength } from './section';

const box = { minX: 0, minY: 0, minZ: -100, maxX: 1000, maxY: 600, maxZ: 0 };

describe('a first section', () => {
	it('runs through a row of holes, and says how many', () => {
		const row = Array.from({ length: 9 }, (_, i) => [100 + 100 * i, 300] as [number, number]);
		const s = proposeSection([...row, [500, 50]], box, null)!;
		expect(s.holes).toBe(9);
		expect(traceLength(s.trace)).toBeGreaterThan(990);
		for (const [, y] of s.trace) expect(Math.abs(y - 300)).toBeLessThan(60);
	});
	it('of an even net runs across the strike', () => {
		const net = Array.from({ length: 100 }, (_, i) => [55 + 90 * (i % 10), 55 + 54 * Math.floor(i / 10)] as [number, number]);
		const along = (trend: number) => {
			const [[x0, y0], [x1, y1]] = proposeSection(net, box, trend)!.trace;
			return Math.abs(x1 - x0) > Math.abs(y1 - y0) ? 'east' : 'north';
		};
		expect(along(0)).toBe('east');
		expect(along(90)).toBe('north');
	});
	it('lies within the extent and holds what it says, for any holes', () => {
		for (let seed = 1; seed <= 30; seed++) {
			const { uniform } = seededRandom(seed);
			const holes = Array.from({ length: 2 + Math.floor(40 * uniform()) }, () => [1000 * uniform(), 600 * uniform()] as [number, number]);
			const s = proposeSection(holes, box, null)!;
			const [[x0, y0], [x1, y1]] = s.trace;
			for (const [x, y] of s.trace) expect(x >= -0.1 && x <= 1000.1 && y >= -0.1 && y <= 600.1).toBe(true);
			const length = Math.hypot(x1 - x0, y1 - y0);
			const met = holes.filter(
				([x, y]) => Math.abs((x - x0) * (y1 - y0) - (y - y0) * (x1 - x0)) / length <= s.corridor / 2 + 0.03 * s.corridor + 0.1
			);
			expect(met.length).toBeGreaterThanOrEqual(s.holes);
		}
	});
	it('is none without two places', () => {
		expect(proposeSection([], box, null)).toBeNull();
		expect(proposeSection([[5, 5]], box, null)).toBeNull();
		expect(proposeSection([[5000, 5], [6000, 5]], box, null)).toBeNull(); // prettier-ignore
		expect(proposeSection([[5, 5], [6, 5]], { ...box, maxX: 0 }, null)).toBeNull(); // prettier-ignore
	});
});

describe('places far from all others', () => {
	const near = Array.from({ length: 20 }, (_, i) => [100 * i, 40 * (i % 3)] as [number, number]);
	it('are found one by one, and none among those that belong together', () => {
		expect(outlying(near).some(Boolean)).toBe(false);
		expect(outlying([...near, [40, 4_990_000], [500, 500]])).toEqual([...near.map(() => false), true, false]);
	});
	it('are not called so among few, nor where all lie at one place', () => {
		expect(outlying([[0, 0], [1e6, 0]])).toEqual([false, false]); // prettier-ignore
		expect(outlying(Array.from({ length: 12 }, () => [5, 5] as const)).some(Boolean)).toBe(false);
	});
});
