import { describe, expect, it } from 'vitest';
import { seededRandom } from '../statistics/random';
import { absenceOf } from './absences';
import { ageAt, ageCurve, datedBoundaries, depthsOfAges, timeIntervals } from './age-curve';
import { between, type PlacedRun } from './between';
import { normalBetween, orderedAges } from './ordered-ages';
import { boundariesOf, type LoggedRun } from './runs';
import {
	atRank,
	chronology,
	rankConflicts,
	readScheme,
	recodeToRank,
	schemeProblems,
	sumsAtRank,
	unitsByName,
	validateScheme
} from '../units/scheme';
import { stepsOf, stepTo, unitInHoles } from './units-in-holes';
import { timeStretches } from './time-chart';
import { internationalChart } from '../units/international-chart';
import { timeColor } from '../styles/time-colors';
import { crossings, proposeByLikeness, proposeTies, untangled, type Tie } from './ties';
import { timeWarp } from './time-warp';

const HEADER = ['Rank', 'Unit', 'Parent', 'Age top', 'Age base', 'Age error'];
const ROWS = [
	['Group', 'Upper Group', '', '0', '20', '0.5'],
	['Formation', 'Alder', 'Upper Group', '0', '8', '0.5'],
	['Formation', 'Birch', 'Upper Group', '8', '20', '0.5'],
	['Member', 'Birch Top', 'Birch', '8', '12', '0.5'],
	['Member', 'Birch Foot', 'Birch', '12', '20', '0.5'],
	['Group', 'Lower Group', '', '60', '90', '1'],
	['Formation', 'Cedar', 'Lower Group', '60', '70', '1'],
	['Formation', 'Dogwood', 'Lower Group', '70', '90', '1']
];
const scheme = (rows = ROWS) => readScheme('s', 'Trees', HEADER, rows).scheme;
const runs = (...list: [string, number, number][]): LoggedRun[] => list.map(([name, from, to]) => ({ name, from, to }));

