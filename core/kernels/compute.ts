import { inBlock, type BlockField, type Field } from '../fields/field';
import { evaluateInBlock } from './field-kernel';
import { sharedDeep } from './shared';

/** One piece of work for a thread: values of a field, seen from a fault block, at points. */
export interface FieldTask {
	seen: BlockField;
	xyz: Float64Array;
}

/** What a worker thread runs. */
export default function compute(task: FieldTask): Float64Array {
	return evaluateInBlock(task.seen, task.xyz);
}

const SIZE = 4096;

/** Fields as blocks see them, in room that threads share. */
const prepared = new WeakMap<Field, Map<number, BlockField>>();

function sharedInBlock(field: Field, block: number): BlockField {
	let blocks = prepared.get(field);
	if (!blocks) prepared.set(field, (blocks = new Map()));
	let seen = blocks.get(block);
	if (!seen) blocks.set(block, (seen = sharedDeep(inBlock(field, block))));
	return seen;
}

/**
 * Cuts the evaluation of many points into tasks and hands them out; the pieces do not depend on the number of threads, so
 * neither does the result.
 */
export async function evaluateInTasks(field: Field, block: number, xyz: Float64Array, run: (task: FieldTask) => Promise<Float64Array>): Promise<Float64Array> {
	const points = xyz.length / 3;
	const out = new Float64Array(points);
	const seen = sharedInBlock(field, block);
	const waiting: Promise<void>[] = [];
	for (let from = 0; from < points; from += SIZE) {
		const to = Math.min(points, from + SIZE);
		waiting.push(run({ seen, xyz: xyz.slice(3 * from, 3 * to) }).then((v) => out.set(v, from)));
	}
	await Promise.all(waiting);
	return out;
}
