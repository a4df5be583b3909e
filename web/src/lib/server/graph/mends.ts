import { and, asc, eq, inArray } from 'drizzle-orm';
import { RULES } from '#core/checks/rules';
import { fail } from '#core/problem';
import { roleOf } from '#core/tables/kinds';
import { unitFactor } from '#core/tables/measures';
import { numberReader } from '#core/tables/numbers';
import { db, type Executor } from '../db/client';
import { finding, rowExclusion } from '../db/schema';
import type { Step } from './steps';
import { columnCells } from '../threads/stored-table';
import { writtenCell } from '../threads/written-cell';
import { listTables, rowsByNumber, tableParts, type StoredRow, type StoredTable } from '../store/tables';

/** A way to mend the findings of a rule. */
interface MendRequest {
	rule: string;
	/** Rows; all that the rule found when left out. */
	rows?: number[] | undefined;
	mend: 'swap' | 'deepen-hole' | 'propose' | 'exclude' | 'set';
	/** For `set`. */
	value?: string | undefined;
	/** Header of the column that is meant, when the rule found something in several. */
	column?: string | undefined;
}

const MOST_MENDED = 100_000;
/** How many times as deep a hole may become when many are extended at once. */
const MOST_EXTENDED = 1.5;
/** Columns that are swapped, by rule. */
const PAIRS: Record<string, [string, string]> = { 'from-not-above-to': ['from', 'to'], 'misplaced-collar': ['easting', 'northing'] };

const positionOf = (table: StoredTable, role: string): number =>
	table.state.header.findIndex((h) => table.state.mapping[h] === role || (h === role && table.state.mapping[h] === 'value'));

/** The steps of a mend: cells with what stands there now and then, rows that are left out. */
export async function mendSteps(on: Executor, projectId: string, table: StoredTable, m: MendRequest): Promise<Step[]> {
	const rule = RULES.find((r) => r.id === m.rule)!;
	if (!['exclude', 'set'].includes(m.mend) && !rule.mends?.includes(m.mend as never))
		fail(
			'no-such-mend',
			`"${rule.title}" can not be mended that way`,
			`It can be mended by: ${[...(rule.mends ?? []), 'exclude', 'set'].join(', ')}.`,
			'mend'
		);
	if (m.mend === 'set' && m.value === undefined) fail('no-value', 'no value is given', 'Say what the cells are to hold.', 'value');
	const found = await on
		.select()
		.from(finding)
		.where(and(eq(finding.objectId, table.id), eq(finding.rule, m.rule), m.rows ? inArray(finding.n, m.rows) : undefined))
		.orderBy(asc(finding.n))
		.limit(MOST_MENDED);
	const rows = await allRows(
		on,
		table,
		found.filter((f) => f.n >= 0 && (m.column === undefined || headerOf(table, f.role) === m.column))
	);
	if (rows.length === 0)
		return fail('nothing-to-mend', 'none of these rows has such a finding', 'It may have been mended already; load the findings again.');
	if (m.mend === 'exclude') {
		const out = new Set(
			(
				await on
					.select({ n: rowExclusion.n })
					.from(rowExclusion)
					.where(and(eq(rowExclusion.objectId, table.id), eq(rowExclusion.version, table.version)))
			).map((r) => r.n)
		);
		const fresh = [...new Set(rows.map((f) => f.n))].filter((n) => !out.has(n));
		return fresh.length
			? [{ kind: 'excluded', object: table.id, version: table.version, rows: fresh, after: true }]
			: fail('nothing-to-mend', 'these rows are left out already', 'Load the findings again.');
	}
	if (m.mend === 'deepen-hole')
		return deepen(on, projectId, table, rows, m.rows !== undefined && new Set(rows.map((f) => f.hole)).size === 1);
	const columns = new Set(rows.map((f) => headerOf(table, f.role)));
	if (m.mend === 'set' && columns.size > 1)
		return fail(
			'several-columns',
			`these findings are about ${columns.size} columns: ${[...columns].join(', ')}`,
			'Say in which of them the value is to be set.',
			'column'
		);
	const stored = await storedRows(on, table, rows);
	const cells: [number, number, string, string][] = [];
	const put = (row: StoredRow, position: number, value: string) => {
		if (position >= 0 && row.cells[position] !== value) cells.push([row.n, position, row.cells[position]!, value]);
	};
	for (const f of rows) {
		const row = stored.get(f.n);
		if (!row) continue;
		if (m.mend === 'swap') {
			const [a, b] = (PAIRS[m.rule] ?? ['', '']).map((role) => positionOf(table, role)) as [number, number];
			// Only what looks swapped; a collar that is far away for another reason stays.
			if (m.rule === 'misplaced-collar' && !f.message.includes('swapped')) continue;
			const [va, vb] = [row.cells[a]!, row.cells[b]!];
			put(row, a, vb);
			put(row, b, va);
		} else if (m.mend === 'set') put(row, positionOf(table, f.role ?? ''), m.value!.trim());
		else if (f.proposal !== null && m.rule === 'code-variants') await proposeCode(on, table, row, f.proposal, cells);
		else if (f.proposal !== null) {
			const position = positionOf(table, f.role ?? '');
			const isText = roleOf(table.state.kind, table.state.mapping[table.state.header[position] ?? ''] ?? '')?.type === 'text';
			const cell = isText ? f.proposal : writtenCell(table.state, table.lengthUnit, position, Number(f.proposal));
			if (cell !== null) put(row, position, cell);
		}
	}
	if (cells.length === 0)
		return fail('nothing-to-mend', 'this mend would change nothing in these rows', 'Choose another, or edit the cells.');
	return [{ kind: 'cells', object: table.id, version: table.version, cells }];
}

