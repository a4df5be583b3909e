import { and, eq, isNull, ne, sql } from 'drizzle-orm';
import { canonicalJson } from '#core/lineage/key';
import { fail } from '#core/problem';
import type { DataStyle } from '#core/styles/style';
import type { Executor } from '../db/client';
import { object, objectInput, project, viewpoint, workbench } from '../db/schema';
import { actor } from '../store/actor';
import { recipeOf } from '#core/recipes/register';
import { sourceHash } from './graph';
import { rivals } from '../store/names';
import { refreshTableHash } from '../store/table-hash';
import { ownState } from '../threads/stored-table';

/** What a version of a table is made of, besides its rows, edits and exclusions, which are stored under its number. */
export interface TableVersion {
	version: number;
	fileId: string | null;
	state: Record<string, unknown>;
}

/** An input and the part that it plays. */
interface ObjectEdge {
	role: string;
	input: string;
}

/** One reversible act. `before` and `after` are what stands there. */
export type Step =
	| { kind: 'state'; object: string; before: Record<string, unknown>; after: Record<string, unknown> }
	/** Row, position, before, after; in one version of a table. */
	| { kind: 'cells'; object: string; version: number; cells: [number, number, string, string][] }
	| { kind: 'excluded'; object: string; version: number; rows: number[]; after: boolean }
	| { kind: 'version'; object: string; before: TableVersion; after: TableVersion }
	| { kind: 'renamed'; object: string; before: string; after: string }
	/** Kept models had a table of their own once; changes of that time still name it. */
	| { kind: 'removed'; what: 'object' | 'keptModel' | 'viewpoint'; id: string; after: boolean }
	| { kind: 'inputs'; object: string; before: readonly ObjectEdge[]; after: readonly ObjectEdge[] }
	| { kind: 'auto'; object: string; before: boolean; after: boolean }
	| { kind: 'position'; object: string; before: number; after: number }
	/** Row, reason before, reason after; null is not seen. */
	| { kind: 'seen'; object: string; version: number; rule: string; rows: [number, string | null, string | null][] }
	| { kind: 'styles'; before: Record<string, DataStyle | null>; after: Record<string, DataStyle | null> }
	| { kind: 'project'; before: Record<string, unknown>; after: Record<string, unknown> };

const differ = (a: unknown, b: unknown): boolean => canonicalJson(a) !== canonicalJson(b);

/** Refuses a step that does not find what it goes out from: something else was changed in its place, and would be overwritten. */
function misfit(what: string): never {
	return fail(
		'no-longer-fits',
		`this can not be taken back or done again: ${what}`,
		'Nothing was changed. Make the change by hand where it is still wanted.'
	);
}

async function lockRow(tx: Executor, projectId: string, id: string) {
	const [row] = await tx
		.select()
		.from(object)
		.where(and(eq(object.id, id), eq(object.projectId, projectId)))
		.for('no key update');
	return row ?? misfit('what it belongs to is not in the project any more');
}

/** Whether another object has a name that one must not share. Parts of models are called alike in all of them. */
async function isTaken(tx: Executor, projectId: string, own: typeof object.$inferSelect, name: string): Promise<boolean> {
	const others = rivals(own);
	if (!others) return false;
	const [other] = await tx
		.select({ id: object.id })
		.from(object)
		.where(and(eq(object.projectId, projectId), eq(object.name, name), ne(object.id, own.id), isNull(object.removedAt), others));
	return other !== undefined;
}

/** The table that a step is about, as it must stand for the step to fit. */
async function lockTable(tx: Executor, projectId: string, id: string, version: number) {
	const row = await lockRow(tx, projectId, id);
	if (row.removedAt) misfit(`${row.name} was taken out of the project`);
	if (row.version !== version) misfit(`${row.name} was read from another file since`);
	return row;
}

type Apply<K extends Step['kind']> = (tx: Executor, projectId: string, step: Extract<Step, { kind: K }>, forward: boolean) => Promise<void>;

/** Sets a field of an object that no other depends on. */
async function setField(
	tx: Executor,
	projectId: string,
	step: Extract<Step, { kind: 'auto' | 'position' }>,
	forward: boolean,
	field: 'auto' | 'position'
): Promise<void> {
	const row = await lockRow(tx, projectId, step.object);
	const [from, to] = forward ? [step.before, step.after] : [step.after, step.before];
	if (row[field] !== from) misfit(`${row.name} was changed since in another way`);
	await tx
		.update(object)
		.set({ [field]: to })
		.where(eq(object.id, step.object));
}

