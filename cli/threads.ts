import { availableParallelism } from 'node:os';
import { fileURLToPath } from 'node:url';
import { Piscina } from 'piscina';
import type { Run } from '#core/model/compute';

/** Worker threads for heavy computation: `MALACHITE_THREADS`, or one for each core. */
export function threadPool(): { run: Run; close(): Promise<void> } {
	const threads = Math.max(1, Number(process.env['MALACHITE_THREADS']) || availableParallelism());
	const pool = new Piscina({ filename: fileURLToPath(new URL('./compute.js', import.meta.url)), minThreads: 1, maxThreads: threads });
	return { run: <T>(task: unknown) => pool.run(task) as Promise<T>, close: () => pool.destroy() };
}
