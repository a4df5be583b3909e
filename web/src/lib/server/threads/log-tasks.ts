import { readPack } from '#core/formats/pack';
import { proposeGroups } from '#core/logs/propose-groups';
import { bodyOf, rowsWithin, type Body } from '#core/logs/within-body';
import { codesOf, differences, Log, pickRows, relog, sumOf, type LogChange, type PickRule, type RelogAct } from '#core/logs/relog';
import { fewestBroken } from '#core/linear/ordering';
import { fail } from '#core/problem';
import { NOTE } from '#core/tables/version';
import { readScheme } from '#core/units/scheme';
import { chooseRows } from '#core/tables/choose';
import { holesByLog, type LogSource } from '#core/holes/holes';
import { unitOrCode } from '#core/units/column';
import { evidenceOf, proposeColumn } from '#core/units/propose-column';
import { answer } from './answer';
import { holesOf, open, outOf, type Held, type ProjectTables } from './open-tables';
import { statedUnits } from './stored-table';
import { writtenCell } from './written-cell';

type OfLog = ProjectTables & { objectId: string };

/** One log of a project, with the rows of it that are in use. */
function logOf(m: OfLog, id = m.objectId): { held: Held; log: Log } {
	const tables = m.tables.map((t) => open(t, m.options.lengthUnit));
	const out = outOf(
		m,
		tables.map((h) => h.table)
	);
	const held = tables.find((h) => h.table.name === id)!;
	return { held, log: new Log(held.table, out[id]!) };
}

const namesOf = (m: ProjectTables) => {
	const { column = [], lumping = {} } = m.options.around ?? {};
	const rank = new Map(column.map((u, i) => [u.id, i]));
	const nameOf = (code: string) => unitOrCode(lumping, code) || code;
	return { nameOf, rank: (code: string) => rank.get(nameOf(code)) ?? null };
};

/** The codes of a log with where in the ground they are. */
export const logCodes = (m: OfLog) => answer(() => codesOf(logOf(m).log));

/** An object, or a unit of a model, as a body. */
export interface AskedBody {
	name: string;
	form: string | null;
	pack: Uint8Array;
	unit: string;
}

export type AskedRule = PickRule | { by: 'filter'; filter: string } | { by: 'within'; body: AskedBody };

/** Rows of a log that a rule picks, among some if it is said, and what they hold together. */
export const pickIntervals = (m: OfLog & { rule: AskedRule; among: readonly number[] | null }) =>
	answer(() => {
		const { held, log } = logOf(m);
		const found =
			m.rule.by === 'filter'
				? [...chooseRows(held.raw, held.table, { filter: m.rule.filter }, m.options.lengthUnit, statedUnits(held.parts.state))].filter(
						(r) => !log.out[r]
					)
				: m.rule.by === 'within'
					? rowsWithin(log, new Map(holesOf(m).holes.map((h) => [h.name, h.path])), openBody(m.rule.body))
					: pickRows(log, m.rule, namesOf(m).nameOf);
		const among = m.among ? new Set(m.among) : null;
		const rows = among ? found.filter((r) => among.has(r)) : found;
		return { rows, picked: sumOf(log, rows) };
	});

function openBody({ name, form, pack, unit }: AskedBody): Body {
	const opened = readPack(pack);
	const units = (opened.info['units'] ?? []) as string[];
	if (form === 'solids' && !units.includes(unit))
		fail('unknown-unit', `${name} was built without the unit "${unit}"`, 'Build the model, or choose another unit.', 'unit');
	return bodyOf(name, form, opened, units.indexOf(unit));
}

const MOST_SHOWN = 200;

