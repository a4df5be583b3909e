import type PgBoss from 'pg-boss';
import { and, eq, inArray, isNull, lt, or, sql, type SQL } from 'drizzle-orm';
import { fail } from '#core/problem';
import { db, type Executor, unheld } from '../db/client';
import { job, type JobState } from '../db/schema';
import { actAs } from '../store/actor';
import { checkOverdue } from '../services/check';
import { announce, listen, type ProjectEvent } from '../store/events';
import { log } from '../log';
import { describeError } from '../problems';
import { autoBuilds } from './auto';
import { InputsLost, Postponed, runNode } from './node-job';
import { buildsOf, ENDED, OPEN_STATES, planBuild } from './plan';
import { runCatalogue } from './catalogue-job';
import { runImport } from './import-job';
import type { JobContext } from './job-context';
import { runLogs } from './logs-job';
import { enqueueBuild, EXPIRES_SECONDS, QUEUE, send, settleJobs, start, stopQueue } from './queue';
import { runResults } from './results-job';
import { CANCELLED, DEAD_AFTER_SECONDS, holdJob, reviveJobs, told } from './revive';
import { runVersion } from './version-job';
import { sweepStore } from './sweep';
import { mostThreads } from '../threads/cores';
import { releaseMemory } from '../threads/threads';
import { inProject } from '../store/projects';

const HEARTBEAT_SECONDS = 2;
const CARE_EVERY_MS = 4000;
const POSTPONED_SECONDS = 5;
const MOST_AT_WORK = 4;
const SHORT_MS = 1500;
const TURN_EVERY_MS = 50;
const SWEEP_EVERY_MS = 10 * 60_000;

/** One for each job that this process may have at work at a time. */
let lanes: string[] = [];
/** Jobs that this process has at work, and since when. */
const atWork = new Map<string, number>();
let stopCare: (() => void) | null = null;

const RUNNERS: Record<string, (c: JobContext) => Promise<Record<string, unknown>>> = {
	node: runNode,
	logs: runLogs,
	results: runResults,
	import: runImport,
	version: runVersion,
	catalogue: runCatalogue
};

/**
 * Starts taking work from the queue: as many jobs at a time as there are cores, and at least two, so that what takes long holds up neither what is short
 * nor an import.
 */
export async function startWorker(): Promise<void> {
	const b = await start();
	const several = Math.min(MOST_AT_WORK, Math.max(2, mostThreads()));
	for (let lane = 0; lane < several; lane++)
		lanes.push(
			await b.work<{ id: string }>(QUEUE, { pollingIntervalSeconds: 2, batchSize: 1 }, async ([entry]) => {
				if (!entry) return;
				// What a job let go on is begun without a way round by the queue; its entry there finds nothing left to do.
				for (let id: string | undefined = entry.data.id; ; id = undefined) {
					await turn();
					const row = (id && (await take(id))) || (await take());
					if (!row) break;
					await runJob(row);
				}
				// What waits behind it is begun at once, not at the next look.
				wake(b);
			})
		);
	// Work that another process puts in is begun at once, too.
	const auto = autoBuilds((projectId, title, objects) => enqueueBuild(projectId, title, objects, null));
	const stopListening = await listen((e) => {
		auto.take(e);
		if (e.job?.state === 'waiting') wake(b);
	});
	const care = setInterval(() => void takeCare().catch(() => {}), CARE_EVERY_MS);
	const sweep = setInterval(() => void sweepStore().catch((error) => log('error', 'sweep', error)), SWEEP_EVERY_MS);
	stopCare = () => {
		clearInterval(care);
		clearInterval(sweep);
		auto.stop();
		stopListening();
	};
	await takeCare();
	void sweepStore().catch(() => {});
}

/** Short jobs are done sooner one after the other, in threads that are warm: a job waits until those at work are known to take longer. */
async function turn(): Promise<void> {
	const isShort = (since: number) => performance.now() - since < SHORT_MS;
	while ([...atWork.values()].some(isShort)) await new Promise((r) => setTimeout(r, TURN_EVERY_MS));
}

/** What waits is begun at once, if a lane is free. */
function wake(b: PgBoss): void {
	for (const lane of lanes) b.notifyWorker(lane);
}

/** Makes good what was left behind by workers and servers that died. */
async function takeCare(): Promise<void> {
	await reviveJobs();
	const waiting = await db()
		.selectDistinct({ projectId: job.projectId })
		.from(job)
		.where(and(inArray(job.state, [...OPEN_STATES]), or(eq(job.kind, 'build'), sql`cardinality(${job.after}) > 0`)));
	for (const { projectId } of waiting) await settleJobs(projectId);
	await mendQueue();
	await checkOverdue();
}

