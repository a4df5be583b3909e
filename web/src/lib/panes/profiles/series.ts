import { NO_CLASS, columnOf, numberOf, type DataSet } from '#core/datasets/dataset';
import type { HolePaths } from '#core/datasets/hole-paths';
import { hydrographs, type OutlierRule } from '#core/water/levels';

/** One line of a profile: a survey line, or a well. */
export interface Series {
	name: string;
	/** Rows of the data set in their order. */
	rows: number[];
	x: Float64Array;
	/** By column. */
	y: Float64Array[];
	/** Rows that stand out from those before and after; only of levels by time. */
	outlier: Uint8Array | null;
}

/** Text columns that lines can be told apart by. */
export const lineColumns = (set: DataSet): { key: string; label: string }[] => [
	...(set.place === 'map' ? [] : [{ key: 'hole', label: 'Hole' }]),
	...set.columns.flatMap((c) => (c.type === 'category' ? [{ key: c.key, label: c.label }] : []))
];

/** What can stand along the axis: the way along the line, or a column. */
export const axisColumns = (set: DataSet): { key: string; label: string }[] => [
	...(set.place === 'map' ? [{ key: 'along', label: 'Way along the line' }] : []),
	...set.columns.flatMap((c) => (c.type === 'category' ? [] : [{ key: c.key, label: c.label }]))
];

/** First choices that suit a data set: lines by their name, levels by well and day, profiles by their distance. */
export function proposeSeries(set: DataSet): { by: string; x: string; y: string[] } {
	const has = (key: string) => columnOf(set, key) !== null;
	const lines = lineColumns(set);
	const by = lines.find((c) => c.key === 'line')?.key ?? lines.find((c) => c.key === 'hole' || c.key === 'well')?.key ?? '';
	const isLevels = set.kind === 'levels';
	const x =
		isLevels && has('date') ? 'date' : has('distance') ? 'distance' : set.place === 'map' ? 'along' : (axisColumns(set)[0]?.key ?? '');
	const taken = new Set(['date', 'distance', 'elevation', x]);
	const numbers = set.columns.filter((c) => c.type === 'number' && !taken.has(c.key)).map((c) => c.key);
	// The newest step of a survey is the last column.
	return { by, x, y: numbers.length > 2 ? [numbers[0]!, numbers[numbers.length - 1]!] : numbers.slice(0, 2) };
}

/**
 * Lines of a data set, each with its stations in order.
 * @param by column that tells lines apart, `hole`, or '' for one line
 * @param x `along`, or a column
 * @param rule marks readings that stand out, where the axis is time
 */
export function seriesOf(
	set: DataSet,
	paths: HolePaths | null,
	{ by, x, y }: { by: string; x: string; y: readonly string[] },
	rule: OutlierRule | null = null
): Series[] {
	const groups = new Map<string, number[]>();
	const category = by && by !== 'hole' ? columnOf(set, by) : null;
	const nameOf = (i: number): string => {
		if (by === 'hole') return paths?.holes[set.hole[i]!]?.name ?? '';
		if (category?.type !== 'category') return '';
		return category.values[i] === NO_CLASS ? '' : category.categories[category.values[i]!]!;
	};
	for (let i = 0; i < set.rowCount; i++) {
		const name = nameOf(i);
		const list = groups.get(name);
		if (list) list.push(i);
		else groups.set(name, [i]);
	}
	const date = numberOf(set, 'date');
	const axis = x === 'along' ? null : numberOf(set, x);
	const columns = y.flatMap((key) => numberOf(set, key) ?? []);
	return [...groups].flatMap(([name, rows]) => {
		const order = axis ?? date;
		if (order && rows.every((i) => Number.isFinite(order.values[i]!))) rows.sort((a, b) => order.values[a]! - order.values[b]! || a - b);
		const used = axis ? rows.filter((i) => Number.isFinite(axis.values[i]!)) : rows;
		if (used.length === 0) return [];
		const at = new Float64Array(used.length);
		if (axis) used.forEach((i, k) => (at[k] = axis.values[i]!));
		else
			for (let k = 1; k < used.length; k++) {
				const [a, b] = [3 * used[k - 1]!, 3 * used[k]!];
				const step = Math.hypot(set.xyz[b]! - set.xyz[a]!, set.xyz[b + 1]! - set.xyz[a + 1]!);
				at[k] = at[k - 1]! + (Number.isFinite(step) ? step : 0);
			}
		const values = columns.map((c) => Float64Array.from(used, (i) => c.values[i]!));
		let outlier: Uint8Array | null = null;
		if (rule && axis?.type === 'date' && values[0]) {
			outlier = new Uint8Array(used.length);
			for (const h of hydrographs(
				used.map(() => name),
				at,
				values[0],
				rule
			))
				h.rows.forEach((k, n) => (outlier![k] = h.outlier[n]!));
		}
		return [{ name, rows: used, x: at, y: values, outlier }];
	});
}

/** What lines are moved up by so that each has a band of its own, the first at the top; and how high a band is. */
export function bandsOf(series: readonly Series[]): { height: number; shift: number[]; middle: number[] } {
	const ranges = series.map((s) => {
		const all = s.y.flatMap((v) => [...v].filter(Number.isFinite));
		return all.length ? ([all.reduce((a, b) => Math.min(a, b)), all.reduce((a, b) => Math.max(a, b))] as const) : null;
	});
	const height = 1.1 * Math.max(1e-9, ...ranges.map((r) => (r ? r[1] - r[0] : 0)));
	const middle = ranges.map((r) => (r ? (r[0] + r[1]) / 2 : 0));
	return { height, middle, shift: middle.map((m, k) => (series.length - 1 - k) * height - m) };
}

/** The station of all lines that is nearest to a place on the map; null when none has one. */
export function nearestStation(
	set: DataSet,
	series: readonly Series[],
	x: number,
	y: number
): { line: number; station: number; distance: number } | null {
	let best: { line: number; station: number; distance: number } | null = null;
	series.forEach((s, line) =>
		s.rows.forEach((i, station) => {
			const distance = Math.hypot(set.xyz[3 * i]! - x, set.xyz[3 * i + 1]! - y);
			if (Number.isFinite(distance) && (!best || distance < best.distance)) best = { line, station, distance };
		})
	);
	return best;
}

/**
 * The columns of a step that is being tried on rows: the one it is made from, and the new one, which is the last.
 * @returns null when a first look is not of these rows
 */
export function triedStep(rows: DataSet, tried: DataSet): [string, string] | null {
	if (tried.rowCount !== rows.rowCount || tried.columns.length <= rows.columns.length) return null;
	const keys = rows.columns.map((c) => c.key);
	if (!keys.every((k) => columnOf(tried, k))) return null;
	const made = tried.columns[tried.columns.length - 1]!.key;
	const from = keys.filter((k) => made.startsWith(`${k}_`)).sort((a, b) => b.length - a.length)[0];
	return from === undefined ? null : [from, made];
}

/** The same lines with a mark where the last column has lost the value of the first. */
export const withLost = (series: readonly Series[]): Series[] =>
	series.map((s) => {
		const [before, after] = [s.y[0], s.y[s.y.length - 1]];
		return {
			...s,
			outlier: before && after ? Uint8Array.from(before, (v, i) => Number(Number.isFinite(v) && Number.isNaN(after[i]!))) : null
		};
	});
