import type { Field } from '../fields/field';
import { evaluateField } from './field-kernel';

/** One piece of work for a thread: values of a field at points. */
export interface FieldTask {
	field: Field;
	block: number;
	xyz: Float64Array;
}

/** What a worker thread runs. */
export default function compute(task: FieldTask): Float64Array {
	return evaluateField(task.field, task.block, task.xyz);
}

/**
 * Cuts the evaluation of many points into tasks and hands them out; the pieces do not depend on the number of threads, so
 * neither does the result.
 */
export async function evaluateInTasks(field: Field, block: number, xyz: Float64Array, run: (task: FieldTask) => Promise<Float64Array>): Promise<Float64Array> {
	const points = xyz.length / 3;
	const size = 4096;
	const out = new Float64Array(points);
	const waiting: Promise<void>[] = [];
	for (let from = 0; from < points; from += size) {
		const to = Math.min(points, from + size);
		waiting.push(run({ field, block, xyz: xyz.slice(3 * from, 3 * to) }).then((v) => out.set(v, from)));
	}
	await Promise.all(waiting);
	return out;
}
