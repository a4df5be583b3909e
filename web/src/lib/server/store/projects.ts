import { and, desc, eq, getTableColumns, isNotNull, isNull, sql } from 'drizzle-orm';
import pLimit, { type LimitFunction } from 'p-limit';
import { fail } from '#core/problem';
import { db, type Executor, unheld } from '../db/client';
import { object, project } from '../db/schema';

/** @throws ProblemError `not-found`, also of one that lies in the bin */
export async function findProject(on: Executor, id: string) {
	const [p] = await on.select().from(project).where(eq(project.id, id));
	return inUse(p);
}

export type ProjectRow = typeof project.$inferSelect;

/** @throws ProblemError `not-found`, also of one that lies in the bin */
export function inUse(p: ProjectRow | undefined): ProjectRow {
	if (p?.removedAt) return fail('not-found', `the project ${p.name} lies in the bin`, 'Take it back on the page of projects.');
	return p ?? fail('not-found', 'there is no such project');
}

/** Holds a project until a transaction ends. @throws ProblemError `not-found` */
export async function holdProject(tx: Executor, id: string) {
	const [p] = await tx.select().from(project).where(eq(project.id, id)).for('no key update');
	return p ?? fail('not-found', 'there is no such project');
}

/**
 * Changes of one project, and of all, that have a connection to the database in this process at a time. Others wait for their turn without one: however
 * many wait for a project, there are connections to read with, and to change other projects.
 */
const MOST_OF_ONE = 6;
const MOST_AT_ONCE = 9;
const ofAll = pLimit(MOST_AT_ONCE);
const turns = new Map<string, { take: LimitFunction; waiting: number }>();

/** Runs a change of a project when it is its turn. */
export async function inTurn<T>(id: string, change: () => Promise<T>): Promise<T> {
	const own = turns.get(id) ?? { take: pLimit(MOST_OF_ONE), waiting: 0 };
	turns.set(id, own);
	own.waiting++;
	try {
		return await own.take(() => ofAll(change));
	} finally {
		if (--own.waiting === 0) turns.delete(id);
	}
}

/**
 * Runs what changes a project as one transaction, which holds the project from its first statement on: changes of a project come one after the other,
 * so that what was looked at (a free name, a revision, the last change) still holds when it is written, and no two wait for each other for ever.
 * @throws ProblemError `not-found`
 */
export function inProject<T>(id: string, work: (tx: Executor, held: ProjectRow) => Promise<T>): Promise<T> {
	return inTurn(id, () => unheld(async (tx) => work(tx, await holdProject(tx, id))));
}

/** Projects, or those in the bin, the last worked on first. Work is any change of a project, an object of it, or a job. */
export function listProjects(bin = false) {
	const lastWork = sql<string>`greatest(${project.updatedAt}, (select max(o.updated_at) from object o where o.project_id = "project"."id"), (select max(j.created_at) from job j where j.project_id = "project"."id"))`;
	return db()
		.select({ ...getTableColumns(project), lastWork })
		.from(project)
		.where(bin ? isNotNull(project.removedAt) : isNull(project.removedAt))
		.orderBy(desc(lastWork));
}

/** Puts a project into the bin, or takes it back. */
export async function binProject(id: string, removed: boolean): Promise<void> {
	const rows = await db()
		.update(project)
		.set({ removedAt: removed ? new Date() : null })
		.where(and(eq(project.id, id), removed ? isNull(project.removedAt) : isNotNull(project.removedAt)))
		.returning({ id: project.id });
	if (rows.length === 0) fail('not-found', removed ? 'there is no such project' : 'there is no such project in the bin');
}

/** Deletes a project with everything in it, for good. */
export async function deleteProject(id: string): Promise<void> {
	await inProject(id, async (tx) => {
		await tx.update(object).set({ fileId: null }).where(eq(object.projectId, id));
		await tx.delete(project).where(eq(project.id, id));
	});
}
