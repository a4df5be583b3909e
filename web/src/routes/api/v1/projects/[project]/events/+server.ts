import type { RequestHandler } from './$types';
import { problemResponse } from '$lib/server/api/problems';
import { listen, type ProjectEvent } from '$lib/server/objects/events';

const KEEP_ALIVE_MS = 20_000;

/** Server-sent events of one project: progress of jobs, changed objects, new findings. */
export const GET: RequestHandler = async ({ params, request }) => {
	let stop = () => {};
	const encoder = new TextEncoder();
	try {
		let send: (text: string) => void = () => {};
		const stopListening = await listen((e: ProjectEvent) => {
			if (e.project === params.project) send(`event: ${e.topic}\ndata: ${JSON.stringify(e.job ?? {})}\n\n`);
		});
		const stream = new ReadableStream<Uint8Array>({
			start(controller) {
				const timer = setInterval(() => send(': still here\n\n'), KEEP_ALIVE_MS);
				stop = () => {
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
		return new Response(stream, { headers: { 'content-type': 'text/event-stream', 'cache-control': 'no-store', 'x-accel-buffering': 'no' } });
	} catch (error) {
		return problemResponse(error);
	}
};
