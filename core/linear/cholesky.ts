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
export const solveLower = (factor: Cholesky, b: ArrayLike<number>): Float64Array => solveLowers(factor, [b])[0]!;

/** Solves L y = b for several b at once: each row of L is read once. */
export function solveLowers({ n, stride, l }: Cholesky, columns: readonly ArrayLike<number>[]): Float64Array[] {
	const out = columns.map(() => new Float64Array(n));
	for (let i = 0; i < n; i++)
		for (let c = 0; c < out.length; c++) {
			const y = out[c]!;
			y[i] = (columns[c]![i]! - dotOfRow(l, i * stride, y, i)) / l[i * stride + i]!;
		}
	return out;
}

/** Product of the first numbers of a row with others. The order of the sum is fixed, so that the same input gives the same bits. */
function dotOfRow(l: Float64Array, row: number, y: Float64Array, count: number): number {
	// Four sums that do not wait for each other.
	let a = 0;
	let b = 0;
	let c = 0;
	let d = 0;
	let j = 0;
	for (; j + 3 < count; j += 4) {
		a += l[row + j]! * y[j]!;
		b += l[row + j + 1]! * y[j + 1]!;
		c += l[row + j + 2]! * y[j + 2]!;
		d += l[row + j + 3]! * y[j + 3]!;
	}
	for (; j < count; j++) a += l[row + j]! * y[j]!;
	return a + b + (c + d);
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
