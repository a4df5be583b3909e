import { describe, expect, it } from 'vitest';
import { seededRandom } from '../statistics/random';
import { scheme } from '../units/for-tests';
import { ageAt, ageCurve, datedBoundaries, depthsOfAges, timeIntervals } from './age-curve';
import { runs } from './for-tests';
import { normalBetween, orderedAges } from './ordered-ages';
import { timeStretches } from './time-chart';

describe('ages in order', () => {
	/** Mean and variance of x1 where x1 < x2, both normal: x1 + x2 parts of the difference are a half normal (closed form). */
	const pair = (m1: number, s1: number, m2: number, s2: number) => {
		const s = Math.hypot(s1, s2);
		const a = (m2 - m1) / s;
		const pdf = Math.exp((-a * a) / 2) / Math.sqrt(2 * Math.PI);
		const cdf = 0.5 * (1 + erf(a / Math.SQRT2));
		const h = pdf / cdf;
		// E[d | d > 0] of d = x2 - x1; x1 is regressed on d.
		const [md, vd] = [m2 - m1 + s * h, s * s * (1 - h * (h + a))];
		const beta = -(s1 * s1) / (s * s);
		return { mean: m1 + beta * (md - (m2 - m1)), sd: Math.sqrt(s1 * s1 - (s1 ** 4 / (s * s)) * 1 + beta * beta * vd) };
	};
	const erf = (x: number): number => {
		// By its series, exact enough for |x| < 3.
		let [sum, term] = [0, x];
		for (let n = 0; n < 80; n++) {
			sum += term / (2 * n + 1);
			term *= (-x * x) / (n + 1);
		}
		return (2 / Math.sqrt(Math.PI)) * sum;
	};

	it.each([
		[10, 1, 11, 1],
		[10, 2, 9, 1],
		[50, 3, 52, 0.5]
	])('of two normals %d ± %d and %d ± %d have the means and spreads of the closed form within 1 %%', (m1, s1, m2, s2) => {
		const { mean, sd } = orderedAges(
			[
				{ mean: m1, sd: s1 },
				{ mean: m2, sd: s2 }
			],
			60_000,
			3,
			4
		);
		const want = pair(m1, s1, m2, s2);
		expect(Math.abs(mean[0]! - want.mean)).toBeLessThan(0.01 * want.mean);
		expect(Math.abs(sd[0]! / want.sd - 1)).toBeLessThan(0.01);
	});

	it('of three normals have those of numeric integration within 1 %', () => {
		const beliefs = [
			{ mean: 10, sd: 1 },
			{ mean: 10.5, sd: 1.5 },
			{ mean: 10.2, sd: 0.8 }
		];
		// Sums over a lattice of the product of the three normals, where they are in order.
		const step = 0.02;
		const ages = Array.from({ length: 700 }, (_, i) => 4 + i * step);
		const p = beliefs.map((b) => ages.map((x) => Math.exp(-((x - b.mean) ** 2) / (2 * b.sd ** 2))));
		const below = (v: number[]) => v.reduce<number[]>((s, x) => [...s, (s.at(-1) ?? 0) + x], []);
		const [l0, l0x, l0xx] = [0, 1, 2].map((k) => below(p[0]!.map((v, i) => v * ages[i]! ** k))) as [number[], number[], number[]];
		const above = below([...p[2]!].reverse()).reverse();
		const sum = (f: (i: number) => number) => ages.reduce((s, _, i) => s + f(i), 0);
		const z = sum((i) => p[1]![i]! * l0[i]! * above[i]!);
		const first = sum((i) => p[1]![i]! * l0x[i]! * above[i]!) / z;
		const middle = sum((i) => p[1]![i]! * ages[i]! * l0[i]! * above[i]!) / z;
		const spread = Math.sqrt(sum((i) => p[1]![i]! * l0xx[i]! * above[i]!) / z - first ** 2);
		const drawn = orderedAges(beliefs, 60_000, 5, 4);
		expect(Math.abs(drawn.mean[0]! / first - 1)).toBeLessThan(0.01);
		expect(Math.abs(drawn.mean[1]! / middle - 1)).toBeLessThan(0.01);
		expect(Math.abs(drawn.sd[0]! / spread - 1)).toBeLessThan(0.01);
	});

	it('are in order in every draw, the same each time, and stay within limits', () => {
		const beliefs = [
			{ mean: 5, sd: Infinity, low: 0, high: 10 },
			{ mean: 30, sd: 1 },
			{ mean: 20, sd: 1 },
			{ mean: 25, sd: Infinity, low: 22, high: 40 }
		];
		const drawn = orderedAges(beliefs, 500, 9);
		for (const d of drawn.draws) for (let i = 1; i < d.length; i++) expect(d[i]!).toBeGreaterThanOrEqual(d[i - 1]!);
		expect(drawn.high[0]!).toBeLessThanOrEqual(10);
		expect(orderedAges(beliefs, 500, 9).median).toEqual(drawn.median);
	});

	it('are drawn from the far tails, too', () => {
		const random = seededRandom(4);
		for (const [low, high] of [
			[8, 9],
			[8, Infinity],
			[-Infinity, -8],
			[-0.1, 0.1],
			[30, 30.001]
		] as const) {
			const v = Array.from({ length: 200 }, () => normalBetween(0, 1, low, high, random));
			expect(v.every((x) => x >= low && x <= high)).toBe(true);
		}
		// The mean of a tail from 3 on is that of the closed form, pdf(3) / (1 - cdf(3)).
		const tail = Array.from({ length: 20_000 }, () => normalBetween(0, 1, 3, Infinity, random));
		expect(tail.reduce((a, b) => a + b) / tail.length).toBeCloseTo(3.2831, 1);
	});
});

