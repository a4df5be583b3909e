import { describe, expect, it } from 'vitest';
import { ProblemError } from '../problem';
import type { FieldData } from './data';
import { inBlock, valueAt } from './field';
import { fitField, fitSteps } from './fit';
import { finish, finishInTasks, runFitTask, together, type FitTask } from './steps';
import { valuesAt } from './values-at';

const random = (seed: number) => () => (seed = (seed * 48271) % 2147483647) / 2147483647;

/** Contacts of one wavy surface, and holes that pass it: some of them would be on the wrong side. */
function many(n: number): FieldData {
	const r = random(9);
	const height = (x: number, y: number) => 30 * Math.sin(x / 150) + 20 * Math.cos(y / 110) + 6 * Math.sin((x + y) / 31);
	const points = Array.from({ length: n }, () => {
		const [x, y] = [2000 * r(), 2000 * r()];
		return { x, y, z: height(x, y), group: 0, block: 0 };
	});
	const bounds = points
		.slice(0, 60)
		.map((p, i) => ({ x: p.x + 6, y: p.y + 4, z: p.z + 0.5, group: 0, sense: 1 as const, block: 0, source: `B${i}` }));
	return { groupCount: 1, faultCount: 0, points, values: [], gradients: [], bounds };
}

/** Threads that see copies and take their time. */
const elsewhere = (seen: FitTask[]) => async (task: FitTask) => {
	seen.push(task);
	await new Promise((done) => setTimeout(done, seen.length % 3));
	return structuredClone(runFitTask(structuredClone(task)));
};

describe('a fit in pieces', () => {
	it('is the same on the spot and by threads', async () => {
		const data = many(1500);
		const seen: FitTask[] = [];
		const here = fitField(data, { range: 2800 });
		const there = await finishInTasks(fitSteps(data, { range: 2800 }), elsewhere(seen));
		expect(there).toEqual(here);
		expect(seen.filter((t) => 'patches' in t).length).toBeGreaterThan(0);
		expect(here.activeBounds).toBeGreaterThan(0);
	});

	it('solves only those patches again that got a datum more', () => {
		const data = many(1500);
		// Patches of a round have their residuals in common.
		const rounds = new Map<unknown, number>();
		const fit = finish(fitSteps(data, { range: 2800 }), (task) => {
			if ('patches' in task) rounds.set(task.residuals, (rounds.get(task.residuals) ?? 0) + task.patches.length);
			return runFitTask(task);
		});
		const solved = [...rounds.values()];
		expect(solved.length).toBeGreaterThan(1);
		expect(solved[1]).toBeLessThan(solved[0]!);
		const { field } = fit;
		const b = inBlock(field, 0);
		for (const p of data.points) expect(Math.abs(valueAt(b, p.x, p.y, p.z) - field.levels[0]!) * field.unit).toBeLessThan(1e-3);
		expect(fit.brokenBounds).toBe(0);
		valuesAt(field, data.bounds).forEach((v) => expect(v - field.levels[0]!).toBeGreaterThan(-1e-5));
	});

	it('goes on side by side with others, each with its own results', () => {
		const [a, b] = [many(60), many(90)];
		const both = finish(together([fitSteps(a, { range: 2800 }), fitSteps(b, { range: 1400 })]));
		expect(both).toEqual([fitField(a, { range: 2800 }), fitField(b, { range: 1400 })]);
		expect(finish(together([]))).toEqual([]);
	});

	it('tells the problem of a piece where the piece was wanted', async () => {
		const empty: FieldData = { groupCount: 1, faultCount: 0, points: [], values: [], gradients: [], bounds: [] };
		await expect(finishInTasks(fitSteps(empty, { range: 100 }), elsewhere([]))).rejects.toThrow(ProblemError);
		function* tolerant() {
			try {
				return yield* fitSteps(empty, { range: 100 });
			} catch (error) {
				return (error as ProblemError).problem.kind;
			}
		}
		expect(finish(together([tolerant(), fitSteps(many(30), { range: 1000 })]))[0]).toBe('no-data');
		// Through others that wait for it, too.
		function* outside() {
			try {
				return yield* together([fitSteps(many(30), { range: 1000 }), fitSteps(empty, { range: 100 })]);
			} catch (error) {
				return (error as ProblemError).problem.kind;
			}
		}
		expect(finish(outside())).toBe('no-data');
		expect(await finishInTasks(outside(), elsewhere([]))).toBe('no-data');
	});
});
