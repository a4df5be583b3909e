import { readPack, writePack } from '#core/formats/pack';
import { isRecord } from '#core/project/guards';
import type { Coordinates } from '#core/geometry/coordinates';
import {
	asVersion,
	overlay,
	versionHeader,
	versionMapping,
	type AddedRow,
	type LogLayer,
	type UnplacedEdit,
	type VersionParts
} from '#core/tables/version';
import type { CalculatedColumn } from '#core/tables/calculated';
import { isTableKind, type TableKind } from '#core/tables/kinds';
import { fail } from '#core/problem';
import type { ColumnUnits, Mapping } from '#core/tables/mapping';
import type { OddRow, RawTable, Reading } from '#core/tables/raw-table';
import { readTable, type Table } from '#core/tables/table';
import type { ValueRules } from '#core/tables/value-rules';
import type { Written } from '#core/tables/written';

/** State of a table object: how its file is read. */
export interface TableState {
	kind: TableKind;
	header: string[];
	/** Units as the file states them. */
	stated: string[] | null;
	reading: Reading;
	mapping: Mapping;
	units: ColumnUnits;
	values: ValueRules;
	coordinates: Coordinates;
	/** How columns are written: inclinations and dates. */
	written?: Written;
	/** Rows whose line of the file does not fit the table; the first of them. */
	odd?: OddRow[];
	/** What the format of the file had to say. */
	notes?: string[];
	rowCount: number;
	/** Files whose rows were added behind those of its own. */
	appended?: string[];
	calculated?: CalculatedColumn[];
	/** Of a version of a log: id of the table that it goes out from. All of that is taken over; what follows is its own. */
	versionOf?: string;
	/** Header of the column that is the log, where it is not that of the codes. */
	logColumn?: string;
	/** Codes that are taken for others, before any edit. */
	recode?: Record<string, string>;
	/** Rows that stand behind those of the table: parts of intervals that were cut. */
	added?: AddedRow[];
	/** Edits whose row is not there any more since the table was read from another file. */
	unplaced?: UnplacedEdit[];
}

const areTexts = (v: unknown): v is string[] => Array.isArray(v) && v.every((x) => typeof x === 'string');

/**
 * The state of a table as it is stored, guarded in what everything reads of it.
 * @throws ProblemError `damaged-state`
 */
export function tableState(state: Readonly<Record<string, unknown>>, name = 'a table'): TableState {
	const wrong = (
		[
			['kind', isTableKind(state['kind'])],
			['header', areTexts(state['header'])],
			['mapping', isRecord(state['mapping'])],
			['units', isRecord(state['units'])],
			['values', isRecord(state['values'])],
			['reading', isRecord(state['reading'])],
			['coordinates', isRecord(state['coordinates'])],
			['rowCount', Number.isInteger(state['rowCount']) && Number(state['rowCount']) >= 0],
			['appended', state['appended'] === undefined || areTexts(state['appended'])],
			['recode', state['recode'] === undefined || isRecord(state['recode'])],
			['added', state['added'] === undefined || Array.isArray(state['added'])],
			['calculated', state['calculated'] === undefined || Array.isArray(state['calculated'])]
		] as const
	).find(([, fits]) => !fits);
	if (wrong)
		fail(
			'damaged-state',
			`what is stored of ${name} can not be read: ${wrong[0]}`,
			'Take the table out and bring its file in again, or open an archive of the project.',
			wrong[0]
		);
	return state as unknown as TableState;
}

/** What of the state of a version is its own; all of the state of any other table. */
export function ownState(state: Record<string, unknown>): Record<string, unknown> {
	if (typeof state['versionOf'] !== 'string') return state;
	return Object.fromEntries(OWN.filter((k) => state[k] !== undefined).map((k) => [k, state[k]]));
}
const OWN = ['versionOf', 'logColumn', 'recode', 'added', 'unplaced', 'calculated'] as const;

/** The state of a table as it is told: without what may be long, and is told with rows and changes. */
export function toldState<T extends object>(state: T): Omit<T, 'added' | 'unplaced'> {
	const { added: _added, unplaced: _unplaced, ...told } = state as T & { added?: unknown; unplaced?: unknown };
	return told;
}

/** The state of a version, from what is its own and the table that it goes out from. */
export function versionState(own: Record<string, unknown>, source: TableState): TableState {
	const { versionOf, logColumn, recode = {}, added = [], unplaced = [], calculated } = ownState(own) as Partial<TableState>;
	const header = versionHeader(source.header);
	const mapping = versionMapping(source.mapping, source.header, logColumn);
	const { calculated: _theirs, appended: _files, ...taken } = source;
	return {
		...taken,
		kind: 'intervals',
		header,
		stated: source.stated ? header.map((_, i) => source.stated![i] ?? '') : null,
		mapping,
		rowCount: source.rowCount + added.length,
		...(calculated?.length ? { calculated } : {}),
		versionOf: versionOf!,
		...(logColumn ? { logColumn } : {}),
		recode,
		added,
		...(unplaced.length ? { unplaced } : {})
	};
}

