import { COPPER, DRAWN, GREEN, HELD, INK, MOSS, NOTED, BLANK } from '#core/palette';
import { NO_CLASS, titleOf, type Column, type DataSet, type NumberColumn } from '#core/datasets/dataset';
import type { HolePaths } from '#core/datasets/hole-paths';
import { regression } from '#core/statistics/regression';
import { histogramOf, sortedValues, statisticsOf } from '#core/statistics/spread';
import { classStyle, orderedClasses, type DataStyle, type Painter } from '#core/styles/style';
import { spaced } from '$lib/ui/numbers';
import type { ChartConfiguration } from './chart';

/** What a chart is made of. */
export interface ChartParts {
	set: DataSet;
	style: DataStyle;
	painter: Painter;
	defaults: Parameters<typeof classStyle>[3];
	x: NumberColumn;
	y: NumberColumn | null;
	by: Column | null;
	/** Rows of the data set that the style shows, with a value. */
	rows: readonly number[];
	/** Rows of the table that are selected. */
	chosen: ReadonlySet<number>;
	log: boolean;
	logY: boolean;
	bins: number;
	paths: HolePaths | null;
	/** Holes that are selected; all when there are none. */
	holes: ReadonlySet<string>;
	lengthUnit: string;
}

/** A chart, or why there is none; with what it says in words. */
interface MadeChart {
	configuration: ChartConfiguration | null;
	note: string;
	/** Rows of the table behind its elements: of bars and boxes by index, of points by dataset, then by index. */
	behind: number[][];
	/** Every element stands for many rows. */
	grouped: boolean;
}

/** More points than these are thinned evenly for drawing; statistics take all. */
const MOST_POINTS = 15_000;
const AZURITE = DRAWN;

export const short = (v: number): string => (Number.isFinite(v) ? String(Number(v.toPrecision(4))) : '–');
const none = (note: string): MadeChart => ({ configuration: null, note, behind: [], grouped: false });
const axis = (text: string, log: boolean) => ({
	type: (log ? 'logarithmic' : 'linear') as 'logarithmic',
	title: { display: true, text }
});

function rgba(hex: string, a: number): string {
	const v = Number.parseInt(hex.slice(1), 16);
	return `rgba(${v >> 16},${(v >> 8) & 255},${v & 255},${a})`;
}
const thinned = (list: number[]) =>
	list.length <= MOST_POINTS
		? list
		: list.filter((_, k) => Math.floor((k * MOST_POINTS) / list.length) !== Math.floor(((k - 1) * MOST_POINTS) / list.length));

function histogram({ set, style, painter, x, rows, chosen, log, bins }: ChartParts): MadeChart {
	const sorted = sortedValues(rows.map((i) => x.values[i]!));
	const h = histogramOf(sorted, bins, { log: log });
	const binOf = (v: number) => {
		let b = 0;
		while (b + 1 < h.counts.length && v >= h.limits[b + 1]!) b++;
		return b;
	};
	const behind: number[][] = h.counts.map(() => []);
	const inSelection = h.counts.map(() => 0);
	for (const i of rows) {
		const b = binOf(x.values[i]!);
		behind[b]!.push(set.row[i]!);
		if (chosen.has(set.row[i]!)) inSelection[b]!++;
	}
	const s = statisticsOf(sorted);
	const note = `${spaced(s.count)} values, mean ${short(s.mean)}, median ${short(s.median)}, standard deviation ${short(s.deviation)}`;
	const scale = painter.scale && style.by === x.key ? painter.scale : null;
	const colors = h.limits.slice(0, -1).map((l, b) => (scale ? scale.color((l + h.limits[b + 1]!) / 2) : GREEN));
	const configuration = {
		type: 'bar',
		data: {
			labels: h.counts.map((_, b) => `${short(h.limits[b]!)} – ${short(h.limits[b + 1]!)}`),
			datasets: [
				{
					label: 'rows',
					data: h.counts.map((n, b) => n - inSelection[b]!),
					backgroundColor: colors,
					stack: 'a',
					categoryPercentage: 1,
					barPercentage: 0.96
				},
				{ label: 'selected', data: inSelection, backgroundColor: AZURITE, stack: 'a', categoryPercentage: 1, barPercentage: 0.96 }
			]
		},
		options: {
			scales: {
				// The bars stand on classes; the axis below them carries numbers, at round places.
				x: { stacked: true, display: false },
				edges: {
					...axis(titleOf(x), log),
					axis: 'x',
					position: 'bottom',
					min: h.limits[0]!,
					max: h.limits[h.limits.length - 1]!,
					grid: { drawOnChartArea: false }
				},
				y: { stacked: true, title: { display: true, text: 'rows' } }
			}
		}
	} as unknown as ChartConfiguration;
	return { configuration, note, behind, grouped: true };
}

