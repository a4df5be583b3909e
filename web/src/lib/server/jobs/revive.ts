import { and, eq, inArray, isNull, lt, ne, or, sql } from 'drizzle-orm';
import { unheld } from '../db/client';
import { job } from '../db/schema';
import { announce } from '../store/events';

/** A job whose worker said nothing for so long is taken up by another. */
export const DEAD_AFTER_SECONDS = 12;
const MOST_ATTEMPTS = 3;

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
		const silent = or(isNull(job.heartbeat), lt(job.heartbeat, sql`now() - make_interval(secs => ${DEAD_AFTER_SECONDS})`));
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
