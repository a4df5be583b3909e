import PgBoss from 'pg-boss';
import { and, eq, inArray, lt, or, isNull, sql } from 'drizzle-orm';
import { fail } from '#core/problem';
import { databaseUrl, db } from '../db/client';
import { job } from '../db/schema';
import { announce, listen } from '../objects/events';
import { describeError } from '../api/problems';
import { runBuild } from './build-job';
import { runDoubt } from './doubt-job';
import { runCatalogue } from './catalogue-job';
import { runImport } from './import-job';
import { runVersion } from './version-job';

const QUEUE = 'work';
const HEARTBEAT_SECONDS = 2;
const DEAD_AFTER_SECONDS = 12;
const MOST_ATTEMPTS = 3;

let boss: PgBoss | null = null;
let workerId: string | null = null;
let stopReviving: (() => void) | null = null;

/** A job at work: how it says what it does, and how it learns that it is to stop. */
export interface JobContext {
	id: string;
	projectId: string;
	payload: Record<string, unknown>;
	signal: AbortSignal;
	progress(what: string, share: number): void;
}

const RUNNERS: Record<string, (c: JobContext) => Promise<Record<string, unknown>>> = { build: runBuild, import: runImport, version: runVersion, catalogue: runCatalogue, doubt: runDoubt };

async function start(): Promise<PgBoss> {
	if (boss) return boss;
	const b = new PgBoss({ connectionString: databaseUrl(), schema: 'queue' });
	b.on('error', () => {});
	await b.start();
	await b.createQueue(QUEUE);
	return (boss = b);
}

/** Puts work into the queue. The row and the queue entry come together or not at all. */
export async function enqueue(projectId: string, kind: string, title: string, payload: Record<string, unknown>): Promise<string> {
	const b = await start();
	const id = await db().transaction(async (tx) => {
		const [row] = await tx.insert(job).values({ projectId, kind, title, payload }).returning({ id: job.id });
		await b.send(QUEUE, { id: row!.id }, { db: { executeSql: async (text: string, values: unknown[]) => runInTransaction(tx, text, values) } });
		await announce(tx, { project: projectId, topic: 'job', job: { id: row!.id, kind, title, state: 'waiting', what: '', share: 0 } });
		return row!.id;
	});
	if (workerId) b.notifyWorker(workerId);
	return id;
}

/** Runs a statement with $1-style parameters inside a Drizzle transaction. */
async function runInTransaction(tx: { execute: (q: ReturnType<typeof sql>) => Promise<unknown> }, text: string, values: unknown[]): Promise<{ rows: unknown[] }> {
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
	const [row] = await db()
		.update(job)
		.set({ state: sql`case when ${job.state} = 'waiting' then 'cancelled' else 'cancelling' end`, endedAt: sql`case when ${job.state} = 'waiting' then now() end` })
		.where(and(eq(job.id, id), eq(job.projectId, projectId), inArray(job.state, ['waiting', 'running'])))
		.returning();
	if (!row) {
		const [ended] = await db().select({ id: job.id }).from(job).where(and(eq(job.id, id), eq(job.projectId, projectId)));
		return ended ? false : fail('not-found', 'there is no such job');
	}
	await announce(db(), { project: projectId, topic: 'job', job: row });
	return true;
}

/** Starts taking work from the queue, one job at a time. */
export async function startWorker(): Promise<void> {
	const b = await start();
	workerId = await b.work<{ id: string }>(QUEUE, { pollingIntervalSeconds: 0.5, batchSize: 1 }, async ([entry]) => {
		if (entry) await runJob(entry.data.id);
	});
	const timer = setInterval(() => void reviveJobs().catch(() => {}), DEAD_AFTER_SECONDS * 500);
	stopReviving = () => clearInterval(timer);
	await reviveJobs();
}

/** Jobs whose worker died are put back into the queue; results already stored are found there and not computed again. */
async function reviveJobs(): Promise<void> {
	const dead = await db()
		.update(job)
		.set({ state: sql`case when ${job.attempt} >= ${MOST_ATTEMPTS} then 'failed' else 'waiting' end`, heartbeat: null })
		.where(and(inArray(job.state, ['running', 'cancelling']), or(isNull(job.heartbeat), lt(job.heartbeat, sql`now() - make_interval(secs => ${DEAD_AFTER_SECONDS})`))))
		.returning({ id: job.id, state: job.state });
	for (const d of dead) if (d.state === 'waiting') await (await start()).send(QUEUE, { id: d.id });
}

async function runJob(id: string): Promise<void> {
	const [row] = await db()
		.update(job)
		.set({ state: 'running', attempt: sql`${job.attempt} + 1`, heartbeat: new Date() })
		.where(and(eq(job.id, id), eq(job.state, 'waiting')))
		.returning();
	if (!row) return;
	const abort = new AbortController();
	const show = (state: string, what: string, share: number) => announce(db(), { project: row.projectId, topic: 'job', job: { id, kind: row.kind, title: row.title, state, what, share } });
	const stopListening = await listen((e) => {
		if (e.job?.id === id && e.job.state === 'cancelling') abort.abort();
	});
	let what = '';
	let share = 0;
	let dirty = false;
	const beat = setInterval(() => {
		void db().update(job).set({ heartbeat: new Date(), what, share }).where(eq(job.id, id)).catch(() => {});
	}, HEARTBEAT_SECONDS * 1000);
	const push = setInterval(() => {
		if (!dirty) return;
		dirty = false;
		void show('running', what, share).catch(() => {});
	}, 200);
	const finish = async (state: string, outcome: Record<string, unknown>) => {
		await db().update(job).set({ state, outcome, endedAt: new Date(), share: state === 'done' ? 1 : share, what: '' }).where(eq(job.id, id));
		await show(state, '', 1);
	};
	try {
		await show('running', '', 0);
		const outcome = await RUNNERS[row.kind]!({
			id,
			projectId: row.projectId,
			payload: row.payload,
			signal: abort.signal,
			progress: (w, s) => {
				what = w;
				share = s;
				dirty = true;
			}
		});
		await finish('done', outcome);
	} catch (error) {
		if (abort.signal.aborted) await finish('cancelled', { message: 'Cancelled; nothing of it was stored.' });
		else await finish('failed', { problem: describeError(error) });
	} finally {
		clearInterval(beat);
		clearInterval(push);
		stopListening();
	}
}

export async function queueState(): Promise<string> {
	const b = await start();
	await b.getQueueSize(QUEUE);
	return 'up';
}

export async function stopQueue(): Promise<void> {
	stopReviving?.();
	await boss?.stop({ graceful: false, close: true }).catch(() => {});
	boss = null;
	workerId = null;
}
