import { describe, expect, it } from 'vitest';
import { CASES } from '../../bench/imperfect-cases';
import { random } from '../../bench/problems';
import { logsOf, seenIn, type Truth } from '../../bench/sampled';
import { holePath } from '../holes/path';
import { fitGround } from './fit-ground';
import { unitAt } from './walk';

const RADIANS = Math.PI / 180;
/** A vein of 16 m that dips at 60°, in the drilling of the bench's veins. */
const truth = (seed: number): Truth => ({
	...CASES.find((c) => c.name === 'vein ±20 %')!.truth(random(seed)),
	unitAt: (x, _y, z) => (Math.abs((x - 450) * Math.sin(60 * RADIANS) + (z + 200) * Math.cos(60 * RADIANS)) < 8 ? 0 : z > -330 ? 1 : 2)
});

/** The share of the box that is right with a twin of a hole, a metre beside it, whose depths are off. */
function withTwin(seed: number, of: string, by: number, certain: string[] = []) {
	const t = truth(seed);
	const holes = logsOf(t);
	const hole = holes.find((h) => h.name === of)!;
	const [x, y, z] = hole.path.collar;
	holes.push({
		...hole,
		name: `${of}B`,
		path: holePath([x, y + 1, z], hole.path.totalDepth, [{ depth: 0, azimuth: 270, inclination: -50 }]),
		intervals: hole.intervals.map((v, i, all) => ({ ...v, from: i ? v.from + by : 0, to: i < all.length - 1 ? v.to + by : v.to }))
	});
	const ground = fitGround(seenIn(t, holes, certain.length ? { certain } : {}).input);
	const at = unitAt(ground);
	const r = random(3);
	let right = 0;
	for (let i = 0; i < 6000; i++) {
		const p = [1000 * r(), 1000 * r(), -40 - 320 * r()] as const;
		if (at(...p) === t.unitAt(...p)) right++;
	}
	return { right: right / 6000, said: ground.findings.map((f) => [f.kind, f.hole]) };
}

describe('twins of which a sheet lies at different depths', () => {
	it.each([
		[1, 'H5', 5],
		[2, 'H20', 5],
		[3, 'H40', -7]
	])('are named once, and the sheet is what it was (seed %d, %s, off by %d)', (seed, hole, by) => {
		const { right, said } = withTwin(seed, hole, by);
		expect(right).toBeGreaterThan(0.99);
		expect(said).toEqual([['twins-differ', `${hole}B`]]);
	});
	it('agree with each other where they go with the lie of the sheet', () => {
		const { right, said } = withTwin(1, 'H20', 0);
		expect([right > 0.99, said]).toEqual([true, []]);
	});
	it('are weighed by the one that is believed', () => {
		expect(withTwin(2, 'H20', 5, ['H20']).said).toEqual([['believed', 'H20']]);
	});
});
