import { randomUUID } from 'node:crypto';
import { and, arrayContains, eq, inArray, sql, type SQL } from 'drizzle-orm';
import { fail } from '#core/problem';
import { isBuilt, recipeOf } from '#core/recipes/register';
import type { Executor } from '../db/client';
import { job } from '../db/schema';
import { announce } from '../store/events';
import { loadGraph, type ObjectRow } from '../graph/graph';
import { calledName } from '../graph/inputs';
import { recipeStamp } from './node-job';
import { inProject } from '../store/projects';

/** States of a job that has not ended. */
export const OPEN_STATES = ['blocked', 'waiting', 'running', 'cancelling'] as const;
export const ENDED = ['done', 'failed', 'cancelled'];

type JobRow = typeof job.$inferSelect;

/** What must be built so that some objects are up to date: they and all that is out of date upstream of them, inputs first. */
function neededFor(graph: readonly ObjectRow[], targets: readonly string[]): ObjectRow[] {
	const byId = new Map(graph.map((o) => [o.id, o]));
	const found = new Map<string, ObjectRow>();
	const seen = new Set<string>();
	const visit = (id: string): void => {
		const o = byId.get(id);
		if (!o || seen.has(id)) return;
		seen.add(id);
		// What is made of something that is drawn live takes nothing of what that is drawn from.
		if (targets.includes(id) || !recipeOf(o.kind)?.live) for (const i of o.inputs) visit(i);
		if (isBuilt(o.kind) && o.outOfDate) found.set(id, o);
	};
	targets.forEach(visit);
	return [...found.values()];
}

/** Puts jobs into the queue within a transaction. */
export type Send = (tx: Executor, ids: readonly string[], delaySeconds?: number) => Promise<void>;

/** A build that is asked for. */
export interface Planned {
	projectId: string;
	title: string;
	objects: readonly string[];
	by: { name: string; session: string };
	requestKey: string | null;
}

/**
 * Puts a build into the queue: one job for each object that must be built, which waits for those of its inputs, and one for the
 * whole, which ends when all of them have. Objects that another build is about to build already are not built twice.
 * @param send puts jobs into the queue within the transaction
 * @returns the job of the whole
 */
export async function planBuild(tx: Executor, p: Planned, send: Send): Promise<string> {
	const graph = await loadGraph(tx, p.projectId);
	const needed = neededFor(graph, p.objects);
	const open = await openJobs(tx, p.projectId);
	const jobOf = new Map<string, string>();
	const fresh: (Omit<typeof job.$inferInsert, 'createdAt'> & { id: string; createdAt: SQL })[] = [];
	for (const o of needed) {
		const known = open.filter((j) => j.kind === 'node' && j.objectId === o.id).at(-1);
		if (known && known.payload['key'] === o.key && known.state !== 'cancelling') {
			jobOf.set(o.id, known.id);
			continue;
		}
		const after = [...o.inputs.flatMap((i) => jobOf.get(i) ?? []), ...(known ? [known.id] : [])];
		const recipe = recipeOf(o.kind)!;
		const id = randomUUID();
		fresh.push({
			id,
			projectId: p.projectId,
			kind: 'node',
			title: o.modelId ? `${recipe.title} of ${calledName(graph, o)}` : o.name,
			payload: { object: o.id, key: o.key, stamp: recipeStamp(recipe), weight: recipe.weight ?? 1 },
			objectId: o.id,
			state: after.length ? 'blocked' : 'waiting',
			after,
			by: p.by.name,
			session: p.by.session,
			// In their order: of what is planned together, that comes first which was put first.
			createdAt: sql`now() + ${fresh.length} * interval '1 microsecond'`
		});
		jobOf.set(o.id, id);
	}
	if (fresh.length) {
		const rows = await tx.insert(job).values(fresh).returning();
		await send(
			tx,
			fresh.flatMap((j) => (j.state === 'waiting' ? [j.id] : []))
		);
		// Workers hear of it, and begin at once.
		await tell(tx, ...rows);
	}
	const nodes = [...jobOf.values()];
	if (fresh.length === 0 && nodes.length) {
		const same = open.find((j) => j.kind === 'build' && nodes.every((n) => j.after.includes(n)));
		if (same) return same.id;
	}
	const done = nodes.length === 0;
	const [whole] = await tx
		.insert(job)
		.values({
			projectId: p.projectId,
			kind: 'build',
			title: p.title,
			payload: { objects: [...p.objects] },
			state: done ? 'done' : 'running',
			...(done ? { outcome: { steps: [], seconds: 0 }, share: 1, endedAt: new Date() } : {}),
			after: nodes,
			by: p.by.name,
			session: p.by.session,
			requestKey: p.requestKey
		})
		.returning();
	await tell(tx, whole!);
	return whole!.id;
}

