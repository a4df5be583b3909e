import fc from 'fast-check';
import { Matrix } from 'ml-matrix';
import { describe, expect, it } from 'vitest';
import { symmetricEigen } from './eigen';

describe('eigenvalues of a symmetric matrix', () => {
	it('are numbers whatever is nearly nothing in it, and sum up to its trace', () => {
		const tiny = fc.constantFrom(0, 5e-324, 1e-310, -1e-200, 1e-160, 1e-31, 1e-17, 0.3, -1);
		fc.assert(
			fc.property(fc.array(tiny, { minLength: 6, maxLength: 6 }), ([a, b, c, d, e, f]) => {
				const m = new Matrix([
					[a!, b!, c!],
					[b!, d!, e!],
					[c!, e!, f!]
				]);
				const { realEigenvalues: values, eigenvectorMatrix } = symmetricEigen(m.clone());
				expect(values.every(Number.isFinite)).toBe(true);
				expect(eigenvectorMatrix.to1DArray().every(Number.isFinite)).toBe(true);
				expect(values[0]! + values[1]! + values[2]!).toBeCloseTo(a! + d! + f!, 12);
			}),
			{ numRuns: 3000 }
		);
	});

	it('of a matrix that is far too small are those of one that is not, as small', () => {
		const [low] = symmetricEigen(Matrix.diag([3e-200, 2e-200, 1e-200])).realEigenvalues;
		expect(low! / 1e-200).toBeCloseTo(1, 9);
	});
});
