import { LEAST_PIVOT, solveLower, solveUpper, strideOf, symmetricNorm, type Cholesky } from '../linear/cholesky';
import { cholesky as module } from './generated/cholesky';
import { BASE, instantiate, reach } from './wasm';

interface Exports {
	memory: WebAssembly.Memory;
	BLOCK: WebAssembly.Global;
	keepDiagonal(a: number, n: number, stride: number): void;
	eliminate(a: number, n: number, stride: number, least: number, k0: number): number;
}

/**
 * Factors a symmetric, positive definite matrix by the kernel, to whose plain twin (`factorPlain`) tests hold it. The same input
 * gives the same bits on every machine.
 * @param n rows; 8 n² bytes are needed
 * @param fill writes the lower triangle, row-major, rows `stride` numbers apart
 * @returns the factor, or the number of the row at which the matrix is found not to be positive definite
 */
export function factorCholesky(n: number, fill: (a: Float64Array, stride: number) => void): Cholesky | number {
	return factorIn(instantiate<Exports>(module), n, fill);
}

let shared: Exports | null = null;

/**
 * Solves a symmetric, positive definite system, with one memory for all calls: for many small ones.
 * @returns the solution, or null when the matrix is found not to be positive definite
 */
export function solvePositive(n: number, fill: (a: Float64Array, stride: number) => void, right: ArrayLike<number>): Float64Array | null {
	const factor = factorIn((shared ??= instantiate<Exports>(module)), n, fill);
	return typeof factor === 'number' ? null : solveUpper(factor, solveLower(factor, right));
}

function factorIn(kernel: Exports, n: number, fill: (a: Float64Array, stride: number) => void): Cholesky | number {
	const stride = strideOf(n);
	reach(kernel.memory, BASE + 8 * (n * stride + n));
	const l = new Float64Array(kernel.memory.buffer, BASE, n * stride);
	fill(l, stride);
	const norm = symmetricNorm(l, n, stride);
	kernel.keepDiagonal(BASE, n, stride);
	for (let k = 0; k < n; k += kernel.BLOCK.value as number) {
		const failed = kernel.eliminate(BASE, n, stride, LEAST_PIVOT, k);
		if (failed >= 0) return failed;
	}
	return { n, stride, l, norm };
}
