import fc from 'fast-check';
import { expect, it } from 'vitest';
import { conjugateGradients } from './conjugate-gradients';

const product = (a: readonly (readonly number[])[]) => (v: Float64Array) =>
	Float64Array.from(a, (row) => row.reduce((s, x, i) => s + x * v[i]!, 0));

it('solves symmetric systems, as the product tells', () => {
	const numbers = fc.array(fc.array(fc.double({ min: -1, max: 1, noNaN: true }), { minLength: 7, maxLength: 7 }), {
		minLength: 7,
		maxLength: 7
	});
	fc.assert(
		fc.property(numbers, fc.array(fc.double({ min: -5, max: 5, noNaN: true }), { minLength: 7, maxLength: 7 }), (b, right) => {
			// B Bᵀ and a little of the identity.
			const a = b.map((r, i) => b.map((q, j) => r.reduce((s, v, k) => s + v * q[k]!, 0) + (i === j ? 0.1 : 0)));
			const x = conjugateGradients(product(a), Float64Array.from(right), 1e-13, 500);
			product(a)(x).forEach((v, i) => expect(v).toBeCloseTo(right[i]!, 8));
		}),
		{ seed: 5 }
	);
});

it('finds nothing for nothing, and stops after so many steps', () => {
	expect([
		...conjugateGradients(
			product([
				[2, 0],
				[0, 3]
			]),
			new Float64Array(2),
			1e-12,
			10
		)
	]).toEqual([0, 0]);
	expect([...conjugateGradients(product([[4]]), Float64Array.of(8), 1e-12, 10)]).toEqual([2]);
	const one = conjugateGradients(
		product([
			[2, 0],
			[0, 8]
		]),
		Float64Array.of(1, 1),
		1e-12,
		1
	);
	expect(one[0]).toBeCloseTo(0.2, 12);
	expect(conjugateGradients(() => new Float64Array(0), new Float64Array(0), 1e-12, 10)).toHaveLength(0);
});
