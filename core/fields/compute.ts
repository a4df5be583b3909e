import { inBlock, type BlockField, type Field } from './field';
import { evaluateInBlock } from './field-kernel';
import { sharedDeep } from '../kernels/shared';

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

/** Fields in room that threads share, and as blocks see them. */
const prepared = new WeakMap<Field, { shared: Field; blocks: Map<number, BlockField> }>();

/** A field as a block sees it, in room that threads share: made once for each. */
export function sharedInBlock(field: Field, block: number): BlockField {
	let known = prepared.get(field);
	if (!known) prepared.set(field, (known = { shared: sharedDeep(field), blocks: new Map() }));
	let seen = known.blocks.get(block);
	if (!seen) {
		const { field: _, ...own } = inBlock(field, block);
		known.blocks.set(block, (seen = { field: known.shared, ...sharedDeep(own) }));
	}
	return seen;
}

/** The evaluation of many points, cut into tasks; they do not depend on the number of threads, so neither does the result. */
export function fieldTasks(field: Field, block: number, xyz: Float64Array): FieldTask[] {
	const seen = sharedInBlock(field, block);
	const tasks: FieldTask[] = [];
	for (let from = 0; from < xyz.length; from += 3 * SIZE) tasks.push({ seen, xyz: xyz.slice(from, from + 3 * SIZE) });
	return tasks;
}

/** Values of a field at many points, by threads. */
export async function evaluateInTasks(
	field: Field,
	block: number,
	xyz: Float64Array,
	run: (task: FieldTask) => Promise<Float64Array>
): Promise<Float64Array> {
	const out = new Float64Array(xyz.length / 3);
	await Promise.all(fieldTasks(field, block, xyz).map(async (task, k) => out.set(await run(task), k * SIZE)));
	return out;
}
