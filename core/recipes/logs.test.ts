import { describe, expect, it } from 'vitest';
import { unpackReadings, type Readings } from '../datasets/readings';
import { scheme } from '../units/for-tests';
import type { Scheme } from '../units/scheme';
import { base, number, readings, run, table, text } from './for-tests';
import type { Given, Product } from './recipe';

/** A log of intervals: hole, from, to, code. Holes lean: one length unit east for each of depth, two down. */
const log = (rows: readonly (readonly [string, number, number, string])[], role = 'log', name = 'Log'): Given => {
	const r = readings(
		rows.map(([, from, to]) => [(from + to) / 2, 0]),
		[
			text(
				'hole',
				rows.map((x) => x[0])
			),
			number(
				'from',
				rows.map((x) => x[1])
			),
			number(
				'to',
				rows.map((x) => x[2])
			),
			text(
				'code',
				rows.map((x) => x[3])
			)
		]
	);
	return table(role, { ...r, z: r.x.map((x) => -2 * x) }, name);
};
const dates = (rows: readonly (readonly [string, number, number])[], header = 'Age_Ma', role = 'dates'): Given => {
	const r = readings(
		rows.map((x) => [x[1], 0]),
		[
			text(
				'hole',
				rows.map((x) => x[0])
			),
			number(
				'depth',
				rows.map((x) => x[1])
			),
			number(
				header,
				rows.map((x) => x[2])
			)
		]
	);
	return table(role, { ...r, z: r.x.map((x) => -2 * x) }, 'Dates');
};
const schemes = (...list: Scheme[]): Given => ({
	...base,
	id: 'schemes',
	role: 'schemes',
	kind: 'schemes',
	name: 'Schemes',
	state: { schemes: list },
	pack: null
});
const column = (r: Readings, key: string): ArrayLike<number | string> => r.columns.find((c) => c.key === key)!.values;
const rowsOf = (p: Product): Readings => unpackReadings(p.pack);