describe('a scheme', () => {
	it('is read from rows with parents: ranks from high to low, ages, parents by name', () => {
		const { scheme: s, remarks } = readScheme('s', 'Trees', HEADER, ROWS);
		expect(remarks).toEqual([]);
		expect(s.ranks).toEqual(['Group', 'Formation', 'Member']);
		expect(s.units.map((u) => u.rank)).toEqual([0, 1, 1, 2, 2, 0, 1, 1]);
		const by = unitsByName(s);
		expect(by('birch foot')!.parent).toBe(by('Birch')!.id);
		expect(by('Cedar')).toMatchObject({ top: 60, base: 70, error: 1 });
		expect(schemeProblems(s)).toEqual([]);
		validateScheme(s);
		// The order of the rows of the ranks does not matter.
		expect(readScheme('s', 'Trees', HEADER, [...ROWS].reverse()).scheme.ranks).toEqual(['Group', 'Formation', 'Member']);
	});

	it('is read from one column a rank, and tells a member of two formations', () => {
		const { scheme: s } = readScheme(
			's',
			'Trees',
			['Group', 'Formation', 'Member'],
			[
				['Upper', 'Alder', ''],
				['Upper', 'Birch', 'Knot'],
				['Upper', 'Alder', 'Knot'],
				['', '', ''],
				['Lower', '', '']
			]
		);
		expect(s.ranks).toEqual(['Group', 'Formation', 'Member']);
		expect(s.units.map((u) => u.name)).toEqual(['Upper', 'Alder', 'Birch', 'Knot', 'Lower']);
		expect(schemeProblems(s).map((p) => [p.kind, p.message])).toEqual([['two-parents', 'Knot is a part of Birch and of Alder']]);
	});

	it('names what contradicts itself: parts outside their parents, ages upside down, two of a name', () => {
		const rows = ROWS.map((r) => [...r]);
		rows[3]![3] = '2';
		rows[6]![3] = '75';
		rows.push(['Formation', 'alder', 'Lower Group', '', '', '']);
		const kinds = schemeProblems(scheme(rows)).map((p) => `${p.kind} ${p.unit}`);
		expect(kinds).toEqual(['outside-parent birchtop', 'upside-down cedar', 'doubled-name alder-2']);
		// Half a million years off is within the errors.
		rows[3]![3] = '7.5';
		expect(schemeProblems(scheme(rows)).some((p) => p.unit === 'birchtop')).toBe(false);
	});

	it('lets go what would close a loop, and says so; a scheme that is stored can not have one', () => {
		const rows = [
			['', 'A', 'B', '', '', ''],
			['', 'B', 'A', 'x', '-3', ''],
			['', '', 'B', '', '', ''],
			['', 'C', 'Z', '', '', '']
		];
		const { scheme: s, remarks } = readScheme('s', 'Loop', HEADER, rows);
		expect(remarks.join('\n')).toMatch(
			/"x" is no age.*\n.*"-3" is no age.*\n.*row 3 names no unit.*\n.*C is a part of Z, which no row names/
		);
		expect(remarks.join('\n')).toContain('would be a part of itself');
		validateScheme(s);
		const [a, b] = [s.units[0]!, s.units[1]!];
		const looped = {
			...s,
			ranks: ['one', 'two'],
			units: [
				{ ...a, rank: 1, parent: b.id },
				{ ...b, rank: 0, parent: a.id }
			]
		};
		expect(() => validateScheme(looped)).toThrow('a part of itself');
		expect(() => validateScheme({ ...s, units: [a, a] })).toThrow('two units of the scheme have the id');
		expect(() => validateScheme({ ...s, units: [{ ...a, rank: 7 }] })).toThrow('a rank that Loop does not have');
		expect(() => validateScheme({ ...s, units: [{ ...a, parent: 'gone' }] })).toThrow('not in the scheme');
	});

	it('refuses what is no scheme', () => {
		expect(() => readScheme('s', 'n', ['Unit', 'Parent'], [])).toThrow('no row of this names a unit');
		expect(() => readScheme('s', 'n', ['Depth'], [['1']])).toThrow('this is no scheme');
		expect(() => readScheme('s', 'n', [], [])).toThrow('this is no scheme');
		const many = Array.from({ length: 5000 }, (_, i) => [`u${i}`, '']);
		expect(() => readScheme('s', 'n', ['Unit', 'Parent'], many)).toThrow('a scheme of 5000 rows is not read');
	});

	it('takes a log to a higher rank, and says of what is logged coarsely that it is not divided', () => {
		const s = scheme();
		expect(recodeToRank(s, ['Birch Top', 'BIRCH FOOT', 'Alder', 'Granite'], 1)).toEqual({
			recode: { 'Birch Top': 'Birch', 'BIRCH FOOT': 'Birch' },
			unknown: ['Granite']
		});
		expect(recodeToRank(s, ['Birch'], 2).recode).toEqual({ Birch: 'Birch, not divided' });
		expect(atRank(s, unitsByName(s)('Birch Foot')!, 0)!.name).toBe('Upper Group');
		expect(chronology(s).map((u) => u.name)).toEqual(ROWS.map((r) => r[1]));
	});

	it('sums what its units have at a rank; what it does not know stays by itself', () => {
		const values = [
			{ name: 'Granite', value: 5 },
			{ name: 'Alder', value: 1 },
			{ name: 'Birch', value: 2 },
			{ name: 'Cedar', value: 4 }
		];
		expect(sumsAtRank(scheme(), 0, values).map((s) => [s.name, s.value, s.of])).toEqual([
			['Granite', 5, ['Granite']],
			['Upper Group', 3, ['Alder', 'Birch']],
			['Lower Group', 4, ['Cedar']]
		]);
		expect(sumsAtRank(scheme(), 2, values).map((s) => s.name)).toEqual(values.map((v) => v.name));
	});

	it('finds rows whose ranks contradict it', () => {
		const s = scheme();
		const columns = [
			{ header: 'Formation', rank: 1, cells: ['Alder', 'Birch', 'Alder', ''] },
			{ header: 'Member', rank: 2, cells: ['', 'Birch Top', 'Birch Top', 'Birch Top'] }
		];
		expect(rankConflicts(s, columns, [0, 1, 2, 3])).toEqual([
			{ row: 2, column: 'Formation', message: 'Birch Top is a part of Birch, but Alder is logged here' }
		]);
		// Where the scheme does not say what a member is a part of, its formation may not change inside it.
		const open = { ...s, units: s.units.map((u) => (u.name === 'Birch Top' ? { ...u, parent: '' } : u)) };
		expect(rankConflicts(open, columns, [0, 1, 2])[0]!.message).toBe('the boundary of Birch and Alder lies inside Birch Top');
	});
});

