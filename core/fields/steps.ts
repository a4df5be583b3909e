import compute, { fieldTasks, type FieldTask } from './compute';
import { ProblemError, type Problem } from '../problem';
import type { FieldData } from './data';
import type { Field } from './field';
import { solvePatches, type PatchesTask } from './patches';
import { solveField, type FitOptions, type Solved } from './solve-field';

/** A piece of work of a fit that a thread can do. */
export type FitTask = { solve: FieldData; options: FitOptions } | PatchesTask | FieldTask;

/** What comes of a piece; a problem comes back as one, for errors lose their kind between threads. */
export type FitResult = Solved | Float64Array | { problem: Problem };

/**
 * A computation that hands out a batch of pieces wherever it needs some, and goes on with their results, which come in the same order;
 * or it waits until several others, which go on side by side, are done.
 */
export type Steps<T> = Generator<readonly FitTask[] | SideBySide, T, readonly FitResult[]>;

class SideBySide {
	constructor(readonly all: readonly Steps<unknown>[]) {}
}

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

/** Does all pieces one after the other. */
export function finish<T>(steps: Steps<T>, run: (task: FitTask) => FitResult = runFitTask): T {
	let at = steps.next();
	while (!at.done) {
		const wanted = at.value;
		let results: FitResult[];
		try {
			results = wanted instanceof SideBySide ? (wanted.all.map((s) => finish(s, run)) as FitResult[]) : wanted.map(run);
		} catch (error) {
			at = steps.throw(error);
			continue;
		}
		at = steps.next(results);
	}
	return at.value;
}

/** Hands the pieces to threads. What comes out is the same. */
export async function finishInTasks<T>(steps: Steps<T>, run: (task: FitTask) => Promise<FitResult>): Promise<T> {
	let at = steps.next();
	while (!at.done) {
		const wanted = at.value;
		let results: FitResult[];
		try {
			results = await Promise.all(
				wanted instanceof SideBySide ? wanted.all.map((s) => finishInTasks(s, run) as Promise<FitResult>) : wanted.map(run)
			);
		} catch (error) {
			at = steps.throw(error);
			continue;
		}
		at = steps.next(results);
	}
	return at.value;
}

/** Several computations side by side: none waits for another one. */
export function* together<T>(all: readonly Steps<T>[]): Steps<T[]> {
	return (yield new SideBySide(all)) as unknown as T[];
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

/** Sums over a place and a datum that are sooner done here than handed to a thread. */
const FEW = 2e6;

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
	const size = places.length * (field.weights.length + 3 * field.gradientWeights.length + (field.local?.weights.length ?? 0));
	let k = 0;
	for (const values of size < FEW ? tasks.map(runFitTask) : yield tasks)
		for (const v of orThrow<Float64Array>(values)) out[order[k++]!] = v;
	return out;
}
