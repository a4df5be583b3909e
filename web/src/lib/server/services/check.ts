import { and, eq, inArray, sql, type SQL } from 'drizzle-orm';
import { from as copyFrom } from 'pg-copy-streams';
import { pipeline } from 'node:stream/promises';
import { Readable } from 'node:stream';
import { RULES } from '#core/checks/rules';
import { db, onOneClient, pgPool, type Executor } from '../db/client';
import { anyOf } from '../db/conditions';
import { finding, project } from '../db/schema';
import type { LocatedFinding } from '../threads/open-tables';
import { runTableTask } from '../threads/threads';
import { log } from '../log';
import { checkInput, tablesOf, type CheckInput } from '../graph/check-input';
import { announce } from '../store/events';
import { inTurn } from '../store/projects';
import { unlessDamaged } from '../graph/states';

/** Projects whose check was due for so long died with its server. */
const OVERDUE_SECONDS = 8;

/** Makes up for checks that were due when a server or worker was ended: findings never stay those of older tables. */
export async function checkOverdue(): Promise<void> {
	const { rows } = await pgPool().query<{ id: string }>(
		`select id from project where check_due < clock_timestamp() - make_interval(secs => $1) limit 20`,
		[OVERDUE_SECONDS]
	);
	for (const { id } of rows) await checkProject(id).catch((error) => log('error', 'check', error));
}

/**
 * Checks all tables of a project, when anything changed since the last time, and replaces the stored findings in one transaction.
 * Where something of the project is damaged the findings stay as they are: what was stored before a check is stored.
 */
export async function checkProject(projectId: string): Promise<{ held: number; noted: number }> {
	const input = await unlessDamaged(checkInput(db(), projectId));
	if (!input) return countFindings(projectId);
	if (input.checked !== input.key) {
		const findings = await runTableTask('checkProject', await tablesOf(input));
		if (!(await storeFindings(input, findings, 'all'))) return checkProject(projectId);
	} else if (input.due) await checkIsDone(db(), input);
	return countFindings(projectId);
}

/** An edit of some cells or exclusions of one table, as it was stored. */
export interface StoredEdit {
	objectId: string;
	cells: { n: number; position: number; value: string }[];
	rows: { n: number; excluded: boolean }[];
}

/**
 * Checks what an edit can affect.
 * @param before what the check depended on before the edit
 */
export async function checkEdit(before: CheckInput, edit: StoredEdit): Promise<{ held: number; noted: number }> {
	const { projectId } = before;
	const after = await checkInput(db(), projectId);
	const hash = (input: CheckInput) => input.tables.find((t) => t.id === edit.objectId)?.hash ?? '';
	const part =
		after.checked === before.key
			? await runTableTask('editTable', {
					projectId,
					objectId: edit.objectId,
					from: { hash: hash(before), key: before.key },
					to: { hash: hash(after), key: after.key },
					cells: edit.cells,
					rows: edit.rows,
					others: after.tables.filter((t) => t.id !== edit.objectId).map(({ id, hash }) => ({ id, hash })),
					options: after.options
				})
			: null;
	if (!part) return checkProject(projectId);
	const tableRules = RULES.filter((r) => r.scope === 'table').map((r) => r.id);
	const holeRules = RULES.filter((r) => r.scope === 'holes').map((r) => r.id);
	const gone: SQL[] = part.affected.map((a) =>
		and(eq(finding.objectId, a.table), inArray(finding.rule, holeRules), sql`${finding.n} = any(${sql.param(a.rows)}::int[])`)!
	);
	if (part.columns.columns.length)
		gone.push(
			and(eq(finding.objectId, part.columns.table), inArray(finding.rule, tableRules), inArray(finding.role, part.columns.columns))!
		);
	if (part.whole) gone.push(eq(finding.objectId, part.whole));
	return (await storeFindings(after, part.findings, anyOf(gone))) ? countFindings(projectId) : checkProject(projectId);
}

/** A field of PostgreSQL's COPY text format. */
const copyField = (value: string | null): string =>
	value === null
		? '\\N'
		: value.replace(/[\\\t\n\r\0]/g, (c) => (c === '\\' ? '\\\\' : c === '\t' ? '\\t' : c === '\n' ? '\\n' : c === '\r' ? '\\r' : ''));

/** Nothing waits for a check any more, unless something changed since what was checked was looked at. */
async function checkIsDone(tx: Executor, { projectId, due }: Pick<CheckInput, 'projectId' | 'due'>): Promise<void> {
	await tx
		.update(project)
		.set({ checkDue: null })
		.where(and(eq(project.id, projectId), eq(project.checkDue, due ?? new Date(0))));
}

/**
 * Puts findings in the place of stored ones. Those that are there already, from another check of the same, stay as they are.
 * @param input what they are of
 * @param gone those that they take the place of
 * @returns false, and nothing is stored, when another check has stored others since the input was read: they may be those of newer tables
 */
export async function storeFindings(input: CheckInput, findings: readonly LocatedFinding[], gone: SQL | 'all'): Promise<boolean> {
	const { projectId, key } = input;
	return inTurn(projectId, () =>
		onOneClient(async (tx, client) => {
			// One after the other: of two checks that end together, each would miss what the other puts in.
			const [held] = await tx.select({ of: project.checkedKey }).from(project).where(eq(project.id, projectId)).for('no key update');
			const stored = held?.of === key;
			if (stored || held?.of !== input.checked) {
				if (stored) await checkIsDone(tx, input);
				return stored;
			}
			await tx.delete(finding).where(and(eq(finding.projectId, projectId), gone === 'all' ? undefined : gone));
			function* text() {
				for (const f of findings)
					yield [
						projectId,
						f.table,
						f.rule,
						f.severity,
						String(f.row),
						String(f.line),
						f.column ?? null,
						f.hole ?? null,
						f.message,
						f.hint,
						f.others ? `{${f.others.slice(0, 100).join(',')}}` : null,
						f.proposal ?? null,
						String(f.count ?? 1)
					]
						.map(copyField)
						.join('\t') + '\n';
			}
			await pipeline(
				Readable.from(text()),
				client.query(
					copyFrom(
						'copy finding (project_id, object_id, rule, severity, n, line, role, hole, message, hint, others, proposal, count) from stdin'
					)
				)
			);
			await tx.update(project).set({ checkedKey: key }).where(eq(project.id, projectId));
			await checkIsDone(tx, input);
			await announce(tx, { project: projectId, topic: 'findings' });
			return true;
		})
	);
}

/** Findings that are open: not seen and left. */
export async function countFindings(projectId: string): Promise<{ held: number; noted: number }> {
	const { rows } = await pgPool().query<{ held: string; noted: string }>(
		`select count(*) filter (where severity = 'held') as held, count(*) filter (where severity = 'noted') as noted from finding f left join object o on o.id = f.object_id
		 where f.project_id = $1 and o.removed_at is null and not exists (select 1 from seen_finding s where s.object_id = f.object_id and s.version = o.version and s.rule = f.rule and s.n = f.n)`,
		[projectId]
	);
	return { held: Number(rows[0]!.held), noted: Number(rows[0]!.noted) };
}