describe('ages in order', () => {
	/** Mean and variance of x1 where x1 < x2, both normal: x1 + x2 parts of the difference are a half normal (closed form). */
	const pair = (m1: number, s1: number, m2: number, s2: number) => {
		const s = Math.hypot(s1, s2);
		const a = (m2 - m1) / s;
		const pdf = Math.exp((-a * a) / 2) / Math.sqrt(2 * Math.PI);
		const cdf = 0.5 * (1 + erf(a / Math.SQRT2));
		const h = pdf / cdf;
		// E[d | d > 0] of d = x2 - x1; x1 is regressed on d.
		const [md, vd] = [m2 - m1 + s * h, s * s * (1 - h * (h + a))];
		const beta = -(s1 * s1) / (s * s);
		return { mean: m1 + beta * (md - (m2 - m1)), sd: Math.sqrt(s1 * s1 - (s1 ** 4 / (s * s)) * 1 + beta * beta * vd) };
	};
	const erf = (x: number): number => {
		// By its series, exact enough for |x| < 3.
		let [sum, term] = [0, x];
		for (let n = 0; n < 80; n++) {
			sum += term / (2 * n + 1);
			term *= (-x * x) / (n + 1);
		}
		return (2 / Math.sqrt(Math.PI)) * sum;
	};

	it.each([
		[10, 1, 11, 1],
		[10, 2, 9, 1],
		[50, 3, 52, 0.5]
	])('of two normals %d ± %d and %d ± %d have the means and spreads of the closed form within 1 %%', (m1, s1, m2, s2) => {
		const { mean, sd } = orderedAges(
			[
				{ mean: m1, sd: s1 },
				{ mean: m2, sd: s2 }
			],
			60_000,
			3,
			4
		);
		const want = pair(m1, s1, m2, s2);
		expect(Math.abs(mean[0]! - want.mean)).toBeLessThan(0.01 * want.mean);
		expect(Math.abs(sd[0]! / want.sd - 1)).toBeLessThan(0.01);
	});

	it('of three normals have those of numeric integration within 1 %', () => {
		const beliefs = [
			{ mean: 10, sd: 1 },
			{ mean: 10.5, sd: 1.5 },
			{ mean: 10.2, sd: 0.8 }
		];
		// Sums over a lattice of the product of the three normals, where they are in order.
		const step = 0.02;
		const ages = Array.from({ length: 700 }, (_, i) => 4 + i * step);
		const p = beliefs.map((b) => ages.map((x) => Math.exp(-((x - b.mean) ** 2) / (2 * b.sd ** 2))));
		const below = (v: number[]) => v.reduce<number[]>((s, x) => [...s, (s.at(-1) ?? 0) + x], []);
		const [l0, l0x, l0xx] = [0, 1, 2].map((k) => below(p[0]!.map((v, i) => v * ages[i]! ** k))) as [number[], number[], number[]];
		const above = below([...p[2]!].reverse()).reverse();
		const sum = (f: (i: number) => number) => ages.reduce((s, _, i) => s + f(i), 0);
		const z = sum((i) => p[1]![i]! * l0[i]! * above[i]!);
		const first = sum((i) => p[1]![i]! * l0x[i]! * above[i]!) / z;
		const middle = sum((i) => p[1]![i]! * ages[i]! * l0[i]! * above[i]!) / z;
		const spread = Math.sqrt(sum((i) => p[1]![i]! * l0xx[i]! * above[i]!) / z - first ** 2);
		const drawn = orderedAges(beliefs, 60_000, 5, 4);
		expect(Math.abs(drawn.mean[0]! / first - 1)).toBeLessThan(0.01);
		expect(Math.abs(drawn.mean[1]! / middle - 1)).toBeLessThan(0.01);
		expect(Math.abs(drawn.sd[0]! / spread - 1)).toBeLessThan(0.01);
	});

	it('are in order in every draw, the same each time, and stay within limits', () => {
		const beliefs = [
			{ mean: 5, sd: Infinity, low: 0, high: 10 },
			{ mean: 30, sd: 1 },
			{ mean: 20, sd: 1 },
			{ mean: 25, sd: Infinity, low: 22, high: 40 }
		];
		const drawn = orderedAges(beliefs, 500, 9);
		for (const d of drawn.draws) for (let i = 1; i < d.length; i++) expect(d[i]!).toBeGreaterThanOrEqual(d[i - 1]!);
		expect(drawn.high[0]!).toBeLessThanOrEqual(10);
		expect(orderedAges(beliefs, 500, 9).median).toEqual(drawn.median);
	});

	it('are drawn from the far tails, too', () => {
		const random = seededRandom(4);
		for (const [low, high] of [
			[8, 9],
			[8, Infinity],
			[-Infinity, -8],
			[-0.1, 0.1],
			[30, 30.001]
		] as const) {
			const v = Array.from({ length: 200 }, () => normalBetween(0, 1, low, high, random));
			expect(v.every((x) => x >= low && x <= high)).toBe(true);
		}
		// The mean of a tail from 3 on is that of the closed form, pdf(3) / (1 - cdf(3)).
		const tail = Array.from({ length: 20_000 }, () => normalBetween(0, 1, 3, Infinity, random));
		expect(tail.reduce((a, b) => a + b) / tail.length).toBeCloseTo(3.2831, 1);
	});
});

