import { describe, expect, it } from 'vitest';
import { ProblemError } from '../problem';
import { addCalculated, calculate, validateCalculated } from './calculated';
import { cellOfNumber, chooseRows, statisticsOfColumn } from './choose';
import { readDelimited } from './delimited';
import { guessMapping } from './mapping';
import { readTable } from './table';

const raw = readDelimited(
	new TextEncoder().encode('hole,from,to,Cu_ppm,Rock\nA10,0,1,5,Granite\nA2,1,2,,skarn\nA1,2,3,50,Granite\nA2,3,5,7,\n'),
	'a.csv'
);
const mapping = { ...guessMapping(raw, 'assays'), Rock: 'keep' };
const table = (calculated: { name: string; expression: string }[] = []) => readTable('a', 'assays', raw, mapping, { calculated });
const rows = (query: Parameters<typeof chooseRows>[2], t = table()) => [...chooseRows(raw, t, query, 'm', {})];
const kindOf = (act: () => unknown): string => {
	try {
		act();
	} catch (error) {
		if (error instanceof ProblemError) return error.problem.kind;
		throw error;
	}
	return 'none';
};

describe('rows', () => {
	it('are sorted by value, those without last either way', () => {
		expect(rows({ sort: 'Cu_ppm' })).toEqual([0, 3, 2, 1]);
		expect(rows({ sort: 'Cu_ppm', descending: true })).toEqual([2, 3, 0, 1]);
		expect(rows({ sort: 'Rock' })).toEqual([0, 2, 1, 3]);
	});
	it('are sorted by names as people count, and equal ones stay in order', () => {
		expect(rows({ sort: 'hole' })).toEqual([2, 1, 3, 0]);
		expect(rows({ sort: 'hole', descending: true })).toEqual([0, 1, 3, 2]);
	});
	it('are chosen by an expression and by a text in any cell', () => {
		expect(rows({ filter: "Cu_ppm > 5 or Rock = 'skarn'" })).toEqual([1, 2, 3]);
		expect(rows({ filter: 'to - from > 1' })).toEqual([3]);
		expect(rows({ find: 'GRAN' })).toEqual([0, 2]);
		expect(rows({ filter: 'Cu_ppm > 0', find: 'a2', sort: 'from', descending: true })).toEqual([3]);
	});
	it('of a filter that is none, or a column that is not there, say so', () => {
		expect(kindOf(() => rows({ filter: 'Cu_ppm' }))).toBe('not-a-filter');
		expect(kindOf(() => rows({ filter: 'Au > 1' }))).toBe('unknown-column');
		expect(kindOf(() => rows({ sort: 'Au' }))).toBe('unknown-column');
	});
});

describe('statistics of a column', () => {
	const of = (column: string, which = [0, 1, 2, 3]) => statisticsOfColumn(raw, table(), Uint32Array.from(which), column);
	it('are of the rows in use that were chosen', () => {
		expect(of('Cu_ppm')).toMatchObject({ rows: 4, missing: 1, different: 3, numbers: { count: 3, median: 7, least: 5, greatest: 50 } });
		expect(of('Cu_ppm', [0, 3]).numbers!.mean).toBe(6);
	});
	it('of text count its classes', () => {
		expect(of('Rock')).toMatchObject({
			missing: 1,
			different: 2,
			classes: [
				{ name: 'Granite', count: 2 },
				{ name: 'skarn', count: 1 }
			]
		});
		expect(kindOf(() => of('nothing'))).toBe('unknown-column');
	});
});

describe('calculated columns', () => {
	it('follow from others, in turn, with their unit', () => {
		const t = table([
			{ name: 'length', expression: 'to - from' },
			{ name: 'metal', expression: 'Cu_ppm * length' },
			{ name: 'rich', expression: 'Cu_ppm > 6' }
		]);
		expect([...t.numbers['length']!]).toEqual([1, 1, 1, 2]);
		expect([...t.numbers['metal']!]).toEqual([5, NaN, 50, 14]);
		expect(t.text['rich']).toEqual(['no', 'no', 'yes', 'yes']);
		expect(t.calculated).toMatchObject({ length: { unit: 'm' }, metal: { unit: 'ppm·m' } });
		expect(rows({ sort: 'metal', descending: true }, t)).toEqual([2, 3, 0, 1]);
	});
	it('that can not be worked out any more stay, empty, and say why', () => {
		const t = table([
			{ name: 'x', expression: 'gone + 1' },
			{ name: 'y', expression: 'to' }
		]);
		expect(t.calculated!['x']!.problem).toContain('gone');
		expect([...t.numbers['x']!].every(Number.isNaN)).toBe(true);
		expect([...t.numbers['y']!]).toEqual([1, 2, 3, 5]);
	});
	it('are refused with a name that is taken or an expression that is wrong', () => {
		const check = (list: { name: string; expression: string }[]) => kindOf(() => validateCalculated(table(), raw.header, list, 'm', {}));
		expect(check([{ name: 'Cu_ppm', expression: '1' }])).toBe('name-taken');
		expect(
			check([
				{ name: 'a', expression: '1' },
				{ name: 'a', expression: '2' }
			])
		).toBe('name-taken');
		expect(check([{ name: ' ', expression: '1' }])).toBe('no-name');
		expect(check([{ name: 'a', expression: 'Cu_ppm + from' }])).toBe('units-differ');
		expect(check(Array.from({ length: 51 }, (_, i) => ({ name: `c${i}`, expression: '1' })))).toBe('too-many-columns');
		expect(
			check([
				{ name: 'a', expression: 'b' },
				{ name: 'b', expression: '1' }
			])
		).toBe('unknown-column');
		// Checking leaves the table as it is.
		const t = table([{ name: 'length', expression: 'to - from' }]);
		validateCalculated(t, raw.header, [{ name: 'other', expression: '1' }], 'm', {});
		expect(Object.keys(t.calculated!)).toEqual(['length']);
		addCalculated(t, [], 'm', {});
		expect(t.calculated).toEqual({});
	});
	it('numbers are shown with the digits that mean something', () => {
		expect([0.1 + 0.2, 1e9, NaN, 5, 1 / 3].map(cellOfNumber)).toEqual(['0.3', '1000000000', '', '5', '0.3333333']);
		expect(calculate(table(), '1 / 0', 'm', {}).values[0]).toBe(Infinity);
	});
});
