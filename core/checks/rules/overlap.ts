import { isControl } from '../control-rows';
import { plainNumber, type Found, type Rule } from '../finding';

const TOLERANCE = 1e-6;

/** Intervals of one hole and table that cover the same depths. The row that conflicts with most others, or joins its neighbours least, is named and held back. */
export const overlap: Rule = {
	id: 'overlap',
	title: 'Overlap',
	severity: 'held',
	reason: 'One depth would be two things at once.',
	scope: 'holes',
	ofVersions: true,
	*check({ tables, byHole, lengthUnit }): Iterable<Found> {
		for (const table of tables) {
			const from = table.numbers['from'];
			const to = table.numbers['to'];
			if (!from || !to || table.kind === 'other') continue;
			const control = isControl(table);
			for (const [hole, all] of byHole(table)) {
				const rows = all.filter((r) => !control(r));
				const ends = endsOf(rows, from, to);
				const conflicts = conflictsOf(rows, from, to);
				while (conflicts.size > 0) {
					const [row, others] = worst(conflicts, (r) => fits(r, from, to, ends));
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

/** How often each depth is the end of an interval, to a hundredth. */
function endsOf(rows: readonly number[], from: Float64Array, to: Float64Array): Map<number, number> {
	const ends = new Map<number, number>();
	for (const r of rows) for (const v of [from[r]!, to[r]!]) ends.set(Math.round(v * 100), (ends.get(Math.round(v * 100)) ?? 0) + 1);
	return ends;
}

/** Ends of a row at which another row ends or begins, too, or that are the collar: a row that joins its neighbours is not the one that slipped. */
const fits = (r: number, from: Float64Array, to: Float64Array, ends: ReadonlyMap<number, number>): number =>
	Number(from[r] === 0 || (ends.get(Math.round(from[r]! * 100)) ?? 0) > 1) + Number((ends.get(Math.round(to[r]! * 100)) ?? 0) > 1);

/** The row with most conflicts; among equals the one that joins its neighbours least, then the one later in the file. */
function worst(conflicts: Map<number, Set<number>>, joins: (row: number) => number): [number, Set<number>] {
	let best: [number, Set<number>] | null = null;
	for (const entry of conflicts) {
		if (!best || entry[1].size > best[1].size) best = entry;
		else if (entry[1].size === best[1].size) {
			const [a, b] = [joins(entry[0]), joins(best[0])];
			if (a < b || (a === b && entry[0] > best[0])) best = entry;
		}
	}
	return best!;
}
