import { and, asc, desc, eq, sql } from 'drizzle-orm';
import { fail } from '#core/problem';
import { db, type Executor } from '../db/client';
import { change, object, project } from '../db/schema';
import { announce } from './events';
import { sourceHash } from './graph';
import { refreshTableHash } from './table-hash';

/** One reversible act. `before` and `after` are what stands there. */
export type Step =
	| { kind: 'state'; object: string; before: Record<string, unknown>; after: Record<string, unknown> }
	/** Row, position, before, after. */
	| { kind: 'cells'; object: string; cells: [number, number, string, string][] }
	| { kind: 'excluded'; object: string; rows: number[]; after: boolean }
	| { kind: 'project'; before: Record<string, unknown>; after: Record<string, unknown> };

type Transaction = Executor;

async function apply(tx: Transaction, projectId: string, step: Step, forward: boolean): Promise<void> {
	switch (step.kind) {
		case 'state': {
			const state = forward ? step.after : step.before;
			const [row] = await tx.select({ kind: object.kind, contentHash: object.contentHash }).from(object).where(eq(object.id, step.object));
			if (!row) return;
			const derived = ['holes', 'contacts', 'fields', 'model', 'section'].includes(row.kind);
			await tx
				.update(object)
				.set({ state, revision: sql`${object.revision} + 1`, updatedAt: new Date(), ...(derived || row.kind === 'table' ? {} : { contentHash: sourceHash(row.kind, state) }) })
				.where(eq(object.id, step.object));
			if (row.kind === 'table') await refreshTableHash(tx, step.object);
			return;
		}
		case 'cells': {
			const cells = step.cells.map(([n, position, before, after]) => ({ n, position, from: forward ? before : after, to: forward ? after : before }));
			const columns = [cells.map((c) => c.n), cells.map((c) => c.position), cells.map((c) => c.from), cells.map((c) => c.to)].map((v) => sql.param(v));
			// The first edit of a cell keeps what the file says; a cell that is back at that is not edited any more.
			await tx.execute(sql`insert into cell_edit (object_id, n, position, original, value, edited_by)
				select ${step.object}::uuid, e.*, (select author from project where id = ${projectId}) from unnest(${columns[0]}::int[], ${columns[1]}::int[], ${columns[2]}::text[], ${columns[3]}::text[]) as e
				on conflict (object_id, n, position) do update set value = excluded.value, edited_by = excluded.edited_by, edited_at = now()`);
			await tx.execute(sql`delete from cell_edit where object_id = ${step.object} and value = original`);
			await refreshTableHash(tx, step.object);
			return;
		}
		case 'excluded':
			if (forward ? step.after : !step.after)
				await tx.execute(sql`insert into row_exclusion (object_id, n) select ${step.object}::uuid, unnest(${sql.param(step.rows)}::int[]) on conflict do nothing`);
			else await tx.execute(sql`delete from row_exclusion where object_id = ${step.object} and n = any(${sql.param(step.rows)}::int[])`);
			await refreshTableHash(tx, step.object);
			return;
		case 'project':
			await tx
				.update(project)
				.set({ ...(forward ? step.after : step.before), revision: sql`${project.revision} + 1`, updatedAt: new Date() })
				.where(eq(project.id, projectId));
	}
}

/** Does some steps, writes them down as one change, and drops what had been undone before. */
export async function doChange(projectId: string, label: string, steps: (tx: Transaction) => Promise<Step[]>): Promise<void> {
	await db().transaction(async (tx) => {
		const list = await steps(tx);
		if (list.length === 0) return;
		for (const s of list) await apply(tx, projectId, s, true);
		await tx.delete(change).where(and(eq(change.projectId, projectId), eq(change.undone, true)));
		await tx.insert(change).values({ projectId, label, steps: list });
		await announce(tx, { project: projectId, topic: 'objects' });
	});
}

/** Undoes the last change, or does the last undone one again. @returns its label and steps */
export async function stepBack(projectId: string, forward: boolean): Promise<{ label: string; steps: Step[] }> {
	return db().transaction(async (tx) => {
		// One at a time: who waited for the row of a change that was undone meanwhile would find nothing.
		await tx.select({ id: project.id }).from(project).where(eq(project.id, projectId)).for('no key update');
		const [last] = await tx
			.select()
			.from(change)
			.where(and(eq(change.projectId, projectId), eq(change.undone, forward)))
			.orderBy(forward ? asc(change.id) : desc(change.id))
			.limit(1)
			.for('update');
		if (!last) return fail('nothing-to-undo', forward ? 'there is nothing to do again' : 'there is nothing to undo');
		const steps = last.steps as Step[];
		for (const s of forward ? steps : [...steps].reverse()) await apply(tx, projectId, s, forward);
		await tx.update(change).set({ undone: !forward }).where(eq(change.id, last.id));
		await announce(tx, { project: projectId, topic: 'objects' });
		return { label: last.label, steps };
	});
}

export async function listChanges(projectId: string) {
	return db()
		.select({ id: change.id, label: change.label, undone: change.undone, createdAt: change.createdAt })
		.from(change)
		.where(eq(change.projectId, projectId))
		.orderBy(desc(change.id))
		.limit(100);
}

/**
 * Locks an object for an edit that started from a revision.
 * @throws ProblemError `not-found`, `edited-elsewhere` when somebody else changed it meanwhile
 */
export async function lockObject(tx: Transaction, projectId: string, id: string, revision: number | undefined) {
	const [row] = await tx.select().from(object).where(and(eq(object.id, id), eq(object.projectId, projectId))).for('update');
	if (!row) return fail('not-found', 'there is no such object in this project');
	if (revision !== undefined && row.revision !== revision)
		fail('edited-elsewhere', `${row.name} was changed meanwhile (revision ${row.revision}, yours started from ${revision})`, 'Load it again and repeat your change; nothing of it was stored.', 'revision');
	return row;
}
