import { fourier as module } from './generated/fourier';
import { BASE, instantiate, reach } from './wasm';

interface Exports {
	memory: WebAssembly.Memory;
	transform(length: number, x: number, y: number, roots: number): number;
}

/** Sequences that are fetched from a grid at a time: what lies side by side in memory is read together. */
const TOGETHER = 8;

/** The least product of 2, 3 and 5 that is not below a number: lengths that are transformed fast. */
export function fastLength(least: number): number {
	for (let n = Math.max(1, Math.ceil(least)); ; n++) {
		let rest = n;
		for (const p of [2, 3, 5]) while (rest % p === 0) rest /= p;
		if (rest === 1) return n;
	}
}

/**
 * Transforms the columns, then the rows of a grid of complex numbers in place (Cooley and Tukey 1965): F[k] = Σ f[j] exp(−2πi jk / n).
 * Back is without the factor 1 / (nx ny). To go back, hand over `im` and `re` for each other.
 * @param nx columns, `ny` rows; both products of 2, 3 and 5
 */
export function fourier(re: Float64Array, im: Float64Array, nx: number, ny: number): void {
	const kernel = instantiate<Exports>(module);
	along(kernel, re, im, ny, nx, nx, 1);
	along(kernel, re, im, nx, ny, 1, nx);
}

/** @param n length of a sequence, of which there are `count`; `step` apart its numbers, `apart` the sequences */
function along(kernel: Exports, re: Float64Array, im: Float64Array, n: number, count: number, step: number, apart: number): void {
	if (fastLength(n) !== n) throw new RangeError(`${n} is no product of 2, 3 and 5`);
	const roots = BASE;
	const rooms = Array.from({ length: TOGETHER / 2 + 1 }, (_, k) => BASE + 16 * n + 32 * n * k);
	const spare = rooms.at(-1)!;
	reach(kernel.memory, spare + 32 * n);
	const all = new Float64Array(kernel.memory.buffer);
	for (let k = 0, at = roots / 8; k < n; k++) {
		all[at++] = Math.cos((2 * Math.PI * k) / n);
		all[at++] = -Math.sin((2 * Math.PI * k) / n);
	}
	for (let first = 0; first < count; first += TOGETHER) {
		const here = Math.min(TOGETHER, count - first);
		// The last one stands alone where the count is odd: beside it lies what was there, and is not looked at.
		for (let j = 0; j < n; j++)
			for (let c = 0, p = j * step + first * apart; c < here; c++, p += apart) {
				const at = rooms[c >> 1]! / 8 + 4 * j + (c & 1);
				all[at] = re[p]!;
				all[at + 2] = im[p]!;
			}
		const found: number[] = [];
		for (let pair = 0; 2 * pair < here; pair++) {
			const at = kernel.transform(n, rooms[pair]!, spare, roots);
			if (at === spare) all.copyWithin(rooms[pair]! / 8, spare / 8, spare / 8 + 4 * n);
			found.push(rooms[pair]! / 8);
		}
		for (let j = 0; j < n; j++)
			for (let c = 0, p = j * step + first * apart; c < here; c++, p += apart) {
				const at = found[c >> 1]! + 4 * j + (c & 1);
				re[p] = all[at]!;
				im[p] = all[at + 2]!;
			}
	}
}
