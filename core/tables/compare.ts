import type { TableKind } from './kinds';
import type { Mapping } from './mapping';
import type { RawTable } from './raw-table';

/** Roles that together say which row is meant, by kind of table; a row without any is known by its place in the file. */
const KEYS: Record<TableKind, readonly string[]> = {
	collars: ['hole'],
	surveys: ['hole', 'depth'],
	intervals: ['hole', 'from', 'to'],
	assays: ['hole', 'from', 'to'],
	readings: ['hole', 'depth'],
	holeOrientations: ['hole', 'depth', 'feature'],
	orientations: ['easting', 'northing'],
	contactPoints: ['easting', 'northing', 'code'],
	levels: ['hole', 'date'],
	places: ['easting', 'northing', 'sample'],
	stations: ['line', 'station', 'easting', 'northing'],
	other: ['hole']
};

/** A cell that was edited here, with what the file said. */
export interface KnownEdit {
	n: number;
	position: number;
	value: string;
	original: string;
}

export interface Comparison {
	/** Row of the old version for each row of the new one; −1 for a row that was added. */
	match: Int32Array;
	added: number;
	gone: number;
	/** Rows with another cell in a column that both have. */
	changed: number;
	same: number;
	/** Edits that stay, at their place in the new version. */
	kept: { n: number; position: number; value: string }[];
	/** Edits whose cell is another in the new version, too. */
	conflicts: { n: number; position: number; value: string; source: string }[];
}

/** A text for each row that tells it from others; rows with the same keys are numbered. */
function keysOf(raw: RawTable, kind: TableKind, mapping: Mapping): string[] {
	const columns = KEYS[kind].map((role) => raw.header.findIndex((h) => mapping[h] === role)).filter((i) => i >= 0);
	const times = new Map<string, number>();
	return Array.from({ length: raw.rowCount }, (_, n) => {
		const key = columns.map((c) => raw.columns[c]![n]).join('\u001f');
		const time = times.get(key) ?? 0;
		times.set(key, time + 1);
		return `${key}\u001e${time}`;
	});
}

/**
 * Compares two versions of a file and says what becomes of the edits that were made to the older one.
 * @param old as its file has it, without edits
 */
export function compareTables(old: RawTable, fresh: RawTable, kind: TableKind, mapping: Mapping, edits: readonly KnownEdit[]): Comparison {
	const places = new Map(keysOf(old, kind, mapping).map((k, n) => [k, n]));
	const match = Int32Array.from(keysOf(fresh, kind, mapping), (k) => places.get(k) ?? -1);
	const shared = old.header.flatMap((h, from) => {
		const to = fresh.header.indexOf(h);
		return to < 0 ? [] : [{ from, to }];
	});
	let added = 0;
	let changed = 0;
	const place = new Map<number, number>();
	match.forEach((before, n) => {
		if (before < 0) return void added++;
		place.set(before, n);
		if (shared.some(({ from, to }) => old.columns[from]![before] !== fresh.columns[to]![n])) changed++;
	});
	const kept: Comparison['kept'] = [];
	const conflicts: Comparison['conflicts'] = [];
	for (const e of edits) {
		const n = place.get(e.n);
		const position = fresh.header.indexOf(old.header[e.position]!);
		if (n === undefined || position < 0) continue;
		const source = fresh.columns[position]![n]!;
		if (source === e.original) kept.push({ n, position, value: e.value });
		else if (source !== e.value) conflicts.push({ n, position, value: e.value, source });
	}
	return { match, added, gone: old.rowCount - place.size, changed, same: place.size - changed, kept, conflicts };
}

/** One table after the other; the columns of the first count. Lines go on behind those of the first. */
export function appendTables(first: RawTable, second: RawTable): RawTable {
	const columns = first.header.map((h, i) => [...first.columns[i]!, ...(second.columns[second.header.indexOf(h)] ?? new Array<string>(second.rowCount).fill(''))]);
	const after = first.lines[first.rowCount - 1] ?? 0;
	const lines = new Int32Array(first.rowCount + second.rowCount);
	lines.set(first.lines);
	lines.set(second.lines.map((l) => l + after), first.rowCount);
	return { ...first, columns, rowCount: lines.length, lines };
}
