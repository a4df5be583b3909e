import compute, { fieldTasks, type FieldTask } from '../kernels/compute';
import { ProblemError, type Problem } from '../problem';
import type { FieldData } from './data';
import type { Field } from './field';
import { solvePatches, type PatchesTask } from './patches';
import { solveField, type FitOptions, type Solved } from './solve-field';

/** A piece of work of a fit that a thread can do. */
export type FitTask = { solve: FieldData; options: FitOptions } | PatchesTask | FieldTask;

/** What comes of a piece; a problem comes back as one, for errors lose their kind between threads. */
export type FitResult = Solved | Float64Array | { problem: Problem };

/** A computation that hands out a batch of pieces wherever it needs some, and goes on with their results, which come in the same order. */
export type Steps<T> = Generator<readonly FitTask[], T, readonly FitResult[]>;

/** What a worker thread runs. */
export function runFitTask(task: FitTask): FitResult {
	try {
		if ('solve' in task) return solveField(task.solve, task.options);
		return 'patches' in task ? solvePatches(task) : compute(task);
	} catch (error) {
		if (error instanceof ProblemError) return { problem: error.problem };
		throw error;
	}
}

/** Does all pieces on the spot. */
export function finish<T>(steps: Steps<T>): T {
	let at = steps.next();
	while (!at.done) at = steps.next(at.value.map(runFitTask));
	return at.value;
}

/** Hands the pieces to threads. What comes out is the same. */
export async function finishInTasks<T>(steps: Steps<T>, run: (task: FitTask) => Promise<FitResult>): Promise<T> {
	let at = steps.next();
	while (!at.done) at = steps.next(await Promise.all(at.value.map(run)));
	return at.value;
}

/** Several computations side by side: their batches become one. */
export function* together<T>(all: readonly Steps<T>[]): Steps<T[]> {
	const at = all.map((steps) => steps.next());
	for (;;) {
		const waiting = at.flatMap((a, i) => (a.done ? [] : [{ i, tasks: a.value }]));
		if (waiting.length === 0) return at.map((a) => a.value as T);
		const results = yield waiting.flatMap((w) => w.tasks);
		let from = 0;
		for (const { i, tasks } of waiting) at[i] = all[i]!.next(results.slice(from, (from += tasks.length)));
	}
}

/** @throws ProblemError when a piece came back with one */
export function orThrow<T extends FitResult>(result: FitResult): T {
	if ('problem' in result) throw new ProblemError(result.problem);
	return result as T;
}

/** A field from all its data at once, bounds left aside. */
export function* solveSteps(data: FieldData, options: FitOptions): Steps<Solved> {
	const [solved] = yield [{ solve: { ...data, bounds: [] }, options }];
	return orThrow<Solved>(solved!);
}

/** Values of a field at places, each seen from its own fault block. */
export function* valuesSteps(field: Field, places: readonly { x: number; y: number; z: number; block: number }[]): Steps<Float64Array> {
	const byBlock = new Map<number, number[]>();
	places.forEach((p, i) => {
		const list = byBlock.get(p.block);
		if (list) list.push(i);
		else byBlock.set(p.block, [i]);
	});
	const out = new Float64Array(places.length);
	const order: number[] = [];
	const tasks: FieldTask[] = [];
	for (const [block, list] of byBlock) {
		const xyz = new Float64Array(3 * list.length);
		list.forEach((i, k) => {
			const p = places[i]!;
			xyz[3 * k] = p.x;
			xyz[3 * k + 1] = p.y;
			xyz[3 * k + 2] = p.z;
			order.push(i);
		});
		tasks.push(...fieldTasks(field, block, xyz));
	}
	let k = 0;
	for (const values of yield tasks) for (const v of orThrow<Float64Array>(values)) out[order[k++]!] = v;
	return out;
}
