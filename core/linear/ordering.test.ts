import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { broken, fewestBroken } from './ordering';

const matrix = (n: number, value: (a: number, b: number) => number) =>
	Array.from({ length: n }, (_, a) => Float64Array.from({ length: n }, (_, b) => (a === b ? 0 : value(a, b))));
function* permutations(list: number[]): Generator<number[]> {
	if (list.length < 2) return void (yield list);
	for (const [i, x] of list.entries()) for (const rest of permutations(list.filter((_, k) => k !== i))) yield [x, ...rest];
}

describe('an order that breaks little', () => {
	it('is the one order where all agree', () => {
		const hidden = [3, 0, 4, 1, 2];
		const above = matrix(5, (a, b) => (hidden.indexOf(a) < hidden.indexOf(b) ? 2 : 0));
		expect(fewestBroken(above, new Float64Array(5))).toEqual(hidden);
	});
	it('follows the hint where nothing is known', () => {
		expect(
			fewestBroken(
				matrix(4, () => 0),
				Float64Array.from([0.4, 0.1, 0.3, 0.2])
			)
		).toEqual([1, 3, 2, 0]);
		expect(fewestBroken([], new Float64Array(0))).toEqual([]);
	});
	it('is never far from the best of all orders, and mostly that one', () => {
		let best = 0;
		let runs = 0;
		fc.assert(
			fc.property(fc.array(fc.integer({ min: 0, max: 9 }), { minLength: 25, maxLength: 25 }), (values) => {
				const above = matrix(5, (a, b) => values[5 * a + b]!);
				const found = broken(above, fewestBroken(above, new Float64Array(5)));
				const least = Math.min(...[...permutations([0, 1, 2, 3, 4])].map((p) => broken(above, p)));
				runs++;
				if (found === least) best++;
				expect(found).toBeLessThanOrEqual(1.25 * least + 2);
			}),
			{ numRuns: 60 }
		);
		expect(best).toBeGreaterThan(0.8 * runs);
	});
	it('keeps the order of what is fixed, whatever is known', () => {
		fc.assert(
			fc.property(fc.array(fc.integer({ min: 0, max: 9 }), { minLength: 36, maxLength: 36 }), (values) => {
				const order = fewestBroken(
					matrix(6, (a, b) => values[6 * a + b]!),
					new Float64Array(6),
					[5, 2, 0]
				);
				expect([...order].sort()).toEqual([0, 1, 2, 3, 4, 5]);
				expect(order.filter((a) => [5, 2, 0].includes(a))).toEqual([5, 2, 0]);
			})
		);
	});
});