describe('ages of holes', () => {
	// Alder to 8 Ma, Birch to 20 Ma, then nothing until Cedar at 60 Ma.
	const wells = [
		['A', 0, 10, 'Alder'],
		['A', 10, 40, 'Birch'],
		['A', 40, 60, 'Cedar'],
		['B', 0, 5, 'Alder'],
		['B', 5, 9, 'Alder'],
		['B', 9, 30, 'Granite'],
		['', 1, 2, 'Alder']
	] as const;

	it('come from boundaries with an age in the scheme and from dates, with a place, an error and a rate for each', async () => {
		const made = await run('age-curves', [log(wells), dates([['A', 25, 14]]), schemes(scheme())]);
		const r = rowsOf(made);
		expect(made.report).toMatchObject({ holes: 1, aside: [], without: [{ hole: 'B', why: 'B is dated at one depth only' }] });
		// Neighbours of one name are one run, and hold no boundary.
		expect(Array.from(column(r, 'depth'))).toEqual([10, 25, 40, 40]);
		const ages = Array.from(column(r, 'age')) as number[];
		expect(ages[0]).toBeCloseTo(8, 0);
		expect(ages[1]).toBeCloseTo(14, 0);
		expect(ages[2]).toBeLessThanOrEqual(20 + 2);
		expect(ages[3]).toBeGreaterThanOrEqual(60 - 4);
		expect(Array.from(column(r, 'from'))).toEqual(['boundary', 'sample', 'boundary', 'boundary']);
		const [low, high] = [column(r, 'ageLow'), column(r, 'ageHigh')] as ArrayLike<number>[];
		ages.forEach((a, i) => expect(low![i]! <= a && a <= high![i]!).toBe(true));
		// 15 in some 6 Ma; across the gap there is none.
		expect((column(r, 'rate')[0] as number) / (15 / (ages[1]! - ages[0]!))).toBeCloseTo(1, 0);
		expect(column(r, 'rate')[2]).toBeNaN();
		// On the hole, between the middles of its rows.
		expect([r.x[1], r.y[1], r.z[1]]).toEqual([25, 0, -50]);
		expect(r.x[0]).toBeCloseTo(10, 9);
		expect(r.z[0]).toBeCloseTo(-20, 9);
	});

	it('are told at the rows of a table: that of the middle of an interval, nothing beyond what is dated', async () => {
		const at = log(
			[
				['A', 24, 26, 'x'],
				['A', 0, 2, 'y'],
				['Z', 0, 2, 'z']
			],
			'at',
			'Samples'
		);
		const r = rowsOf(
			await run('age-curves', [
				dates([
					['A', 10, 8],
					['A', 40, 20]
				]),
				schemes(scheme()),
				at
			])
		);
		expect(column(r, 'age')[0]).toBeCloseTo(14, 0);
		expect([column(r, 'age')[1], column(r, 'age')[2]]).toEqual([NaN, NaN]);
		expect(Array.from(column(r, 'code'))).toEqual(['x', 'y', 'z']);
		expect((column(r, 'ageLow')[0] as number) < (column(r, 'ageHigh')[0] as number)).toBe(true);
	});

	it('set aside what contradicts most others, and say so', async () => {
		const own = dates([
			['A', 10, 10],
			['A', 20, 20],
			['A', 25, 300],
			['A', 30, 30]
		]);
		const made = await run('age-curves', [own, schemes(scheme())]);
		expect(made.report['aside']).toEqual([{ hole: 'A', depth: 25, age: 300, name: 'Dates' }]);
		expect(rowsOf(made).rowCount).toBe(3);
	});

	it('take the scheme that is named, and refuse one that is not there', async () => {
		const other: Scheme = { ...scheme(), id: 'o', name: 'Others', units: scheme().units.map((u) => ({ ...u, top: null, base: null })) };
		const first = await run('age-curves', [log(wells), schemes(other, scheme())], { codes: 'code' });
		expect(first.report['words']).toContain('Trees');
		await expect(run('age-curves', [log(wells), schemes(other, scheme())], { codes: 'code', scheme: 'Others' })).rejects.toThrow(
			'no hole is dated'
		);
		await expect(run('age-curves', [log(wells), schemes(scheme())], { codes: 'code', scheme: 'None' })).rejects.toThrow('no scheme "None"');
	});

	it('refuse what dates nothing: no input, a table without ages, columns that are not there, rows on the map', async () => {
		await expect(run('age-curves', [schemes()])).rejects.toThrow('nothing is there that dates holes');
		await expect(run('age-curves', [dates([['A', 1, 1]], 'Gamma'), schemes()])).rejects.toThrow('has no column of ages');
		await expect(run('age-curves', [log(wells), schemes()], { codes: 'Formation' })).rejects.toThrow('no column "Formation"');
		await expect(run('age-curves', [dates([['A', 1, 5]]), schemes()])).rejects.toThrow('no hole is dated at two depths');
		const onMap = table('dates', readings([[0, 0]], [text('hole', ['A']), number('age', [1])]), 'Places');
		await expect(run('age-curves', [onMap, schemes()])).rejects.toThrow('have no depths');
	});
});

describe('the order of the codes of a log', () => {
	const stack = (hole: string, ...codes: string[]) => codes.map((c, i) => [hole, 10 * i, 10 * i + 10, c] as const);

	it('is told with what holes say for and against, and the kinds of contact', async () => {
		const made = await run(
			'order-of-codes',
			[
				log([
					...stack('A', 'Sand', 'Till', 'Chalk'),
					...stack('B', 'Sand', 'Till', 'Chalk'),
					...stack('C', 'Till', 'Sand', 'Chalk'),
					...stack('D', ' Sand ', 'Sand', '')
				])
			],
			{ codes: 'code' }
		);
		const r = rowsOf(made);
		expect(Array.from(column(r, 'code'))).toEqual(['Sand', 'Till', 'Chalk']);
		expect(Array.from(column(r, 'holes'))).toEqual([4, 3, 3]);
		expect(Array.from(column(r, 'length'))).toEqual([50, 30, 30]);
		expect([column(r, 'above')[0], column(r, 'against')[0], column(r, 'contradict')[0]]).toEqual([2, 1, 'C']);
		expect(column(r, 'above')[2]).toBeNaN();
		expect(made.report).toMatchObject({
			codes: 3,
			holes: 4,
			contradicting: 1,
			finding: expect.stringContaining('1 of 4 holes contradict')
		});
	});

	it('refuses a log that says nothing, and codes that are too many', async () => {
		await expect(
			run(
				'order-of-codes',
				[
					log([
						['A', 0, 0, 'x'],
						['A', 1, NaN, 'y']
					])
				],
				{ codes: 'code' }
			)
		).rejects.toThrow('no row of Log has a code');
		const many = Array.from({ length: 500 }, (_, i) => ['A', i, i + 1, `c${i}`] as const);
		await expect(run('order-of-codes', [log(many)], { codes: 'code' })).rejects.toThrow('500 codes are more than 400');
	});
});
