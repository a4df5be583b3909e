import PgBoss from 'pg-boss';
import { and, eq, inArray, sql } from 'drizzle-orm';
import { fail } from '#core/problem';
import { databaseUrl, type Executor } from '../db/client';
import { job } from '../db/schema';
import { actor } from '../store/actor';
import { announce } from '../store/events';
import { log } from '../log';
import { cancelBuild, planBuild, settle, type Send } from './plan';
import { CANCELLED, told } from './revive';
import { sweepResults } from './sweep';
import type { JobKind, PayloadOf } from './payloads';
import { inProject } from '../store/projects';

/** Name of the queue, and how long what lies in it is worth something. */
export const QUEUE = 'work';
export const EXPIRES_SECONDS = 23 * 3600;

let boss: PgBoss | null = null;
/** The queue, once it is connected. */
export async function start(): Promise<PgBoss> {
	if (boss) return boss;
	const b = new PgBoss({
		connectionString: databaseUrl(),
		schema: 'queue',
		archiveCompletedAfterSeconds: 600,
		archiveFailedAfterSeconds: 600,
		deleteAfterHours: 1,
		max: 4
	});
	b.on('error', () => {});
	await b.start();
	await b.createQueue(QUEUE);
	return (boss = b);
}

/** What is said of work that is asked for. */
export interface Asked {
	/** Sent with the request; work that was asked for with the same key is not started again. */
	requestKey?: string | null;
	/** Jobs that must have ended before it, however they ended. */
	after?: readonly string[];
	/** Only one of its kind waits or runs in a project; who asks again gets that one. */
	single?: boolean;
}

/** Puts work into the queue. The row and the queue entry come together or not at all. @returns the job, which may have been there already */
export async function enqueue<K extends JobKind>(
	projectId: string,
	kind: K,
	title: string,
	payload: PayloadOf<K>,
	asked: Asked = {}
): Promise<string> {
	await start();
	const { name, session } = actor();
	return inProject(projectId, async (tx) => {
		const known = asked.requestKey ? await jobOfRequest(tx, projectId, asked.requestKey) : undefined;
		if (known) return known;
		if (asked.single) {
			const [known] = await tx
				.select({ id: job.id })
				.from(job)
				.where(and(eq(job.projectId, projectId), eq(job.kind, kind), inArray(job.state, ['waiting', 'running'])));
			if (known) return known.id;
		}
		const [row] = await tx
			.insert(job)
			.values({
				projectId,
				kind,
				title,
				payload,
				by: name,
				session,
				requestKey: asked.requestKey ?? null,
				...(asked.after?.length ? { after: [...asked.after], state: 'blocked' } : {})
			})
			.returning({ id: job.id });
		if (!asked.after?.length) await send(tx, [row!.id]);
		await announce(tx, {
			project: projectId,
			topic: 'job',
			job: { id: row!.id, kind, title, state: 'waiting', what: '', share: 0, objectId: null }
		});
		return row!.id;
	});
}

/** Puts jobs into the queue within the transaction that stores them. */
export const send: Send = async (tx, ids, delaySeconds = 0) => {
	if (ids.length === 0) return;
	const b = await start();
	await b.insert(
		ids.map((id) => ({
			name: QUEUE,
			data: { id },
			expireInSeconds: EXPIRES_SECONDS,
			...(delaySeconds ? { startAfter: `${delaySeconds} seconds` } : {})
		})),
		{ db: { executeSql: async (text: string, values: unknown[]) => runInTransaction(tx, text, values) } }
	);
};

/**
 * Asks for a build of some objects with all that is out of date upstream of them.
 * @returns the job of the whole, which may have been there already
 */
export async function enqueueBuild(
	projectId: string,
	title: string,
	objects: readonly string[],
	requestKey: string | null
): Promise<string> {
	await start();
	return inProject(projectId, async (tx) => {
		const known = requestKey ? await jobOfRequest(tx, projectId, requestKey) : undefined;
		return known ?? planBuild(tx, { projectId, title, objects, by: actor(), requestKey }, send);
	});
}

/** Lets jobs of a project go on that waited for others. */
export async function settleJobs(projectId: string): Promise<void> {
	// What a build made superfluous goes at once: a hundred builds in an hour do not fill the store.
	if (await settle(projectId, send)) void sweepResults(projectId).catch((error) => log('error', 'sweep', error));
}

async function jobOfRequest(tx: Executor, projectId: string, requestKey: string): Promise<string | undefined> {
	const [known] = await tx
		.select({ id: job.id })
		.from(job)
		.where(and(eq(job.projectId, projectId), eq(job.requestKey, requestKey)));
	return known?.id;
}

/** Runs a statement with $1-style parameters inside a Drizzle transaction. */
async function runInTransaction(
	tx: { execute: (q: ReturnType<typeof sql>) => Promise<unknown> },
	text: string,
	values: unknown[]
): Promise<{ rows: unknown[] }> {
	const parts = text.split(/\$(\d+)/);
	const query = sql.empty();
	parts.forEach((part, i) => query.append(i % 2 === 0 ? sql.raw(part) : sql`${sql.param(values[Number(part) - 1])}`));
	return (await tx.execute(query)) as { rows: unknown[] };
}

/**
 * Asks a job to stop; false when it has ended already.
 * @throws ProblemError not-found when the project has no such job
 */
export async function cancelJob(projectId: string, id: string): Promise<boolean> {
	const cancelled = await inProject(projectId, async (tx) => {
		const [row] = await tx
			.select()
			.from(job)
			.where(and(eq(job.id, id), eq(job.projectId, projectId)))
			.for('no key update');
		if (!row) return fail('not-found', 'there is no such job');
		if (!['blocked', 'waiting', 'running'].includes(row.state)) return false;
		if (row.kind === 'build') {
			await cancelBuild(tx, row);
			return true;
		}
		const change =
			row.state !== 'running' ? { state: 'cancelled' as const, outcome: CANCELLED, endedAt: sql`now()` } : { state: 'cancelling' as const };
		await tx.update(job).set(change).where(eq(job.id, id));
		await announce(tx, { project: projectId, topic: 'job', job: { ...told(row), state: change.state } });
		return true;
	});
	await settleJobs(projectId);
	return cancelled;
}

export async function queueState(): Promise<string> {
	const b = await start();
	await b.getQueueSize(QUEUE);
	return 'up';
}

export async function stopQueue(): Promise<void> {
	await boss?.stop({ graceful: false, close: true }).catch(() => {});
	boss = null;
}