/** Units of measure by header, as the user or the file gives them. */
export const statedUnits = (state: Pick<TableState, 'header' | 'stated' | 'units'>): Record<string, string> => ({
	...Object.fromEntries(state.header.map((h, i) => [h, state.stated?.[i] ?? ''] as const).filter(([, u]) => u !== '')),
	...state.units
});

/** Everything that a stored table is made of; goes to worker threads as it is. */
export interface TableParts {
	id: string;
	/** Content hash: the same hash is the same table. */
	hash: string;
	name: string;
	state: TableState;
	chunks: Uint8Array[];
	/** Row, position, value; flat. */
	edits: { n: number; position: number; value: string }[];
	excluded: number[];
	/** Of a version of a log: what it and the versions between lay over the table that it goes out from in the end, that first. */
	layers?: LogLayer[];
}

/** Rows of a chunk. */
export const CHUNK_ROWS = 8192;

/** Stands between the cells of a column in a chunk; taken out of cells that hold it. */
const BETWEEN = '\u001f';

/** The rows of a table as chunks of at most `CHUNK_ROWS`: each column's cells as one text, and the line numbers. */
export function encodeChunks(raw: RawTable): Uint8Array[] {
	const encoder = new TextEncoder();
	const chunks: Uint8Array[] = [];
	for (let from = 0; from < raw.rowCount; from += CHUNK_ROWS) {
		const to = Math.min(raw.rowCount, from + CHUNK_ROWS);
		const arrays: Record<string, Uint8Array | Int32Array> = { lines: raw.lines.slice(from, to) };
		raw.columns.forEach((cells, i) => {
			const text = cells.slice(from, to).join(BETWEEN);
			arrays[`c${i}`] = encoder.encode(
				countOf(text) === to - from - 1
					? text
					: cells
							.slice(from, to)
							.map((c) => c.replaceAll(BETWEEN, ' '))
							.join(BETWEEN)
			);
		});
		chunks.push(writePack({ info: { rows: to - from }, arrays }));
	}
	return chunks;
}

function countOf(text: string): number {
	let n = 0;
	for (let i = text.indexOf(BETWEEN); i >= 0; i = text.indexOf(BETWEEN, i + 1)) n++;
	return n;
}

/** The rows of some chunks, as they stand in the file. */
export function decodeChunks(chunks: readonly Uint8Array[], columns: number): { columns: string[][]; lines: Int32Array; rowCount: number } {
	const decoder = new TextDecoder();
	const packs = chunks.map((c) => readPack(c));
	const rowCount = packs.reduce((n, p) => n + (p.info['rows'] as number), 0);
	const lines = new Int32Array(rowCount);
	const out: string[][] = Array.from({ length: columns }, () => []);
	let at = 0;
	for (const p of packs) {
		lines.set(p.arrays['lines'] as Int32Array, at);
		at += p.info['rows'] as number;
		for (let i = 0; i < columns; i++) {
			const cells = decoder.decode(p.arrays[`c${i}`] as Uint8Array).split(BETWEEN);
			const column = out[i]!;
			for (const c of cells) column.push(c);
		}
	}
	return { columns: out, lines, rowCount };
}

/** The cells of a stored table as they are now, which rows are left out, and, of a version of a log, what it changed. */
export function rawTable(parts: TableParts): {
	raw: RawTable;
	excluded: Uint8Array;
	version: Omit<VersionParts, 'of' | 'unplaced'> | null;
} {
	const { header, stated, reading, mapping, odd = [], notes = [] } = parts.state;
	const layers = parts.layers ?? [];
	const { columns, lines, rowCount } = decodeChunks(parts.chunks, header.length - (layers.length ? 1 : 0));
	for (const e of parts.edits) if (columns[e.position] && e.n < rowCount) columns[e.position]![e.n] = e.value;
	let excluded: Uint8Array = new Uint8Array(rowCount);
	for (const n of parts.excluded) excluded[n] = 1;
	let raw: RawTable = { header, units: stated, columns, rowCount, lines, reading, odd, notes };
	let version: Omit<VersionParts, 'of' | 'unplaced'> | null = null;
	const code = header.findIndex((h) => mapping[h] === 'code');
	for (const layer of layers) {
		const over = overlay(raw, excluded, header, code, layer);
		({ raw, excluded } = over);
		version = { changed: over.changed, before: over.before, outdated: over.outdated };
	}
	return { raw, excluded, version };
}

/** The cells of one column of a stored table as they are now; none when there is no such column. */
export const columnCells = (parts: TableParts, position: number): string[] => rawTable(parts).raw.columns[position] ?? [];

/** A stored table with its edits, and as it is understood. The name of the table is the id of the object. */
export function openTable(parts: TableParts, lengthUnit: string): { raw: RawTable; table: Table } {
	const { kind, mapping, units, values, coordinates, written = {} } = parts.state;
	const { raw, excluded, version } = rawTable(parts);
	const table = readTable(parts.id, kind, raw, mapping, {
		excluded,
		units,
		values,
		coordinates,
		written,
		lengthUnit,
		stated: statedUnits(parts.state),
		calculated: parts.state.calculated ?? []
	});
	return {
		raw,
		table: version ? asVersion(table, { of: parts.state.versionOf!, unplaced: parts.state.unplaced ?? [], ...version }) : table
	};
}
