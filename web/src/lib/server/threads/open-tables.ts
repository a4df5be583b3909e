import { checkPlain, checkVersions, type CheckOptions } from '#core/checks/check';
import type { Checked } from '#core/tables/finding';
import type { Finding } from '#core/tables/finding';
import type { RawTable } from '#core/tables/raw-table';
import type { Table } from '#core/tables/table';
import { assembleHoles } from '#core/holes/holes';
import { openTable, type TableParts } from './stored-table';

/**
 * What the table thread holds. It keeps the tables that it was asked about last, so that an edit of one cell among a million rows is
 * checked without reading them again. A table is known by its content hash; what is not known is sent along.
 */
export interface Held {
	hash: string;
	lengthUnit: string;
	raw: RawTable;
	table: Table;
	parts: TableParts;
}
export const held = new Map<string, Held>();
const MOST_ROWS = 4_000_000;

/** Which rows are out, by project, as the last check left it. */
export const outs = new Map<string, { key: string; out: Record<string, Uint8Array> }>();

function keep(h: Held): void {
	held.delete(h.parts.id);
	held.set(h.parts.id, h);
	let rows = 0;
	for (const [id, other] of [...held].reverse()) {
		rows += other.raw.rowCount;
		if (rows > MOST_ROWS && id !== h.parts.id) held.delete(id);
	}
}

export function open(parts: TableParts, lengthUnit: string): Held {
	const known = held.get(parts.id);
	if (known && known.hash === parts.hash && known.lengthUnit === lengthUnit) {
		keep(known);
		return known;
	}
	const h: Held = { hash: parts.hash, lengthUnit, ...openTable(parts, lengthUnit), parts: { ...parts, chunks: [] } };
	keep(h);
	return h;
}

/** Findings as they are stored: with the line of the file. */
export interface LocatedFinding extends Finding {
	line: number;
}

export const located = (findings: readonly Finding[], tables: readonly Table[]): LocatedFinding[] => {
	const lines = new Map(tables.map((t) => [t.name, t.lines]));
	return findings.map((f) => ({ ...f, line: lines.get(f.table)?.[f.row] ?? 0 }));
};

export interface ProjectTables {
	projectId: string;
	/** Key of all tables, settings and surroundings, and of all of it but the tables. */
	key: string;
	settingsKey?: string;
	tables: TableParts[];
	options: CheckOptions;
}

/** What the last whole check of each project found in what was logged, by what it is of: a change of a version of a log leaves it as it is. */
const plainChecks = new Map<string, { key: string; checked: Checked }>();
const MOST_PROJECTS = 4;

export function checkAll(m: ProjectTables, tables: readonly Table[]): Checked {
	const plain = tables.filter((t) => !t.versionOf);
	const key =
		m.settingsKey === undefined ? null : `${m.settingsKey} ${plain.map((t) => `${t.name} ${held.get(t.name)?.hash ?? ''}`).join()}`;
	const known = plainChecks.get(m.projectId);
	const of = known && known.key === key ? known.checked : checkPlain(tables, m.options);
	plainChecks.delete(m.projectId);
	if (key !== null) plainChecks.set(m.projectId, { key, checked: of });
	for (const old of plainChecks.keys()) if (plainChecks.size > MOST_PROJECTS) plainChecks.delete(old);
	// What holds rows back is brought up to date in place after an edit: what is kept must not change with it.
	const copy = { findings: of.findings, out: Object.fromEntries(Object.entries(of.out).map(([id, rows]) => [id, rows.slice()])) };
	const checked = checkVersions(tables, copy, m.options);
	outs.set(m.projectId, { key: m.key, out: checked.out });
	return checked;
}

/** The rows that are out, from the last check when it was of the same tables. */
export function outOf(m: ProjectTables, tables: readonly Table[]): Record<string, Uint8Array> {
	const known = outs.get(m.projectId);
	return known?.key === m.key ? known.out : checkAll(m, tables).out;
}

/** Holes of a project as they are drawn, and the tables that they come from. */
export function holesOf(m: ProjectTables) {
	const tables = m.tables.map((t) => open(t, m.options.lengthUnit).table);
	const out = outOf(m, tables);
	return {
		tables,
		out,
		terrain: m.options.around?.terrain ?? null,
		holes: assembleHoles(tables, { findings: [], out }, m.options.around?.terrain ?? null).holes
	};
}
