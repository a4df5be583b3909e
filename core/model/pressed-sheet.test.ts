import { describe, expect, it } from 'vitest';
import { run } from '../../bench/imperfect';
import type { Case } from '../../bench/imperfect-cases';
import { BOX, fans, plane, stack } from '../../bench/imperfect-grounds';
import { random } from '../../bench/problems';
import { logsOf, seenIn, type Truth } from '../../bench/sampled';
import { fitGround } from './fit-ground';

/** A dyke of 24 m that eight or so of the holes meet. */
const from = plane(75, 310, 650, 500, -150);
const truth: Case['truth'] = (r): Truth => ({
	box: BOX,
	column: [['d', 'intrusive'], ...stack('ab')],
	unitAt: (x, y, z) => (Math.abs(from(x, y, z)) < 12 ? 0 : z > -200 ? 1 : 2),
	holes: fans(r, 8, 220)
});
/** The first 8 m of a hole that starts beside the dyke have its code. */
const besideIt: Case['damage'] = (holes) => {
	const hole = holes.find((h) => {
		const off = Math.abs(from(...h.path.collar));
		return off > 18 && off < 36 && h.intervals[0]!.code === 'a' && h.intervals[0]!.to > 20;
	})!;
	const first = hole.intervals[0]!;
	hole.intervals.splice(0, 1, { ...first, to: 8, code: 'd' }, { ...first, from: 8, row: first.row + 500 });
	return [hole.name];
};

describe('a sheet of few holes, with its code beside it in one', () => {
	it.each([1, 2, 3, 4, 5, 6])('is as thick as it is, and no other hole is named (%d)', async (seed) => {
		const o = await run({ name: 'beside', truth, damage: besideIt, aim: {} }, seed);
		expect(o.crash).toBeUndefined();
		expect([o.share > 0.99, o.overlap > 0.8, o.volume < 0.1, o.accused]).toEqual([true, true, true, 0]);
	});
	it('is where the hole says, once that is believed', () => {
		const r = random(1);
		const t = truth(r);
		const holes = logsOf(t);
		const [name] = besideIt(holes, t, r);
		const { input } = seenIn(t, holes);
		const kinds = fitGround({ ...input, certain: [name!] })
			.findings.filter((f) => f.hole === name)
			.map((f) => f.kind);
		expect(kinds).not.toContain('against-neighbours');
	});
});
