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
	/** Edits that the new version holds itself. */
	settled: number;
	/** Edits that have no place in the new version, at the place that they had. */
	lost: { n: number; position: number; value: string; why: 'row' | 'column' }[];
	/** Rows that were left out: by number in the new version, and those that it does not have, by their old number. */
	exclusions: { kept: number[]; lost: number[] };
}

const BETWEEN = '\u001f';
const NUMBER = '\u001e';
const keyColumns = (raw: RawTable, kind: TableKind, mapping: Mapping): number[] =>
	KEYS[kind].map((role) => raw.header.findIndex((h) => mapping[h] === role)).filter((i) => i >= 0);
const bare = (key: string): string => key.slice(0, key.lastIndexOf(NUMBER));

/** A text for each row that tells it from others; rows with the same keys are numbered. */
function keysOf(raw: RawTable, kind: TableKind, mapping: Mapping): string[] {
	const columns = keyColumns(raw, kind, mapping);
	const times = new Map<string, number>();
	return Array.from({ length: raw.rowCount }, (_, n) => {
		const key = columns.map((c) => raw.columns[c]![n]).join(BETWEEN);
		const time = times.get(key) ?? 0;
		times.set(key, time + 1);
		return `${key}${NUMBER}${time}`;
	});
}

/** The rows of the old version for each row of the new one: by their key, then by the key as it was edited, then by all other cells. */
function matchRows(old: RawTable, fresh: RawTable, kind: TableKind, mapping: Mapping, edits: readonly KnownEdit[]): Int32Array {
	const before = keysOf(old, kind, mapping);
	const after = keysOf(fresh, kind, mapping);
	const places = new Map(before.map((k, n) => [k, n]));
	const match = Int32Array.from(after, (k) => places.get(k) ?? -1);
	const taken = new Set(match);
	const open = new Map<string, number[]>();
	match.forEach((m, n) => m < 0 && open.set(bare(after[n]!), [...(open.get(bare(after[n]!)) ?? []), n]));
	if (open.size === 0) return match;
	// The new file corrects the key of a row that was corrected here, too.
	const edited = new Map<number, string[]>();
	for (const e of edits) {
		const row = edited.get(e.n) ?? old.columns.map((c) => c[e.n]!);
		row[e.position] = e.value;
		edited.set(e.n, row);
	}
	const columns = keyColumns(old, kind, mapping);
	for (const [n, row] of edited) {
		const rows = taken.has(n) ? undefined : open.get(columns.map((c) => row[c]).join(BETWEEN));
		const to = rows?.shift();
		if (to === undefined) continue;
		match[to] = n;
		taken.add(n);
	}
	// A row of which one part of the key was corrected is known by the rest and by all that it holds beside it, when that is its own.
	const beside = (raw: RawTable, own: readonly number[]) => {
		const others = old.header.filter((h, i) => !columns.includes(i) && fresh.header.includes(h)).map((h) => raw.header.indexOf(h));
		const found = new Map<string, number>();
		for (const n of own) {
			const cells = others.map((c) => raw.columns[c]![n]!);
			const key = cells.join(BETWEEN);
			if (cells.filter((c) => c !== '').length >= 2) found.set(key, found.has(key) ? -1 : n);
		}
		return found;
	};
	const gone = beside(
		old,
		Array.from(before.keys()).filter((n) => !taken.has(n))
	);
	const come = beside(
		fresh,
		Array.from(match.keys()).filter((n) => match[n]! < 0)
	);
	for (const [key, n] of come) {
		const was = gone.get(key);
		if (
			n >= 0 &&
			was !== undefined &&
			was >= 0 &&
			(columns.length < 2 || columns.some((c) => old.columns[c]![was] === fresh.columns[fresh.header.indexOf(old.header[c]!)]?.[n]))
		)
			match[n] = was;
	}
	return match;
}

/**
 * Compares two versions of a file and says what becomes of every edit that was made to the older one, and of every row that was left
 * out: none of them is dropped unsaid.
 * @param old as its file has it, without edits
 */
export function compareTables(
	old: RawTable,
	fresh: RawTable,
	kind: TableKind,
	mapping: Mapping,
	edits: readonly KnownEdit[],
	excluded: readonly number[] = []
): Comparison {
	const match = matchRows(old, fresh, kind, mapping, edits);
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
	const lost: Comparison['lost'] = [];
	let settled = 0;
	for (const { n: was, position: from, value, original } of edits) {
		const n = place.get(was);
		const position = fresh.header.indexOf(old.header[from]!);
		if (n === undefined || position < 0) lost.push({ n: was, position: from, value, why: n === undefined ? 'row' : 'column' });
		else if (fresh.columns[position]![n] === original) kept.push({ n, position, value });
		else if (fresh.columns[position]![n] === value) settled++;
		else conflicts.push({ n, position, value, source: fresh.columns[position]![n]! });
	}
	const exclusions: Comparison['exclusions'] = { kept: [], lost: [] };
	for (const n of excluded)
		if (place.has(n)) exclusions.kept.push(place.get(n)!);
		else exclusions.lost.push(n);
	exclusions.kept.sort((a, b) => a - b);
	return { match, added, gone: old.rowCount - place.size, changed, same: place.size - changed, kept, conflicts, settled, lost, exclusions };
}

/** One table after the other; the columns of the first count. Lines go on behind those of the first. */
export function appendTables(first: RawTable, second: RawTable): RawTable {
	const columns = first.header.map((h, i) => [
		...first.columns[i]!,
		...(second.columns[second.header.indexOf(h)] ?? new Array<string>(second.rowCount).fill(''))
	]);
	const after = first.lines[first.rowCount - 1] ?? 0;
	const lines = new Int32Array(first.rowCount + second.rowCount);
	lines.set(first.lines);
	lines.set(
		second.lines.map((l) => l + after),
		first.rowCount
	);
	const odd = [...(first.odd ?? []), ...(second.odd ?? []).map((o) => ({ ...o, row: o.row + first.rowCount }))];
	return { ...first, columns, rowCount: lines.length, lines, ...(odd.length ? { odd } : {}) };
}
