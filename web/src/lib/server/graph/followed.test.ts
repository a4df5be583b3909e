import { describe, expect, it } from 'vitest';
import { ProblemError } from '#core/problem';
import { followedBy, requireFollowed, requireToFollow, withFollowedFaults } from './followed';
import { problemOf } from '#core/for-tests';

const [A, B, C] = ['a', 'b', 'c'].map((x) => `0f0f0f0f-0000-4000-8000-00000000000${x}`) as [string, string, string];
const unit = (id: string) => ({ id, name: id, color: '#808080', contact: 'conformable' });
const fault = (id: string, youngestCut: string) => ({
	id,
	name: id,
	trace: [
		[0, 0],
		[10, 10]
	],
	dip: 70,
	dipAzimuth: 90,
	youngestCut,
	halfWidth: 5,
	on: true
});
const part = (kind: string, modelId: string, state: Record<string, unknown>) => ({
	id: `${kind} ${modelId}`,
	kind,
	name: kind,
	modelId,
	state,
	contentHash: `${kind} of ${modelId}`
});
const model = (id: string, name: string, units: string[], faults: Record<string, unknown>) => [
	{ ...part('model', id, { spacing: 10 }), id, name },
	part('column', id, { units: units.map(unit) }),
	part('faults', id, faults)
];
const rows = (theirs = [fault('f', 'loam'), fault('g', 'chalk')]) => [
	...model(A, 'Strata', ['soil', 'loam', 'clay', 'chalk'], { faults: theirs }),
	...model(B, 'Weathering', ['fresh', 'clay'], { faults: [fault('old', 'fresh')], follows: A })
];
const hash = (_: string, state: object) => JSON.stringify(state);
const faultsOf = (list: ReturnType<typeof rows>, id: string) => list.find((r) => r.kind === 'faults' && r.modelId === id)!;
const cuts = (list: ReturnType<typeof rows>, id: string) =>
	(faultsOf(list, id).state['faults'] as { id: string; youngestCut: string }[]).map((f) => [f.id, f.youngestCut]);

describe('a model that follows the faults of another', () => {
	it('has them as they are there, for its own units', () => {
		const seen = withFollowedFaults(rows(), hash);
		// f cuts from loam on: clay is the first of these that both have. Of what g cuts it has nothing: all of it is cut.
		expect(cuts(seen, B)).toEqual([
			['f', 'clay'],
			['g', 'fresh']
		]);
		expect(cuts(seen, A)).toEqual([
			['f', 'loam'],
			['g', 'chalk']
		]);
		expect(followedBy(seen, faultsOf(seen, B))?.id).toBe(faultsOf(seen, A).id);
	});
	it('is out of date as soon as they change, and only then', () => {
		const of = (theirs?: Parameters<typeof rows>[0]) => faultsOf(withFollowedFaults(rows(theirs), hash), B).contentHash;
		expect(of()).toBe(of());
		expect(of([fault('f', 'soil')])).not.toBe(of());
		expect(of()).not.toContain('faults of');
	});
	it('keeps what it had last when the other is gone, and is not built without a word', () => {
		const left = withFollowedFaults(rows(), hash).filter((r) => r.modelId === B);
		const again = withFollowedFaults(
			left.map((r) => (r.kind === 'faults' ? faultsOf(rows(), B) : r)),
			hash
		);
		expect(cuts(again, B)).toEqual([['old', 'fresh']]);
		expect(() => requireFollowed(again, faultsOf(again, B))).toThrow(ProblemError);
		expect(() => requireFollowed(rows(), faultsOf(rows(), B))).not.toThrow();
		expect(() => requireFollowed(rows(), faultsOf(rows(), A))).not.toThrow();
	});
	it('is not built of faults that can not be read, nor of those that a third has', () => {
		const having = (state: Record<string, unknown>) => rows().map((r) => (r.kind === 'faults' && r.modelId === A ? { ...r, state } : r));
		const problem = (list: ReturnType<typeof rows>) => problemOf(() => requireFollowed(list, faultsOf(list, B)))?.kind;
		expect(problem(rows())).toBeUndefined();
		expect(problem(having({ faults: 'none' }))).toBe('damaged-state');
		expect(problem(having({ faults: [], follows: C }))).toBe('faults-lost');
	});
});

it.each([
	['itself', A, A, 'its own faults'],
	['one that follows another', C, B, 'Weathering follows'],
	['another while it is followed', A, C, 'Weathering follows the faults of this model'],
	['one that is not there', C, '0f0f0f0f-0000-4000-8000-00000000000d', 'not in this project']
])('a model can not follow %s', (_, own, other, why) => {
	const all = [...rows(), ...model(C, 'Third', ['fresh'], { faults: [] })];
	expect(() => requireToFollow(all, own, other)).toThrow(why);
	expect(() => requireToFollow(all, C, A)).not.toThrow();
});