function cumulative({ set, painter, x, rows, chosen, log }: ChartParts): MadeChart {
	const order = [...rows].sort((a, b) => x.values[a]! - x.values[b]!);
	const list = thinned(order);
	const rank = new Map(order.map((i, k) => [i, (100 * (k + 0.5)) / order.length]));
	const behind: number[][] = [list.map((i) => set.row[i]!)];
	const note = `${spaced(order.length)} values${list.length < order.length ? `, ${spaced(list.length)} of them drawn` : ''}`;
	const configuration = {
		type: 'scatter',
		data: {
			datasets: [
				{
					label: titleOf(x),
					data: list.map((i) => ({ x: x.values[i]!, y: rank.get(i)! })),
					backgroundColor: list.map((i) => (chosen.has(set.row[i]!) ? AZURITE : painter.css(i))),
					pointRadius: list.map((i) => (chosen.has(set.row[i]!) ? 4 : 2.2)),
					borderWidth: 0
				}
			]
		},
		options: {
			scales: { x: axis(titleOf(x), log), y: { min: 0, max: 100, title: { display: true, text: 'share of values below, %' } } }
		}
	} as unknown as ChartConfiguration;
	return { configuration, note, behind, grouped: false };
}

function scatter({ set, painter, x, y, rows, chosen, log, logY }: ChartParts): MadeChart {
	if (!y) return none('Choose a column for the other axis.');
	const both = rows.filter((i) => !Number.isNaN(y.values[i]!) && (!logY || y.values[i]! > 0));
	const list = thinned(both);
	const behind: number[][] = [list.map((i) => set.row[i]!)];
	const [tx, ty] = [log ? Math.log10 : (v: number) => v, logY ? Math.log10 : (v: number) => v];
	const line = regression(
		both.map((i) => tx(x.values[i]!)),
		both.map((i) => ty(y.values[i]!))
	);
	const sorted = sortedValues(both.map((i) => tx(x.values[i]!)));
	const ends = line
		? [sorted[0]!, sorted[sorted.length - 1]!].map((v) => ({
				x: log ? 10 ** v : v,
				y: logY ? 10 ** (line.intercept + line.slope * v) : line.intercept + line.slope * v
			}))
		: [];
	const note = line
		? `${spaced(line.count)} pairs, correlation ${line.correlation.toFixed(3)}, ${logY ? 'log ' : ''}${y.label} = ${short(line.intercept)} ${line.slope < 0 ? '−' : '+'} ${short(Math.abs(line.slope))} · ${log ? 'log ' : ''}${x.label}`
		: `${spaced(both.length)} pairs: no line fits`;
	const configuration = {
		type: 'scatter',
		data: {
			datasets: [
				{
					label: 'rows',
					data: list.map((i) => ({ x: x.values[i]!, y: y.values[i]! })),
					backgroundColor: list.map((i) => (chosen.has(set.row[i]!) ? AZURITE : rgba(painter.css(i), 0.75))),
					pointRadius: list.map((i) => (chosen.has(set.row[i]!) ? 5 : 3)),
					borderWidth: 0
				},
				{ label: 'regression', data: ends, type: 'line' as const, borderColor: COPPER, borderWidth: 1.5, pointRadius: 0 } as never
			]
		},
		options: { scales: { x: axis(titleOf(x), log), y: axis(titleOf(y), logY) } }
	} as unknown as ChartConfiguration;
	return { configuration, note, behind, grouped: false };
}

