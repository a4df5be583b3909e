import { tableKind } from '#core/tables/kinds';
import { affectedRows, canRecheck, checkTables, checkVersion, recheck, type CheckOptions } from '#core/checks/check';
import type { RuleSettings } from '#core/checks/settings';
import { fail } from '#core/problem';
import { appendTables, compareTables, type KnownEdit } from '#core/tables/compare';
import { editCell, excludeRow } from '#core/tables/edit';
import type { Mapping } from '#core/tables/mapping';
import type { RawTable } from '#core/tables/raw-table';
import { validateCalculated, type CalculatedColumn } from '#core/tables/calculated';
import { cellOfNumber, chooseRows, statisticsOfColumn } from '#core/tables/choose';
import type { Box } from '#core/geometry/box';
import { firstSteps, meanDipAzimuth, proposeExtent, type KnownSoFar } from '#core/project/first-steps';
import { codesIn, summarise, type TableSummary } from '#core/tables/summary';
import type { Table } from '#core/tables/table';
import { decodeChunks, encodeChunks, statedUnits, type TableParts, type TableState } from './stored-table';
import { checkAll, held, holesOf, located, open, outs, type Held, type LocatedFinding, type ProjectTables } from './open-tables';
import { followEdits, type HeldLayer } from '#core/tables/version';
import { answer, tell, type Progress } from './answer';

export * from './hole-tasks';
export * from './log-tasks';

/** Of some tables, those that this thread does not have. */
export const missing = (m: { tables: { id: string; hash: string }[]; lengthUnit: string }) =>
	answer(() => m.tables.filter((t) => held.get(t.id)?.hash !== t.hash || held.get(t.id)?.lengthUnit !== m.lengthUnit).map((t) => t.id));

/** Checks all tables of a project. */
export const checkProject = (m: ProjectTables) =>
	answer(() => {
		const tables = m.tables.map((t) => open(t, m.options.lengthUnit).table);
		return located(checkAll(m, tables).findings, tables);
	});

/** What two settings of the rules make of the tables of a project. */
export const compareSettings = (m: ProjectTables & { settings: [RuleSettings, RuleSettings] }) =>
	answer(() => {
		const tables = m.tables.map((t) => open(t, m.options.lengthUnit).table);
		const of = (settings: RuleSettings) => {
			const { findings, out } = checkTables(tables, { ...m.options, settings });
			const count = (severity: string) => findings.filter((f) => f.severity === severity).length;
			return {
				held: count('held'),
				noted: count('noted'),
				tables: tables.map((t) => ({
					table: t.name,
					rows: t.rowCount,
					held: out[t.name]!.reduce((n, v, i) => n + (v && !t.excluded[i] ? 1 : 0), 0)
				}))
			};
		};
		return { before: of(m.settings[0]), after: of(m.settings[1]) };
	});

export interface ImportMessage extends ProjectTables {
	/** Others of an archive come after it: the last of them checks all. */
	checkedLater: boolean;
	/** The table that comes in, with its rows. */
	table: TableParts;
	port: Progress;
}

/** Opens a table that was read and checks it together with the other tables of the project. */
export const importTable = (m: ImportMessage) =>
	answer(() => {
		const say = tell(m.port);
		say('reading columns', 0);
		const { table } = open(m.table, m.options.lengthUnit);
		if (m.checkedLater) return { findings: [], summary: summarise(table) };
		say('checking', 0.5);
		const tables = [...m.tables.map((t) => open(t, m.options.lengthUnit).table), table];
		const checked = checkAll(m, tables);
		return { findings: located(checked.findings, tables), summary: summarise(table) };
	});

/** Gives the last check of a project its key, once what it is of is stored. */
export const confirm = (m: { projectId: string; key: string }) =>
	answer(() => {
		const o = outs.get(m.projectId);
		if (o) o.key = m.key;
		return true;
	});

export interface EditMessage {
	projectId: string;
	objectId: string;
	/** Content hash and check key before and after the edit. */
	from: { hash: string; key: string };
	to: { hash: string; key: string };
	cells: { n: number; position: number; value: string }[];
	rows: { n: number; excluded: boolean }[];
	/** Content hashes of the other tables. */
	others: { id: string; hash: string }[];
	options: CheckOptions;
}

const MOST_AFFECTED = 200_000;

/**
 * Follows an edit in the tables that are held here and checks what it can affect.
 * @returns null when the tables are not held as they were, or a rule compares everything with everything: then check all
 */
