// Cholesky factor of a symmetric, positive definite matrix, in place in its lower triangle. AssemblyScript; compiled by
// scripts/kernels.mjs. Plain twin: core/linear/cholesky.ts. Row-major f64, rows `stride` numbers apart (an even number).

/** Columns that are eliminated together: a panel of that many columns stays in cache while the rest is updated. */
export const BLOCK: i32 = 64;

/** Rows of a panel that fit into the first cache. */
const NEAR: i32 = 32;

/** Dot product of two rows over `count` numbers (any count). */
// @ts-ignore: decorator
@inline
function dot(p: usize, q: usize, count: i32): f64 {
	let sum = f64x2.splat(0.0);
	let k = 0;
	for (; k + 1 < count; k += 2, p += 16, q += 16) sum = f64x2.add(sum, f64x2.mul(v128.load(p), v128.load(q)));
	let total = f64x2.extract_lane(sum, 0) + f64x2.extract_lane(sum, 1);
	if (k < count) total += load<f64>(p) * load<f64>(q);
	return total;
}

// @ts-ignore: decorator
@inline
function subtract(at: usize, v: v128): void {
	store<f64>(at, load<f64>(at) - (f64x2.extract_lane(v, 0) + f64x2.extract_lane(v, 1)));
}

/** a[i..i+1, j..j+3] -= rows i, i+1 times rows j … j+3 over one block of columns. */
// @ts-ignore: decorator
@inline
function tile(a: usize, row: usize, i: i32, j: i32, k0: i32): void {
	let p0: usize = a + <usize>i * row + (<usize>k0 << 3);
	let p1: usize = p0 + row;
	let q0: usize = a + <usize>j * row + (<usize>k0 << 3);
	let q1: usize = q0 + row;
	let q2: usize = q1 + row;
	let q3: usize = q2 + row;
	let s00 = f64x2.splat(0.0);
	let s01 = f64x2.splat(0.0);
	let s02 = f64x2.splat(0.0);
	let s03 = f64x2.splat(0.0);
	let s10 = f64x2.splat(0.0);
	let s11 = f64x2.splat(0.0);
	let s12 = f64x2.splat(0.0);
	let s13 = f64x2.splat(0.0);
	// Four steps of two columns each time round; a block is a multiple of eight.
	for (let k = 0; k < BLOCK; k += 8) {
		let x = v128.load(p0);
		let y = v128.load(p1);
		let z = v128.load(q0);
		s00 = f64x2.add(s00, f64x2.mul(x, z));
		s10 = f64x2.add(s10, f64x2.mul(y, z));
		z = v128.load(q1);
		s01 = f64x2.add(s01, f64x2.mul(x, z));
		s11 = f64x2.add(s11, f64x2.mul(y, z));
		z = v128.load(q2);
		s02 = f64x2.add(s02, f64x2.mul(x, z));
		s12 = f64x2.add(s12, f64x2.mul(y, z));
		z = v128.load(q3);
		s03 = f64x2.add(s03, f64x2.mul(x, z));
		s13 = f64x2.add(s13, f64x2.mul(y, z));
		x = v128.load(p0, 16);
		y = v128.load(p1, 16);
		z = v128.load(q0, 16);
		s00 = f64x2.add(s00, f64x2.mul(x, z));
		s10 = f64x2.add(s10, f64x2.mul(y, z));
		z = v128.load(q1, 16);
		s01 = f64x2.add(s01, f64x2.mul(x, z));
		s11 = f64x2.add(s11, f64x2.mul(y, z));
		z = v128.load(q2, 16);
		s02 = f64x2.add(s02, f64x2.mul(x, z));
		s12 = f64x2.add(s12, f64x2.mul(y, z));
		z = v128.load(q3, 16);
		s03 = f64x2.add(s03, f64x2.mul(x, z));
		s13 = f64x2.add(s13, f64x2.mul(y, z));
		x = v128.load(p0, 32);
		y = v128.load(p1, 32);
		z = v128.load(q0, 32);
		s00 = f64x2.add(s00, f64x2.mul(x, z));
		s10 = f64x2.add(s10, f64x2.mul(y, z));
		z = v128.load(q1, 32);
		s01 = f64x2.add(s01, f64x2.mul(x, z));
		s11 = f64x2.add(s11, f64x2.mul(y, z));
		z = v128.load(q2, 32);
		s02 = f64x2.add(s02, f64x2.mul(x, z));
		s12 = f64x2.add(s12, f64x2.mul(y, z));
		z = v128.load(q3, 32);
		s03 = f64x2.add(s03, f64x2.mul(x, z));
		s13 = f64x2.add(s13, f64x2.mul(y, z));
		x = v128.load(p0, 48);
		y = v128.load(p1, 48);
		z = v128.load(q0, 48);
		s00 = f64x2.add(s00, f64x2.mul(x, z));
		s10 = f64x2.add(s10, f64x2.mul(y, z));
		z = v128.load(q1, 48);
		s01 = f64x2.add(s01, f64x2.mul(x, z));
		s11 = f64x2.add(s11, f64x2.mul(y, z));
		z = v128.load(q2, 48);
		s02 = f64x2.add(s02, f64x2.mul(x, z));
		s12 = f64x2.add(s12, f64x2.mul(y, z));
		z = v128.load(q3, 48);
		s03 = f64x2.add(s03, f64x2.mul(x, z));
		s13 = f64x2.add(s13, f64x2.mul(y, z));
		p0 += 64;
		p1 += 64;
		q0 += 64;
		q1 += 64;
		q2 += 64;
		q3 += 64;
	}
	let at: usize = a + <usize>i * row + (<usize>j << 3);
	subtract(at, s00);
	subtract(at + 8, s01);
	subtract(at + 16, s02);
	subtract(at + 24, s03);
	at += row;
	subtract(at, s10);
	subtract(at + 8, s11);
	subtract(at + 16, s12);
	subtract(at + 24, s13);
}

