import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { factorCholesky } from '../kernels/cholesky-kernel';
import { solveBordered } from './bordered';
import { factorPlain, solveLower, solveLowers, solveUpper, strideOf, symmetricNorm, type Cholesky } from './cholesky';

const randomOf = (seed: number) => {
	let s = seed;
	return () => ((s = (s * 48271) % 2147483647) / 2147483647) * 2 - 1;
};

/** A random symmetric, positive definite matrix B Bᵀ + I/10, full. */
function definite(n: number, seed: number): Float64Array {
	const random = randomOf(seed);
	const b = Float64Array.from({ length: n * n }, random);
	const a = new Float64Array(n * n);
	for (let i = 0; i < n; i++)
		for (let j = 0; j < n; j++) {
			let v = i === j ? 0.1 : 0;
			for (let k = 0; k < n; k++) v += b[i * n + k]! * b[j * n + k]!;
			a[i * n + j] = v;
		}
	return a;
}

const fillLower = (full: Float64Array, n: number) => (a: Float64Array, stride: number) => {
	for (let i = 0; i < n; i++) for (let j = 0; j <= i; j++) a[i * stride + j] = full[i * n + j]!;
};

const plain = (full: Float64Array, n: number): Cholesky => {
	const stride = strideOf(n);
	const l = new Float64Array(n * stride);
	fillLower(full, n)(l, stride);
	const norm = symmetricNorm(l, n, stride);
	expect(factorPlain(l, n, stride)).toBe(-1);
	return { n, stride, l, norm };
};

describe('the Cholesky factor', () => {
	it('is the same from the kernel and from its plain twin, across the block size', () => {
		fc.assert(
			fc.property(fc.constantFrom(1, 2, 5, 63, 64, 65, 66, 70, 127, 128, 131, 195), fc.integer({ min: 1, max: 10_000 }), (n, seed) => {
				const full = definite(n, seed);
				const kernel = factorCholesky(n, fillLower(full, n));
				if (typeof kernel === 'number') throw new Error(`not definite at ${kernel}`);
				const twin = plain(full, n);
				expect(kernel.norm).toBe(twin.norm);
				for (let i = 0; i < n; i++)
					for (let j = 0; j <= i; j++)
						expect(Math.abs(kernel.l[i * kernel.stride + j]! - twin.l[i * twin.stride + j]!)).toBeLessThan(1e-10 * twin.norm);
			}),
			{ numRuns: 30 }
		);
	});

	it('gives the same bits each time', () => {
		const full = definite(130, 7);
		const [a, b] = [factorCholesky(130, fillLower(full, 130)), factorCholesky(130, fillLower(full, 130))];
		expect(a).toEqual(b);
	});

	it('names the row at which a matrix is not positive definite', () => {
		const full = definite(100, 3);
		full[77 * 100 + 77] = -1;
		expect(factorCholesky(100, fillLower(full, 100))).toBe(77);
		const doubled = Float64Array.from([2, 2, 2, 2]);
		expect(factorCholesky(2, fillLower(doubled, 2))).toBe(1);
		expect(factorPlain(Float64Array.from([2, 0, 2, 2]), 2, 2)).toBe(1);
	});

	it('solves with both triangles', () => {
		const [n, random] = [67, randomOf(5)];
		const full = definite(n, 11);
		const x = Float64Array.from({ length: n }, random);
		const b = Float64Array.from({ length: n }, (_, i) => x.reduce((s, v, j) => s + full[i * n + j]! * v, 0));
		const f = plain(full, n);
		solveUpper(f, solveLower(f, b)).forEach((v, i) => expect(Math.abs(v - x[i]!)).toBeLessThan(1e-8));
	});

	it.each([1, 2, 3, 4, 5, 7, 8, 30])('solves several right sides at once like each by itself, %i rows', (n) => {
		const f = plain(definite(n, 5), n);
		const columns = [3, 4, 5].map((seed) => Float64Array.from({ length: n }, randomOf(seed)));
		const all = solveLowers(f, columns);
		all.forEach((y, c) => {
			expect(y).toEqual(solveLower(f, columns[c]!));
			for (let i = 0; i < n; i++) {
				let b = 0;
				for (let j = 0; j <= i; j++) b += f.l[i * f.stride + j]! * y[j]!;
				expect(b).toBeCloseTo(columns[c]![i]!, 9);
			}
		});
	});
});

describe('the bordered system', () => {
	const bordered = (n: number, k: number, seed: number) => {
		const random = randomOf(seed);
		return { full: definite(n, seed), columns: Array.from({ length: k }, () => Float64Array.from({ length: n }, random)) };
	};

	it('is solved to rounding: C w + F d = b and Fᵀ w = c', () => {
		const [n, k] = [60, 4];
		const { full, columns } = bordered(n, k, 21);
		const right = Float64Array.from({ length: n + k }, randomOf(9));
		const { solution, condition } = solveBordered(plain(full, n), columns, right)!;
		for (let i = 0; i < n; i++) {
			let s = 0;
			for (let j = 0; j < n; j++) s += full[i * n + j]! * solution[j]!;
			columns.forEach((c, q) => (s += c[i]! * solution[n + q]!));
			expect(Math.abs(s - right[i]!)).toBeLessThan(1e-15 * condition);
		}
		columns.forEach((c, q) =>
			expect(Math.abs(c.reduce((s, v, i) => s + v * solution[i]!, 0) - right[n + q]!)).toBeLessThan(1e-15 * condition)
		);
	});

	it('has the condition of the Hilbert matrix within a factor of three when nothing borders it', () => {
		// 1-norm condition numbers of the Hilbert matrix (Higham 2002, table 28.1).
		for (const [n, known] of [
			[3, 7.48e2],
			[5, 9.44e5],
			[8, 3.39e10]
		] as const) {
			const h = Float64Array.from({ length: n * n }, (_, k) => 1 / (Math.floor(k / n) + (k % n) + 1));
			const { condition } = solveBordered(plain(h, n), [], new Float64Array(n))!;
			expect(condition).toBeGreaterThan(known / 3);
			expect(condition).toBeLessThan(known * 1.01);
		}
	});

	it('refuses drift columns that can not be told apart', () => {
		const { full, columns } = bordered(20, 1, 4);
		expect(solveBordered(plain(full, 20), [columns[0]!, columns[0]!], new Float64Array(22))).toBeNull();
	});
});
