import { describe, expect, it } from 'vitest';
import { seededRandom } from '../statistics/random';
import { runs } from './for-tests';
import { crossings, proposeByLikeness, proposeTies, untangled, type Tie } from './ties';
import { timeWarp } from './time-warp';

describe('ties', () => {
	const left = { hole: 'A', runs: runs(['Till', 0, 5], ['Clay', 5, 20], ['Sand', 20, 30], ['Rock', 30, 50]) };
	const right = { hole: 'B', runs: runs(['Till', 0, 8], ['Clay', 8, 25], ['Rock', 25, 60]) };

	it('are proposed between boundaries of the same units, and fan out where one is missing', () => {
		expect(proposeTies(left, right).map((t) => [t.a.depth, t.b.depth, t.why, t.name])).toEqual([
			[5, 8, 'same boundary', 'Till on Clay'],
			[20, 25, 'same base', 'base of Clay'],
			[30, 25, 'same top', 'top of Rock']
		]);
	});

	it('leave a boundary that has its like: the rock below a dyke is not the top of that rock', () => {
		const dyked = { hole: 'C', runs: runs(['Clay', 0, 20], ['Rock', 20, 40], ['Dyke', 40, 45], ['Rock', 45, 60]) };
		const plain = { hole: 'D', runs: runs(['Clay', 0, 25], ['Rock', 25, 60]) };
		expect(proposeTies(dyked, plain).map((t) => [t.a.depth, t.b.depth])).toEqual([[20, 25]]);
	});

	it('cross none that is there', () => {
		const ties = proposeTies(left, right, [[22, 5]]);
		for (const t of ties) expect((t.a.depth - 22) * (t.b.depth - 5)).toBeGreaterThan(0);
		expect(ties.map((t) => t.a.depth)).toEqual([30]);
	});

	it('never cross each other, whatever is logged', () => {
		const random = seededRandom(Number(process.env['MALACHITE_TEST_SEED'] ?? 7));
		for (let n = 0; n < 200; n++) {
			const some = () => {
				let d = 0;
				return Array.from({ length: 1 + Math.floor(8 * random.uniform()) }, () => {
					const from = d;
					return { name: 'abcd'[Math.floor(4 * random.uniform())]!, from, to: (d += 1 + Math.floor(9 * random.uniform())) };
				});
			};
			const ties = proposeTies({ hole: 'A', runs: some() }, { hole: 'B', runs: some() });
			for (const s of ties) for (const t of ties) expect((s.a.depth - t.a.depth) * (s.b.depth - t.b.depth)).toBeGreaterThanOrEqual(0);
		}
	});

	it('that cross are named, and the doubtful one gives way', () => {
		const tie = (id: string, a: number, b: number, kind: Tie['kind'] = 'certain'): Tie => ({
			id,
			name: id,
			kind,
			a: { hole: 'A', depth: a },
			b: { hole: 'B', depth: b }
		});
		const back: Tie = { ...tie('t2', 0, 0), a: { hole: 'B', depth: 5 }, b: { hole: 'A', depth: 20 } };
		const ties = [tie('t1', 10, 10, 'doubtful'), back, tie('t3', 30, 30)];
		expect(crossings(ties).map((p) => p.map((t) => t.id))).toEqual([['t1', 't2']]);
		expect(untangled(ties, 'A', 'B')).toEqual([
			[20, 5],
			[30, 30]
		]);
	});

	it('by likeness follow a curve that is stretched and shifted, with its correlation', () => {
		const shape = (d: number) => Math.sin(d / 4) + 0.6 * Math.sin(d / 1.7 + 1);
		const depths = Array.from({ length: 300 }, (_, i) => i * 0.2);
		const stretched = depths.map((d) => d * 1.3 + 4 * Math.sin(d / 30));
		const a = { hole: 'A', depths, values: depths.map((d) => 40 + 9 * shape(d)) };
		const b = { hole: 'B', depths: stretched, values: depths.map((d) => 7 + 2 * shape(d)) };
		const { ties, score } = proposeByLikeness(
			{ runs: runs(['x', 0, 18], ['y', 18, 41], ['z', 41, 60]), curve: a },
			{ runs: runs(['q', 0, 90]), curve: b }
		);
		expect(score).toBeGreaterThan(0.95);
		expect(ties.map((t) => t.a.depth)).toEqual([18, 41]);
		for (const t of ties) {
			expect(Math.abs(t.b.depth - (t.a.depth * 1.3 + 4 * Math.sin(t.a.depth / 30)))).toBeLessThan(1.5);
			expect(t.score).toBeGreaterThan(0.8);
		}
		// A boundary that is near is taken instead.
		const near = proposeByLikeness(
			{ runs: runs(['x', 0, 18], ['y', 18, 60]), curve: a },
			{ runs: runs(['q', 0, 26], ['r', 26, 90]), curve: b },
			[],
			5
		);
		expect(near.ties[0]!.b.depth).toBe(26);
		expect(proposeByLikeness({ runs: [], curve: { hole: 'A', depths: [], values: [] } }, { runs: [], curve: b }).ties).toEqual([]);
	});
});

describe('time warping', () => {
	it('finds the identity for one curve, and keeps to anchors and to the order', () => {
		const v = Array.from({ length: 50 }, (_, i) => Math.sin(i / 3));
		expect(timeWarp(v, v).path).toEqual(v.map((_, i) => [i, i]));
		expect(timeWarp(v, v).score).toBeCloseTo(1, 9);
		const { path } = timeWarp(v, v.slice(0, 30), { anchors: [[20, 9]] });
		expect(path).toContainEqual([20, 9]);
		for (let k = 1; k < path.length; k++) {
			expect(path[k]![0] - path[k - 1]![0]).toBeGreaterThanOrEqual(0);
			expect(path[k]![1] - path[k - 1]![1]).toBeGreaterThanOrEqual(0);
		}
		expect(path.at(-1)).toEqual([49, 29]);
		expect(timeWarp([1, 1, 1], [2, 2]).score).toBe(0);
		expect(timeWarp([], [1]).path).toEqual([]);
		expect(timeWarp([3], [1, 2, 3]).path.at(-1)).toEqual([0, 2]);
	});
});
