import { describe, expect, it } from 'vitest';
import { CASES } from '../../bench/imperfect-cases';
import { random } from '../../bench/problems';
import { logsOf, seenIn } from '../../bench/sampled';
import type { Hole } from '../holes/holes';
import { fitGround } from './fit-ground';
import { passingAlone } from './odd-intercepts';
import { unitAt } from './walk';

const of = (name: string) => CASES.find((c) => c.name === name)!;
type Change = (hole: Hole, code: string) => void;

/** A ground whose logs are changed in one hole, with the share of its places that are right and the volume of a unit, as a share of what it is. */
function changed(name: string, seed: number, unit: string, hole: string | null, change: Change, certain: string[] = []) {
	const c = of(name);
	const t = c.truth(random(seed));
	const holes = logsOf(t);
	if (hole)
		change(
			holes.find((h) => h.name === hole)!,
			unit
		);
	const { input } = seenIn(t, holes, { ...c.input?.(t, random(seed)), ...(certain.length ? { certain } : {}) });
	const ground = fitGround(input);
	const at = unitAt(ground);
	const r = random(9);
	let [truth, found, right] = [0, 0, 0];
	const all = 6000;
	const [low, high] = c.drilled ?? [t.box.minZ, t.box.maxZ];
	for (let i = 0; i < all; i++) {
		const p = [1000 * r(), 1000 * r(), low + (high - low) * r()] as const;
		const [is, was] = [input.column[at(...p)]?.id, t.column[t.unitAt(...p)]![0]];
		if (was === unit) truth++;
		if (is === unit) found++;
		if (is === was) right++;
	}
	const said = ground.findings.filter((f) => f.hole === hole).map((f) => f.kind);
	return { share: right / all, volume: found / truth, said, accused: new Set(ground.findings.flatMap((f) => f.hole ?? [])).size };
}
const longest = (h: Hole) => h.intervals.reduce((a, b) => (b.to - b.from > a.to - a.from ? b : a));
const recode = (h: Hole, which: { from: number }, code: string) =>
	(h.intervals = h.intervals.map((v) => (v.from === which.from ? { ...v, code } : v)));
/** Another rock gets the code of the sheet. */
const takesMore: Change = (h, code) => recode(h, longest(h), code);
/** The sheet gets the code of the rock beside it. */
const takesNone: Change = (h, code) =>
	recode(
		h,
		h.intervals.find((v) => v.code === code)!,
		h.intervals[0]!.code
	);

describe('a sheet in one hole of which the code is wrong', () => {
	it.each([
		['vein ±20 %', 'v', 'H21'],
		['vein ±60 %', 'v', 'H12'],
		['a thick dyke', 'd', 'H40'],
		['dykes and a sill', 's', 'H30']
	])('is what it was, and the hole is named: another rock of %s', (name, unit, hole) => {
		const clean = changed(name, 4, unit, null, takesMore);
		const wrong = changed(name, 4, unit, hole, takesMore);
		expect(wrong.said).toContain('against-neighbours');
		expect(wrong.accused).toBe(1);
		expect(wrong.volume / clean.volume).toBeGreaterThan(0.93);
		expect(wrong.volume / clean.volume).toBeLessThan(1.07);
		expect(wrong.share).toBeGreaterThan(clean.share - 0.005);
	});
	it('is believed when somebody says so', () => {
		const sure = changed('vein ±20 %', 4, 'v', 'H21', takesMore, ['H21']);
		expect(sure.said).not.toContain('against-neighbours');
	});
	it.each([
		['vein ±20 %', 'v', 'H19'],
		['vein ±20 %', 'v', 'H38'],
		['vein ±60 %', 'v', 'H28']
	])('thins out towards a hole that passes it, and runs off nowhere: %s', (name, unit, hole) => {
		const clean = changed(name, 4, unit, null, takesNone);
		const missed = changed(name, 4, unit, hole, takesNone);
		expect(missed.said).toContain('passes-alone');
		expect(missed.accused).toBe(1);
		expect(missed.volume / clean.volume).toBeGreaterThan(0.9);
		expect(missed.volume / clean.volume).toBeLessThan(1.04);
		expect(changed(name, 4, unit, hole, takesNone, [hole]).said).toEqual(['believed']);
	});
	it('and is clean accuses nobody', () => {
		for (const name of ['vein ±20 %', 'vein, an ellipse', 'a thick dyke', 'a dyke drilled along its dip', 'three dykes, one code'])
			expect([name, changed(name, 2, 'x', null, takesMore).accused]).toEqual([name, 0]);
	});
});

describe('a hole that passes a sheet', () => {
	const place = (x: number, y: number, hole: string) => ({ x, y, z: 0, hole, unit: 1, depth: 0, table: 't', block: 0 });
	const ring = Array.from({ length: 16 }, (_, i) => {
		const [r, a] = [i < 8 ? 100 : 200, (i * Math.PI) / 4];
		return { x: r * Math.cos(a), y: r * Math.sin(a), z: 0 };
	});
	it('is alone when those around it meet it on all sides', () => {
		const alone = [place(5, 3, 'A')];
		expect(passingAlone(alone, ring, [0, 0, 1])).toEqual(alone);
		expect(passingAlone(alone, ring, [0.1, 0, 0.99])).toEqual(alone);
	});
	it('is not at the rim, beside another one that passes, or with few around it', () => {
		expect(passingAlone([place(330, 0, 'A')], ring, [0, 0, 1])).toEqual([]);
		expect(passingAlone([place(5, 3, 'A'), place(20, 10, 'B')], ring, [0, 0, 1])).toEqual([]);
		expect(passingAlone([place(5, 3, 'A')], ring.slice(0, 9), [0, 0, 1])).toEqual([]);
	});
});
