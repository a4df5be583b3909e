import type { Readings } from '../datasets/readings';
import { joinedRuns, type LoggedRun } from '../stratigraphy/runs';
import { fail } from '../problem';
import { numbersIn, readingsIn, textsIn } from './opened';
import type { Given } from './recipe';

/** Rows of each hole, from the top down, in the order in which holes are met first. */
interface RowsOfHole {
	hole: string;
	rows: number[];
}

/** Depth of a row: where it begins, or where it was taken. NaN without one. */
const depthsIn = (g: Given, r: Readings): Float64Array => {
	const key = ['from', 'depth'].find((k) => r.columns.some((c) => c.key === k));
	return key ? numbersIn(g, r, key) : fail('no-depths', `the rows of ${g.name} have no depths`, 'Choose a table along holes.', 'log');
};

/** @throws ProblemError `unknown-column`, `no-depths` when rows do not lie in holes */
export function holesOf(g: Given): { readings: Readings; depth: Float64Array; holes: RowsOfHole[] } {
	const readings = readingsIn(g);
	const names = textsIn(g, readings, 'hole');
	const depth = depthsIn(g, readings);
	const rows = new Map<string, number[]>();
	names.forEach((hole, i) => {
		if (!hole || !Number.isFinite(depth[i]!)) return;
		const own = rows.get(hole);
		if (own) own.push(i);
		else rows.set(hole, [i]);
	});
	return { readings, depth, holes: [...rows].map(([hole, own]) => ({ hole, rows: own.sort((a, b) => depth[a]! - depth[b]!) })) };
}

/** What a log says along each of its holes. @param key column of codes. @throws ProblemError `unknown-column` */
export function runsIn(g: Given, key: string): { hole: string; runs: LoggedRun[] }[] {
	const { readings, depth, holes } = holesOf(g);
	const [to, names] = [numbersIn(g, readings, 'to'), textsIn(g, readings, key)];
	return holes.map(({ hole, rows }) => ({
		hole,
		runs: joinedRuns(rows.map((i) => ({ from: depth[i]!, to: to[i]!, name: names[i]!.trim() })))
	}));
}
