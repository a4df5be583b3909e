import { describe, expect, it } from 'vitest';
import { painter } from '#core/styles/style';
import { proposedStyle, unitDefaults } from '#core/styles/propose';
import { classes, dataSet, numbers, workspaceOf } from '../for-tests';
import { CHART_KINDS, chartOf, type ChartParts } from './configurations';

const set = dataSet('Assays', {
	kind: 'assays',
	rowCount: 4,
	row: Uint32Array.of(10, 11, 12, 13),
	hole: Uint32Array.of(0, 0, 1, 1),
	from: Float32Array.of(0, 10, 0, 10),
	to: Float32Array.of(10, 20, 10, 20),
	columns: [numbers('Cu', [1, 2, 3, 10]), numbers('Zn', [2, 4, 6, 20]), classes('code', ['A', 'A', 'B', ''])]
});
const extent = { minX: 0, minY: 0, minZ: 0, maxX: 1000, maxY: 1000, maxZ: 100 };
const defaults = unitDefaults([], {});
const style = proposedStyle(set, extent);
const parts = (more: Partial<ChartParts> = {}): ChartParts => ({
	set,
	style,
	painter: painter(set, style, defaults),
	defaults,
	x: set.columns[0] as ChartParts['x'],
	y: set.columns[1] as ChartParts['y'],
	by: set.columns[2]!,
	rows: [0, 1, 2, 3],
	chosen: new Set(),
	log: false,
	logY: false,
	bins: 3,
	paths: workspaceOf([set]).sets.paths,
	holes: new Set(),
	lengthUnit: 'm',
	...more
});

describe('charts', () => {
	it('of each kind are drawn, with every row behind them once', () => {
		for (const { id } of CHART_KINDS) {
			const made = chartOf(id, parts());
			expect(made.configuration, id).not.toBeNull();
			expect(made.note, id).not.toBe('');
			expect(made.behind.flat().sort(), id).toEqual([10, 11, 12, 13]);
		}
	});
	it('a histogram counts what is selected apart, in the same bars', () => {
		const made = chartOf('histogram', parts({ chosen: new Set([10, 13]) }));
		const [rest, selected] = made.configuration!.data.datasets.map((d) => d.data as number[]);
		expect(rest!.map((n, i) => n + selected![i]!)).toEqual([3, 0, 1]);
		expect(selected).toEqual([1, 0, 1]);
		expect([made.grouped, made.behind]).toEqual([true, [[10, 11, 12], [], [13]]]);
	});
	it('a scatter has its line, and pairs only what has both values', () => {
		const made = chartOf('scatter', parts());
		expect(made.note).toContain('4 pairs, correlation 1.000');
		const gap = { ...(set.columns[1] as ChartParts['x']), values: Float32Array.of(2, NaN, 6, 20) };
		expect(chartOf('scatter', parts({ y: gap })).behind).toEqual([[10, 12, 13]]);
		expect(chartOf('scatter', parts({ y: null })).configuration).toBeNull();
	});
	it('boxes stand by class, rows without one apart', () => {
		const made = chartOf('box', parts());
		expect(made.configuration!.data.labels).toEqual(['A (2)', 'B (1)', 'none (1)']);
		expect(chartOf('box', parts({ by: null })).note).toContain('no column of classes');
	});
	it('down the hole there is one line a hole, or only those of the selected ones', () => {
		expect(chartOf('downhole', parts()).configuration!.data.datasets.map((d) => d.label)).toEqual(['H1', 'H2']);
		expect(chartOf('downhole', parts({ holes: new Set(['H2']) })).behind).toEqual([[12, 13]]);
		expect(chartOf('downhole', parts({ set: { ...set, place: 'map' } })).configuration).toBeNull();
	});
	it('of nothing are none, and of a kind that nobody knows a histogram', () => {
		expect(chartOf('scatter', parts({ rows: [] })).configuration).toBeNull();
		expect(chartOf('pie in the sky', parts()).configuration!.type).toBe('bar');
	});
});
