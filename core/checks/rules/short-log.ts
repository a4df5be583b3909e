import { rowOfMost, rowsOfHoles } from '../../tables/row-index';
import { plainNumber, type Found, type Rule } from '../finding';

/** Share of a hole from which on its log is taken to be meant for all of it. */
const LONG = 0.6;

/** The log of a hole ends before the hole does. */
export const shortLog: Rule = {
	id: 'short-log',
	title: 'Log ends before the hole',
	severity: 'noted',
	reason: 'What was drilled below the last interval is not described: rows may be missing, or the total depth is wrong.',
	scope: 'holes',
	bounds: { least: { label: 'Shortest part without a log', value: 1, unit: 'length', most: 10_000 } },
	*check({ tables, holes, byHole, lengthUnit, bound }): Iterable<Found> {
		const least = bound('least');
		for (const table of tables) {
			const to = table.numbers['to'];
			if (table.kind !== 'intervals' || !to) continue;
			for (const [hole, rows] of byHole(table)) {
				const collar = holes.get(hole);
				if (!collar) continue;
				const last = rowOfMost(rows, to);
				const total = collar.table.numbers['totalDepth']![collar.row]!;
				const gap = total - to[last]!;
				// A log of the cover or of the weathering ends where it wants to, and another table may go on.
				if (
					!(gap > least) ||
					to[last]! < LONG * total ||
					tables.some(
						(t) =>
							t !== table && t.kind === 'intervals' && (rowsOfHoles(t)!.get(hole) ?? []).some((r) => t.numbers['to']![r]! >= total - least)
					)
				)
					continue;
				yield {
					table,
					row: last,
					column: 'to',
					hole,
					message: `the log of ${hole} ends at ${plainNumber(to[last]!)} ${lengthUnit}, ${plainNumber(Number(gap.toPrecision(4)))} ${lengthUnit} above the end of the hole`,
					hint: 'Add the missing intervals, mend the total depth, or leave it.'
				};
			}
		}
	}
};
