import { finishInTasks, runFitTask, type FitResult, type FitTask } from '../fields/steps';
import { evaluateInTasks } from '../fields/compute';
import type { Chunk, ChunkTask } from '../mesh/chunk';
import { cutChunk } from '../mesh/cut-chunk';
import type { Mended, MendTask } from '../mesh/mend-task';
import { mendPart } from '../mesh/slim-triangles';
import { gridRows, type RowsTask } from '../grids/gridding';
import type { BuildOptions } from './build';
import { unitsAt } from './classify';
import { groundSteps, type Ground } from './fit-ground';
import type { Evaluate } from './evaluate';
import type { GroundInput } from './ground';
import { runNodesTask, type NodesResult, type NodesTask } from './node-values';

/** One piece of work for a thread: units of places. */
interface PlacesTask {
	ground: Ground;
	xyz: Float64Array;
}

export type ComputeTask = FitTask | PlacesTask | ChunkTask | MendTask | NodesTask | RowsTask;
export type Run = <T extends FitResult | Int16Array | Float32Array | Chunk | Mended | NodesResult>(task: ComputeTask) => Promise<T>;

/** What a worker thread runs. */
export default (task: ComputeTask): FitResult | Chunk | Mended | NodesResult | Float32Array | Promise<Int16Array> => {
	if ('gridding' in task) return gridRows(task);
	if ('ground' in task) return unitsAt(task.ground, task.xyz);
	if ('chunk' in task) return cutChunk(task);
	if ('mend' in task) return mendPart(task);
	return 'work' in task ? runNodesTask(task) : runFitTask(task);
};

/** What makes fits and builds use threads. What comes out does not depend on it. */
export const inTasks = (
	run: Run
): Pick<Required<BuildOptions>, 'nodes' | 'cut' | 'mend'> & {
	evaluate: Evaluate;
	fit: (input: GroundInput) => Promise<Ground>;
	rows: (task: RowsTask) => Promise<Float32Array>;
} => ({
	rows: (task) => run<Float32Array>(task),
	fit: (input) => finishInTasks(groundSteps(input), (task) => run<FitResult>(task)),
	evaluate: (field, block, xyz) => evaluateInTasks(field, block, xyz, run),
	nodes: (task) => run<NodesResult>(task),
	cut: (task) => run<Chunk>(task),
	mend: (task) => run<Mended>(task)
});

/** Places by task. What comes out does not depend on it. */
const SIZE = 500_000;

/** Units of many places, cut into tasks. The same as `unitsAt`. */
export async function unitsInTasks(ground: Ground, xyz: Float64Array, run: Run): Promise<Int16Array> {
	const out = new Int16Array(xyz.length / 3);
	const tasks: Promise<void>[] = [];
	for (let from = 0; from < out.length; from += SIZE)
		tasks.push(run<Int16Array>({ ground, xyz: xyz.slice(3 * from, 3 * (from + SIZE)) }).then((units) => out.set(units, from)));
	await Promise.all(tasks);
	return out;
}
