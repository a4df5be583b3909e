/** The lower triangle of a symmetric, positive definite matrix, factored: row-major, rows `stride` numbers apart. */
export interface Cholesky {
	n: number;
	stride: number;
	l: Float64Array;
	/** 1-norm of the matrix before it was factored. */
	norm: number;
}

/** A pivot at or below this share of its diagonal entry has lost all its digits. */
export const LEAST_PIVOT = 1e-15;

/** Numbers from one row to the next, even so that rows start on 16 bytes. */
export const strideOf = (n: number): number => n + (n & 1);

/** 1-norm of a symmetric matrix from its lower triangle. */
export function symmetricNorm(l: Float64Array, n: number, stride: number): number {
	const sums = new Float64Array(n);
	for (let i = 0; i < n; i++)
		for (let j = 0; j <= i; j++) {
			const v = Math.abs(l[i * stride + j]!);
			sums[i] = sums[i]! + v;
			if (j < i) sums[j] = sums[j]! + v;
		}
	return sums.reduce((a, b) => Math.max(a, b), 0);
}

/**
 * Factors a symmetric, positive definite matrix in its lower triangle (Golub & Van Loan 2013, alg. 4.2.1). The plain twin of the
 * kernel in `core/kernels`.
 * @param l row-major, overwritten; what stands above the diagonal is neither read nor written
 * @returns −1, or the number of the row at which the matrix is found not to be positive definite
 */
export function factorPlain(l: Float64Array, n: number, stride: number): number {
	for (let j = 0; j < n; j++) {
		const jRow = j * stride;
		const diagonal = l[jRow + j]!;
		let pivot = diagonal;
		for (let k = 0; k < j; k++) pivot -= l[jRow + k]! ** 2;
		if (!(pivot > LEAST_PIVOT * diagonal)) return j;
		const root = Math.sqrt(pivot);
		l[jRow + j] = root;
		for (let i = j + 1; i < n; i++) {
			let s = l[i * stride + j]!;
			for (let k = 0; k < j; k++) s -= l[i * stride + k]! * l[jRow + k]!;
			l[i * stride + j] = s / root;
		}
	}
	return -1;
}

/** Solves L y = b. b is left as it was. */
export function solveLower({ n, stride, l }: Cholesky, b: ArrayLike<number>): Float64Array {
	const y = new Float64Array(n);
	for (let i = 0; i < n; i++) {
		let s = b[i]!;
		const row = i * stride;
		for (let j = 0; j < i; j++) s -= l[row + j]! * y[j]!;
		y[i] = s / l[row + i]!;
	}
	return y;
}

/** Solves Lᵀ x = y. y is left as it was. */
export function solveUpper({ n, stride, l }: Cholesky, y: ArrayLike<number>): Float64Array {
	const x = Float64Array.from(y);
	for (let i = n - 1; i >= 0; i--) {
		const row = i * stride;
		const v = x[i]! / l[row + i]!;
		x[i] = v;
		for (let j = 0; j < i; j++) x[j] = x[j]! - l[row + j]! * v;
	}
	return x;
}
