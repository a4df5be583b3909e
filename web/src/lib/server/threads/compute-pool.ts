import { fileURLToPath } from 'node:url';
import { Piscina } from 'piscina';
import compute, { type ComputeTask, type Run } from '#core/model/compute';
import { mostThreads } from './cores';

let pool: Piscina | null = null;

/**
 * Hands pieces of a computation to threads of this one: `MALACHITE_THREADS`, or one for each core. They stay warm for a while.
 * With one thread there is nobody to hand them to.
 */
export const runPiece: Run = async <T>(task: ComputeTask): Promise<T> => {
	const threads = mostThreads();
	if (threads === 1) return (await compute(task)) as T;
	const folder = process.env['MALACHITE_TASKS'];
	pool ??= new Piscina({
		filename: folder ? `${folder}/compute.js` : fileURLToPath(new URL('./compute.js', import.meta.url)),
		minThreads: 0,
		maxThreads: threads,
		idleTimeout: 60_000
	});
	return (await pool.run(task)) as T;
};
