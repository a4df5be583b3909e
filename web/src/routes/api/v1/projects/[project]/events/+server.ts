import type { RequestHandler } from './$types';
import { fail } from '#core/problem';
import { db } from '$lib/server/db/client';
import { findProject } from '$lib/server/store/projects';
import { problemResponse } from '$lib/server/problems';
import { listen, type ProjectEvent } from '$lib/server/store/events';

const KEEP_ALIVE_MS = 20_000;
/** Listeners of this server; each keeps a connection open. */
const MOST_STREAMS = 400;
let streams = 0;
const UUID = /^[0-9a-f]{8}(-[0-9a-f]{4}){3}-[0-9a-f]{12}$/i;

/** Server-sent events of one project: progress of jobs, changed objects, new findings. */
export const GET: RequestHandler = async ({ params, request }) => {
	let stop = () => {};
	let open = false;
	const encoder = new TextEncoder();
	try {
		if (!UUID.test(params.project)) fail('not-found', 'there is no such project');
		await findProject(db(), params.project);
		if (streams >= MOST_STREAMS)
			fail('too-many-listeners', `${MOST_STREAMS} pages listen already`, 'Close some; this one asks again in a moment.');
		streams++;
		open = true;
		let send: (text: string) => void = () => {};
		const stopListening = await listen((e: ProjectEvent) => {
			if (e.project === params.project) send(`event: ${e.topic}\ndata: ${JSON.stringify({ ...e.job, xid: e.xid ?? '' })}\n\n`);
		});
		const stream = new ReadableStream<Uint8Array>({
			start(controller) {
				const timer = setInterval(() => send(': still here\n\n'), KEEP_ALIVE_MS);
				stop = () => {
					if (open) streams--;
					open = false;
					clearInterval(timer);
					stopListening();
				};
				send = (text) => {
					try {
						controller.enqueue(encoder.encode(text));
					} catch {
						stop();
					}
				};
				send('retry: 2000\n\nevent: hello\ndata: {}\n\n');
				request.signal.addEventListener('abort', () => stop());
			},
			cancel: () => stop()
		});
		return new Response(stream, {
			headers: { 'content-type': 'text/event-stream', 'cache-control': 'no-store', 'x-accel-buffering': 'no' }
		});
	} catch (error) {
		if (open) streams--;
		return problemResponse(error);
	}
};