describe('an age–depth curve', () => {
	const s = scheme();
	const log = runs(['Alder', 0, 40], ['Birch Top', 40, 60], ['Birch Foot', 60, 100], ['Cedar', 100, 130], ['Dogwood', 130, 200]);

	it('goes through boundaries, has a step at a hiatus, and gives ages and rates', () => {
		const dated = datedBoundaries(s, log);
		expect(dated.map((d) => [d.depth, d.side ?? '', Number(d.age.toFixed(1))])).toEqual([
			[40, '', 8],
			[60, '', 12],
			[100, 'above', 20],
			[100, 'below', 60],
			[130, '', 70]
		]);
		const curve = ageCurve('H1', dated);
		expect(ageAt(curve, 40)).toBeCloseTo(8, 0);
		expect(ageAt(curve, 50)).toBeCloseTo(10, 0);
		const [above, below] = [ageAt(curve, 100, 'above'), ageAt(curve, 100, 'below')];
		expect(above).toBeGreaterThan(12);
		expect(above).toBeLessThan(20.01);
		expect(below).toBeGreaterThan(59.9);
		expect(below).toBeLessThan(71);
		expect(ageAt(curve, 10)).toBeNaN();
		expect(curve.rates[0]!.rate).toBeCloseTo(5, 0);
		expect(curve.rates[2]).toBeNull();
		expect(curve.bundle.length).toBeGreaterThan(20);
		for (const b of curve.bundle) for (let i = 1; i < b.length; i++) expect(b[i]!).toBeGreaterThanOrEqual(b[i - 1]!);
	});

	it('is narrowed by samples and zones, and names ages that contradict the order', () => {
		const dated = datedBoundaries(s, log);
		const curve = ageCurve('H1', [
			...dated,
			{ depth: 80, age: 15, error: 0.1, from: 'sample', name: 'S1' },
			{ depth: 50, age: 45, error: 0.2, from: 'sample', name: 'wrong' },
			{ depth: 115, age: 65, error: Infinity, low: 63, high: 66, from: 'zone', name: 'Z' }
		]);
		expect(ageAt(curve, 80)).toBeCloseTo(15, 0);
		expect(curve.aside.map((k) => k.name)).toEqual(['wrong']);
		expect(ageAt(curve, 115)).toBeGreaterThan(62.9);
		expect(ageAt(curve, 115)).toBeLessThan(66.1);
	});

	it('is refused for one date, none, and says which', () => {
		expect(() => ageCurve('H1', [])).toThrow('nothing dates H1');
		expect(() => ageCurve('H1', [{ depth: 3, age: 1, error: 1, from: 'sample', name: '' }])).toThrow('dated at one depth only');
	});

	it('gives the time intervals that it runs through, across a hiatus, too', () => {
		const curve = ageCurve('H1', datedBoundaries(s, log));
		const spans = timeIntervals(s, 1, curve);
		expect(spans.map((r) => r.name).slice(0, 2)).toEqual(['Birch', 'Cedar']);
		expect(spans[0]!.from).toBeGreaterThanOrEqual(40);
		expect(spans[0]!.to).toBeCloseTo(100, 3);
		expect(depthsOfAges(curve, 30, 50)).toBeNull();
		expect(depthsOfAges(curve, 8.5, 11)![0]).toBeGreaterThan(40);
	});
});

describe('a hole by age', () => {
	const order = [
		{ name: 'Alder', contact: 'conformable' as const },
		{ name: 'Birch', contact: 'erosional' as const },
		{ name: 'Cedar', contact: 'conformable' as const },
		{ name: 'Dogwood', contact: 'conformable' as const }
	];
	it('has rock and gaps without overlap down to where it is asked for, and says why nothing is there', () => {
		const stretches = timeStretches(scheme(), order, runs(['Alder', 0, 40], ['Birch', 40, 100], ['Dogwood', 100, 200]), null, 90);
		expect(stretches.map((s) => [s.name, s.kind, s.top, s.base])).toEqual([
			['Alder', 'logged', 0, 8],
			['Birch', 'logged', 8, 20],
			['', 'removed', 20, 70],
			['Dogwood', 'logged', 70, 90]
		]);
		const flat = order.map((u) => ({ ...u, contact: 'conformable' as const }));
		expect(timeStretches(scheme(), flat, runs(['Birch', 0, 100], ['Dogwood', 100, 200]), null, 95).map((s) => s.kind)).toEqual([
			'removed',
			'logged',
			'not-deposited',
			'logged',
			'unknown'
		]);
		expect(timeStretches(scheme(), order, [], null, 90)).toEqual([{ name: '', top: 0, base: 90, kind: 'unknown', from: 0, to: 0 }]);
	});
});