/** What an act of relogging would change, as cells of the table. */
export const relogCells = (m: OfLog & { act: RelogAct; note: string | null }) =>
	answer(() => {
		const { held, log } = logOf(m);
		const { raw, table } = held;
		const { state } = held.parts;
		const change = relog(log, m.act, namesOf(m).rank);
		const position = (role: string) => state.header.findIndex((h) => state.mapping[h] === role);
		const at = { from: position('from'), to: position('to'), code: position('code') };
		const note = m.note === null ? -1 : state.header.indexOf(NOTE);
		const cell = (role: 'from' | 'to' | 'code', value: number | string) =>
			typeof value === 'string' ? value : (writtenCell(state, m.options.lengthUnit, at[role], value) ?? String(value));
		const cells: [number, number, string, string][] = change.cells.map(({ row, role, value }) => [
			row,
			at[role],
			raw.columns[at[role]]![row]!,
			cell(role, value)
		]);
		if (note >= 0)
			for (const row of new Set([...change.cells.map((c) => c.row), ...change.excluded]))
				cells.push([row, note, raw.columns[note]![row]!, m.note!]);
		const added = change.added.map(({ copyOf, cells: own }) => ({
			of: copyOf,
			cells: state.header.map((_, i) =>
				i === at.from
					? cell('from', own.from)
					: i === at.to
						? cell('to', own.to)
						: i === at.code && own.code !== undefined
							? own.code
							: i === note
								? m.note!
								: raw.columns[i]![copyOf]!
			)
		}));
		return {
			cells: cells.filter(([, , before, after]) => before !== after),
			added,
			excluded: change.excluded,
			left: change.left.slice(0, MOST_SHOWN).map(({ row, why }) => ({ n: row, hole: table.text['hole']![row]!, why })),
			picked: sumOf(log, [...new Set([...change.cells.map((c) => c.row), ...change.excluded])]),
			shown: shownOf(change, log)
		};
	});

/** The first of the intervals that change, in words. */
function shownOf(change: LogChange, log: Log) {
	const { table } = log;
	const byRow = new Map<number, string[]>();
	const say = (row: number, what: string) => byRow.set(row, [...(byRow.get(row) ?? []), what]);
	for (const c of change.cells)
		say(c.row, c.role === 'code' ? (c.value === '' ? 'not sampled' : String(c.value)) : `${c.role} ${Number(Number(c.value).toFixed(3))}`);
	for (const a of change.added)
		say(
			a.copyOf,
			`cut: ${a.cells.code ?? table.text['code']![a.copyOf]!} from ${Number(a.cells.from.toFixed(3))} to ${Number(a.cells.to.toFixed(3))}`
		);
	for (const row of change.excluded) say(row, 'goes into its neighbour');
	return [...byRow].slice(0, MOST_SHOWN).map(([n, what]) => ({
		n,
		hole: table.text['hole']![n]!,
		from: table.numbers['from']![n]!,
		to: table.numbers['to']![n]!,
		was: table.text['code']![n]!,
		becomes: what.join(', ')
	}));
}

/** Rows of a version that were changed in it, by hole and depth. */
export const changedRows = (m: OfLog & { offset: number; limit: number }) =>
	answer(() => {
		const { table } = logOf(m).held;
		const holes = table.text['hole']!;
		const from = table.numbers['from']!;
		const rows: number[] = [];
		table.changed?.forEach((c, r) => c && rows.push(r));
		rows.sort((a, b) => (holes[a]! < holes[b]! ? -1 : holes[a]! > holes[b]! ? 1 : from[a]! - from[b]!));
		return { total: rows.length, rows: rows.slice(m.offset, m.offset + m.limit) };
	});

/** Rows of some holes, also those that are not in use. */
export const rowsOfSame = (m: OfLog & { rows: readonly number[] }) =>
	answer(() => {
		const holes = logOf(m).held.table.text['hole']!;
		const wanted = new Set(m.rows.map((r) => holes[r]));
		return holes.flatMap((h, r) => (wanted.has(h) ? [r] : []));
	});

/**
 * What the holes say of the order of a column: of its neighbours as they stand, and the order and kinds of contact that most holes have.
 * @param log the log that the model is made from; what was logged when it is null
 */
