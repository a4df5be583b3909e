import { describe, expect, it } from 'vitest';
import { slipped } from '../../bench/damages';
import { CASES } from '../../bench/imperfect-cases';
import { onlap } from '../../bench/imperfect-grounds';
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

describe('a base that a wrong code would take far off', () => {
	const truth = onlap(random(3));
	/** The first hole with e below d; one of them is logged as the other. */
	const seen = (wrong: 'none' | 'to the end' | 'gorge' | 'once more', believed = false) => {
		const holes = logsOf(truth);
		const hole = holes.filter((h) => h.intervals.map((v) => v.code).join('') === 'abcde')[9]!;
		const last = hole.intervals[4]!;
		if (wrong === 'to the end') last.code = 'd';
		if (wrong === 'gorge')
			hole.intervals.splice(4, 1, { ...last, to: last.to - 15, code: 'd' }, { ...last, from: last.to - 15, row: last.row + 1 });
		if (wrong === 'once more')
			hole.intervals.splice(4, 1, { ...last, to: last.from + 25 }, { ...last, from: last.from + 25, code: 'd', row: last.row + 1 });
		const { input } = seenIn(truth, holes);
		const ground = fitGround({ ...input, lengthUnit: 'm', certain: believed ? [hole.name] : [] });
		const at = unitAt(ground);
		const { x, y } = truth.holes[hole.row]!;
		return {
			ground,
			hole: hole.name,
			end: at(x, y, -360),
			kinds: ground.findings.filter((f) => f.hole === hole.name).map((f) => f.kind)
		};
	};
	it.each(['to the end', 'gorge'] as const)('is not believed and named (%s), unless the hole is sure', (wrong) => {
		const odd = seen(wrong);
		expect(odd.kinds).toContain('against-neighbours');
		expect(odd.end).toBe(4);
		const sure = seen(wrong, true);
		expect(sure.kinds).not.toContain('against-neighbours');
		expect(sure.end).toBe(3);
	});
	it('is not believed where the base is met above it, and the hole is named', () => {
		const odd = seen('once more');
		expect(odd.kinds).toContain('against-neighbours');
		expect(odd.end).toBe(4);
		expect(odd.ground.findings.map((f) => f.hole).filter((h) => h && h !== odd.hole)).toEqual([]);
	});
	it('says nothing of a clean one', () => {
		expect(seen('none').ground.findings.filter((f) => f.hole)).toEqual([]);
	});
});

describe('a hole whose contacts are off as a whole', () => {
	const folded = CASES.find((c) => c.name === 'a hole slipped')!;
	const slip = (seed: number, damaged: boolean, certain: boolean = false) => {
		const r = random(seed);
		const truth = folded.truth(r);
		const holes = logsOf(truth);
		const [hole] = damaged ? folded.damage!(holes, truth, r) : [''];
		const input = { ...seenIn(truth, holes).input, lengthUnit: 'm', certain: certain ? [hole!] : [] };
		const ground = fitGround(input);
		return { input, ground, hole: hole!, found: ground.findings.filter((f) => f.kind === 'alone-at-base') };
	};

	it.each([1, 3, 4, 5, 6])('is named once, with how far, and honoured (%d)', (seed) => {
		const { found, hole, ground, input } = slip(seed, true);
		expect(found.map((f) => f.hole)).toEqual([hole]);
		const [, count, by] = /^(\d+) contacts of \S+ are about (\d+) m off/.exec(found[0]!.message)!;
		expect([Number(count) >= 2, Number(by) > 8, Number(by) < 40]).toEqual([true, true, true]);
		const at = unitAt(ground);
		for (const c of input.contacts.filter((p) => p.hole === hole))
			expect([at(c.x, c.y, c.z + 0.3), at(c.x, c.y, c.z - 0.3)]).toEqual([c.surface, c.surface + 1]);
	});
	it('is set aside where what it saw between its contacts contradicts the others', () => {
		const { ground, hole } = slip(2, true);
		expect(ground.findings.map((f) => [f.kind, f.hole])).toEqual([['against-neighbours', hole]]);
	});
	it.each([1, 2, 3, 4, 5, 6])('is none in a ground that fits (%d)', (seed) => expect(slip(seed, false).found).toEqual([]));
	describe('of layers that follow the ground', () => {
		const ofSlopes = (seed: number, slips: boolean, covered = 1) => {
			const r = random(seed);
			const truth = weathering.truth(r);
			const holes = logsOf(truth);
			const [hole] = slips ? slipped(holes, truth, r) : [''];
			const { input } = seenIn(truth, holes, weathering.input?.(truth, r));
			const whole = input.terrain!;
			const values = Float32Array.from(whole.values, (v, i) => ((i % whole.nx) / whole.nx < covered ? v : NaN));
			const { findings } = fitGround({ ...input, terrain: { ...whole, values } });
			return { hole, named: findings.filter((f) => f.kind === 'alone-at-base').map((f) => f.hole) };
		};
		it.each([1, 2, 3, 4, 5, 6])('is measured below that: by height alone the slopes hide it (%d)', (seed) => {
			const { hole, named } = ofSlopes(seed, true);
			expect(named).toEqual([hole]);
			expect(ofSlopes(seed, false).named).toEqual([]);
		});
		it('accuses nobody by a terrain that covers a part of the holes, or none', () => {
			for (const covered of [0.7, 0.5, 0]) for (const seed of [1, 2, 3]) expect(ofSlopes(seed, false, covered).named).toEqual([]);
		});
	});
	it('is named at the rim of the holes, too, where a fold does not go on as the others tell: but hardly one that fits', () => {
		let [slips, accused, all] = [0, 0, 0];
		for (let seed = 1; seed <= 8; seed++) {
			const r = random(seed);
			const truth = folded.truth(r);
			const holes = logsOf(truth);
			const rim = holes.find((h) => h.path.collar[0]! > 850 && h.intervals.length > 4)!;
			rim.intervals = rim.intervals.map((v, i, list) => ({
				...v,
				from: i ? v.from + 22 : 0,
				to: i === list.length - 1 ? v.to : Math.min(v.to + 22, list.at(-1)!.to - 1 + 0.1 * i)
			}));
			const named = fitGround(seenIn(truth, holes).input).findings.flatMap((f) => (f.hole ? [f.hole] : []));
			if (named.includes(rim.name)) slips++;
			accused += new Set(named.filter((h) => h !== rim.name)).size;
			all += holes.length;
		}
		expect([slips >= 7, accused / all < 0.01]).toEqual([true, true]);
	});
	it('is not named again when somebody believes it', () => expect(slip(3, true, true).found).toEqual([]));
});
