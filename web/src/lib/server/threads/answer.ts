import type { MessagePort } from 'node:worker_threads';
import { ProblemError, type Problem } from '#core/problem';

/** What a thread answers: problems that a user can act on come back as values, because errors lose their fields on the way between threads. */
export type Answer<T> = { ok: T } | { problem: Problem };

export async function answer<T>(work: () => Promise<T> | T): Promise<Answer<T>> {
	try {
		return { ok: await work() };
	} catch (error) {
		if (error instanceof ProblemError) return { problem: error.problem };
		throw error;
	}
}

/** Where a thread says how far it is. */
export type Progress = MessagePort | null;

export const tell = (port: Progress) => {
	let last = 0;
	return (what: string, share: number) => {
		const now = Date.now();
		if (now - last < 150 && share < 1) return;
		last = now;
		port?.postMessage({ what, share });
	};
};
