import { describe, expect, it } from 'vitest';
import { curveOptions, logOptions, newTie, proposeDates, withMovedEnds, type ReadTable } from './choices';

const table = (id: string, mapping: Record<string, string>, kind = 'intervals'): ReadTable => ({ id, name: id, state: { kind, mapping } });
const TABLES = [
	table('collars', { Hole: 'hole', X: 'easting', Remark: 'keep' }, 'collars'),
	table('log', { Hole: 'hole', From: 'from', To: 'to', Lith: 'code', Shift: 'keep' }),
	table('tops', { Well: 'hole', Top: 'from', Base: 'to', Formation: 'keep', AgeTop_Ma: 'value', AgeError_Ma: 'value' }, 'other'),
	table('zones', { Well: 'hole', Depth: 'depth', AgeFrom_Ma: 'value', AgeTo_Ma: 'value' }, 'other'),
	table('gamma', { Well: 'hole', Depth: 'depth', GR: 'value', Average: 'value' }, 'readings'),
	table('dates', { Well: 'hole', Depth: 'depth', Age: 'value', Sd: 'value', Young: 'value', Old: 'value' }, 'readings'),
	table('survey', { Well: 'hole', Depth: 'depth', Azi: 'azimuth' }, 'surveys')
];

describe('what can be correlated', () => {
	it('are columns of words along holes, of the table that is shown first', () => {
		expect(logOptions(TABLES, 'tops', true).map((o) => o.key)).toEqual(['tops Formation', 'log unit', 'log code', 'log Shift']);
		expect(logOptions(TABLES, null, true)[0]).toEqual({ key: 'log unit', table: 'log', column: 'unit', name: 'log: unit' });
		expect(logOptions(TABLES, null, false)[0]!.key).toBe('log code');
		expect(logOptions([], null, true)).toEqual([]);
	});
	it('are curves of numbers, but not ages', () => {
		expect(curveOptions(TABLES).map((o) => o.key)).toEqual(['gamma GR', 'gamma Average', 'dates Sd', 'dates Young', 'dates Old']);
	});
	it('is dated by columns with ages, their errors, and ranges', () => {
		expect(proposeDates(TABLES)).toEqual([
			{ table: 'tops', age: 'AgeTop_Ma', error: 'AgeError_Ma' },
			{ table: 'zones', low: 'AgeFrom_Ma', high: 'AgeTo_Ma' },
			{ table: 'dates', age: 'Age', error: 'Sd', low: 'Young', high: 'Old' }
		]);
	});
});

describe('ties', () => {
	it('get ids that no other has, and depths to the millimetre', () => {
		const a = newTie([], { hole: 'A', depth: 10.00049 }, { hole: 'B', depth: 2 }, 'x');
		expect(a).toEqual({ id: 'tie-1', name: 'x', kind: 'certain', a: { hole: 'A', depth: 10 }, b: { hole: 'B', depth: 2 } });
		expect(newTie([{ id: 'tie-2' }], a.a, a.b, '').id).toBe('tie-3');
	});
	it('follow a boundary that is moved, and no other', () => {
		const ties = [
			newTie([], { hole: 'A', depth: 10 }, { hole: 'B', depth: 2 }, ''),
			newTie([{ id: 'tie-1' }], { hole: 'B', depth: 10 }, { hole: 'A', depth: 11 }, '')
		];
		const moved = withMovedEnds(ties, 'A', 10, 12.5);
		expect(moved[0]!.a.depth).toBe(12.5);
		expect(moved[1]).toEqual(ties[1]);
	});
});