/** How much of a build a job is, roughly; for its progress. */
const weightOf = (j: Pick<JobRow, 'payload'>): number => Number(j.payload['weight'] ?? 1);

const openJobs = (tx: Executor, projectId: string): Promise<JobRow[]> =>
	tx
		.select()
		.from(job)
		.where(and(eq(job.projectId, projectId), inArray(job.state, [...OPEN_STATES])))
		.orderBy(job.createdAt, job.id);

const tell = (
	tx: Executor,
	...jobs: readonly Pick<JobRow, 'id' | 'projectId' | 'kind' | 'title' | 'state' | 'what' | 'share' | 'objectId'>[]
): Promise<void> =>
	announce(
		tx,
		...jobs.map((j) => ({
			project: j.projectId,
			topic: 'job' as const,
			job: { id: j.id, kind: j.kind, title: j.title, state: j.state, what: j.what, share: j.share, objectId: j.objectId }
		}))
	);

/**
 * Lets jobs go on that waited for others: what waited for jobs that are all done is put into the queue, what waited for one that
 * failed or was cancelled ends with it, and a build whose jobs have all ended has ended.
 * @returns whether a build ended
 */
export async function settle(projectId: string, send: Send): Promise<boolean> {
	let ended = false;
	await inProject(projectId, async (tx) => {
		for (;;) {
			const open = (await openJobs(tx, projectId)).filter((j) => j.state === 'blocked' || j.kind === 'build');
			const awaited = [...new Set(open.flatMap((j) => j.after))];
			const rows = awaited.length ? await tx.select().from(job).where(inArray(job.id, awaited)) : [];
			const byId = new Map(rows.map((r) => [r.id, r]));
			let moved = false;
			for (const j of open) {
				const waitedFor = j.after.flatMap((id) => byId.get(id) ?? []);
				const change = j.kind === 'build' ? endOfBuild(j, waitedFor) : nextOf(j, waitedFor);
				if (!change) continue;
				const [row] = await tx.update(job).set(change).where(eq(job.id, j.id)).returning();
				if (change.state === 'waiting') await send(tx, [j.id]);
				await tell(tx, row!);
				if (j.kind === 'build') ended = true;
				moved = true;
			}
			// What ended may let others end.
			if (!moved) return;
		}
	});
	return ended;
}

function nextOf(j: JobRow, waitedFor: readonly JobRow[]): Partial<JobRow> | null {
	const isOver = waitedFor.every((w) => ENDED.includes(w.state));
	// Only what is built needs what it is made of.
	if (j.kind !== 'node') return isOver ? { state: 'waiting' } : null;
	// The same object may have been tried before with other inputs: that it failed then does not matter.
	const inputs = waitedFor.filter((w) => w.objectId !== j.objectId);
	const bad = inputs.find((w) => w.state === 'failed' || w.state === 'cancelled');
	if (bad?.state === 'cancelled') return { state: 'cancelled', outcome: { message: `${bad.title} was cancelled.` }, endedAt: new Date() };
	if (bad) return { state: 'failed', outcome: { problem: waitsInVain(bad) }, endedAt: new Date() };
	return isOver ? { state: 'waiting' } : null;
}

