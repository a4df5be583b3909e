import type { Handle, HandleServerError, ServerInit } from '@sveltejs/kit';
import { closeDatabase } from '$lib/server/db/client';
import { closeReaders } from '$lib/server/jobs/readers';
import { stopQueue } from '$lib/server/jobs/queue';
import { closeThreads } from '$lib/server/jobs/threads';
import { startWorkerProcess, stopWorkerProcess } from '$lib/server/jobs/worker-process';
import { log } from '$lib/server/log';
import { stopListening } from '$lib/server/objects/events';

/** The server has a worker that takes work from the queue, unless `MALACHITE_WORKER` is `off`. */
export const init: ServerInit = async () => {
	if (process.env['MALACHITE_WORKER'] !== 'off') void startWorkerProcess();
	const stop = async () => {
		await Promise.race([
			Promise.allSettled([stopWorkerProcess(), stopQueue(), closeThreads(), stopListening(), closeDatabase()]),
			new Promise((r) => setTimeout(r, 4000))
		]);
		closeReaders();
		process.exit(0);
	};
	process.once('SIGINT', () => void stop());
	process.once('SIGTERM', () => void stop());
};

export const handle: Handle = async ({ event, resolve }) => resolve(event);

/** What went wrong in a page goes to the log; who asked hears that it did, and nothing of how the server is made. */
export const handleError: HandleServerError = ({ error, event, status }) => {
	if (status !== 404) log('error', 'page', error, { path: event.url.pathname.slice(0, 200), status });
	return { message: status === 404 ? 'There is nothing at this address' : 'Something went wrong in the server' };
};
