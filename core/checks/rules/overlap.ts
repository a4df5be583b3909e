import { plainNumber, type Found, type Rule } from '../finding';

const TOLERANCE = 1e-6;

/** Intervals of one hole and table that cover the same depths. The row that conflicts with most others is named and held back. */
export const overlap: Rule = {
	id: 'overlap',
	title: 'Overlap',
	severity: 'held',
	reason: 'One depth would be two things at once.',
	scope: 'holes',
	*check({ tables, byHole, lengthUnit }): Iterable<Found> {
		for (const table of tables) {
			const from = table.numbers['from'];
			const to = table.numbers['to'];
			if (!from || !to || table.kind === 'other') continue;
			for (const [hole, rows] of byHole(table)) {
				const conflicts = conflictsOf(rows, from, to);
				while (conflicts.size > 0) {
					const [row, others] = worst(conflicts);
					for (const other of others) {
						const back = conflicts.get(other)!;
						back.delete(row);
						if (back.size === 0) conflicts.delete(other);
					}
					conflicts.delete(row);
					const list = [...others].sort((a, b) => a - b);
					yield {
						table,
						row,
						column: 'from',
						hole,
						message: `${plainNumber(from[row]!)}–${plainNumber(to[row]!)} ${lengthUnit} overlaps ${list.length === 1 ? `line ${table.lines[list[0]!]}` : `${list.length} other intervals`}`,
						hint: 'Mend the depths of this row, or of the rows it overlaps.',
						others: list
					};
				}
			}
		}
	}
};

/** For each row in conflict, the rows that it overlaps. */
function conflictsOf(rows: readonly number[], from: Float64Array, to: Float64Array): Map<number, Set<number>> {
	const conflicts = new Map<number, Set<number>>();
	let inOrder = true;
	for (let i = 1; i < rows.length && inOrder; i++) inOrder = from[rows[i]!]! >= to[rows[i - 1]!]! - TOLERANCE;
	if (inOrder) return conflicts;
	const sorted = [...rows].sort((a, b) => from[a]! - from[b]! || a - b);
	const note = (a: number, b: number) => {
		const set = conflicts.get(a);
		if (set) set.add(b);
		else conflicts.set(a, new Set([b]));
	};
	let open: number[] = [];
	for (const row of sorted) {
		open = open.filter((o) => to[o]! > from[row]! + TOLERANCE);
		for (const o of open) {
			note(o, row);
			note(row, o);
		}
		open.push(row);
	}
	return conflicts;
}

/** The row with most conflicts; among equals the one later in the file. */
function worst(conflicts: Map<number, Set<number>>): [number, Set<number>] {
	let best: [number, Set<number>] | null = null;
	for (const entry of conflicts)
		if (!best || entry[1].size > best[1].size || (entry[1].size === best[1].size && entry[0] > best[0])) best = entry;
	return best!;
}
