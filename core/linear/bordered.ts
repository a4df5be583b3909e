import { factorPlain, solveLower, solveLowers, solveUpper, strideOf, type Cholesky } from './cholesky';

/**
 * Solves the symmetric system of kriging with a drift,
 *
 *     | C  F | |w|   |b|
 *     | Fᵀ 0 | |d| = |c|
 *
 * with the Cholesky factor of C, by the Schur complement Fᵀ C⁻¹ F (Golub & Van Loan 2013, 4.4.6), and estimates the condition
 * number of the whole from below (Hager 1984; Higham 1988).
 *
 * @param columns the columns of F, each as long as C
 * @param right b and c together
 * @returns the solution w and d together, or null when the columns of F can not be told apart
 */
export function solveBordered(
	factor: Cholesky,
	columns: readonly Float64Array[],
	right: Float64Array
): { solution: Float64Array; condition: number } | null {
	const { n } = factor;
	const k = columns.length;
	const reduced = solveLowers(factor, columns);
	const schur: Cholesky = { n: k, stride: strideOf(k), l: new Float64Array(k * strideOf(k)), norm: 0 };
	for (let i = 0; i < k; i++) for (let j = 0; j <= i; j++) schur.l[i * schur.stride + j] = dot(reduced[i]!, reduced[j]!);
	if (factorPlain(schur.l, k, schur.stride) >= 0) return null;
	const solve = (v: Float64Array): Float64Array => {
		const y = solveLower(factor, v);
		const out = new Float64Array(n + k);
		const d = solveUpper(
			schur,
			solveLower(
				schur,
				reduced.map((r, i) => dot(r, y) - v[n + i]!)
			)
		);
		reduced.forEach((r, i) => {
			for (let j = 0; j < n; j++) y[j] = y[j]! - r[j]! * d[i]!;
		});
		out.set(solveUpper(factor, y));
		out.set(d, n);
		return out;
	};
	return {
		solution: solve(right),
		condition: Math.max(factor.norm, ...columns.map((c) => c.reduce((sum, v) => sum + Math.abs(v), 0))) * inverseNorm(n + k, solve)
	};
}

const dot = (a: Float64Array, b: Float64Array): number => {
	let s = 0;
	for (let i = 0; i < a.length; i++) s += a[i]! * b[i]!;
	return s;
};

/** Estimate, from below, of the 1-norm of the inverse of a symmetric matrix that is known by its solver. */
function inverseNorm(n: number, solve: (v: Float64Array) => Float64Array): number {
	let x = new Float64Array(n).fill(1 / n);
	let estimate = 0;
	for (let round = 0; round < 3; round++) {
		const y = solve(x);
		let sum = 0;
		for (const v of y) sum += Math.abs(v);
		const z = solve(y.map((v) => (v < 0 ? -1 : 1)));
		let top = 0;
		for (let i = 1; i < n; i++) if (Math.abs(z[i]!) > Math.abs(z[top]!)) top = i;
		if (sum <= estimate || Math.abs(z[top]!) <= dot(z, x)) return Math.max(estimate, sum);
		estimate = sum;
		x = new Float64Array(n);
		x[top] = 1;
	}
	return estimate;
}
