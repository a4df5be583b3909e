import type { Mapping } from './mapping';
import type { RawTable } from './raw-table';
import type { Table } from './table';

/** Header of the column in which a version keeps notes on its intervals. */
export const NOTE = 'Note on relogging';
/** Columns that a version has besides those of its table: what was done to a row, and its code before. */
export const CHANGE = 'Change';
export const BEFORE = 'Code before';

/** What a version of a log lays over the table, or over the version, that it goes out from. */
export interface LogLayer {
	/** Codes that are taken for others, before any edit. */
	recode: Readonly<Record<string, string>>;
	/** Rows that stand behind. */
	added: readonly AddedRow[];
	/** Cells; `original` is what stood there when it was edited. */
	edits: readonly { n: number; position: number; value: string; original: string }[];
	excluded: readonly number[];
}

/** A part of an interval that was cut: the row that it was cut from, and its cells by column of the header. */
export interface AddedRow {
	of: number;
	cells: readonly string[];
}

/** An edit that lost its row when the table was read from another file. */
export interface UnplacedEdit {
	hole: string;
	/** Where its row was, in words. */
	place: string;
	column: string;
	value: string;
	by: string;
	at: string;
}

/** The header of a version: that of its table, and a column for notes. */
export const versionHeader = (header: readonly string[]): string[] => [...header.filter((h) => h !== NOTE), NOTE];

const OF_INTERVALS: readonly string[] = ['hole', 'from', 'to', 'thickness', 'description', 'code'];

/**
 * Roles of the columns of a version: places along the hole, the code that is logged, its description; the rest is kept as it is.
 * @param mapping of the table, whatever its kind
 * @param logColumn header of the column that is the log; that of the codes when it is left out
 */
export function versionMapping(mapping: Mapping, header: readonly string[], logColumn: string | undefined): Mapping {
	const role = (h: string): string => {
		if (h === logColumn) return 'code';
		const own = mapping[h] ?? (h === NOTE ? 'keep' : 'leave');
		if (own === 'leave') return own;
		return OF_INTERVALS.includes(own) && !(own === 'code' && logColumn !== undefined) ? own : 'keep';
	};
	return Object.fromEntries(versionHeader(header).map((h) => [h, role(h)]));
}

interface Overlaid {
	raw: RawTable;
	excluded: Uint8Array;
	/** 1 where a row was edited, left out or added in this layer. */
	changed: Uint8Array;
	/** Codes as they were before this layer; empty for a row that it added. */
	before: string[];
	/** Edits that went out from something else than what stands there now. */
	outdated: { row: number; position: number; was: string; now: string }[];
}

/**
 * Lays a layer over a table: first the codes that are taken for others, then the rows that were added, then the edits. Nothing of
 * what is given is changed; columns that stay the same are shared.
 * @param header of the version (see `versionHeader`)
 * @param code position of the column of codes
 */
export function overlay(given: RawTable, excluded: Uint8Array, header: readonly string[], code: number, layer: LogLayer): Overlaid {
	const { added, recode } = layer;
	const rowCount = given.rowCount + added.length;
	const columns = header.map((_, i) => given.columns[i] ?? new Array<string>(given.rowCount).fill(''));
	const own = new Set<number>();
	/** A column that may be written to. */
	const writable = (i: number): string[] => {
		if (!own.has(i)) {
			columns[i] = [...columns[i]!];
			own.add(i);
		}
		return columns[i]!;
	};
	const before = (columns[code] ?? []).concat(added.map(() => ''));
	if (code >= 0 && Object.keys(recode).length) {
		const cells = writable(code);
		for (let r = 0; r < cells.length; r++) if (Object.hasOwn(recode, cells[r]!)) cells[r] = recode[cells[r]!]!;
	}
	if (added.length)
		header.forEach((_, i) => {
			const cells = writable(i);
			for (const a of added) cells.push(a.cells[i] ?? '');
		});
	const changed = new Uint8Array(rowCount);
	changed.fill(1, given.rowCount);
	const outdated: Overlaid['outdated'] = [];
	for (const e of layer.edits) {
		if (e.n >= rowCount || e.position < 0 || e.position >= header.length) continue;
		const cells = writable(e.position);
		const now = cells[e.n]!;
		if (now !== e.original && now !== e.value) outdated.push({ row: e.n, position: e.position, was: e.original, now });
		cells[e.n] = e.value;
		changed[e.n] = 1;
	}
	const out = new Uint8Array(rowCount);
	out.set(excluded);
	for (const n of layer.excluded)
		if (n < rowCount) {
			out[n] = 1;
			// A part that was cut off and is out again leaves nothing behind.
			changed[n] = n < given.rowCount ? 1 : 0;
		}
	const lines = new Int32Array(rowCount);
	lines.set(given.lines);
	return { raw: { ...given, header: [...header], columns, rowCount, lines }, excluded: out, changed, before, outdated };
}

/** What was done to a row, in a word. */
function changeOf(table: Table, changed: Uint8Array, before: readonly string[], r: number): string {
	if (changed[r]) return before[r] === '' && table.lines[r] === 0 ? 'cut off' : 'relogged';
	return (table.text['code']?.[r] ?? '') !== before[r] ? 'lumped' : 'as logged';
}

/** What makes a table a version of a log. */
export type VersionParts = { [K in 'changed' | 'before' | 'outdated' | 'unplaced']: NonNullable<Table[K]> } & { of: string };

/** A table as the version of a log that it is: with what was done to each row, and its code before, as columns. */
export function asVersion(table: Table, { of, ...parts }: VersionParts): Table {
	const { changed, before } = parts;
	const change = Array.from({ length: table.rowCount }, (_, r) => changeOf(table, changed, before, r));
	return {
		...table,
		...parts,
		versionOf: of,
		text: { ...table.text, [CHANGE]: change, [BEFORE]: [...before] },
		headers: { ...table.headers, [CHANGE]: CHANGE, [BEFORE]: BEFORE }
	};
}

/** A layer that is held in memory and follows edits. */
export type HeldLayer = { -readonly [K in keyof LogLayer]: LogLayer[K] };

/**
 * Follows edits of a version that is held in memory: a cell that is back at what it was is not edited any more.
 * @param cells with what stood there before this edit
 */
export function followEdits(
	version: Table,
	layer: HeldLayer,
	cells: readonly { n: number; position: number; value: string; before: string }[],
	rows: readonly { n: number; excluded: boolean }[]
): void {
	const edits = new Map(layer.edits.map((e) => [`${e.n} ${e.position}`, e]));
	for (const { n, position, value, before } of cells) {
		const key = `${n} ${position}`;
		const original = edits.get(key)?.original ?? before;
		if (value === original) edits.delete(key);
		else edits.set(key, { n, position, value, original });
	}
	layer.edits = [...edits.values()];
	const out = new Set(layer.excluded);
	for (const { n, excluded } of rows)
		if (excluded) out.add(n);
		else out.delete(n);
	layer.excluded = [...out];
	const edited = new Set(layer.edits.map((e) => e.n));
	const source = version.rowCount - layer.added.length;
	for (const n of new Set([...cells, ...rows].map((c) => c.n))) {
		version.changed![n] = n >= source ? Number(!out.has(n)) : Number(edited.has(n) || out.has(n));
		version.text[CHANGE]![n] = changeOf(version, version.changed!, version.before!, n);
	}
	version.outdated = version.outdated!.filter((o) => edits.has(`${o.row} ${o.position}`));
}
