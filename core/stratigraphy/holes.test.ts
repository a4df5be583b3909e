import { describe, expect, it } from 'vitest';
import { seededRandom } from '../statistics/random';
import { scheme } from '../units/for-tests';
import { absenceOf } from './absences';
import { between, type PlacedRun } from './between';
import { runs } from './for-tests';
import { boundariesOf, type LoggedRun } from './runs';
import { stepsOf, stepTo, unitInHoles } from './units-in-holes';

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
