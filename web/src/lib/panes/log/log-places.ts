import { columnOf, NO_CLASS, type DataSet } from '#core/datasets/dataset';
import type { LogData } from '#core/logs/log-parts';
import type { LogTrack } from '#core/logs/spec';
import { holeIndex, rowAtDepth } from '#core/scene/hole-index';
import { valueText } from '$lib/workbench/sets.svelte';

/** A reading farther away than this is not that of a depth, project units. */
const NEAR = 5;

/** The row of a hole at a depth; of readings the nearest one. −1 when there is none. @param holes how many there are */
export function nearestRow(set: DataSet, holes: number, hole: number, depth: number): number {
	const index = holeIndex(set, holes);
	if (set.place === 'interval') return rowAtDepth(set, index, hole, depth);
	let best = -1;
	for (let k = index.start[hole]!; k < index.start[hole + 1]!; k++) {
		const i = index.order[k]!;
		if (best < 0 || Math.abs(set.from[i]! - depth) < Math.abs(set.from[best]! - depth)) best = i;
	}
	return best >= 0 && Math.abs(set.from[best]! - depth) < NEAR ? best : -1;
}

/** Rows of a hole, by number in their table, that lie at least partly between two depths. @param holes how many there are */
export function rowsBetween(set: DataSet, holes: number, hole: number, from: number, to: number): number[] {
	const index = holeIndex(set, holes);
	const rows: number[] = [];
	for (let k = index.start[hole]!; k < index.start[hole + 1]!; k++) {
		const i = index.order[k]!;
		if (set.from[i]! < to && set.to[i]! > from) rows.push(set.row[i]!);
	}
	return rows;
}

/** The boundary between intervals of a hole that is nearest to a depth, not the ends of the log; null without any. */
export function nearestBoundary(set: DataSet, holes: number, hole: number, depth: number): number | null {
	const index = holeIndex(set, holes);
	const rows = index.order.subarray(index.start[hole], index.start[hole + 1]);
	const inside = [...rows].flatMap((i, k) => [...(k > 0 ? [set.from[i]!] : []), ...(k + 1 < rows.length ? [set.to[i]!] : [])]);
	return inside.reduce<number | null>((best, d) => (best === null || Math.abs(d - depth) < Math.abs(best - depth) ? d : best), null);
}

/** What every track shows at a depth of a hole: names and values. */
export function readingsAt(
	tracks: readonly LogTrack[],
	setOf: (table: string) => DataSet | null,
	modelOf: LogData['model'],
	holes: number,
	hole: number,
	depth: number
): [string, string][] {
	return tracks.flatMap((t) =>
		t.series.flatMap((s): [string, string][] => {
			if (t.kind === 'model') {
				const log = modelOf(s.table, hole);
				const run = log?.runs.find((r) => r.from <= depth && depth < r.to);
				return run ? [[log!.name, run.name]] : [];
			}
			const set = setOf(s.table);
			if (!set || set.place === 'map' || set.place === 'hole') return [];
			const row = nearestRow(set, holes, hole, depth);
			const column = columnOf(set, s.column);
			if (row < 0 || !column || (column.type === 'category' && column.values[row] === NO_CLASS)) return [];
			return [[column.label, valueText(column, row)]];
		})
	);
}

/** The depth that is drawn at a height. @param y of a depth, mm; grows with it */
export function depthOf(height: number, y: (depth: number) => number, from: number, to: number): number {
	let [low, high] = [from, to];
	for (let i = 0; i < 40; i++) {
		const middle = (low + high) / 2;
		if (y(middle) < height) low = middle;
		else high = middle;
	}
	return (low + high) / 2;
}

/** The track that is drawn so far from the left, mm. */
export function trackAt(tracks: readonly LogTrack[], mm: number): LogTrack | undefined {
	let x = 0;
	return tracks.find((t) => (x += t.width) >= mm);
}
