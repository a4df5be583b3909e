import { describe, expect, it } from 'vitest';
import type { Hole } from '../holes/holes';
import { CASES } from '../../bench/imperfect-cases';
import { overhang } from '../../bench/imperfect-grounds';
import { random } from '../../bench/problems';
import { logsOf, seenIn, type Truth } from '../../bench/sampled';
import { fitGround } from './fit-ground';
import { AGAINST_NEIGHBOURS } from './ground';
import { unitAt } from './walk';

const stock = CASES.find((c) => c.name === 'a wrong code, stock')!;
const isIn = (h: Hole) => h.intervals.some((v) => v.code === 'n');
const apart = (a: Hole, b: Hole) => Math.hypot(a.path.collar[0] - b.path.collar[0], a.path.collar[1] - b.path.collar[1]);
/** The hole in the body that has most of it around. */
const inMiddle = (holes: readonly Hole[]) => {
	const all = holes.filter(isIn);
	const far = (h: Hole) => all.reduce((sum, o) => sum + apart(h, o), 0);
	return all.sort((a, b) => far(a) - far(b))[0]!;
};
/** Holes beside the body, the nearest first. */
const beside = (holes: readonly Hole[]) => {
	const all = holes.filter(isIn);
	const far = (h: Hole) => Math.min(...all.map((o) => apart(h, o)));
	return holes.filter((h) => !isIn(h) && h.intervals.length > 3).sort((a, b) => far(a) - far(b));
};

/** A ground whose logs are changed; what is said of holes, and the unit in the middle of a row. */
function ground(truth: Truth, change: (holes: Hole[]) => string[], certain = false) {
	const holes = logsOf(truth);
	const wrong = change(holes);
	const { input } = seenIn(truth, holes);
	const fitted = fitGround({ ...input, certain: certain ? wrong : [] });
	const at = unitAt(fitted);
	return {
		wrong,
		named: [...new Set(fitted.findings.flatMap((f) => (f.kind === AGAINST_NEIGHBOURS && f.hole ? [f.hole] : [])))],
		unitIn: (name: string, k: number) => {
			const h = holes.find((h) => h.name === name)!;
			const [x, y, top] = h.path.collar;
			const { from, to } = h.intervals[k]!;
			return input.column[at(x, y, top - (from + to) / 2)]!.id;
		}
	};
}
/** A hole in the midst of the body was logged as if it were not there. */
const deny = (truth: Truth) => (holes: Hole[]) => {
	const h = inMiddle(holes);
	const without = (x: number, y: number, z: number) =>
		truth.unitAt(x, y, z) > 0 ? truth.unitAt(x, y, z) : z > -90 ? 1 : z > -170 ? 2 : z > -260 ? 3 : 4;
	h.intervals = logsOf({ ...truth, unitAt: without }).find((o) => o.name === h.name)!.intervals;
	return [h.name];
};
/** Some of the holes beside it, far from it and from each other, show it in their third row. */
const meet = (count: number) => (holes: Hole[]) => {
	const chosen: Hole[] = [];
	for (const h of beside(holes))
		if (chosen.length < count && [...holes.filter(isIn), ...chosen].every((o) => apart(h, o) > 240)) chosen.push(h);
	for (const h of chosen) h.intervals[2] = { ...h.intervals[2]!, code: 'n' };
	return chosen.map((h) => h.name);
};

describe('a body that a pipe parts from what is beside it', () => {
	it.each([1, 2, 3, 4, 5])('is there where one hole does not show it and all around do, and that hole is named (%d)', (seed) => {
		const truth = stock.truth(random(seed));
		const { wrong, named, unitIn } = ground(truth, deny(truth));
		expect(named).toEqual(wrong);
		expect(unitIn(wrong[0]!, 2)).toBe('n');
	});
	it('is not there where somebody believes that hole', () => {
		const truth = stock.truth(random(2));
		const { wrong, unitIn } = ground(truth, deny(truth), true);
		expect(unitIn(wrong[0]!, 2)).not.toBe('n');
	});
	it.each([1, 2, 3, 4, 5])('is not there in holes that alone show it beside, and these are named (%d)', (seed) => {
		// Too many of the runs to be told by the holes around them only.
		const { wrong, named, unitIn } = ground(stock.truth(random(seed)), meet(5));
		expect([...named].sort()).toEqual([...wrong].sort());
		for (const hole of wrong) expect(unitIn(hole, 2)).not.toBe('n');
	});
	it('keeps all holes where none is wrong', () => {
		for (const seed of [1, 2, 3, 4, 5, 6, 7, 8]) expect(ground(stock.truth(random(seed)), () => []).named).toEqual([]);
	});
	it('is another shape where many holes are off it: nobody is named', () => {
		for (const seed of [1, 2, 3, 4, 5]) expect(ground(overhang(random(seed)), () => []).named).toEqual([]);
	});
	it('may have another one beside it', () => {
		const truth = stock.truth(random(4));
		const other = (x: number, y: number, z: number) => z < -60 && Math.hypot(x - 130, y - 130) < 110;
		const two: Truth = { ...truth, unitAt: (x, y, z) => (other(x, y, z) ? 0 : truth.unitAt(x, y, z)) };
		expect(ground(two, () => []).named).toEqual([]);
	});
	it('does not depend on the order of the rows', () => {
		const truth = stock.truth(random(3));
		const holes = logsOf(truth);
		meet(2)(holes);
		const { input } = seenIn(truth, holes);
		const places = Array.from(
			{ length: 400 },
			(
				(r) => () =>
					[1000 * r(), 1000 * r(), -400 * r()] as const
			)(random(1))
		);
		const [one, other] = [
			input,
			{ ...input, contacts: [...input.contacts].reverse(), observations: [...input.observations].reverse() }
		].map((i) => {
			const at = unitAt(fitGround(i));
			return places.map(([x, y, z]) => at(x, y, z)).join('');
		});
		expect(other).toBe(one);
	});
});
