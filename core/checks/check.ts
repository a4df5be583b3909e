import { isOfHoles } from '../tables/kinds';
import type { Table } from '../tables/table';
import type { CheckContext, Rule, Surroundings } from './finding';
import type { Checked, Finding } from '../tables/finding';
import { rowsOfHoles } from '../tables/row-index';
import { boundOf, type RuleSettings } from './settings';
import { RULES } from './rules';

export interface CheckOptions {
	/** Printed in messages, for example `m`. */
	lengthUnit: string;
	settings?: RuleSettings;
	around?: Surroundings;
}

/** The part of the tables that an edit can affect. */
interface Affected {
	/** Holes whose rows are looked at again, in all tables. */
	holes: ReadonlySet<string>;
	/** Rows that belong to no hole, by table name. */
	rows: ReadonlyMap<string, readonly number[]>;
	/** Columns, by table name, for which the rules that compare all rows are run again. */
	columns: ReadonlyMap<string, ReadonlySet<string>>;
}

/** Runs the rules over the tables of a project. Tables are never changed. */
export function checkTables(tables: readonly Table[], options: CheckOptions): Checked {
	return checkVersions(tables, checkPlain(tables, options), options);
}

/** The same of all tables but versions of logs. */
export function checkPlain(tables: readonly Table[], options: CheckOptions): Checked {
	const plain = tables.filter((t) => !t.versionOf);
	const out: Record<string, Uint8Array> = {};
	for (const t of plain) out[t.name] = Uint8Array.from(t.excluded);
	const findings: Finding[] = [];
	const collars = new Collars(plain, out);
	for (const rule of RULES) run(rule, plain, out, collars, options, null, findings);
	return { findings, out };
}

/** Adds what is found in the versions of logs to what was found in all other tables, which stays as it is. */
export function checkVersions(tables: readonly Table[], plain: Checked, options: CheckOptions): Checked {
	const out = { ...plain.out };
	const found = versionsIn(tables).map((version) => checkVersion(version, tables, out, options));
	return { findings: [plain.findings, ...found].flat(), out };
}

/** The versions of logs among some tables, each after what it goes out from. */
function versionsIn(tables: readonly Table[]): Table[] {
	const rest = tables.filter((t) => t.versionOf);
	const done: Table[] = [];
	while (rest.length) {
		const next = rest.findIndex((t) => !rest.some((o) => o.name === t.versionOf));
		done.push(...rest.splice(Math.max(0, next), 1));
	}
	return done;
}

const VERSION_RULES = RULES.filter((r) => r.ofVersions);

/**
 * Checks what was changed in a version of a log: rows that are out in what it goes out from are out in it, and what was wrong there
 * already is not told again.
 * @param out of the other tables, as their check left it; that of the version is put in
 */
export function checkVersion(version: Table, tables: readonly Table[], out: Record<string, Uint8Array>, options: CheckOptions): Finding[] {
	const rows = Uint8Array.from(version.excluded);
	out[version.versionOf!]?.forEach((o, row) => o && row < rows.length && (rows[row] = 1));
	out[version.name] = rows;
	const trial = { ...out, [version.name]: Uint8Array.from(rows) };
	const findings: Finding[] = [];
	const looked = [...tables.filter((t) => t.kind === 'collars'), version];
	// Only what changed is told, so that other holes need not be looked at.
	const affected = { holes: changedHoles(version), rows: new Map(), columns: new Map() };
	const collars = new Collars(looked, trial);
	for (const rule of VERSION_RULES) run(rule, looked, trial, collars, options, affected, findings, true);
	const kept = findings.filter(
		(f) => f.table === version.name && (f.row < 0 || version.changed![f.row] || f.others?.some((r) => version.changed![r]))
	);
	for (const f of kept) if (f.severity === 'held' && f.row >= 0) rows[f.row] = 1;
	return kept;
}

/** Holes in which a version of a log differs from what it goes out from. */
function changedHoles(version: Table): Set<string> {
	const names = version.text['hole']!;
	const holes = new Set<string>();
	version.changed!.forEach((is, row) => is && holes.add(names[row]!));
	return holes;
}

/**
 * Runs the rules again over what an edit can affect.
 * @param out as the last check left it; brought up to date
 * @returns the findings that take the place of all earlier ones of the affected rows, and for rules of scope `table` of the affected columns
 */
export function recheck(all: readonly Table[], out: Record<string, Uint8Array>, affected: Affected, options: CheckOptions): Finding[] {
	const tables = all.filter((t) => !t.versionOf);
	for (const t of tables) for (const row of affectedRows(t, affected)) out[t.name]![row] = t.excluded[row]!;
	const findings: Finding[] = [];
	const collars = new Collars(tables, out);
	for (const rule of RULES) run(rule, tables, out, collars, options, affected, findings);
	return findings;
}

/**
 * Whether an edit of a table can be checked by part: a rule that compares all rows of the table must not hold rows back, because
 * rows that it held would have to be looked at again, too.
 */
export function canRecheck(table: Table, settings: RuleSettings): boolean {
	return (
		isOfHoles(table.kind) && RULES.every((r) => r.scope === 'holes' || r.notOfHoles || (settings[r.id]?.severity ?? r.severity) === 'noted')
	);
}