export const editTable = (m: EditMessage) =>
	answer(
		(): {
			affected: { table: string; rows: number[] }[];
			columns: { table: string; columns: string[] };
			/** A table of which all findings are told anew. */
			whole?: string;
			findings: LocatedFinding[];
		} | null => {
			const h = held.get(m.objectId);
			const o = outs.get(m.projectId);
			const settings = m.options.settings ?? {};
			if (
				!h ||
				!o ||
				h.hash !== m.from.hash ||
				o.key !== m.from.key ||
				!canRecheck(h.table, settings) ||
				Boolean(h.parts.state.calculated?.length) ||
				Object.keys(h.parts.state.coordinates).length > 0 ||
				m.others.some((t) => held.get(t.id)?.hash !== t.hash) ||
				// What a version of a log goes out from, and where holes lie, count for the version, too.
				m.others.some((t) => followsFrom(held.get(t.id)!.table, h.table))
			) {
				held.delete(m.objectId);
				return null;
			}
			const { mapping, units, values } = h.parts.state;
			const holes = new Set<string>();
			const names = h.table.text['hole']!;
			const columns = new Set<string>();
			const before = m.cells.map((c) => ({ ...c, before: h.raw.columns[c.position]![c.n]! }));
			for (const c of m.cells) {
				holes.add(names[c.n]!);
				const key = editCell(h.raw, h.table, { mapping, units, values, lengthUnit: h.lengthUnit }, c.n, c.position, c.value);
				holes.add(names[c.n]!);
				if (key) columns.add(key);
			}
			for (const r of m.rows) {
				excludeRow(h.table, r.n, r.excluded);
				holes.add(names[r.n]!);
				// One row more or less moves the middle of a million values by nothing; of a short column it can.
				if (h.raw.rowCount < MOST_AFFECTED)
					for (const key of [...Object.keys(h.table.numbers), ...Object.keys(h.table.text)]) columns.add(key);
				else columns.add('code').add('sample');
			}
			h.hash = m.to.hash;
			o.key = m.to.key;
			const tables = [...m.others.map((t) => held.get(t.id)!.table), h.table];
			if (h.table.versionOf) {
				followEdits(h.table, h.parts.layers!.at(-1)! as HeldLayer, before, m.rows);
				const findings = checkVersion(h.table, tables, o.out, m.options);
				return { affected: [], columns: { table: h.table.name, columns: [] }, whole: h.table.name, findings: located(findings, tables) };
			}
			const affected = { holes, rows: new Map<string, number[]>(), columns: new Map([[h.table.name, columns]]) };
			const findings = recheck(tables, o.out, affected, m.options);
			return {
				affected: tables.map((t) => ({ table: t.name, rows: affectedRows(t, affected) })).filter((a) => a.rows.length),
				columns: { table: h.table.name, columns: [...columns] },
				findings: located(findings, tables)
			};
		}
	);

/** Whether the check of a table depends on another: a version of a log on what it goes out from, and on collars and surveys. */
const followsFrom = (table: Table, on: Table): boolean =>
	table.versionOf !== undefined && (table.versionOf === on.name || ['start', 'path'].includes(tableKind(on.kind).at));

/** What is in a table at a glance. */
export const summary = (m: { table: TableParts; lengthUnit: string }) =>
	answer((): TableSummary => summarise(open(m.table, m.lengthUnit).table));

/** The codes of a table. */
export const codes = (m: { table: TableParts; lengthUnit: string }) => answer(() => codesIn(open(m.table, m.lengthUnit).table));

/** What some rows are chosen and ordered by. */
export interface RowQuery {
	/** Expression that is true for the rows that are wanted. */
	filter?: string | undefined;
	sort?: string | undefined;
	descending?: boolean | undefined;
	/** Text that any cell of the row holds. */
	find?: string | undefined;
}

const orders = new Map<string, Uint32Array>();
const MOST_ORDERS = 6;

function orderOf(h: Held, q: RowQuery): Uint32Array {
	const key = JSON.stringify([h.parts.id, h.hash, h.lengthUnit, q.filter ?? '', q.sort ?? '', q.descending ?? false, q.find ?? '']);
	const known = orders.get(key);
	if (known) {
		orders.delete(key);
		orders.set(key, known);
		return known;
	}
	const order = chooseRows(h.raw, h.table, q, h.lengthUnit, statedUnits(h.parts.state));
	orders.set(key, order);
	for (const old of orders.keys()) if (orders.size > MOST_ORDERS) orders.delete(old);
	return order;
}

/** Numbers of the rows on one page of a filtered and sorted table. */
export const rowPage = (m: { table: TableParts; lengthUnit: string; query: RowQuery; offset: number; limit: number }) =>
	answer(() => {
		const order = orderOf(open(m.table, m.lengthUnit), m.query);
		return { total: order.length, numbers: Array.from(order.subarray(m.offset, m.offset + m.limit)) };
	});