const waitsInVain = (bad: JobRow) => ({
	type: 'input-failed',
	title: `${bad.title} could not be built`,
	status: 422,
	hint: 'Mend that first; the rest follows.'
});

function endOfBuild(j: JobRow, nodes: readonly JobRow[]): Partial<JobRow> | null {
	if (!nodes.every((n) => ENDED.includes(n.state))) return null;
	const seconds = (Date.now() - j.createdAt.getTime()) / 1000;
	const steps = nodes.flatMap((n) => (n.state === 'done' && n.outcome ? [n.outcome] : []));
	const failed = nodes.filter((n) => n.state === 'failed');
	const own = failed.find((n) => problemOf(n)?.['type'] !== 'input-failed') ?? failed[0];
	const ended = { endedAt: new Date(), what: '' };
	if (own)
		return {
			...ended,
			state: 'failed',
			outcome: {
				problem: problemOf(own),
				steps,
				failed: failed.map((n) => ({ object: n.objectId, title: n.title, problem: problemOf(n) }))
			}
		};
	if (j.state === 'cancelling' || nodes.some((n) => n.state === 'cancelled'))
		return { ...ended, state: 'cancelled', outcome: { message: 'Cancelled; what was built before is stored.' } };
	return { ...ended, state: 'done', share: 1, outcome: { steps, seconds } };
}

const problemOf = (j: JobRow): Record<string, unknown> | undefined => (j.outcome as { problem?: Record<string, unknown> } | null)?.problem;

/** Stops a build: those of its jobs that no other build waits for. Those that run are asked to stop. */
export async function cancelBuild(tx: Executor, whole: JobRow): Promise<void> {
	const others = (await openJobs(tx, whole.projectId)).filter((j) => j.kind === 'build' && j.id !== whole.id);
	const own = whole.after.filter((id) => !others.some((o) => o.after.includes(id)));
	// What others wait for, too, goes on without it.
	await tx.update(job).set({ state: 'cancelling', after: own }).where(eq(job.id, whole.id));
	await tell(tx, { ...whole, state: 'cancelling' });
	if (!own.length) return;
	const stopped = await tx
		.update(job)
		.set({ state: 'cancelled', outcome: { message: 'Cancelled; nothing of it was stored.' }, endedAt: sql`now()` })
		.where(and(inArray(job.id, own), inArray(job.state, ['blocked', 'waiting'])))
		.returning();
	const stopping = await tx
		.update(job)
		.set({ state: 'cancelling' })
		.where(and(inArray(job.id, own), eq(job.state, 'running')))
		.returning();
	for (const j of [...stopped, ...stopping]) await tell(tx, j);
}

/** Builds that wait for a job, and how far they are without it. */
export async function buildsOf(on: Executor, projectId: string, id: string) {
	const builds = await on
		.select()
		.from(job)
		.where(and(eq(job.projectId, projectId), eq(job.kind, 'build'), eq(job.state, 'running'), arrayContains(job.after, [id])));
	const nodes = builds.length
		? await on
				.select()
				.from(job)
				.where(inArray(job.id, [...new Set(builds.flatMap((b) => b.after))]))
		: [];
	return builds.map((b) => {
		const own = nodes.filter((n) => b.after.includes(n.id));
		const whole = own.reduce((s, n) => s + weightOf(n), 0);
		const done = own.filter((n) => n.state === 'done').reduce((s, n) => s + weightOf(n), 0);
		const weight = own.filter((n) => n.id === id).reduce((s, n) => s + weightOf(n), 0);
		return { build: b, from: done / whole, share: weight / whole };
	});
}

/** Ids of things that can be built. @throws ProblemError `not-found` */
export function targetsIn(graph: readonly ObjectRow[], ids: readonly string[]): string[] {
	for (const id of ids) {
		const o = graph.find((x) => x.id === id);
		if (!o || !isBuilt(o.kind))
			fail('not-found', o ? `${o.name} is not something that is built` : 'there is no such object in this project');
	}
	return [...ids];
}