const APPLY: { [K in Step['kind']]: Apply<K> } = {
	async state(tx, projectId, step, forward) {
		const [from, to] = forward ? [step.before, step.after] : [step.after, step.before];
		const row = await lockRow(tx, projectId, step.object);
		if (row.removedAt) misfit(`${row.name} was taken out of the project`);
		if (differ(ownState(row.state), ownState(from))) misfit(`${row.name} was changed since in another way`);
		const own = recipeOf(row.kind) || row.kind === 'table' ? {} : { contentHash: sourceHash(row.kind, to) };
		await tx
			.update(object)
			.set({ state: to, revision: sql`${object.revision} + 1`, updatedAt: new Date(), ...own })
			.where(eq(object.id, step.object));
		if (row.kind === 'table') await refreshTableHash(tx, step.object);
	},
	async cells(tx, projectId, step, forward) {
		const version = step.version ?? 1;
		await lockTable(tx, projectId, step.object, version);
		const cells = step.cells.map(([n, position, before, after]) => ({
			n,
			position,
			from: forward ? before : after,
			to: forward ? after : before
		}));
		const columns = [cells.map((c) => c.n), cells.map((c) => c.position), cells.map((c) => c.from), cells.map((c) => c.to)].map((v) =>
			sql.param(v)
		);
		const given = sql`unnest(${columns[0]}::int[], ${columns[1]}::int[], ${columns[2]}::text[], ${columns[3]}::text[]) as e(n, position, was, value)`;
		const { rows: other } = await tx.execute(
			sql`select 1 from ${given} join cell_edit c on c.object_id = ${step.object} and c.version = ${version} and c.n = e.n and c.position = e.position where c.value <> e.was limit 1`
		);
		if (other.length) misfit('a cell of it was edited again since');
		// The first edit of a cell keeps what the file says; a cell that is back at that is not edited any more.
		await tx.execute(sql`insert into cell_edit (object_id, version, n, position, original, value, edited_by)
			select ${step.object}::uuid, ${version}::int, e.*, ${actor().name}::text from ${given}
			on conflict (object_id, version, n, position) do update set value = excluded.value, edited_by = excluded.edited_by, edited_at = now()`);
		await tx.execute(sql`delete from cell_edit where object_id = ${step.object} and version = ${version} and value = original`);
		await refreshTableHash(tx, step.object);
	},
	async excluded(tx, projectId, step, forward) {
		const version = step.version ?? 1;
		await lockTable(tx, projectId, step.object, version);
		const rows = sql.param(step.rows);
		const out = forward ? step.after : !step.after;
		const { rowCount } = out
			? await tx.execute(
					sql`insert into row_exclusion (object_id, version, n, excluded_by) select ${step.object}::uuid, ${version}::int, unnest(${rows}::int[]), ${actor().name}::text on conflict do nothing`
				)
			: await tx.execute(
					sql`delete from row_exclusion where object_id = ${step.object} and version = ${version} and n = any(${rows}::int[])`
				);
		if (rowCount !== step.rows.length) misfit('rows of it were left out or taken back in since');
		await refreshTableHash(tx, step.object);
	},
	async version(tx, projectId, step, forward) {
		const [from, to] = forward ? [step.before, step.after] : [step.after, step.before];
		const row = await lockTable(tx, projectId, step.object, from.version);
		if (differ(ownState(row.state), ownState(from.state)) || row.fileId !== from.fileId)
			misfit(`${row.name} was changed since in another way`);
		await tx.update(object).set({ version: to.version, fileId: to.fileId, state: to.state }).where(eq(object.id, step.object));
		await refreshTableHash(tx, step.object);
	},
	async renamed(tx, projectId, step, forward) {
		const [from, to] = forward ? [step.before, step.after] : [step.after, step.before];
		const row = await lockRow(tx, projectId, step.object);
		if (row.removedAt) misfit(`${row.name} was taken out of the project`);
		if (row.name !== from) misfit('it was renamed since');
		if (await isTaken(tx, projectId, row, to)) misfit(`something else is called ${to} now; rename that first`);
		await tx
			.update(object)
			.set({ name: to, revision: sql`${object.revision} + 1`, updatedAt: new Date() })
			.where(eq(object.id, step.object));
	},
	async removed(tx, projectId, step, forward) {
		const table = step.what === 'viewpoint' ? viewpoint : object;
		const gone = forward ? step.after : !step.after;
		const [row] = await tx
			.select({ name: table.name, removedAt: table.removedAt })
			.from(table)
			.where(and(eq(table.id, step.id), eq(table.projectId, projectId)))
			.for('no key update');
		if (!row) return misfit('it is not kept any more');
		if ((row.removedAt !== null) === gone) return misfit(`${row.name} ${gone ? 'is not there any more' : 'is there already'}`);
		if (!gone) {
			const view = and(eq(viewpoint.projectId, projectId), eq(viewpoint.name, row.name), isNull(viewpoint.removedAt));
			const taken =
				table === viewpoint
					? (await tx.select({ id: viewpoint.id }).from(viewpoint).where(view)).length > 0
					: await isTaken(tx, projectId, await lockRow(tx, projectId, step.id), row.name);
			if (taken) misfit(`something else is called ${row.name} now; rename that first`);
		}
		await tx
			.update(table)
			.set({ removedAt: gone ? sql`now()` : null })
			.where(eq(table.id, step.id));
	},
	async inputs(tx, projectId, step, forward) {
		const [from, to] = forward ? [step.before, step.after] : [step.after, step.before];
		const row = await lockRow(tx, projectId, step.object);
		if (row.removedAt) misfit(`${row.name} was taken out of the project`);
		const own = eq(objectInput.objectId, step.object);
		const now = await tx.select({ role: objectInput.role, input: objectInput.inputId }).from(objectInput).where(own);
		const sorted = (edges: readonly ObjectEdge[]) => edges.map((e) => `${e.role} ${e.input}`).sort();
		if (differ(sorted(now), sorted(from))) misfit(`${row.name} is made of something else since`);
		await tx.delete(objectInput).where(own);
		if (to.length) await tx.insert(objectInput).values(to.map((e) => ({ objectId: step.object, inputId: e.input, role: e.role })));
		await tx
			.update(object)
			.set({ revision: sql`${object.revision} + 1`, updatedAt: new Date() })
			.where(eq(object.id, step.object));
	},
	auto: (tx, projectId, step, forward) => setField(tx, projectId, step, forward, 'auto'),
	position: (tx, projectId, step, forward) => setField(tx, projectId, step, forward, 'position'),
	async seen(tx, projectId, step, forward) {
		const version = step.version;
		await lockTable(tx, projectId, step.object, version);
		const rows = step.rows.map(([n, before, after]) => ({ n, to: forward ? after : before }));
		const gone = rows.filter((r) => r.to === null).map((r) => r.n);
		const put = rows.filter((r) => r.to !== null);
		if (gone.length)
			await tx.execute(
				sql`delete from seen_finding where object_id = ${step.object} and version = ${version} and rule = ${step.rule} and n = any(${sql.param(gone)}::int[])`
			);
		if (put.length)
			await tx.execute(sql`insert into seen_finding (object_id, version, rule, n, reason, seen_by)
				select ${step.object}::uuid, ${version}::int, ${step.rule}::text, e.*, ${actor().name}::text from unnest(${sql.param(put.map((r) => r.n))}::int[], ${sql.param(put.map((r) => r.to))}::text[]) as e(n, reason)
				on conflict (object_id, version, rule, n) do update set reason = excluded.reason, seen_by = excluded.seen_by, seen_at = now()`);
	},
	async styles(tx, projectId, step, forward) {
		const [bench] = await tx
			.select({ state: workbench.state })
			.from(workbench)
			.where(eq(workbench.projectId, projectId))
			.for('no key update');
		const styles = { ...bench?.state.styles };
		for (const [table, style] of Object.entries(forward ? step.after : step.before))
			if (style) styles[table] = style;
			else delete styles[table];
		await tx
			.update(workbench)
			.set({ state: { ...bench?.state, styles }, updatedAt: new Date() })
			.where(eq(workbench.projectId, projectId));
	},
	async project(tx, projectId, step, forward) {
		const [from, to] = forward ? [step.before, step.after] : [step.after, step.before];
		const [row] = await tx.select().from(project).where(eq(project.id, projectId)).for('no key update');
		if (!row) return misfit('the project is gone');
		const now = Object.fromEntries(Object.keys(from).map((k) => [k, row[k as keyof typeof row] ?? null]));
		if (differ(now, from)) misfit('the settings of the project were changed since in another way');
		await tx
			.update(project)
			.set({ ...to, revision: sql`${project.revision} + 1`, updatedAt: new Date() })
			.where(eq(project.id, projectId));
	}
};

/**
 * Does a step, or takes it back. It must find what it goes out from.
 * @throws ProblemError `no-longer-fits`, with the reason
 */
export async function applyStep(tx: Executor, projectId: string, step: Step, forward: boolean): Promise<void> {
	await (APPLY[step.kind] as Apply<Step['kind']>)(tx, projectId, step, forward);
}

/** Steps after which the findings may be others. */
export const touchesChecks = (steps: readonly Step[]): boolean =>
	steps.some((s) => !['seen', 'styles', 'auto', 'inputs'].includes(s.kind) && !(s.kind === 'removed' && s.what !== 'object'));

/** The versions of a table that are stored. */
export async function newestVersion(tx: Executor, objectId: string): Promise<number> {
	const { rows } = await tx.execute<{ newest: number }>(
		sql`select greatest((select version from object where id = ${objectId}), (select max(version) from table_chunk where object_id = ${objectId}), (select max(version) from cell_edit where object_id = ${objectId}), (select max(version) from row_exclusion where object_id = ${objectId})) as newest`
	);
	return Number(rows[0]?.newest ?? 1);
}