/** Cells of the calculated columns in some rows. */
export const calculatedCells = (m: { table: TableParts; lengthUnit: string; rows: number[] }) =>
	answer(() => {
		const { table } = open(m.table, m.lengthUnit);
		return Object.entries(table.calculated ?? {}).map(([name, { unit, problem }]) => ({
			name,
			unit,
			problem: problem ?? null,
			cells: m.rows.map((r) => (table.numbers[name] ? cellOfNumber(table.numbers[name][r]!) : (table.text[name]?.[r] ?? '')))
		}));
	});

/** Statistics of one column, of the rows that a query chooses and that are not excluded. */
export const columnStatistics = (m: { table: TableParts; lengthUnit: string; query: RowQuery; column: string }) =>
	answer(() => {
		const h = open(m.table, m.lengthUnit);
		return statisticsOfColumn(h.raw, h.table, orderOf(h, { ...m.query, sort: undefined, descending: undefined }), m.column);
	});

/** What calculated columns would give. @throws ProblemError when one can not be worked out */
export const previewCalculated = (m: { table: TableParts; lengthUnit: string; columns: CalculatedColumn[] }) =>
	answer(() => {
		const h = open(m.table, m.lengthUnit);
		const {
			numbers,
			text,
			calculated = {}
		} = validateCalculated(h.table, h.raw.header, m.columns, m.lengthUnit, statedUnits(h.parts.state));
		const last = m.columns[m.columns.length - 1]?.name;
		if (last === undefined) return null;
		const values = numbers[last];
		const cells = Array.from({ length: Math.min(8, h.raw.rowCount) }, (_, r) => (values ? cellOfNumber(values[r]!) : text[last]![r]!));
		return {
			type: values ? 'number' : 'text',
			unit: calculated[last]!.unit,
			cells,
			missing: values ? values.reduce((n, v) => n + Number(Number.isNaN(v)), 0) : 0
		};
	});

/** Box around the holes in use, or around the terrain with the depth of the holes; null without them. */
export const projectExtent = (m: ProjectTables & { from: 'terrain' | 'collars' }) =>
	answer((): Box | null => {
		const { holes, terrain } = holesOf(m);
		const around = proposeExtent(holes, terrain);
		if (m.from === 'collars') return holes.length ? around : null;
		const whole = proposeExtent([], terrain);
		return whole && holes.length ? { ...whole, minZ: Math.min(whole.minZ, around!.minZ) } : whole;
	});

/** What a new project still needs, as far as its data propose it. */
export const proposeFirstSteps = (
	m: ProjectTables & { known: Pick<KnownSoFar, 'column' | 'lumping' | 'extent' | 'taken' | 'hasSection'> }
) =>
	answer(() => {
		const { tables, out, terrain, holes } = holesOf(m);
		return firstSteps({ ...m.known, holes, terrain, dipAzimuth: meanDipAzimuth(tables, out) });
	});

/** A file as it was cut. */
export interface CutFile {
	name: string;
	state: Pick<TableState, 'header' | 'stated' | 'reading' | 'rowCount' | 'odd' | 'notes'>;
	chunks: Uint8Array[];
}

export interface VersionMessage {
	/** The table as it is stored, with the originals of its edits. */
	table: TableParts;
	edits: KnownEdit[];
	/** Marks on rows: findings that were seen. */
	seen: { rule: string; n: number; reason: string; seenBy: string; seenAt: Date }[];
	file: CutFile;
}

/** The table as its file has it, and another file read in the same way. @throws ProblemError `other-columns` */
function versions(m: VersionMessage): { old: RawTable; fresh: RawTable } {
	const { header, stated, reading, mapping, odd } = m.table.state;
	const old: RawTable = { header, units: stated, reading, ...(odd ? { odd } : {}), ...decodeChunks(m.table.chunks, header.length) };
	const s = m.file.state;
	const fresh: RawTable = {
		header: s.header,
		units: s.stated,
		reading: s.reading,
		...(s.odd ? { odd: s.odd } : {}),
		...decodeChunks(m.file.chunks, s.header.length)
	};
	const missing = header.filter((h) => !fresh.header.includes(h) && !['leave', 'keep'].includes(mapping[h] ?? 'leave'));
	if (missing.length)
		return fail(
			'other-columns',
			`${m.file.name} has no column ${missing.map((h) => `"${h}"`).join(', ')}`,
			`The table uses these columns. The file has: ${fresh.header.join(', ')}.`,
			m.file.name
		);
	return { old, fresh };
}

