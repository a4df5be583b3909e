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
	const room = rooms[0]! / 8;
	for (let first = 0; first < count; first += TOGETHER) {
		const here = Math.min(TOGETHER, count - first);
		// The last one stands alone where the count is odd: beside it lies what was there, and is not looked at.
		if (step === 1) for (let c = 0; c < here; c++) fetch(all, room + (c >> 1) * 4 * n + (c & 1), re, im, (first + c) * apart, n);
		else fetchAcross(all, room, re, im, first, here, n, step);
		for (let pair = 0; 2 * pair < here; pair++) {
			const at = kernel.transform(n, rooms[pair]!, spare, roots) / 8;
			if (step === 1) {
				store(all, at, re, im, (first + 2 * pair) * apart, n);
				if (2 * pair + 1 < here) store(all, at + 1, re, im, (first + 2 * pair + 1) * apart, n);
			} else if (at !== room + pair * 4 * n) all.copyWithin(room + pair * 4 * n, at, at + 4 * n);
		}
		if (step !== 1) storeAcross(all, room, re, im, first, here, n, step);
	}
}

/** A sequence that lies in one piece. */
function fetch(all: Float64Array, at: number, re: Float64Array, im: Float64Array, p: number, n: number): void {
	for (const end = p + n; p < end; p++, at += 4) {
		all[at] = re[p]!;
		all[at + 2] = im[p]!;
	}
}

function store(all: Float64Array, at: number, re: Float64Array, im: Float64Array, p: number, n: number): void {
	for (const end = p + n; p < end; p++, at += 4) {
		re[p] = all[at]!;
		im[p] = all[at + 2]!;
	}
}

/** Sequences side by side: each line of memory is read once for all of them. */
function fetchAcross(
	all: Float64Array,
	room: number,
	re: Float64Array,
	im: Float64Array,
	first: number,
	here: number,
	n: number,
	step: number
): void {
	for (let j = 0, from = first; j < n; j++, from += step)
		for (let c = 0, at = room + 4 * j; c < here; c += 2, at += 4 * n) {
			all[at] = re[from + c]!;
			all[at + 2] = im[from + c]!;
			if (c + 1 === here) break;
			all[at + 1] = re[from + c + 1]!;
			all[at + 3] = im[from + c + 1]!;
		}
}

function storeAcross(
	all: Float64Array,
	room: number,
	re: Float64Array,
	im: Float64Array,
	first: number,
	here: number,
	n: number,
	step: number
): void {
	for (let j = 0, to = first; j < n; j++, to += step)
		for (let c = 0, at = room + 4 * j; c < here; c += 2, at += 4 * n) {
			re[to + c] = all[at]!;
			im[to + c] = all[at + 2]!;
			if (c + 1 === here) break;
			re[to + c + 1] = all[at + 1]!;
			im[to + c + 1] = all[at + 3]!;
		}
}
