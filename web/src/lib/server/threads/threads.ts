import { fileURLToPath } from 'node:url';
import { MessageChannel } from 'node:worker_threads';
import { Piscina } from 'piscina';
import { ProblemError } from '#core/problem';
import { log } from '../log';
import type { Answer } from './answer';
import { mostThreads } from './cores';
import type { PieceAsked, PieceDone } from './pieces';
import type * as tableTasks from './table-tasks';
import type * as tasks from './tasks';

type Functions<T> = { [K in keyof T as T[K] extends (m: never) => Promise<Answer<unknown>> ? K : never]: T[K] };
type Message<F> = F extends (m: infer M) => unknown ? Omit<M, 'port'> : never;
type Result<F> = F extends (m: never) => Promise<infer A> ? (A extends { ok: infer T } ? T : never) : never;

interface RunOptions {
	/** Ends the thread at once when raised. */
	signal?: AbortSignal;
	progress?: (what: string, share: number) => void;
}

const pools = new Map<string, Piscina>();

function poolOf(file: string, most: number, idle: number): Piscina {
	let pool = pools.get(file);
	if (!pool) {
		const folder = process.env['MALACHITE_TASKS'];
		pool = new Piscina({
			filename: folder ? `${folder}/${file}` : fileURLToPath(new URL(`./${file}`, import.meta.url)),
			minThreads: 1,
			maxThreads: most,
			idleTimeout: idle
		});
		// A thread that dies fails its task and is replaced; it must not take the server with it.
		pool.on('error', (error) => log('error', 'worker thread', error));
		pools.set(file, pool);
	}
	return pool;
}

/** Threads that end when nothing was asked of them for a minute. */
const IDLE_MS = 60_000;

/** Pieces that a thread asked for and that are not done: they end with it. */
type AtWork = Set<AbortController>;

/** Does a piece that a thread asked for, in the threads that all share. */
async function doPiece({ piece, task }: PieceAsked, atWork: AtWork): Promise<PieceDone> {
	const own = new AbortController();
	atWork.add(own);
	try {
		return { piece, result: await poolOf('compute.js', mostThreads(), IDLE_MS).run(task, { signal: own.signal }) };
	} catch (error) {
		return { piece, error };
	} finally {
		atWork.delete(own);
	}
}

async function run(pool: Piscina, name: string, message: object, options: RunOptions): Promise<unknown> {
	const { port1, port2 } = new MessageChannel();
	const atWork: AtWork = new Set();
	port1.on('message', (m: PieceAsked | { what: string; share: number }) => {
		if ('piece' in m) void doPiece(m, atWork).then((done) => port1.postMessage(done));
		else options.progress?.(m.what, m.share);
	});
	try {
		const result = (await pool.run(
			{ ...message, port: port2 },
			{ name, transferList: [port2], ...(options.signal ? { signal: options.signal } : {}) }
		)) as Answer<unknown>;
		if ('problem' in result) throw new ProblemError(result.problem);
		return result.ok;
	} finally {
		for (const piece of atWork) piece.abort();
		port1.close();
	}
}

/**
 * Runs a task in one of the worker threads.
 * @throws ProblemError as the task found it
 */
export async function runTask<N extends keyof Functions<typeof tasks>>(
	name: N,
	message: Message<Functions<typeof tasks>[N]>,
	options: RunOptions = {}
): Promise<Result<Functions<typeof tasks>[N]>> {
	return (await run(poolOf('tasks.js', mostThreads(), IDLE_MS), name, message, options)) as Result<Functions<typeof tasks>[N]>;
}

/**
 * Runs a task in the one thread that keeps tables. Tasks wait for each other there.
 * @throws ProblemError as the task found it
 */
export async function runTableTask<N extends keyof Functions<typeof tableTasks>>(
	name: N,
	message: Message<Functions<typeof tableTasks>[N]>,
	options: RunOptions = {}
): Promise<Result<Functions<typeof tableTasks>[N]>> {
	return (await run(poolOf('table-tasks.js', 1, Infinity), name, message, options)) as Result<Functions<typeof tableTasks>[N]>;
}

/** Ends the threads of a process that grew large, so that their memory is given back; the next task starts them anew. */
export async function releaseMemory(mostBytes = 1.5 * 2 ** 30): Promise<void> {
	if (process.memoryUsage.rss() > mostBytes) await closeThreads();
}

export async function closeThreads(): Promise<void> {
	// Work that comes meanwhile gets threads of its own.
	const old = [...pools.values()];
	pools.clear();
	await Promise.all(old.map((p) => p.destroy()));
}
