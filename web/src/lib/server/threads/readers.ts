import { fork, type ChildProcess } from 'node:child_process';
import { mkdirSync, readFileSync } from 'node:fs';
import { readFile, rm, writeFile } from 'node:fs/promises';
import { tmpdir, totalmem } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { deserialize, serialize } from 'node:v8';
import { randomUUID } from 'node:crypto';
import { ProblemError } from '#core/problem';
import type { Answer } from './answer';
import { mostThreads } from './cores';
import type * as foreign from './foreign-tasks';

/**
 * Files from users are read in processes of their own, with bounds on memory and time: a file that breaks its reader, or makes it
 * grow or run for ever, ends that process and nothing else. They know neither the database nor its password.
 */

type Functions<T> = { [K in keyof T as T[K] extends (m: never) => Promise<Answer<unknown>> ? K : never]: T[K] };
type Message<F> = F extends (m: infer M) => unknown ? M : never;
type Result<F> = F extends (m: never) => Promise<infer A> ? (A extends { ok: infer T } ? T : never) : never;

interface Bounds {
	signal?: AbortSignal;
	/** Seconds after which reading is stopped. */
	seconds?: number;
}

interface Reader {
	process: ChildProcess;
	idle: ReturnType<typeof setTimeout> | null;
}

const MIB = 1024 * 1024;
const LOOK_EVERY_MS = 40;
const IDLE_MS = 90_000;
/** A reader larger than this is not kept for the next file. */
const KEPT_MIB = 300;
const DEFAULT_SECONDS = 120;

/** Memory that one reader may take, MiB: `MALACHITE_READER_MEMORY`, or a fifth of the machine's, 1 to 4 GiB. */
export const readerMemory = (): number =>
	Number(process.env['MALACHITE_READER_MEMORY']) || Math.round(Math.min(4096, Math.max(1024, totalmem() / MIB / 5)));
const mostReaders = (): number => Math.min(4, mostThreads());

const idle: Reader[] = [];
const all = new Set<ChildProcess>();
let busy = 0;
const waiting: (() => void)[] = [];

function spoolFolder(): string {
	const folder = process.env['MALACHITE_SPOOL'] ?? join(tmpdir(), `malachite-${process.pid}`);
	mkdirSync(folder, { recursive: true, mode: 0o700 });
	return folder;
}

/** A file of its own for something on its way. */
export const spoolFile = (): string => join(spoolFolder(), randomUUID());

function begin(): Reader {
	const folder = process.env['MALACHITE_TASKS'];
	const script = folder ? `${folder}/reader.js` : fileURLToPath(new URL('./reader.js', import.meta.url));
	const child = fork(script, [], {
		execArgv: [`--max-old-space-size=${readerMemory()}`],
		// Nothing of the server's environment: no address or password of the database.
		env: { PATH: process.env['PATH'] ?? '', TMPDIR: process.env['TMPDIR'] ?? '' },
		stdio: ['ignore', 'ignore', 'ignore', 'ipc'],
		serialization: 'json'
	});
	all.add(child);
	child.once('exit', () => all.delete(child));
	child.on('error', () => {});
	return { process: child, idle: null };
}

async function take(): Promise<Reader> {
	if (busy >= mostReaders()) await new Promise<void>((go) => waiting.push(go));
	else busy++;
	for (let r = idle.pop(); r; r = idle.pop()) {
		if (r.idle) clearTimeout(r.idle);
		if (r.process.connected && r.process.exitCode === null) return r;
	}
	return begin();
}

function give(r: Reader): void {
	const next = waiting.shift();
	if (next) next();
	else busy--;
	if (!r.process.connected || r.process.exitCode !== null || r.process.killed) return;
	// One that grew large gives its memory back.
	if (memoryOf(r.process.pid!) > KEPT_MIB) return void r.process.kill('SIGKILL');
	idle.push(r);
	r.idle = setTimeout(() => {
		idle.splice(idle.indexOf(r), 1);
		r.process.kill('SIGKILL');
	}, IDLE_MS);
	r.idle.unref();
}

