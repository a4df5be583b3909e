import { availableParallelism } from 'node:os';

/** Threads that compute at a time: `MALACHITE_THREADS`, or one for each core. */
export const mostThreads = (): number => Math.max(1, Number(process.env['MALACHITE_THREADS']) || availableParallelism());