const headerOf = (table: StoredTable, role: string | null): string => table.state.header[positionOf(table, role ?? '')] ?? role ?? '';

type Found = typeof finding.$inferSelect;

/** Findings as one for each row: one about all rows of a hole stands for each of them. */
async function allRows(on: Executor, table: StoredTable, found: readonly Found[]): Promise<Found[]> {
	const wide = new Map(found.filter((f) => f.count > 1 && f.hole !== null).map((f) => [f.hole!, f]));
	if (wide.size === 0) return [...found];
	const position = positionOf(table, 'hole');
	const parts = await tableParts(on, table);
	const names = columnCells(parts, position);
	const out = found.filter((f) => !(f.count > 1 && f.hole !== null));
	names.forEach((name, n) => wide.has(name) && out.length < MOST_MENDED && out.push({ ...wide.get(name)!, n }));
	return out;
}

/** A spelling is mended wherever it stands, not only in the first row that was named. */
async function proposeCode(
	on: Executor,
	table: StoredTable,
	row: StoredRow,
	proposal: string,
	cells: [number, number, string, string][]
): Promise<void> {
	const position = positionOf(table, 'code');
	const spelling = row.cells[position]!;
	const parts = await tableParts(on, table);
	const codes = columnCells(parts, position);
	codes.forEach((c, n) => c === spelling && cells.push([n, position, c, proposal]));
}

/** Total depths of collars, extended to the deepest of the rows that were found below them. */
async function deepen(
	on: Executor,
	projectId: string,
	table: StoredTable,
	rows: readonly { n: number; role: string | null; hole: string | null }[],
	single: boolean
): Promise<Step[]> {
	const deepest = new Map<string, number>();
	const stored = await storedRows(on, table, rows);
	const read = numberReader(table.state.reading);
	for (const f of rows) {
		const position = positionOf(table, f.role ?? 'to');
		const unit = table.state.units[table.state.header[position] ?? ''];
		const depth = read(stored.get(f.n)?.cells[position] ?? '') * (unit ? unitFactor('length', unit, table.lengthUnit) : 1);
		if (f.hole !== null && !(deepest.get(f.hole)! >= depth)) deepest.set(f.hole, depth);
	}
	// Extending a hole by half its length and more is more likely to hide a mistake, feet in place of metres, than to mend one.
	const doubtful: string[] = [];
	const steps: Step[] = [];
	for (const collars of await listTables(on, projectId, ['collars'])) {
		const [hole, depth] = [positionOf(collars, 'hole'), positionOf(collars, 'totalDepth')];
		const own = numberReader(collars.state.reading);
		const depthUnit = collars.state.units[collars.state.header[depth] ?? ''];
		const total = (cell: string) => own(cell) * (depthUnit ? unitFactor('length', depthUnit, collars.lengthUnit) : 1);
		const all = await rowsByNumber(
			on,
			collars,
			Array.from({ length: collars.state.rowCount }, (_, n) => n)
		);
		const cells = all.flatMap((r): [number, number, string, string][] => {
			const wanted = deepest.get(r.cells[hole]!);
			if (wanted !== undefined && !single && wanted > MOST_EXTENDED * total(r.cells[depth]!)) {
				doubtful.push(r.cells[hole]!);
				return [];
			}
			const cell =
				wanted === undefined || Number.isNaN(wanted) || r.excluded ? null : writtenCell(collars.state, collars.lengthUnit, depth, wanted);
			return cell === null ? [] : [[r.n, depth, r.cells[depth]!, cell]];
		});
		if (cells.length) steps.push({ kind: 'cells', object: collars.id, version: collars.version, cells });
	}
	if (steps.length) return steps;
	if (doubtful.length)
		return fail(
			'doubtful-depth',
			`${doubtful.length === 1 ? `${doubtful[0]} would become` : `${doubtful.length} holes would become`} more than one and a half times as deep: ${doubtful.slice(0, 5).join(', ')}`,
			'Look first whether depths are in feet (say so for the table), or a digit slipped. Holes that really are that deep are extended one by one.'
		);
	return fail('nothing-to-mend', 'none of these holes has a collar', 'Mend the names of the holes first.');
}

const MOST_SHOWN = 200;

/** What a mend would change: the first cells and rows, and how many there are. */
export async function previewMends(projectId: string, table: StoredTable, m: MendRequest) {
	const steps = await mendSteps(db(), projectId, table, m);
	const names = new Map((await listTables(db(), projectId)).map((t) => [t.id, t]));
	return {
		changed: steps.reduce((n, s) => n + (s.kind === 'cells' ? s.cells.length : s.kind === 'excluded' ? s.rows.length : 0), 0),
		cells: steps
			.flatMap((s) =>
				s.kind === 'cells'
					? s.cells.map(([n, position, before, after]) => ({
							table: names.get(s.object)!.name,
							n,
							column: names.get(s.object)!.state.header[position]!,
							before,
							after
						}))
					: []
			)
			.slice(0, MOST_SHOWN),
		rows: steps
			.flatMap((s) => (s.kind === 'excluded' ? s.rows.map((n) => ({ table: names.get(s.object)!.name, n })) : []))
			.slice(0, MOST_SHOWN)
	};
}

/** The stored rows that some findings are about, by their numbers. */
async function storedRows(on: Executor, table: StoredTable, rows: readonly { n: number }[]): Promise<Map<number, StoredRow>> {
	const list = await rowsByNumber(
		on,
		table,
		rows.map((f) => f.n)
	);
	return new Map(list.map((r) => [r.n, r]));
}
