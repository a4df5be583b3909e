import { NO_CLASS, type CategoryColumn, type DataSet } from '../datasets/dataset';
import { holeIndex } from '../scene/hole-index';

/** A stretch of a hole in which a log says one thing. Measured depths. */
export interface LoggedRun {
	from: number;
	to: number;
	name: string;
}

const SAME = 1e-6;

/** What a log says along a hole, from the top down: neighbours that say the same are one run, and what is empty is none. */
export function runsOf(set: DataSet, column: CategoryColumn, holes: number, hole: number): LoggedRun[] {
	const index = holeIndex(set, holes);
	const rows: LoggedRun[] = [];
	for (let k = index.start[hole]!; k < index.start[hole + 1]!; k++) {
		const i = index.order[k]!;
		const c = column.values[i]!;
		rows.push({ from: set.from[i]!, to: set.to[i]!, name: c === NO_CLASS ? '' : column.categories[c]! });
	}
	return joinedRuns(rows);
}

/** Rows of a hole from the top down as runs: neighbours that say the same are one, what is empty is none, and of two that overlap the upper one holds. */
export function joinedRuns(rows: Iterable<LoggedRun>): LoggedRun[] {
	const runs: LoggedRun[] = [];
	for (const row of rows) {
		const last = runs[runs.length - 1];
		const from = Math.max(row.from, last?.to ?? -Infinity);
		if (!row.name || !(row.to - from > SAME)) continue;
		if (last && last.name === row.name && from - last.to <= SAME) last.to = row.to;
		else runs.push({ from, to: row.to, name: row.name });
	}
	return runs;
}

/** Where two things meet in a hole; empty names stand for what is not logged. */
export interface LoggedBoundary {
	depth: number;
	above: string;
	below: string;
}

/** The boundaries between runs, and their ends where nothing is logged beyond. */
export function boundariesOf(runs: readonly LoggedRun[]): LoggedBoundary[] {
	const out: LoggedBoundary[] = [];
	runs.forEach((r, i) => {
		const before = runs[i - 1];
		if (before && r.from - before.to <= SAME) out.push({ depth: r.from, above: before.name, below: r.name });
		else {
			if (before) out.push({ depth: before.to, above: before.name, below: '' });
			out.push({ depth: r.from, above: '', below: r.name });
		}
	});
	const last = runs[runs.length - 1];
	if (last) out.push({ depth: last.to, above: last.name, below: '' });
	return out;
}

/** The boundary nearest to a depth; null without any. */
export const nearestOf = (boundaries: readonly LoggedBoundary[], depth: number): LoggedBoundary | null =>
	boundaries.reduce<LoggedBoundary | null>(
		(best, b) => (!best || Math.abs(b.depth - depth) < Math.abs(best.depth - depth) ? b : best),
		null
	);
