import type { Handle, HandleServerError, RequestEvent, ServerInit } from '@sveltejs/kit';
import { ProblemError } from '#core/problem';
import { closeDatabase, db } from '$lib/server/db/client';
import { findProject } from '$lib/server/store/projects';
import { closeReaders } from '$lib/server/threads/readers';
import { stopQueue } from '$lib/server/jobs/queue';
import { closeThreads } from '$lib/server/threads/threads';
import { startWorkerProcess, stopWorkerProcess } from '$lib/server/jobs/worker-process';
import { log } from '$lib/server/log';
import { stopListening } from '$lib/server/store/events';

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

/** What is worth being made smaller on its way; the line for events is not, since it must not wait. */
const COMPRESSIBLE =
	/^(text\/(?!event-stream)|application\/(json|problem\+json|geo\+json|javascript|xml|octet-stream|dxf|vnd\.google-earth\.kml)|image\/svg|model\/)/;
const LEAST_BYTES = 1024;

/** The fonts of nearly all text come with the page: nothing moves under the pointer because they came late. */
const FIRST_FONTS = /ibm-plex-sans(-condensed)?-latin-(400|500|600)-normal\.[^/]*woff2$/;

/** Whether a page is one of a project that there is not. What it says then is drawn in the browser. */
async function isOfNoProject({ route, params }: RequestEvent): Promise<boolean> {
	if (!route.id?.startsWith('/(app)/[project=uuid]') || !params['project']) return false;
	return findProject(db(), params['project']).then(
		() => false,
		(problem: unknown) => problem instanceof ProblemError && problem.problem.kind === 'not-found'
	);
}

/** Everything that becomes smaller is sent compressed. */
export const handle: Handle = async ({ event, resolve }) => {
	const page = await resolve(event, { preload: ({ type, path }) => type !== 'font' || FIRST_FONTS.test(path) });
	const response = page.ok && (await isOfNoProject(event)) ? new Response(page.body, { status: 404, headers: page.headers }) : page;
	const { headers } = response;
	const takes = /\bgzip\b/.test(event.request.headers.get('accept-encoding') ?? '');
	const known = headers.get('content-length');
	if (!takes || !response.body || headers.has('content-encoding') || !COMPRESSIBLE.test(headers.get('content-type') ?? '')) return response;
	if (known !== null && Number(known) < LEAST_BYTES) return response;
	const packed = new Response(
		response.body.pipeThrough(new CompressionStream('gzip') as ReadableWritablePair<Uint8Array<ArrayBuffer>, Uint8Array<ArrayBuffer>>),
		response
	);
	packed.headers.set('content-encoding', 'gzip');
	packed.headers.append('vary', 'accept-encoding');
	packed.headers.delete('content-length');
	return packed;
};

/** What went wrong in a page goes to the log; who asked hears that it did, and nothing of how the server is made. */
export const handleError: HandleServerError = ({ error, event, status }) => {
	if (status !== 404) log('error', 'page', error, { path: event.url.pathname.slice(0, 200), status });
	return { message: status === 404 ? 'There is nothing at this address' : 'Something went wrong in the server' };
};