describe('an age–depth curve', () => {
	const s = scheme();
	const log = runs(['Alder', 0, 40], ['Birch Top', 40, 60], ['Birch Foot', 60, 100], ['Cedar', 100, 130], ['Dogwood', 130, 200]);

	it('goes through boundaries, has a step at a hiatus, and gives ages and rates', () => {
		const dated = datedBoundaries(s, log);
		expect(dated.map((d) => [d.depth, d.side ?? '', Number(d.age.toFixed(1))])).toEqual([
			[40, '', 8],
			[60, '', 12],
			[100, 'above', 20],
			[100, 'below', 60],
			[130, '', 70]
		]);
		const curve = ageCurve('H1', dated);
		expect(ageAt(curve, 40)).toBeCloseTo(8, 0);
		expect(ageAt(curve, 50)).toBeCloseTo(10, 0);
		const [above, below] = [ageAt(curve, 100, 'above'), ageAt(curve, 100, 'below')];
		expect(above).toBeGreaterThan(12);
		expect(above).toBeLessThan(20.01);
		expect(below).toBeGreaterThan(59.9);
		expect(below).toBeLessThan(71);
		expect(ageAt(curve, 10)).toBeNaN();
		expect(curve.rates[0]!.rate).toBeCloseTo(5, 0);
		expect(curve.rates[2]).toBeNull();
		expect(curve.bundle.length).toBeGreaterThan(20);
		for (const b of curve.bundle) for (let i = 1; i < b.length; i++) expect(b[i]!).toBeGreaterThanOrEqual(b[i - 1]!);
	});

	it('is narrowed by samples and zones, and names ages that contradict the order', () => {
		const dated = datedBoundaries(s, log);
		const curve = ageCurve('H1', [
			...dated,
			{ depth: 80, age: 15, error: 0.1, from: 'sample', name: 'S1' },
			{ depth: 50, age: 45, error: 0.2, from: 'sample', name: 'wrong' },
			{ depth: 115, age: 65, error: Infinity, low: 63, high: 66, from: 'zone', name: 'Z' }
		]);
		expect(ageAt(curve, 80)).toBeCloseTo(15, 0);
		expect(curve.aside.map((k) => k.name)).toEqual(['wrong']);
		expect(ageAt(curve, 115)).toBeGreaterThan(62.9);
		expect(ageAt(curve, 115)).toBeLessThan(66.1);
	});

	it('is refused for one date, none, and says which', () => {
		expect(() => ageCurve('H1', [])).toThrow('nothing dates H1');
		expect(() => ageCurve('H1', [{ depth: 3, age: 1, error: 1, from: 'sample', name: '' }])).toThrow('dated at one depth only');
	});

	it('gives the time intervals that it runs through, across a hiatus, too', () => {
		const curve = ageCurve('H1', datedBoundaries(s, log));
		const spans = timeIntervals(s, 1, curve);
		expect(spans.map((r) => r.name).slice(0, 2)).toEqual(['Birch', 'Cedar']);
		expect(spans[0]!.from).toBeGreaterThanOrEqual(40);
		expect(spans[0]!.to).toBeCloseTo(100, 3);
		expect(depthsOfAges(curve, 30, 50)).toBeNull();
		expect(depthsOfAges(curve, 8.5, 11)![0]).toBeGreaterThan(40);
	});
});

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