function boxes({ set, style, defaults, x, by, rows, log }: ChartParts): MadeChart {
	if (by?.type !== 'category') return none('This table has no column of classes.');
	const groups = new Map<string, number[]>();
	for (const i of rows) {
		const c = by.values[i]!;
		const name = c === NO_CLASS ? 'none' : by.categories[c]!;
		const list = groups.get(name);
		if (list) list.push(i);
		else groups.set(name, [i]);
	}
	const names = [...orderedClasses(by, style).filter((c) => groups.has(c)), ...(groups.has('none') ? ['none'] : [])].slice(0, 40);
	const behind: number[][] = names.map((n) => groups.get(n)!.map((i) => set.row[i]!));
	const note = `${names.length} classes${groups.size > 40 ? ` of ${groups.size}` : ''}; boxes from quarter to three quarters, whiskers to 1.5 box heights`;
	const colors = names.map((n) => (n === 'none' ? BLANK : classStyle(by, n, style, defaults).color));
	const configuration = {
		type: 'boxplot',
		data: {
			labels: names.map((n) => `${n} (${groups.get(n)!.length})`),
			datasets: [
				{
					label: titleOf(x),
					data: names.map((n) => groups.get(n)!.map((i) => x.values[i]!)),
					backgroundColor: colors.map((c) => rgba(c, 0.75)),
					borderColor: INK,
					borderWidth: 1,
					outlierRadius: 2,
					itemRadius: 0
				}
			]
		},
		options: { scales: { y: axis(titleOf(x), log), x: { title: { display: true, text: by.label } } } }
	} as unknown as ChartConfiguration;
	return { configuration, note, behind, grouped: true };
}

function downhole({ set, x, rows, log, paths, holes: selectedHoles, lengthUnit }: ChartParts): MadeChart {
	if (set.place === 'map' || set.place === 'hole' || !paths) return none('Rows of this table have no depth along a hole.');
	const byHole = new Map<number, number[]>();
	for (const i of rows)
		if (selectedHoles.size === 0 || selectedHoles.has(paths.holes[set.hole[i]!]!.name))
			byHole.set(set.hole[i]!, [...(byHole.get(set.hole[i]!) ?? []), i]);
	const list = [...byHole].slice(0, 12);
	const behind: number[][] = list.map(([, own]) => own.map((i) => set.row[i]!));
	const note = `${list.length} holes${byHole.size > list.length ? ` of ${byHole.size}; select some to see them` : ''}`;
	const inks = [GREEN, COPPER, DRAWN, HELD, NOTED, MOSS];
	const configuration = {
		type: 'scatter',
		data: {
			datasets: list.map(([h, own], k) => ({
				label: paths.holes[h]!.name,
				showLine: true,
				data: own.sort((a, b) => set.from[a]! - set.from[b]!).map((i) => ({ x: x.values[i]!, y: (set.from[i]! + set.to[i]!) / 2 })),
				borderColor: inks[k % inks.length]!,
				backgroundColor: inks[k % inks.length]!,
				borderWidth: 1.2,
				pointRadius: 1.6
			}))
		},
		options: {
			plugins: { legend: { display: list.length > 1 } },
			scales: {
				x: axis(titleOf(x), log),
				y: { reverse: true, title: { display: true, text: `depth, ${lengthUnit}` } }
			}
		}
	} as unknown as ChartConfiguration;
	return { configuration, note, behind, grouped: false };
}

const MAKERS: Readonly<Record<string, (parts: ChartParts) => MadeChart>> = { histogram, cumulative, scatter, box: boxes, downhole };
export const CHART_KINDS = [
	{ id: 'histogram', label: 'Histogram' },
	{ id: 'cumulative', label: 'Cumulative' },
	{ id: 'scatter', label: 'Scatter' },
	{ id: 'box', label: 'Box by class' },
	{ id: 'downhole', label: 'Down the hole' }
];

/** The chart of a kind; of one that nobody knows a histogram. */
export const chartOf = (kind: string, parts: ChartParts): MadeChart =>
	parts.rows.length === 0 ? none('') : (MAKERS[kind] ?? histogram)(parts);
