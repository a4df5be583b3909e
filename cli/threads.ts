import { availableParallelism } from 'node:os';
import { fileURLToPath } from 'node:url';
import { Piscina } from 'piscina';
import compute, { type ComputeTask, type Run } from '#core/model/compute';

/** Threads for heavy computation: `MALACHITE_THREADS`, or one for each core. One thread is this one; more are workers that stay warm. */
export function threadPool(): { run: Run; close(): Promise<void> } {
	const threads = Math.max(1, Number(process.env['MALACHITE_THREADS']) || availableParallelism());
	if (threads === 1) return { run: async <T>(task: ComputeTask) => (await compute(task)) as T, close: async () => {} };
	const pool = new Piscina({ filename: fileURLToPath(new URL('./compute.js', import.meta.url)), minThreads: threads, maxThreads: threads });
	return { run: <T>(task: unknown) => pool.run(task) as Promise<T>, close: () => pool.destroy() };
}
