import type { Executor } from '../db/client';
import type { ProjectEvent } from '../store/events';

/** A job at work: how it says what it does, and how it learns that it is to stop. */
export interface JobContext {
	id: string;
	projectId: string;
	payload: Record<string, unknown>;
	/** How often it was begun, this time included. */
	attempt: number;
	signal: AbortSignal;
	progress(what: string, share: number): void;
	/**
	 * Marks the job done within the transaction that stores what it made: both come, or neither does. What is killed between them can
	 * not come in twice.
	 * @param also what is told with it
	 * @throws ProblemError `job-lost` when the job was cancelled, or is another worker's by now
	 */
	done(tx: Executor, outcome: Record<string, unknown>, ...also: ProjectEvent[]): Promise<void>;
}