describe('between two holes', () => {
	const placed = (list: LoggedRun[], shift = 0): PlacedRun[] => list.map((r) => ({ ...r, top: r.from + shift, bottom: r.to + shift }));
	const area = (line: readonly (readonly [number, number])[]) => {
		let sum = 0;
		line.forEach(([x, y], i) => {
			const [u, v] = line[(i + 1) % line.length]!;
			sum += x * v - u * y;
		});
		return Math.abs(sum / 2);
	};

	it('units go through, or wedge out halfway, those that a hole does not reach faintly', () => {
		const { units, boundaries } = between(
			placed(runs(['a', 0, 10], ['b', 10, 20], ['c', 20, 30])),
			placed(runs(['a', 0, 12], ['c', 12, 30], ['d', 30, 40]))
		);
		expect(units.map((u) => [u.name, u.seen])).toEqual([
			['b', 'wedge'],
			['d', 'beyond'],
			['a', 'both'],
			['c', 'both']
		]);
		expect(boundaries.map((b) => b.above)).toEqual(['a', 'b']);
		// Without overlap and without gaps, down to what either hole reaches.
		expect(units.reduce((s, u) => s + area(u.outline), 0)).toBeCloseTo(30 + 2.5, 9);
	});

	it('a tie parts units of one name', () => {
		const [l, r] = [placed(runs(['a', 0, 10], ['b', 10, 20])), placed(runs(['b', 0, 10], ['a', 10, 20]))];
		expect(between(l, r).units.filter((u) => u.seen === 'both')).toHaveLength(1);
		expect(between(l, r, [[10, 10]]).units.filter((u) => u.seen === 'both')).toHaveLength(0);
		expect(between([], r)).toEqual({ units: [], boundaries: [] });
	});

	it('fill the ground between the ends without overlap for any two logs', () => {
		const random = seededRandom(Number(process.env['MALACHITE_TEST_SEED'] ?? 11));
		for (let n = 0; n < 100; n++) {
			const some = () => {
				let d = 0;
				const list: LoggedRun[] = [];
				for (let k = 0; k < 6; k++) {
					const name = 'abcde'[Math.floor(5 * random.uniform())]!;
					const from = d;
					d += 1 + Math.floor(5 * random.uniform());
					if (list.at(-1)?.name === name) list.at(-1)!.to = d;
					else list.push({ name, from, to: d });
				}
				return list;
			};
			// The same at both ends: all between is filled exactly once.
			const ends = (list: LoggedRun[]) =>
				placed([{ name: 'top', from: -5, to: 0 }, ...list, { name: 'foot', from: list.at(-1)!.to, to: 60 }]);
			const { units } = between(ends(some()), ends(some()));
			expect(units.reduce((s, u) => s + area(u.outline), 0)).toBeCloseTo(65, 6);
		}
	});

	it('the ends of logs and gaps in them are boundaries of nothing', () => {
		expect(boundariesOf(runs(['a', 0, 5], ['b', 7, 9]))).toEqual([
			{ depth: 0, above: '', below: 'a' },
			{ depth: 5, above: 'a', below: '' },
			{ depth: 7, above: '', below: 'b' },
			{ depth: 9, above: 'b', below: '' }
		]);
	});
});