/** Every job that waits has an entry in the queue, and no entry stays at work for a job that is not. */
async function mendQueue(): Promise<void> {
	const b = await start();
	await db()
		.execute(sql`delete from queue.job q where q.name = ${QUEUE} and q.state = 'active' and q.started_on < now() - make_interval(secs => ${DEAD_AFTER_SECONDS})
		and not exists (select 1 from job j where j.id = (q.data->>'id')::uuid and j.state in ('running', 'cancelling'))`);
	const { rows } = await db().execute<{
		id: string;
	}>(sql`select j.id from job j where j.state = 'waiting' and j.created_at < now() - interval '2 seconds'
		and not exists (select 1 from queue.job q where q.name = ${QUEUE} and (q.data->>'id')::uuid = j.id and (q.state < 'active' or (q.state = 'active' and q.started_on > now() - make_interval(secs => ${DEAD_AFTER_SECONDS}))))`);
	if (rows.length === 0) return;
	await b.insert(rows.map(({ id }) => ({ name: QUEUE, data: { id }, expireInSeconds: EXPIRES_SECONDS })));
	wake(b);
}

/** Takes a job that waits, or the one that has waited longest; those that were put off a moment ago have to wait. */
async function take(id?: string): Promise<typeof job.$inferSelect | undefined> {
	const ready = or(isNull(job.heartbeat), lt(job.heartbeat, sql`now() - make_interval(secs => ${POSTPONED_SECONDS})`));
	const longest = db()
		.select({ id: job.id })
		.from(job)
		.where(and(eq(job.state, 'waiting'), ready))
		.orderBy(job.createdAt)
		.limit(1)
		.for('no key update', { skipLocked: true });
	const [row] = await db()
		.update(job)
		.set({ state: 'running', attempt: sql`${job.attempt} + 1`, heartbeat: sql`now()` })
		.where(and(eq(job.state, 'waiting'), id ? eq(job.id, id) : sql`${job.id} = ${longest}`))
		.returning();
	return row;
}

