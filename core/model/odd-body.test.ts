import { describe, expect, it } from 'vitest';
import { CASES } from '../../bench/imperfect-cases';
import { random } from '../../bench/problems';
import { logsOf, seenIn } from '../../bench/sampled';
import { fitGround } from './fit-ground';
import { unitAt } from './walk';

const stock = CASES.find((c) => c.name === 'a wrong code, stock')!;
/** A stock among layers; in the holes that are chosen their second unit has its code. */
function ground(seed: number, wrong: (hole: { x: number; y: number; far: number }) => boolean, certain = false, most = 1) {
	const truth = stock.truth(random(seed));
	const holes = logsOf(truth);
	const inBody = holes.filter((h) => h.intervals.some((v) => v.code === 'n')).map((h) => h.path.collar);
	const chosen = holes
		.filter((h) => {
			const [x, y] = h.path.collar;
			const far = Math.min(...inBody.map(([a, b]) => Math.hypot(a - x, b - y)));
			return far > 0 && h.intervals.length > 3 && wrong({ x, y, far });
		})
		.slice(0, most);
	for (const h of chosen) h.intervals[1] = { ...h.intervals[1]!, code: 'n' };
	const names = chosen.map((h) => h.name);
	const { input } = seenIn(truth, holes);
	const fitted = fitGround({ ...input, certain: certain ? names : [] });
	const at = unitAt(fitted);
	const isBody = (h: (typeof holes)[number]) => {
		const [x, y, top] = h.path.collar;
		const { from, to } = h.intervals[1]!;
		return input.column[at(x, y, top - (from + to) / 2)]!.id === 'n';
	};
	return {
		names,
		named: fitted.findings.filter((f) => f.message.includes('none of the holes around')).map((f) => f.hole),
		body: chosen.map(isBody)
	};
}

describe('a body that one hole meets where none of those around it does', () => {
	it.each([1, 2, 3, 4])('is named with its hole and not there (%d)', (seed) => {
		const { names, named, body } = ground(seed, ({ far }) => far > 250);
		expect([named, body]).toEqual([names, [false]]);
	});
	it('is there where somebody believes it', () => {
		const { named, body } = ground(2, ({ far }) => far > 250, true);
		expect([named, body]).toEqual([[], [true]]);
	});
	it('is not odd beside the body, nor where it is right', () => {
		expect(ground(3, ({ far }) => far < 130).named).toEqual([]);
		for (const seed of [1, 2, 3, 4, 5, 6]) expect(ground(seed, () => false).named).toEqual([]);
	});
	it('is many bodies where many holes meet it so', () => {
		const { named, body } = ground(1, ({ far }) => far > 180, false, 20);
		expect([named, body.filter(Boolean).length > 10]).toEqual([[], true]);
	});
});