describe('why a unit is not in a hole', () => {
	const order = [
		{ name: 'Till', contact: 'erosional' as const },
		{ name: 'Clay', contact: 'conformable' as const },
		{ name: 'Sand', contact: 'conformable' as const },
		{ name: 'Dyke', contact: 'intrusive' as const },
		{ name: 'Rock', contact: 'conformable' as const }
	];
	const why = (unit: string, list: LoggedRun[], depth = 50, faults: number[] = []) =>
		absenceOf(unit, order, list, depth, faults)?.why ?? null;

	it('is told from what lies above and below', () => {
		expect(why('Clay', runs(['Till', 0, 5], ['Clay', 5, 9], ['Rock', 9, 50]))).toBeNull();
		expect(why('Clay', runs(['Till', 0, 5], ['Sand', 5, 50]))).toBe('removed');
		expect(why('Sand', runs(['Till', 0, 5], ['Clay', 5, 20], ['Rock', 20, 50]))).toBe('not-deposited');
		expect(why('Sand', runs(['Till', 0, 5], ['Clay', 5, 20], ['Rock', 20, 50]), 50, [20.3])).toBe('cut-out');
		expect(why('Rock', runs(['Till', 0, 5], ['Clay', 5, 50]))).toBe('not-reached');
		expect(why('Rock', runs(['Till', 0, 5], ['Clay', 5, 20]))).toBe('not-logged');
		expect(why('Till', runs(['Clay', 0, 50]))).toBe('removed');
		expect(why('Till', runs(['Clay', 10, 50]))).toBe('not-logged');
		expect(why('Sand', runs(['Clay', 0, 20], ['Rock', 30, 50]))).toBe('not-logged');
		// An intrusion is neither older nor younger than what it stands in.
		expect(why('Sand', runs(['Clay', 0, 20], ['Dyke', 20, 22], ['Rock', 22, 50]))).toBe('not-deposited');
		expect(why('Clay', [])).toBe('not-logged');
		expect(why('Unheard', runs(['Clay', 0, 50]))).toBe('not-logged');
	});
});

describe('a hole by age', () => {
	const order = [
		{ name: 'Alder', contact: 'conformable' as const },
		{ name: 'Birch', contact: 'erosional' as const },
		{ name: 'Cedar', contact: 'conformable' as const },
		{ name: 'Dogwood', contact: 'conformable' as const }
	];
	it('has rock and gaps without overlap down to where it is asked for, and says why nothing is there', () => {
		const stretches = timeStretches(scheme(), order, runs(['Alder', 0, 40], ['Birch', 40, 100], ['Dogwood', 100, 200]), null, 90);
		expect(stretches.map((s) => [s.name, s.kind, s.top, s.base])).toEqual([
			['Alder', 'logged', 0, 8],
			['Birch', 'logged', 8, 20],
			['', 'removed', 20, 70],
			['Dogwood', 'logged', 70, 90]
		]);
		const flat = order.map((u) => ({ ...u, contact: 'conformable' as const }));
		expect(timeStretches(scheme(), flat, runs(['Birch', 0, 100], ['Dogwood', 100, 200]), null, 95).map((s) => s.kind)).toEqual([
			'removed',
			'logged',
			'not-deposited',
			'logged',
			'unknown'
		]);
		expect(timeStretches(scheme(), order, [], null, 90)).toEqual([{ name: '', top: 0, base: 90, kind: 'unknown', from: 0, to: 0 }]);
	});
});

describe('the international time chart', () => {
	const chart = internationalChart('ics', (n) => timeColor(n) ?? '');
	it('is a scheme without contradictions, without gaps, in its colours', () => {
		validateScheme(chart);
		expect(schemeProblems(chart)).toEqual([]);
		for (const rank of [0, 1, 2]) {
			const own = chart.units.filter((u) => u.rank === rank).sort((a, b) => a.top! - b.top!);
			for (let i = 1; i < own.length; i++) expect([own[i]!.name, own[i]!.top]).toEqual([own[i]!.name, own[i - 1]!.base]);
		}
		expect(chart.units.find((u) => u.name === 'Cretaceous')).toMatchObject({ top: 66, base: 145, color: '#7FC64E' });
		expect(chart.units.filter((u) => !u.color).map((u) => u.name)).toEqual(['Series 2']);
	});
});

