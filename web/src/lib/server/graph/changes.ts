import { and, asc, desc, eq, sql } from 'drizzle-orm';
import { fail } from '#core/problem';
import { db, type Executor } from '../db/client';
import { change, object, project } from '../db/schema';
import { actor } from '../store/actor';
import { announce } from '../store/events';
import { applyStep, touchesChecks, type Step } from './steps';
import { inProject, type ProjectRow } from '../store/projects';

/** Changes of a project that can be undone; what lies further back is forgotten. */
const MOST_CHANGES = 500;

/** Marks that the findings of a project wait for a check, in the transaction of what changed. */
export async function checkIsDue(tx: Executor, projectId: string): Promise<void> {
	await tx
		.update(project)
		.set({ checkDue: sql`date_trunc('milliseconds', clock_timestamp())` })
		.where(eq(project.id, projectId));
}

/** Tells every page what is to be read again. */
async function announceSteps(tx: Executor, projectId: string, steps: readonly Step[]): Promise<void> {
	await announce(tx, { project: projectId, topic: 'objects' });
	if (steps.some((s) => s.kind === 'removed' && s.what === 'viewpoint')) await announce(tx, { project: projectId, topic: 'viewpoints' });
}

/** Writes steps that were done down as one change, and drops what had been undone before. */
export async function recordChange(tx: Executor, projectId: string, label: string, steps: readonly Step[]): Promise<number> {
	const { name, session } = actor();
	await tx.delete(change).where(and(eq(change.projectId, projectId), eq(change.undone, true)));
	const [row] = await tx
		.insert(change)
		.values({ projectId, label, steps: [...steps], by: name, session })
		.returning({ id: change.id });
	await tx.execute(
		sql`delete from change where project_id = ${projectId} and id <= (select id from change where project_id = ${projectId} order by id desc offset ${MOST_CHANGES} limit 1)`
	);
	await tx.update(project).set({ updatedAt: new Date() }).where(eq(project.id, projectId));
	if (touchesChecks(steps)) await checkIsDue(tx, projectId);
	await announceSteps(tx, projectId, steps);
	return row!.id;
}

/** Does some steps within a transaction and writes them down as one change. */
export async function changeWithin(tx: Executor, projectId: string, label: string, steps: readonly Step[]): Promise<void> {
	if (steps.length === 0) return;
	for (const s of steps) await applyStep(tx, projectId, s, true);
	await recordChange(tx, projectId, label, steps);
}

/** Does some steps as one change, in a transaction of their own, which holds the project. */
export async function doChange(
	projectId: string,
	label: string,
	steps: (tx: Executor, held: ProjectRow) => Promise<Step[]>
): Promise<void> {
	await inProject(projectId, async (tx, held) => changeWithin(tx, projectId, label, await steps(tx, held)));
}

/** What could be undone next, or done again: the last change of a project on that side. */
async function lastChange(on: Executor, projectId: string, forward: boolean) {
	const [last] = await on
		.select({
			id: change.id,
			label: change.label,
			by: change.by,
			session: change.session,
			createdAt: change.createdAt,
			steps: change.steps
		})
		.from(change)
		.where(and(eq(change.projectId, projectId), eq(change.undone, forward)))
		.orderBy(forward ? asc(change.id) : desc(change.id))
		.limit(1);
	return last;
}

/** A change as the interface shows it. */
export interface NextChange {
	id: number;
	label: string;
	by: string;
	/** Made in another browser than the one that asks. */
	elsewhere: boolean;
}

/** What undo and redo would do, for the buttons. */
export async function nextChanges(on: Executor, projectId: string): Promise<{ undo: NextChange | null; redo: NextChange | null }> {
	const shown = async (forward: boolean): Promise<NextChange | null> => {
		const c = await lastChange(on, projectId, forward);
		return c ? { id: c.id, label: c.label, by: c.by, elsewhere: c.session !== actor().session } : null;
	};
	return { undo: await shown(false), redo: await shown(true) };
}

/**
 * Undoes the last change, or does the last undone one again.
 * @param wanted the change that the caller means; when another one came meanwhile, nothing is done; whichever is the last when it is not said
 * @param others whether a change that was made in another browser may be taken back
 * @throws ProblemError `nothing-to-undo`, `edited-elsewhere`, `others-change`, `no-longer-fits`
 */
export async function stepBack(
	projectId: string,
	forward: boolean,
	wanted: number | undefined,
	others: boolean
): Promise<{ label: string; steps: Step[] }> {
	return inProject(projectId, async (tx) => {
		const last = await lastChange(tx, projectId, forward);
		if (!last) return fail('nothing-to-undo', forward ? 'there is nothing to do again' : 'there is nothing to undo');
		if (wanted !== undefined && last.id !== wanted)
			fail(
				'edited-elsewhere',
				`something else was changed meanwhile: ${last.label}`,
				'Look at it, then undo again; nothing was undone.',
				'change'
			);
		if (last.session !== actor().session && !others)
			fail(
				'others-change',
				`"${last.label}" was made in another window, ${last.by ? `by ${last.by}, ` : ''}at ${last.createdAt.toISOString().slice(0, 16).replace('T', ' ')} UTC`,
				'Say that it is to be taken back all the same; nothing was undone.',
				'others'
			);
		const steps = last.steps as Step[];
		for (const s of forward ? steps : [...steps].reverse()) await applyStep(tx, projectId, s, forward);
		await tx.update(change).set({ undone: !forward }).where(eq(change.id, last.id));
		if (touchesChecks(steps)) await checkIsDue(tx, projectId);
		await announceSteps(tx, projectId, steps);
		return { label: last.label, steps };
	});
}

/** Changes that are kept, the newest first, and how many there are. */
export async function listChanges(projectId: string, page: { offset: number; limit: number }) {
	const total = await db().$count(change, eq(change.projectId, projectId));
	const rows = await db()
		.select({
			id: change.id,
			label: change.label,
			undone: change.undone,
			by: change.by,
			session: change.session,
			createdAt: change.createdAt
		})
		.from(change)
		.where(eq(change.projectId, projectId))
		.orderBy(desc(change.id))
		.offset(page.offset)
		.limit(page.limit);
	return { total, changes: rows.map(({ session, ...c }) => ({ ...c, elsewhere: session !== actor().session })) };
}

/**
 * Locks an object for an edit that started from a revision.
 * @throws ProblemError `not-found`, `edited-elsewhere` when somebody else changed it meanwhile
 */
export async function lockObject(tx: Executor, projectId: string, id: string, revision: number) {
	const [row] = await tx
		.select()
		.from(object)
		.where(and(eq(object.id, id), eq(object.projectId, projectId), sql`${object.removedAt} is null`))
		.for('no key update');
	if (!row) return fail('not-found', 'there is no such object in this project');
	if (row.revision !== revision)
		fail(
			'edited-elsewhere',
			`${row.name} was changed meanwhile (revision ${row.revision}, yours started from ${revision})`,
			'Load it again and repeat your change; nothing of it was stored.',
			'revision'
		);
	return row;
}