/** The rows of a table that an edit can affect. */
export function affectedRows(table: Table, affected: Affected): number[] {
	const index = rowsOfHoles(table);
	if (!index) return [...(affected.rows.get(table.name) ?? [])];
	const rows: number[] = [];
	for (const hole of affected.holes) rows.push(...(index.get(hole) ?? []));
	return rows.sort((a, b) => a - b);
}

function run(
	rule: Rule,
	tables: readonly Table[],
	out: Record<string, Uint8Array>,
	collars: Collars,
	options: CheckOptions,
	affected: Affected | null,
	findings: Finding[],
	/** What comes by the million is counted, not listed. */
	isLimited = affected === null
): void {
	const settings = options.settings ?? {};
	const setting = settings[rule.id];
	if (setting?.silenced) return;
	const uses = (table: Table, row: number) => out[table.name]![row] === 0;
	const part = affected && rule.scope === 'holes' ? affected : null;
	const looked = affected && rule.scope === 'table' ? tables.filter((t) => affected.columns.has(t.name)) : tables;
	const context: CheckContext = {
		...options.around,
		tables: looked,
		get holes() {
			return collars.byName();
		},
		uses,
		lengthUnit: options.lengthUnit,
		looksAt: (table, column) => !affected || rule.scope === 'holes' || affected.columns.get(table.name)!.has(column),
		bound: (key) => boundOf(rule, settings, key),
		*rows(table) {
			if (part) {
				for (const row of affectedRows(table, part)) if (uses(table, row)) yield row;
			} else for (let row = 0; row < table.rowCount; row++) if (uses(table, row)) yield row;
		},
		*byHole(table) {
			const index = rowsOfHoles(table);
			if (!index) return;
			for (const hole of part ? part.holes : index.keys()) {
				const rows = (index.get(hole) ?? []).filter((row) => uses(table, row));
				if (rows.length) yield [hole, rows];
			}
		}
	};
	// Rows are held back after the rule is through, so that it sees its own rows as they were.
	const held: { table: string; row: number; all?: readonly number[] }[] = [];
	const counts = new Map<string, { finding: Finding; count: number }>();
	for (const { table, severity, all, ...found } of rule.check(context)) {
		const many = all && all.length > 1 ? { count: all.length } : {};
		const finding: Finding = {
			...found,
			...many,
			rule: rule.id,
			severity: setting?.severity ?? severity ?? rule.severity,
			table: table.name
		};
		if (finding.severity === 'held' && finding.row >= 0) held.push({ table: finding.table, row: finding.row, ...(all ? { all } : {}) });
		const key = `${finding.table} ${finding.severity}`;
		const known = counts.get(key);
		if (known) known.count++;
		else counts.set(key, { finding, count: 1 });
		if (isLimited && (known?.count ?? 0) > MOST_LISTED) continue;
		findings.push(finding);
	}
	for (const { finding, count } of counts.values())
		if (isLimited && count > MOST_LISTED)
			findings.push({
				rule: rule.id,
				severity: finding.severity,
				table: finding.table,
				row: -1,
				message: `and ${(count - MOST_LISTED).toLocaleString('en')} more rows of which the same is true`,
				hint: 'They have one cause, most likely: look at the first of them.',
				count: count - MOST_LISTED
			});
	for (const f of held) for (const row of f.all ?? [f.row]) out[f.table]![row] = 1;
	collars.changed(held.map((f) => f.table));
}

/** Findings of a rule in a table that are listed one by one. */
const MOST_LISTED = 5000;

/** The collars that are in use, by the name of their hole: found once, until a rule holds some of them back. */
class Collars {
	private readonly tables: readonly Table[];
	private index: Map<string, { table: Table; row: number }> | null = null;

	constructor(
		tables: readonly Table[],
		private readonly out: Record<string, Uint8Array>
	) {
		this.tables = tables.filter((t) => t.kind === 'collars');
	}

	byName(): ReadonlyMap<string, { table: Table; row: number }> {
		if (this.index) return this.index;
		this.index = new Map();
		for (const table of this.tables) {
			const [holes, out] = [table.text['hole']!, this.out[table.name]!];
			for (let row = 0; row < holes.length; row++)
				if (out[row] === 0 && !this.index.has(holes[row]!)) this.index.set(holes[row]!, { table, row });
		}
		return this.index;
	}

	/** Tables of which rows were held back. */
	changed(names: readonly string[]): void {
		if (this.tables.some((t) => names.includes(t.name))) this.index = null;
	}
}

/** Number of findings by rule and severity, for reports. */
export function countFindings(findings: readonly Finding[]): { rule: string; severity: string; count: number }[] {
	const counts = new Map<string, number>();
	for (const f of findings) {
		const key = `${f.rule}\t${f.severity}`;
		counts.set(key, (counts.get(key) ?? 0) + 1);
	}
	return [...counts].map(([key, count]) => {
		const [rule, severity] = key.split('\t') as [string, string];
		return { rule, severity, count };
	});
}