export const columnEvidence = (m: ProjectTables & { log: LogSource | null }) =>
	answer(() => {
		const { tables, out, holes } = holesOf(m);
		const { column: all = [], lumping = {} } = m.options.around ?? {};
		// What was said to be an intrusion may lie anywhere in a hole: its place in the column is not read from that.
		const column = all.filter((u) => u.contact !== 'intrusive');
		const known = new Set(column.map((u) => u.id));
		const logged = m.log ? holesByLog(holes, tables, { findings: [], out }, m.log) : holes;
		const logs = logged.flatMap((h) => {
			const units = h.intervals.map((i) => unitOrCode(lumping, i.code)).filter((u) => known.has(u));
			return units.length ? [{ hole: h.name, units }] : [];
		});
		const proposal = proposeColumn(logs);
		const met = new Set(logs.flatMap((l) => l.units));
		return {
			holes: logs.length,
			evidence: column.slice(1).map((u, k) => evidenceOf(logs, column[k]!.id, u.id)),
			proposed: proposal.units,
			contradicting: proposal.contradicting,
			/** Units that no hole meets: nothing is known of their place. */
			unmet: column.filter((u) => !met.has(u.id)).map((u) => u.id)
		};
	});

/** Units for codes of a log that have none. */
export const codeGroups = (m: OfLog) =>
	answer(() => {
		const { log } = logOf(m);
		const { column = [], lumping = {} } = m.options.around ?? {};
		const known = new Set(column.map((u) => u.id));
		const said = log.table.text['description'];
		const holes = [...log.holes].map((hole) => {
			const rows = log.of(hole);
			return { codes: rows.map((r) => r.code), words: rows.map((r) => said?.[r.row] ?? '') };
		});
		// A code that is said to be none is not asked about again.
		const groups = proposeGroups(holes, column, (code) => {
			const unit = unitOrCode(lumping, code);
			return known.has(unit) ? unit : '';
		});
		return groups.map((g) => ({ ...g, codes: g.codes.filter((c) => lumping[c] !== '') })).filter((g) => g.codes.length > 0);
	});

/** Where two logs say something else. */
export const compareLogs = (m: OfLog & { other: string; by: 'unit' | 'code'; limit: number }) =>
	answer(() => {
		const { nameOf } = namesOf(m);
		const d = differences(logOf(m).log, logOf(m, m.other).log, m.by === 'unit' ? nameOf : (c) => c);
		return { total: d.list.length, length: d.length, compared: d.compared, differences: d.list.slice(0, m.limit) };
	});

/** A scheme from columns of a log, the highest rank first. @throws ProblemError `unknown-column` */
export const schemeOfColumns = (m: OfLog & { columns: readonly string[]; id: string; name: string }) =>
	answer(() => {
		const { held, log } = logOf(m);
		const { header } = held.parts.state;
		const at = m.columns.map((c) => {
			const i = header.indexOf(c);
			return i >= 0
				? i
				: fail('unknown-column', `${m.name}: the log has no column "${c}"`, `Its columns: ${header.join(', ')}.`, 'columns');
		});
		const holes = Array.from(log.holes, (hole) => log.of(hole).map((r) => at.map((i) => held.raw.columns[i]![r.row]!.trim())));
		// Youngest first: in the order in which most holes meet them; a scheme keeps the order of its rows.
		return readScheme(m.id, m.name, m.columns, ordered(holes));
	});

/** Different rows of holes, those that lie higher in most holes first. */
function ordered(holes: readonly (readonly string[][])[]): string[][] {
	const key = (r: readonly string[]) => r.join('\u0001');
	const known = new Map<string, { n: number; row: string[]; depth: number; count: number }>();
	for (const rows of holes)
		rows.forEach((row, depth) => {
			const own = known.get(key(row)) ?? { n: known.size, row, depth: 0, count: 0 };
			own.depth += depth;
			own.count++;
			known.set(key(row), own);
		});
	const list = [...known.values()];
	if (list.length > 2000)
		return fail('no-scheme', `these columns hold ${list.length} different rows`, 'Choose the columns of the ranks only.', 'columns');
	const above = list.map(() => new Float64Array(list.length));
	for (const rows of holes)
		for (let i = 1; i < rows.length; i++) {
			const [a, b] = [known.get(key(rows[i - 1]!))!.n, known.get(key(rows[i]!))!.n];
			if (a !== b) above[a]![b] = above[a]![b]! + 1;
		}
	return fewestBroken(
		above,
		Float64Array.from(list, (o) => o.depth / o.count)
	).map((i) => list[i]!.row);
}
