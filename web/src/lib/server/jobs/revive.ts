import { and, eq, inArray, isNull, lt, ne, not, or, sql } from 'drizzle-orm';
import { unheld } from '../db/client';
import { job } from '../db/schema';
import { announce, onLine } from '../store/events';

/** A job whose worker said nothing for so long is taken up by another, if that worker is not there any more. */
export const DEAD_AFTER_SECONDS = 12;
/** A worker that is there and said nothing for so long hangs. */
const HUNG_AFTER_SECONDS = 600;
const MOST_ATTEMPTS = 3;
/** First key of the locks by which workers hold their jobs. */
const HELD = 7_310_001;

/**
 * Holds a job for this process as long as that lives: on a machine that is busy with other things a worker may say nothing for long, and
 * its job is not to be begun again for that.
 * @returns lets it go
 */
export async function holdJob(id: string): Promise<() => Promise<void>> {
	await onLine('select pg_try_advisory_lock($1, hashtext($2))', [HELD, id]).catch(() => {});
	return () => onLine('select pg_advisory_unlock($1, hashtext($2))', [HELD, id]).catch(() => {});
}

/** Whether a process that lives holds a job. */
const isHeld = sql`exists (select 1 from pg_locks l join pg_database d on d.oid = l.database where d.datname = current_database()
	and l.locktype = 'advisory' and l.granted and l.objsubid = 2 and l.classid::bigint = ${HELD}
	and l.objid::bigint = (hashtext(${job.id}::text)::bigint & 4294967295))`;

/** What comes of a job that was stopped. */
export const CANCELLED = { message: 'Cancelled; nothing of it was stored.' };

/** What is told of a job to those who look on. */
export const told = (row: typeof job.$inferSelect) => {
	const { id, kind, title, state, what, share, objectId } = row;
	return { id, kind, title, state, what, share, objectId };
};

/** Jobs whose worker died: those that were to stop have stopped, those that were tried often enough have failed, others wait again. */
export async function reviveJobs(): Promise<void> {
	await unheld(async (tx) => {
		const silentFor = (seconds: number) => lt(job.heartbeat, sql`now() - make_interval(secs => ${seconds})`);
		const silent = or(and(or(isNull(job.heartbeat), silentFor(DEAD_AFTER_SECONDS)), not(isHeld)), silentFor(HUNG_AFTER_SECONDS));
		const dead = await tx
			.select()
			.from(job)
			.where(and(inArray(job.state, ['running', 'cancelling']), ne(job.kind, 'build'), silent))
			.for('no key update', { skipLocked: true });
		for (const d of dead) {
			const change =
				d.state === 'cancelling'
					? { state: 'cancelled' as const, outcome: CANCELLED, endedAt: sql`now()` }
					: d.attempt >= MOST_ATTEMPTS
						? {
								state: 'failed' as const,
								endedAt: sql`now()`,
								outcome: {
									problem: {
										type: 'gave-up',
										title: `its worker ended ${d.attempt} times before it was done`,
										status: 500,
										hint: 'It may need more memory than there is: use a wider spacing, a smaller extent or a smaller file.'
									}
								}
							}
						: { state: 'waiting' as const };
			await tx
				.update(job)
				.set({ ...change, heartbeat: null, what: '' })
				.where(eq(job.id, d.id));
			await announce(tx, { project: d.projectId, topic: 'job', job: { ...told(d), state: change.state, what: '' } });
		}
	});
}
