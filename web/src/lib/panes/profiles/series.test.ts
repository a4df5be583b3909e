import { describe, expect, it } from 'vitest';
import { dataSetOfReadings } from '#core/datasets/readings';
import { axisColumns, bandsOf, lineColumns, nearestStation, proposeSeries, seriesOf, triedStep, withLost } from './series';

const set = dataSetOfReadings(
	{
		rowCount: 6,
		row: Uint32Array.of(0, 1, 2, 3, 4, 5),
		x: Float64Array.of(0, 10, 20, 0, 10, NaN),
		y: Float64Array.of(0, 0, 0, 50, 50, 50),
		z: new Float64Array(6),
		columns: [
			{ key: 'line', label: 'Line', type: 'text', values: ['A', 'A', 'A', 'B', 'B', 'B'] },
			{ key: 'T', label: 'T', type: 'number', unit: 'nT', values: Float64Array.of(1, 2, 3, 10, NaN, 12) },
			{ key: 'T_smoothed', label: 'T_smoothed', type: 'number', unit: 'nT', values: Float64Array.of(1, 2, 3, 10, 11, 12) }
		]
	},
	'x',
	'Stations'
);

describe('profiles', () => {
	it('are proposed by line, along the way, with the first and the last column', () => {
		expect(proposeSeries(set)).toEqual({ by: 'line', x: 'along', y: ['T', 'T_smoothed'] });
		expect(lineColumns(set).map((c) => c.key)).toEqual(['line']);
		expect(axisColumns(set).map((c) => c.key)).toEqual(['along', 'T', 'T_smoothed']);
	});
	it('are lines with their way, stacked in bands, the first at the top', () => {
		const s = seriesOf(set, null, { by: 'line', x: 'along', y: ['T'] });
		expect(s.map((l) => [l.name, [...l.x]])).toEqual([
			['A', [0, 10, 20]],
			['B', [0, 10, 10]]
		]);
		const bands = bandsOf(s);
		expect(bands.height).toBeCloseTo(2.2, 9);
		expect(bands.shift[0]! + bands.middle[0]!).toBeGreaterThan(bands.shift[1]! + bands.middle[1]!);
	});
	it('without a column of lines are one line, and by a column they are in its order', () => {
		expect(seriesOf(set, null, { by: '', x: 'along', y: ['T'] })).toHaveLength(1);
		const [byValue] = seriesOf(set, null, { by: '', x: 'T', y: ['T_smoothed'] });
		expect([...byValue!.x]).toEqual([1, 2, 3, 10, 12]);
	});
	it('know the station nearest to a place', () => {
		const s = seriesOf(set, null, { by: 'line', x: 'along', y: ['T'] });
		expect(nearestStation(set, s, 11, 48)).toMatchObject({ line: 1, station: 1 });
		expect(nearestStation(set, [], 0, 0)).toBeNull();
	});
	it('show a step that is tried on these rows, with a mark where it takes a value out; another set of rows is none', () => {
		const plain = { ...set, columns: set.columns.slice(0, 2) };
		expect(triedStep(plain, set)).toEqual(['T', 'T_smoothed']);
		expect(triedStep(set, set)).toBeNull();
		expect(triedStep({ ...plain, rowCount: 5 }, set)).toBeNull();
		expect(triedStep({ ...plain, columns: [...plain.columns].map((c) => ({ ...c, key: `other_${c.key}` })) }, set)).toBeNull();
		const lost = withLost(seriesOf(set, null, { by: 'line', x: 'along', y: ['T_smoothed', 'T'] }));
		expect(lost.map((s) => [...s.outlier!])).toEqual([
			[0, 0, 0],
			[0, 1, 0]
		]);
	});
	it('mark levels that stand out when the axis is time', () => {
		const days = Float64Array.from({ length: 12 }, (_, i) => 20_000 + 30 * i);
		const levels = dataSetOfReadings(
			{
				rowCount: 12,
				row: Uint32Array.from(days, (_, i) => i),
				x: new Float64Array(12),
				y: new Float64Array(12),
				z: new Float64Array(12),
				columns: [
					{ key: 'well', label: 'Well', type: 'text', values: Array.from(days, () => 'W') },
					{ key: 'date', label: 'Date', type: 'date', unit: '', values: days },
					{
						key: 'depth',
						label: 'Depth',
						type: 'number',
						unit: 'm',
						values: Float64Array.from(days, (_, i) => (i === 5 ? 80 : 8 + 0.1 * (i % 3)))
					}
				]
			},
			'x',
			'Levels'
		);
		const [well] = seriesOf(levels, null, { by: 'well', x: 'date', y: ['depth'] }, { threshold: 6, least: 0.5 });
		expect([...well!.outlier!].flatMap((o, k) => (o ? [k] : []))).toEqual([5]);
	});
});
