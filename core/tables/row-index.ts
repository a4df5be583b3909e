import type { Table } from './table';

const known = new WeakMap<string[], Map<string, number[]>>();

/** Rows of each hole in a table, in order, excluded ones too; null when its rows belong to no hole. Made once for each column of names. */
export function rowsOfHoles(table: Table): ReadonlyMap<string, number[]> | null {
	const holes = table.text['hole'];
	if (!holes) return null;
	let index = known.get(holes);
	if (!index) {
		index = new Map();
		for (let row = 0; row < holes.length; row++) {
			const rows = index.get(holes[row]!);
			if (rows) rows.push(row);
			else index.set(holes[row]!, [row]);
		}
		known.set(holes, index);
	}
	return index;
}

/** Follows a change of the hole of one row. */
export function moveRow(table: Table, row: number, from: string, to: string): void {
	const index = known.get(table.text['hole']!);
	if (!index || from === to) return;
	index.set(
		from,
		(index.get(from) ?? []).filter((r) => r !== row)
	);
	index.set(
		to,
		[...(index.get(to) ?? []), row].sort((a, b) => a - b)
	);
}

/** The row with the least value; the first in the list among equals, and where no value is a number. */
export function rowOfLeast(rows: readonly number[], values: ArrayLike<number>): number {
	let least = rows[0]!;
	for (const r of rows) if (values[r]! < values[least]!) least = r;
	return least;
}

/** The row with the greatest value; the first in the list among equals. */
export function rowOfMost(rows: readonly number[], values: ArrayLike<number>): number {
	let most = rows[0]!;
	for (const r of rows) if (values[r]! > values[most]!) most = r;
	return most;
}
