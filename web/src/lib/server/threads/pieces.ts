import type { MessagePort } from 'node:worker_threads';
import compute, { type ComputeTask, type Run } from '#core/model/compute';
import { mostThreads } from './cores';

/** A piece of a computation that a thread asks to be done, and what came of it, each with the number that the thread gave it. */
export type PieceAsked = { piece: number; task: ComputeTask };
export type PieceDone = { piece: number } & ({ result: unknown } | { error: unknown });

/**
 * Hands pieces of a computation to the threads that the process keeps for them, through the one who asked for the computation: all that
 * compute at a time share these, so that they are warm. With one thread there is nobody to hand them to.
 * @param port to who asked; null when nobody waits at its other end
 */
export function piecesThrough(port: MessagePort | null): Run {
	if (!port || mostThreads() === 1) return async <T>(task: ComputeTask) => (await compute(task)) as T;
	const waiting = new Map<number, { resolve: (result: never) => void; reject: (error: unknown) => void }>();
	let asked = 0;
	port.on('message', (done: PieceDone) => {
		const own = waiting.get(done.piece);
		waiting.delete(done.piece);
		if ('error' in done) own?.reject(done.error);
		else own?.resolve(done.result as never);
	});
	return (task) =>
		new Promise((resolve, reject) => {
			waiting.set(++asked, { resolve, reject });
			port.postMessage({ piece: asked, task } satisfies PieceAsked);
		});
}
