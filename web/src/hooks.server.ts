import type { Handle, ServerInit } from '@sveltejs/kit';
import { closeDatabase } from '$lib/server/db/client';
import { startWorker, stopQueue } from '$lib/server/jobs/queue';
import { closeThreads } from '$lib/server/jobs/threads';
import { stopListening } from '$lib/server/objects/events';

/** The server takes work from the queue itself, unless `MALACHITE_WORKER` is `off`. */
export const init: ServerInit = async () => {
	if (process.env['MALACHITE_WORKER'] !== 'off') await startWorker();
	const stop = async () => {
		await Promise.race([Promise.allSettled([stopQueue(), closeThreads(), stopListening(), closeDatabase()]), new Promise((r) => setTimeout(r, 3000))]);
		process.exit(0);
	};
	process.once('SIGINT', () => void stop());
	process.once('SIGTERM', () => void stop());
};

export const handle: Handle = async ({ event, resolve }) => {
	const response = await resolve(event);
	response.headers.set('x-content-type-options', 'nosniff');
	response.headers.set('referrer-policy', 'same-origin');
	return response;
};
