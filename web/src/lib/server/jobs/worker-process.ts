import { fork, type ChildProcess } from 'node:child_process';
import { fileURLToPath } from 'node:url';
import { log } from '../log';

let worker: ChildProcess | null = null;
let stopped = false;

/**
 * Starts the worker of this server as a process of its own: what it computes takes no time from requests, and when it ends, whatever
 * ended it, another takes its place.
 */
export function startWorkerProcess(): Promise<void> {
	const folder = process.env['MALACHITE_TASKS'];
	const script = folder ? `${folder}/worker.js` : fileURLToPath(new URL('../entries/worker.js', import.meta.url));
	return new Promise((resolve) => {
		const begin = (failures: number): void => {
			const started = Date.now();
			worker = fork(script, [], { stdio: ['ignore', 'inherit', 'inherit', 'ipc'] });
			worker.once('message', () => resolve());
			worker.on('error', (error) => log('error', 'worker', error));
			worker.once('exit', (code, signal) => {
				if (stopped) return;
				log('error', 'the worker ended and is started again', undefined, { code: code ?? undefined, signal: signal ?? undefined });
				const next = Date.now() - started > 60_000 ? 0 : failures + 1;
				setTimeout(() => !stopped && begin(next), Math.min(30_000, 250 * 2 ** Math.min(next, 7)));
			});
		};
		begin(0);
	});
}

export async function stopWorkerProcess(): Promise<void> {
	stopped = true;
	const w = worker;
	if (!w || w.exitCode !== null) return;
	w.kill('SIGTERM');
	await Promise.race([new Promise((r) => w.once('exit', r)), new Promise((r) => setTimeout(r, 2500))]);
	w.kill('SIGKILL');
}
