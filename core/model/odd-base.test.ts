import { describe, expect, it } from 'vitest';
import { CASES } from '../../bench/imperfect-grounds';
import { random } from '../../bench/problems';
import { logsOf, seenIn } from '../../bench/sampled';
import { fitGround } from './fit-ground';
import { unitAt } from './walk';

const weathering = CASES.find((c) => c.name.startsWith('weathering'))!;
const ground = (seed: number, by: number, certain: string[] = []) => {
	const r = random(seed);
	const truth = weathering.truth(r);
	const holes = logsOf(truth);
	const hole = holes.filter((h) => h.intervals.length > 2)[15]!;
	const depth = hole.intervals[0]!.to + by;
	if (by)
		hole.intervals = hole.intervals.map((v, i) =>
			i === 0 ? { ...v, to: depth } : { ...v, from: Math.max(v.from, depth), to: Math.max(v.to, depth + 1) }
		);
	const more = { ...weathering.input?.(truth, r) };
	more.column = seenIn(truth, holes, more).input.column.map((u, i, all) =>
		i < all.length - 1 ? { ...u, contact: 'erosional' as const } : u
	);
	const { input } = seenIn(truth, holes, more);
	return { input: { ...input, certain }, hole };
};
const named = (seed: number, by: number, certain: (hole: string) => string[] = () => []) => {
	const { input, hole } = ground(seed, by);
	const findings = fitGround({ ...input, certain: certain(hole.name) }).findings.filter((f) => f.kind === 'alone-at-base');
	return { hole: hole.name, holes: findings.map((f) => f.hole) };
};

describe('an erosional base that one hole has elsewhere than its neighbours', () => {
	it.each([1, 2, 3, 4])('is named with that hole and hardly any other, and honoured (%d)', (seed) => {
		const { holes, hole } = named(seed, 60);
		expect(holes).toContain(hole);
		expect(holes.length).toBeLessThanOrEqual(3);
		const { input } = ground(seed, 60);
		const contact = input.contacts.find((c) => c.hole === hole && c.surface === 0)!;
		const at = unitAt(fitGround(input));
		expect([at(contact.x, contact.y, contact.z + 0.5), at(contact.x, contact.y, contact.z - 0.5) > 0]).toEqual([0, true]);
	});

	it('says nothing where all fit, and of one that somebody believes', () => {
		for (const seed of [1, 2, 3, 4, 5]) expect(named(seed, 0).holes.length).toBeLessThanOrEqual(1);
		const { holes, hole } = named(2, 60, (h) => [h]);
		expect(holes).not.toContain(hole);
	});
});