/** Resident memory of a process, MiB; 0 when it can not be told. */
function memoryOf(pid: number): number {
	try {
		return (Number(readFileSync(`/proc/${pid}/statm`, 'latin1').split(' ')[1]) * 4096) / MIB;
	} catch {
		return 0;
	}
}

const problem = (kind: string, message: string, hint: string, where: string): ProblemError =>
	new ProblemError({ kind, message, hint, where });

/**
 * Runs a task on a foreign file in a process of its own.
 * @throws ProblemError as the task found it; `too-much-memory`, `too-long`, `damaged-file` when its process had to be ended or ended itself
 */
export async function readForeign<N extends keyof Functions<typeof foreign>>(
	name: N,
	message: Message<Functions<typeof foreign>[N]>,
	bounds: Bounds = {}
): Promise<Result<Functions<typeof foreign>[N]>> {
	bounds.signal?.throwIfAborted();
	const reader = await take();
	const path = spoolFile();
	const fileName = String((message as { fileName?: string }).fileName ?? 'the file');
	try {
		await writeFile(path, serialize(message), { mode: 0o600 });
		await work(reader, name, path, fileName, bounds);
		const answer = deserialize(await readFile(`${path}.out`)) as Answer<unknown>;
		if ('problem' in answer) throw new ProblemError(answer.problem);
		return answer.ok as Result<Functions<typeof foreign>[N]>;
	} finally {
		give(reader);
		await Promise.all([rm(path, { force: true }), rm(`${path}.out`, { force: true })]);
	}
}

function work(
	{ process: child }: Reader,
	name: string,
	path: string,
	fileName: string,
	{ signal, seconds = DEFAULT_SECONDS }: Bounds
): Promise<void> {
	const most = readerMemory();
	return new Promise((resolve, reject) => {
		const started = Date.now();
		let error: unknown = null;
		const end = (e: unknown) => {
			error ??= e;
			child.kill('SIGKILL');
		};
		const look = setInterval(() => {
			const used = memoryOf(child.pid!);
			if (used > most + 256)
				end(
					problem(
						'too-much-memory',
						`${fileName} needed more than ${(most / 1024).toFixed(1)} GiB of memory to be read, and was stopped after ${((Date.now() - started) / 1000).toFixed(1)} s`,
						'Split it, or leave out what is not needed. The most is set by MALACHITE_READER_MEMORY (MiB).',
						fileName
					)
				);
			else if (Date.now() - started > seconds * 1000)
				end(
					problem(
						'too-long',
						`${fileName} could not be read within ${seconds} s, and was stopped`,
						'It may be damaged. Split it, or save it again.',
						fileName
					)
				);
		}, LOOK_EVERY_MS);
		const aborted = () => end(signal!.reason);
		signal?.addEventListener('abort', aborted, { once: true });
		const done = (settle: () => void) => {
			clearInterval(look);
			signal?.removeEventListener('abort', aborted);
			child.off('message', answered);
			child.off('exit', exited);
			settle();
		};
		const answered = () => done(resolve);
		const exited = (code: number | null, by: string | null) =>
			done(() => {
				// A process that runs out of its heap aborts.
				const full = by === 'SIGABRT' || code === 134 || code === 5;
				reject(
					error ??
						(full
							? problem(
									'too-much-memory',
									`${fileName} needed more than ${(most / 1024).toFixed(1)} GiB of memory to be read`,
									'Split it, or leave out what is not needed; it may also be damaged. The most is set by MALACHITE_READER_MEMORY (MiB).',
									fileName
								)
							: problem(
									'damaged-file',
									`the reader of ${fileName} ended without an answer`,
									'The file is damaged in a way that breaks its reader. Save or send it again.',
									fileName
								))
				);
			});
		child.on('message', answered);
		child.on('exit', exited);
		child.send(
			{ name, path },
			(failed) => failed && end(problem('damaged-file', `the reader of ${fileName} could not be started`, 'Try again.', fileName))
		);
		if (child.exitCode !== null || child.signalCode !== null) exited(child.exitCode, child.signalCode);
	});
}

export function closeReaders(): void {
	for (const child of all) child.kill('SIGKILL');
}
