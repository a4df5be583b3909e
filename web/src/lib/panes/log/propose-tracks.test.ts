import { expect, it } from 'vitest';
import { classes, dataSet, numbers, workspaceOf } from '../for-tests';
import { inkOf, plainTrack, proposeTracks } from './propose-tracks';

const logs = dataSet('Logs', {
	columns: [classes('unit', ['A', 'B', 'A']), classes('code', ['a1', 'b1', 'a2'])],
	texts: [{ key: 'description', label: 'Description' }]
});
const assays = dataSet('Assays', { columns: [numbers('Cu', [1, 100, 900], 'ppm'), numbers('Fe', [10, 12, 14], '%')] });
const gamma = dataSet('Gamma', { kind: 'readings', place: 'depth', columns: [numbers('GR', [40, 60, 90], 'API')] });
const planes = dataSet('Planes', { kind: 'holeOrientations', place: 'depth', columns: [numbers('dip', [10, 20, 30], '°')] });
const water = dataSet('Water', { kind: 'levels', place: 'depth', columns: [numbers('waterDepth', [3, 4, 5], 'm')] });
const kinds = (sets: Parameters<typeof workspaceOf>[0], more: Parameters<typeof workspaceOf>[1] = {}) =>
	proposeTracks(workspaceOf(sets, more)).map((t) => `${t.kind} ${t.series.map((s) => s.column).join()}`.trim());

it('a log begins with its depths, and without data has nothing else', () => {
	expect(kinds([])).toEqual(['axis']);
	expect(kinds([dataSet('Collars', { kind: 'collars', place: 'map' }), dataSet('Stations', { kind: 'stations', place: 'map' })])).toEqual([
		'axis'
	]);
});

it('a log of units has units, then codes, then descriptions', () => {
	expect(kinds([logs])).toEqual(['axis', 'classes unit', 'classes code', 'text description']);
	expect(kinds([dataSet('Codes', { columns: [classes('code', ['a', 'b', 'c'])] })])).toEqual(['axis', 'classes code']);
});

it('numbers over intervals are bars, at depths curves; planes and water have tracks of their own', () => {
	expect(kinds([assays, gamma, planes, water])).toEqual(['axis', 'bars Cu', 'bars Fe', 'curves GR', 'tadpoles dip', 'levels waterDepth']);
});

it('photographs of core stand beside the units, and only where there are some', () => {
	expect(kinds([logs], { things: [{ kind: 'picture', core: { hole: 'H1' } }] })).toEqual([
		'axis',
		'classes unit',
		'photographs',
		'classes code',
		'text description'
	]);
	expect(kinds([logs], { things: [{ kind: 'picture', core: null }, { kind: 'grid' }] })).not.toContain('photographs');
});

it('there are about as many tracks as a page holds', () => {
	const wide = (id: string) => dataSet(id, { columns: Array.from({ length: 9 }, (_, i) => numbers(`${id}${i}`, [1, 2, 3])) });
	const tracks = kinds([wide('a'), wide('b'), wide('c'), wide('d')]);
	expect(tracks.filter((t) => t.startsWith('bars a'))).toHaveLength(4);
	expect(tracks.length).toBe(9);
});

it('series have inks of their own, in turn', () => {
	const inks = proposeTracks(workspaceOf([assays, gamma]))
		.slice(1)
		.flatMap((t) => t.series.map((s) => s.color));
	expect(new Set(inks).size).toBe(3);
	expect(inkOf(6)).toBe(inkOf(0));
	expect(plainTrack('axis', 11)).toEqual({ kind: 'axis', width: 11, series: [], log: false, range: [null, null], fill: 'none' });
});
