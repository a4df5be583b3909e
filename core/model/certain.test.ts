import { describe, expect, it } from 'vitest';
import { CASES } from '../../bench/imperfect-cases';
import { random } from '../../bench/problems';
import { logsOf, seenIn, type Truth } from '../../bench/sampled';
import { fitGround, type Ground } from './fit-ground';
import { unitAt } from './walk';

const clean = CASES.find((c) => c.name.startsWith('none'))!;

/** A ground in which one boundary of one hole slips by a distance. */
function slipped(seed: number, by: number, certain: boolean) {
	const truth: Truth = clean.truth(random(seed));
	const holes = logsOf(truth);
	const hole = holes.filter((h) => h.intervals.length > 3)[20]!;
	const before = seenIn(truth, logsOf(truth)).input;
	const k = Math.floor(hole.intervals.length / 2);
	const depth = hole.intervals[k]!.from + by;
	hole.intervals = hole.intervals.map((v, i) => (i === k - 1 ? { ...v, to: depth } : i === k ? { ...v, from: depth } : v));
	const input = { ...seenIn(truth, holes).input, ...(certain ? { certain: [hole.name] } : {}) };
	return { truth, hole, before: fitGround(before), ground: fitGround(input), contacts: input.contacts.filter((c) => c.hole === hole.name) };
}
const named = (g: Ground, hole: string) => g.findings.filter((f) => f.hole === hole).map((f) => f.kind);
/** How many contacts of a hole have their unit just above and another one just below. */
const honoured = (g: Ground, contacts: readonly { x: number; y: number; z: number; surface: number }[]) => {
	const at = unitAt(g);
	return contacts.filter((c) => at(c.x, c.y, c.z + 0.5) <= c.surface && at(c.x, c.y, c.z - 0.5) > c.surface).length;
};

describe('a hole that is off its neighbours', () => {
	it.each([3, 4, 5])(
		'shapes nothing and is named, until somebody says that it is so: then it is honoured, and far from it nothing changes (%d)',
		(seed) => {
			const doubted = slipped(seed, 25, false);
			expect(named(doubted.ground, doubted.hole.name)).toContain('against-neighbours');
			expect(honoured(doubted.ground, doubted.contacts)).toBeLessThan(doubted.contacts.length);
			const sure = slipped(seed, 25, true);
			expect(named(sure.ground, sure.hole.name)).toEqual(['believed']);
			expect(sure.contacts.length).toBeGreaterThan(2);
			expect(honoured(sure.ground, sure.contacts)).toBe(sure.contacts.length);
			const [was, is] = [unitAt(sure.before), unitAt(sure.ground)];
			const [hx, hy] = sure.hole.path.collar;
			const q = random(1);
			let [same, all, right, near] = [0, 0, 0, 0];
			for (let i = 0; i < 6000; i++) {
				const [x, y, z] = [1000 * q(), 1000 * q(), -400 * q()];
				const far = Math.hypot(x - hx, y - hy);
				if (far > 250) {
					all++;
					if (was(x, y, z) === is(x, y, z)) same++;
				} else if (far > 60) {
					near++;
					if (sure.truth.unitAt(x, y, z) === is(x, y, z)) right++;
				}
			}
			expect(same / all).toBeGreaterThan(0.996);
			expect(right / near).toBeGreaterThan(0.99);
		}
	);

	it('that is believed and fits changes nothing', () => {
		const truth = clean.truth(random(3));
		const input = seenIn(truth, logsOf(truth)).input;
		const [a, b] = [unitAt(fitGround(input)), unitAt(fitGround({ ...input, certain: ['H7', 'nobody'] }))];
		const q = random(2);
		for (let i = 0; i < 500; i++) {
			const p = [1000 * q(), 1000 * q(), -400 * q()] as const;
			expect(a(...p)).toBe(b(...p));
		}
	});
});
