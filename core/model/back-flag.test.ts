import { describe, expect, it } from 'vitest';
import { p10 } from '../../bench/grounds';
import { random } from '../../bench/problems';
import { sampled } from '../../bench/sampled';
import type { Hole } from '../holes/holes';
import { holePath } from '../holes/path';
import { AIR } from '../mesh/cut-lattice';
import { agreementOf } from '../project/report';
import { backFlag, flagStep } from './back-flag';
import { unitsAt } from './classify';
import { fitGround } from './fit-ground';
import { faultOffsets } from './offsets';
import { unitAt } from './walk';

const truth = p10();
const input = sampled(truth);
const ground = fitGround(input);
const lumping = Object.fromEntries(input.column.map((u) => [u.id, u.id]));

/** A hole straight down, logged as the ground is, with one interval changed. */
function hole(name: string, x: number, y: number, wrong?: { from: number; to: number; code: string }): Hole {
	const path = holePath([x, y, 0], 900, []);
	const intervals: Hole['intervals'] = [];
	for (let d = 0; d < 900; d += 1) {
		const code = wrong && d >= wrong.from && d < wrong.to ? wrong.code : input.column[truth.unitAt(x, y, -d - 0.5)]!.id;
		const last = intervals[intervals.length - 1];
		if (last?.code === code) last.to = d + 1;
		else intervals.push({ from: d, to: d + 1, code, table: 'log', row: intervals.length });
	}
	return { name, row: 0, path, intervals };
}

describe('many places', () => {
	it('are in the same units as one by one', async () => {
		const r = random(6);
		const xyz = Float64Array.from({ length: 3 * 3000 }, (_, i) => (i % 3 === 2 ? -1000 * r() : 2000 * r()));
		const one = unitAt(ground);
		const many = await unitsAt(ground, xyz);
		expect(Array.from(many)).toEqual(Array.from({ length: 3000 }, (_, i) => one(xyz[3 * i]!, xyz[3 * i + 1]!, xyz[3 * i + 2]!)));
	});
	it('above the terrain are in the air', async () => {
		const flat = { x0: 0, y0: 0, dx: 2000, dy: 2000, nx: 2, ny: 2, values: Float32Array.of(-50, -50, -50, -50) };
		const below = { ...ground, input: { ...input, terrain: flat } };
		expect(Array.from(await unitsAt(below, Float64Array.of(1000, 1000, -49, 1000, 1000, -51)))).toEqual([
			AIR,
			unitAt(below)(1000, 1000, -51)
		]);
	});
	it('of no number are no places', async () => expect(await unitsAt(ground, new Float64Array(0))).toHaveLength(0));
	it('can be stopped', async () => {
		const stop = new AbortController();
		stop.abort();
		await expect(unitsAt(ground, Float64Array.of(1, 1, -1), undefined, stop.signal)).rejects.toThrow();
	});
});

describe('holes flagged back', () => {
	it('agree with the logs that the model was made from', async () => {
		const flag = await backFlag(ground, [hole('A', 325, 475), hole('B', 1525, 1375)], lumping, flagStep(50));
		expect(flag.compared).toBeCloseTo(1800, 6);
		expect(flag.agreed / flag.compared).toBeGreaterThan(0.98);
		expect(Array.from(flag.lengths).reduce((a, b) => a + b, 0)).toBeCloseTo(1800, 6);
	});
	it('show an interval that was logged wrongly, with its depths, the longest first', async () => {
		const flag = await backFlag(ground, [hole('A', 325, 475, { from: 40, to: 140, code: 'u3' })], lumping, 0.5);
		const [first] = flag.mismatches;
		expect(first).toMatchObject({ hole: 'A', logged: 4 });
		expect(first!.to - first!.from).toBeGreaterThan(60);
		expect(first!.from).toBeGreaterThanOrEqual(40);
		expect(first!.to).toBeLessThanOrEqual(140);
		for (let i = 1; i < flag.mismatches.length; i++)
			expect(flag.mismatches[i]!.to - flag.mismatches[i]!.from).toBeLessThanOrEqual(
				flag.mismatches[i - 1]!.to - flag.mismatches[i - 1]!.from + 1e-9
			);
		const report = agreementOf(flag, input.column)!;
		const slate = report.units.find((u) => u.unit === 'u3')!;
		expect(slate.agreed).toBeLessThan(slate.logged);
		expect(slate.modelled.reduce((s, m) => s + m.length, 0)).toBeCloseTo(slate.logged, 6);
		expect(report.mismatches[0]).toMatchObject({ logged: 'u3' });
	});
	it('outside of the extent are compared with nothing, and codes without a unit neither', async () => {
		const outside = await backFlag(ground, [hole('far', 2500, 475)], lumping, 5);
		expect(outside.compared).toBe(0);
		expect(outside.lengths[input.column.length]! + outside.lengths[2 * (input.column.length + 1) - 1]!).toBeGreaterThan(0);
		expect(agreementOf(outside, input.column)!.share).toBe(0);
		// A code that is the id of a unit is that unit, unless it is said to be none.
		const none = await backFlag(ground, [hole('A', 325, 475)], Object.fromEntries(input.column.map((u) => [u.id, ''])), 5);
		expect([none.compared, agreementOf(none, input.column)]).toEqual([0, null]);
	});
});

describe('offsets along faults', () => {
	it('are those of the ground: 90 m on one fault, 60 m on the one that ends on it', () => {
		const mean = (list: number[]) => list.reduce((a, b) => a + b, 0) / list.length;
		const main = faultOffsets(ground, 0).filter((o) => o.along > 200 && o.along < 800);
		expect(main.length).toBeGreaterThan(10);
		expect(Math.abs(mean(main.map((o) => o.throw)))).toBeGreaterThan(60);
		const branch = faultOffsets(ground, 1);
		expect(branch.length).toBeGreaterThan(10);
		for (const o of branch) expect(o.separation).toBeGreaterThanOrEqual(Math.abs(o.throw) - 1e-6);
		expect(Math.abs(mean(branch.map((o) => o.throw)) - 60)).toBeLessThan(25);
	});
});

describe('very many places', () => {
	it('are in the same units as a few at a time, where most are told from a coarse grid', async () => {
		const r = random(31);
		const n = 60_000;
		const xyz = Float64Array.from({ length: 3 * n }, (_, i) => (i % 3 === 2 ? -1000 * r() : 2000 * r()));
		const many = await unitsAt(ground, xyz);
		for (let from = 0; from < n; from += 10_000)
			expect(await unitsAt(ground, xyz.slice(3 * from, 3 * (from + 10_000)))).toEqual(many.slice(from, from + 10_000));
	});
});
