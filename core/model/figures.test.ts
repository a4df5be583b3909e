import { describe, expect, it } from 'vitest';
import { PROBLEMS } from '../../bench/figures';
import '../../bench/grid-problems';

// Every figure of every test problem, at a spacing that is quick; the benchmarks print them at a finer one.
describe.each(Object.entries(PROBLEMS))('test problem %s', (_id, figuresOf) => {
	it('meets all that is asked of it', async () => {
		const figures = await figuresOf(50);
		expect(figures.length).toBeGreaterThan(0);
		expect(figures.filter((f) => !f.met).map((f) => `${f.what}: ${f.text} (${f.aim})`)).toEqual([]);
	});
});