async function runJob(row: typeof job.$inferSelect): Promise<void> {
	const { id } = row;
	/** The job is this worker's as long as nobody else has begun it again. */
	const mine = and(eq(job.id, id), eq(job.attempt, row.attempt), inArray(job.state, ['running', 'cancelling']));
	const abort = new AbortController();
	const show = (on: Executor, state: string, what: string, share: number, ...also: ProjectEvent[]) =>
		announce(on, { project: row.projectId, topic: 'job', job: { ...told(row), state, what, share } }, ...also);
	/** The builds that it is a part of move with it, if it takes long enough for that to be seen. */
	let builds: ReturnType<typeof buildsOf> | null = null;
	const showBuilds = async (what: string, share: number) => {
		builds ??= row.kind === 'node' ? buildsOf(db(), row.projectId, id) : Promise.resolve([]);
		for (const b of await builds) {
			// Several of its jobs may be at work, each of which knows of itself only: together they go forward alone.
			const [now] = await db()
				.update(job)
				.set({ what: what || row.title, share: sql`greatest(${job.share}, ${b.from + b.share * share}::double precision)` })
				.where(and(eq(job.id, b.build.id), eq(job.state, 'running')))
				.returning({ what: job.what, share: job.share });
			if (now) await announce(db(), { project: row.projectId, topic: 'job', job: { ...told(b.build), ...now } });
		}
	};
	const stopListening = await listen((e) => {
		if (e.job?.id === id && e.job.state === 'cancelling') abort.abort();
	});
	const letGo = await holdJob(id);
	let what = '';
	let share = 0;
	// That it runs is told when it does not end at once.
	let dirty = true;
	let ended = false;
	/** That it runs is said before how it ended, and not after it. */
	let said: Promise<unknown> = Promise.resolve();
	const beat = setInterval(() => {
		// The word to stop may have been lost on the way; and who is not the worker of the job any more stops, too.
		void db()
			.update(job)
			.set({ heartbeat: sql`now()`, what, share })
			.where(mine)
			.returning({ state: job.state })
			.then(([j]) => (j?.state !== 'running' && !ended ? abort.abort() : undefined))
			.catch(() => {});
	}, HEARTBEAT_SECONDS * 1000);
	atWork.set(id, performance.now());
	const push = setInterval(() => {
		if (!dirty || ended) return;
		dirty = false;
		said = show(db(), 'running', what, share).catch(() => {});
		void showBuilds(what, share).catch(() => {});
	}, 200);
	const end = async (tx: Executor, state: JobState, outcome: Record<string, unknown>, ...also: ProjectEvent[]): Promise<boolean> => {
		ended = true;
		await said;
		const own = state === 'done' ? and(mine, eq(job.state, 'running')) : mine;
		const [j] = await tx
			.update(job)
			.set({ state, outcome, endedAt: sql`now()`, share: state === 'done' ? 1 : share, what: '' })
			.where(own)
			.returning({ id: job.id });
		if (!j) return false;
		await show(tx, state, '', 1, ...also);
		return true;
	};
	let stored = false;
	try {
		const outcome = await actAs({ name: row.by, session: row.session }, () =>
			RUNNERS[row.kind]!({
				id,
				projectId: row.projectId,
				payload: row.payload,
				attempt: row.attempt,
				signal: abort.signal,
				progress: (w, s) => {
					what = w;
					share = s;
					dirty = true;
				},
				done: async (tx, o, ...also) => {
					if (!(await end(tx, 'done', o, ...also))) fail('job-lost', 'the job was cancelled or taken over meanwhile');
					stored = true;
				}
			})
		);
		if (!stored) await end(db(), 'done', outcome);
	} catch (error) {
		if (error instanceof Postponed) return await postpone(row, mine);
		if (error instanceof InputsLost) return await waitFor(row, mine, error.objects);
		// The word to stop may have come after the work itself failed on it. A job that was stored has ended already.
		const [now] = await db().select({ state: job.state }).from(job).where(eq(job.id, id));
		const state = abort.signal.aborted || now?.state === 'cancelling' ? 'cancelled' : 'failed';
		await end(db(), state, state === 'cancelled' ? CANCELLED : { problem: describeError(error) });
	} finally {
		ended = true;
		clearInterval(beat);
		clearInterval(push);
		await letGo();
		stopListening();
		// What waited for it goes on, or ends.
		if (await letsOthersGoOn(row.projectId, id).catch(() => true))
			await settleJobs(row.projectId).catch((error) => log('error', 'settle', error));
		// Threads end only when nothing else computes in them.
		atWork.delete(id);
		if (atWork.size === 0) await releaseMemory().catch(() => {});
	}
}

/** Whether another job waited for one that has ended, and for nothing else; or for one that did not end well. */
async function letsOthersGoOn(projectId: string, id: string): Promise<boolean> {
	const { rows } = await db().execute(sql`select 1 from job w, job own where own.id = ${id} and w.project_id = ${projectId}
		and w.state in ${[...OPEN_STATES]} and w.after @> array[own.id]
		and (own.state <> 'done' or not exists (select 1 from job o where o.id = any(w.after) and o.state not in ${[...ENDED]})) limit 1`);
	return rows.length > 0;
}

/** A job that can not be done here and now waits a while; that is no attempt at it. */
async function postpone(row: typeof job.$inferSelect, mine: SQL | undefined): Promise<void> {
	await unheld(async (tx) => {
		const [j] = await tx
			.update(job)
			.set({ state: 'waiting', heartbeat: sql`now()`, what: '', attempt: sql`${job.attempt} - 1` })
			.where(and(mine, eq(job.state, 'running')))
			.returning();
		if (!j) return;
		await send(tx, [j.id], POSTPONED_SECONDS);
		await announce(tx, { project: row.projectId, topic: 'job', job: told(j) });
	});
}

/** A job whose inputs are lost waits until they are built again. */
async function waitFor(row: typeof job.$inferSelect, mine: SQL | undefined, objects: readonly string[]): Promise<void> {
	await inProject(row.projectId, async (tx) => {
		const by = { name: row.by, session: row.session };
		const first = await planBuild(tx, { projectId: row.projectId, title: 'Build what was lost', objects, by, requestKey: null }, send);
		const [j] = await tx
			.update(job)
			.set({ state: 'blocked', after: [first], heartbeat: null, what: '' })
			.where(and(mine, eq(job.state, 'running')))
			.returning();
		if (j) await announce(tx, { project: row.projectId, topic: 'job', job: told(j) });
	});
}

/** Takes no more work, and lets the queue go. */
export async function stopWorker(): Promise<void> {
	stopCare?.();
	await stopQueue();
	lanes = [];
}