const rowName = (raw: RawTable, mapping: Mapping, n: number): string => {
	const hole = raw.header.findIndex((h) => mapping[h] === 'hole');
	return `${hole < 0 ? '' : `${raw.columns[hole]![n]}, `}line ${raw.lines[n]}`;
};

const MOST_LISTED = 500;

/** What a newer version of the file changes, and what becomes of every edit and every row that was left out. */
export const compareVersions = (m: VersionMessage) =>
	answer(() => {
		const { old, fresh } = versions(m);
		const { mapping } = m.table.state;
		const c = compareTables(old, fresh, m.table.state.kind, mapping, m.edits, m.table.excluded);
		const { match: _match, kept, conflicts, lost, exclusions, ...counts } = c;
		return {
			...counts,
			kept: kept.length,
			conflicts: conflicts
				.slice(0, MOST_LISTED)
				.map((e) => ({ row: rowName(fresh, mapping, e.n), column: fresh.header[e.position]!, edited: e.value, source: e.source })),
			/** Edits that the file now holds itself. */
			settled: c.settled,
			lost: lost
				.slice(0, MOST_LISTED)
				.map((e) => ({ row: rowName(old, mapping, e.n), column: old.header[e.position]!, edited: e.value, why: e.why })),
			excluded: { kept: exclusions.kept.length, lost: exclusions.lost.slice(0, MOST_LISTED).map((n) => rowName(old, mapping, n)) },
			unplaced: lost.length + exclusions.lost.length
		};
	});

/** A stored table in a newer version, or with the rows of another file added: all that is to be stored. @param dropLost whether edits and exclusions without a row may be dropped */
export const newVersion = (m: VersionMessage & { how: 'reload' | 'append'; conflicts: 'edits' | 'source'; dropLost: boolean }) =>
	answer(() => {
		const { old, fresh } = versions(m);
		const { mapping } = m.table.state;
		if (m.how === 'append') {
			const raw = appendTables(old, fresh);
			return {
				state: { ...m.table.state, rowCount: raw.rowCount, ...(raw.odd ? { odd: raw.odd } : {}) },
				chunks: encodeChunks(raw),
				edits: m.edits,
				excluded: m.table.excluded,
				seen: m.seen,
				places: Int32Array.from({ length: old.rowCount }, (_, n) => n),
				said: `${fresh.rowCount} ${fresh.rowCount === 1 ? 'row' : 'rows'} added`
			};
		}
		const c = compareTables(old, fresh, m.table.state.kind, mapping, m.edits, m.table.excluded);
		const unplaced = c.lost.length + c.exclusions.lost.length;
		if (unplaced && !m.dropLost)
			fail(
				'edits-without-row',
				`${unplaced} ${unplaced === 1 ? 'edit or exclusion has' : 'edits and exclusions have'} no row in ${m.file.name}: ${[...c.lost.map((e) => rowName(old, mapping, e.n)), ...c.exclusions.lost.map((n) => rowName(old, mapping, n))].slice(0, 5).join('; ')}`,
				'Look at them, and say that they may be dropped (dropLost), or mend the file. Nothing was changed.',
				'dropLost'
			);
		const edits: KnownEdit[] = [...c.kept, ...(m.conflicts === 'edits' ? c.conflicts : [])].map(({ n, position, value }) => ({
			n,
			position,
			value,
			original: fresh.columns[position]![n]!
		}));
		const state: TableState = {
			...m.table.state,
			header: fresh.header,
			stated: fresh.units,
			reading: fresh.reading,
			mapping: Object.fromEntries(fresh.header.map((h) => [h, mapping[h] ?? 'keep'])),
			rowCount: fresh.rowCount
		};
		delete state.odd;
		delete state.notes;
		if (m.file.state.notes) state.notes = m.file.state.notes;
		delete state.appended;
		if (fresh.odd) state.odd = fresh.odd;
		const places = new Int32Array(old.rowCount).fill(-1);
		c.match.forEach((before, n) => before >= 0 && (places[before] = n));
		const seen = m.seen.flatMap((s) => (s.n < 0 ? [s] : places[s.n]! >= 0 ? [{ ...s, n: places[s.n]! }] : []));
		return {
			state,
			chunks: encodeChunks(fresh),
			edits,
			excluded: c.exclusions.kept,
			seen,
			/** Where each row went; −1 for one that is gone. */
			places,
			said: `${c.added} ${c.added === 1 ? 'row' : 'rows'} added, ${c.changed} changed, ${c.gone} gone; ${c.kept.length} edits stay${c.conflicts.length ? `, ${c.conflicts.length} in conflict (${m.conflicts === 'edits' ? 'the edits' : 'the file'} kept)` : ''}${unplaced ? `, ${unplaced} without a row dropped` : ''}`
		};
	});