describe('a unit in the holes', () => {
	const s = scheme();
	const column = ['Alder', 'Birch', 'Cedar', 'Dogwood', 'Stock'].map((name) => ({
		id: name.toLowerCase(),
		name,
		color: '#112233',
		contact: name === 'Birch' ? ('erosional' as const) : name === 'Stock' ? ('intrusive' as const) : ('conformable' as const)
	}));
	const holes = [
		{ name: 'H1', totalDepth: 200, runs: runs(['Alder', 0, 40], ['Birch', 40, 100], ['Cedar', 100, 130], ['Dogwood', 130, 200]) },
		{ name: 'H2', totalDepth: 200, runs: runs(['Alder', 0, 40], ['Birch', 40, 100], ['Dogwood', 100, 200]) },
		{ name: 'H3', totalDepth: 90, runs: runs(['Alder', 0, 40], ['Birch', 40, 90]) },
		{ name: 'H4', totalDepth: 90, runs: [] }
	];
	const unit = (name: string) => stepsOf(s, column).units.find((u) => u.name === name)!;

	it('is told at the rank that it has: how thick, how deep, what it is made of, or why it is not there', () => {
		const cedar = unitInHoles(unit('Cedar'), s, column, holes);
		expect(cedar.map((h) => [h.thickness, h.top, h.absence?.why ?? null])).toEqual([
			[30, 100, null],
			[0, null, 'removed'],
			[0, null, 'not-reached'],
			[0, null, 'not-logged']
		]);
		expect(cedar[1]!.absence).toMatchObject({ depth: 100, between: 'Birch and Dogwood' });
		const lower = unitInHoles(unit('Lower Group'), s, column, holes);
		expect(lower[0]!.parts.map((p) => [p.name, p.share])).toEqual([
			['Cedar', 0.3],
			['Dogwood', 0.7]
		]);
		expect(lower[2]!.absence!.why).toBe('not-reached');
		// What is logged as a whole says nothing of its parts.
		expect(unitInHoles(unit('Birch Foot'), s, column, holes)[0]!.thickness).toBe(0);
		expect(unitInHoles(stepsOf(null, column).units[0]!, null, column, holes)[0]!.thickness).toBe(40);
	});

	it('is what somebody set it to be, with the reason', () => {
		const set = [{ hole: 'H2', unit: 'Cedar', why: 'cut-out' as const, reason: 'breccia in the core' }];
		expect(unitInHoles(unit('Cedar'), s, column, holes, set)[1]!.absence).toMatchObject({ why: 'cut-out', reason: 'breccia in the core' });
		// Where it is there nothing is set right.
		expect(unitInHoles(unit('Alder'), s, column, holes, [{ ...set[0]!, unit: 'Alder' }])[1]!.absence).toBeNull();
	});

	it('is stepped through along its rank, up and down, and not beyond the ends', () => {
		const steps = stepsOf(s, column);
		const by = (name: string, way: 'younger' | 'older' | 'up' | 'down') =>
			steps.units.find((u) => u.id === stepTo(steps, unit(name).id, way))!.name;
		expect(by('Birch', 'older')).toBe('Cedar');
		expect(by('Birch', 'younger')).toBe('Alder');
		expect(by('Alder', 'younger')).toBe('Alder');
		expect(by('Birch', 'up')).toBe('Upper Group');
		expect(by('Birch', 'down')).toBe('Birch Top');
		expect(by('Upper Group', 'up')).toBe('Upper Group');
		expect(by('Cedar', 'down')).toBe('Cedar');
		expect(stepTo(steps, 'gone', 'older')).toBe(steps.units[0]!.id);
		expect(stepTo({ ranks: [], units: [] }, 'gone', 'older')).toBe('');
	});
});