/** Keeps the diagonal as it is, behind the matrix: to tell a pivot that has lost all its digits. */
export function keepDiagonal(a: usize, n: i32, stride: i32): void {
	const row = <usize>stride << 3;
	for (let i = 0; i < n; i++) store<f64>(a + <usize>n * row + (<usize>i << 3), load<f64>(a + <usize>i * row + (<usize>i << 3)));
}

/**
 * Eliminates the block of columns from k0 on. One block a call, so that the engine can take its faster code from the second on.
 * @returns −1, or the number of the row whose pivot is not above `least` times its diagonal entry
 */
export function eliminate(a: usize, n: i32, stride: i32, least: f64, k0: i32): i32 {
	const row = <usize>stride << 3;
	const k1 = min(n, k0 + BLOCK);
	for (let j = k0; j < k1; j++) {
		const jRow: usize = a + <usize>j * row + (<usize>k0 << 3);
		const jj: usize = a + <usize>j * row + (<usize>j << 3);
		const pivot = load<f64>(jj) - dot(jRow, jRow, j - k0);
		if (!(pivot > least * load<f64>(a + <usize>n * row + (<usize>j << 3)))) return j;
		const root = sqrt(pivot);
		store<f64>(jj, root);
		for (let i = j + 1; i < n; i++) {
			const ij: usize = a + <usize>i * row + (<usize>j << 3);
			store<f64>(ij, (load<f64>(ij) - dot(a + <usize>i * row + (<usize>k0 << 3), jRow, j - k0)) / root);
		}
	}
	// A few rows of the panel at a time, so that they stay in the first cache while all rows below them are updated. Rows in pairs,
	// columns in fours; what is left over at the diagonal and at the end, one by one.
	for (let j0 = k1; j0 < n; j0 += NEAR) {
		const j1 = min(n, j0 + NEAR);
		for (let i = j0; i < n; i += 2) {
			const pair = i + 1 < n;
			let j = j0;
			if (pair) for (const full = min(j1, i + 1) - 3; j < full; j += 4) tile(a, row, i, j, k0);
			for (const end = min(j1, pair ? i + 2 : i + 1); j < end; j++) {
				const q: usize = a + <usize>j * row + (<usize>k0 << 3);
				const at: usize = a + <usize>i * row + (<usize>j << 3);
				if (j <= i) store<f64>(at, load<f64>(at) - dot(a + <usize>i * row + (<usize>k0 << 3), q, BLOCK));
				if (pair) store<f64>(at + row, load<f64>(at + row) - dot(a + <usize>(i + 1) * row + (<usize>k0 << 3), q, BLOCK));
			}
		}
	}
	return -1;
}
