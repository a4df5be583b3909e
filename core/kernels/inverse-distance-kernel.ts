import { inverseDistance as module } from './generated/inverse-distance';
import { BASE, instantiate, reach } from './wasm';

interface Exports {
	memory: WebAssembly.Memory;
	row(points: number, n: number, x0: number, dx: number, count: number, y: number, soft: number, power: number, out: number): void;
}

/** Powers that the kernel knows. */
export const KERNEL_POWERS: readonly number[] = [1, 2, 3, 4];

/**
 * Inverse distance for whole rows of cells by the kernel; the same bits as its plain twin.
 * @param power one of `KERNEL_POWERS`
 * @returns values of `count` cells at x0 + i dx, good until the next call; NaN where a cell lies at a reading
 */
export function inverseDistanceRows(
	points: { x: ArrayLike<number>; y: ArrayLike<number>; value: ArrayLike<number> },
	soft: number,
	power: number
): (y: number, x0: number, dx: number, count: number) => Float64Array {
	const kernel = instantiate<Exports>(module);
	const n = points.value.length;
	reach(kernel.memory, BASE + 24 * n);
	const into = new Float64Array(kernel.memory.buffer, BASE, 3 * n);
	for (let i = 0; i < n; i++) into.set([points.x[i]!, points.y[i]!, points.value[i]!], 3 * i);
	const out = Math.ceil((BASE + 24 * n) / 16) * 16;
	return (y, x0, dx, count) => {
		reach(kernel.memory, out + 8 * (count + 3));
		kernel.row(BASE, n, x0, dx, count, y, soft, power, out);
		return new Float64Array(kernel.memory.buffer, out, count);
	};
}
