import { describe, expect, it } from 'vitest';
import { p10 } from '../../bench/grounds';
import { random } from '../../bench/problems';
import { sampled } from '../../bench/sampled';
import { ProblemError } from '../problem';
import { buildModel } from './build';
import { unitsAt } from './classify';
import compute, { inTasks, unitsInTasks, type ComputeTask, type Run } from './compute';
import { fitGround } from './fit-ground';
import { runNodesTask } from './node-values';

/** Threads that see copies (of what is not shared), and end in an odd order. */
function elsewhere(): { run: Run; tasks: ComputeTask[] } {
	const tasks: ComputeTask[] = [];
	const run: Run = async <T>(task: ComputeTask) => {
		tasks.push(task);
		const copy = structuredClone(task);
		for (let turn = 0; turn < (tasks.length * 7) % 4; turn++) await new Promise((later) => setImmediate(later));
		return structuredClone(await compute(copy)) as T;
	};
	return { run, tasks };
}

const input = sampled(p10());

describe('work that is handed to threads', () => {
	it('gives the same ground, the same model and the same units as done on the spot', async () => {
		const { run, tasks } = elsewhere();
		const threaded = inTasks(run);
		const [here, there] = [fitGround(input), await threaded.fit(input)];
		expect(there).toEqual(here);
		const [a, b] = [await buildModel(here, { spacing: 60 }), await buildModel(there, { spacing: 60, ...threaded })];
		expect(b.mesh.positions).toEqual(a.mesh.positions);
		expect(b.mesh.triangles).toEqual(a.mesh.triangles);
		expect([b.contacts, b.evaluations]).toEqual([a.contacts, a.evaluations]);
		const kinds = new Set(
			tasks.map((t) => ('work' in t ? ('levels' in t.work ? 'look' : 'values') : 'chunk' in t ? 'cut' : 'solve' in t ? 'solve' : 'other'))
		);
		for (const kind of ['look', 'values', 'cut', 'solve']) expect(kinds).toContain(kind);
	});

	it('tells units of many places in pieces, in their order', async () => {
		const ground = fitGround(input);
		const r = random(6);
		// More than one piece.
		const xyz = Float64Array.from({ length: 3 * 520_000 }, (_, i) => (i % 3 === 2 ? -1000 * r() : 2000 * r()));
		const { run, tasks } = elsewhere();
		const all = await unitsInTasks(ground, xyz, run);
		expect(tasks).toHaveLength(2);
		const some = [0, 1, 499_998, 499_999, 500_000, 519_999];
		const few = await unitsAt(ground, Float64Array.from(some.flatMap((i) => [...xyz.subarray(3 * i, 3 * i + 3)])));
		expect(some.map((i) => all[i])).toEqual([...few]);
		expect(await unitsInTasks(ground, new Float64Array(0), run)).toHaveLength(0);
	});

	it('tells a problem of a thread as one', async () => {
		const { run } = elsewhere();
		await expect(inTasks(run).fit({ ...input, contacts: [] })).rejects.toThrow(ProblemError);
		await expect(inTasks(run).fit({ ...input, column: input.column.slice(0, 1) })).rejects.toThrow();
	});

	it('that fails in a thread fails the build, and leaves nobody waiting', async () => {
		const ground = fitGround(input);
		const failing = inTasks((async (task: ComputeTask) => {
			if ('chunk' in task) throw new Error('the thread is gone');
			return compute(task);
		}) as Run);
		await expect(buildModel(ground, { spacing: 100, ...failing })).rejects.toThrow('the thread is gone');
		let asked = 0;
		await expect(
			buildModel(ground, {
				spacing: 100,
				nodes: (task) => {
					if (++asked > 3) throw new Error('no memory');
					return runNodesTask(task);
				}
			})
		).rejects.toThrow('no memory');
	});

	it('stops when it is told to, between two pieces', async () => {
		const stop = new AbortController();
		let after = 0;
		const build = buildModel(fitGround(input), {
			spacing: 60,
			signal: stop.signal,
			nodes: async (task) => {
				if (stop.signal.aborted) after++;
				stop.abort();
				return runNodesTask(task);
			}
		});
		await expect(build).rejects.toThrow(/abort/i);
		expect(after).toBeLessThan(20);
	});
});
