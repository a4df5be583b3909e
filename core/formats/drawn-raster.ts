import type { Raster } from '../grids/raster';
import type { Pack } from './pack';
import { damaged, numberReader, Numbers } from './small-numbers';

/** Steps between the least and the greatest value. */
const STEPS = 65_535;
/** Stands for a cell without a value. */
const GAP = 2 ** 40;

/** A grid as panes draw it: values in 65 535 steps of their range, as differences along the rows; a third of its size once compressed. */
export function encodeDrawnRaster(r: Raster): Pack {
	let [low, high] = [Infinity, -Infinity];
	for (const v of r.values) {
		if (Number.isNaN(v)) continue;
		low = Math.min(low, v);
		high = Math.max(high, v);
	}
	const step = high > low ? (high - low) / STEPS : 1;
	const numbers = new Numbers();
	let last = 0;
	for (const v of r.values) {
		if (Number.isNaN(v)) {
			numbers.push(GAP);
			continue;
		}
		const at = Math.round((v - low) / step);
		numbers.push(at - last);
		last = at;
	}
	const { x0, y0, dx, dy, nx, ny } = r;
	return { info: { shape: { x0, y0, dx, dy, nx, ny }, low: Number.isFinite(low) ? low : 0, step }, arrays: { values: numbers.done } };
}

/** @throws ProblemError `damaged-data` */
export function decodeDrawnRaster(pack: Pack): Raster {
	const { shape, low, step } = pack.info as unknown as { shape: Omit<Raster, 'values'>; low: number; step: number };
	const next = numberReader(pack.arrays['values'] as Uint8Array);
	const values = new Float32Array(shape.nx * shape.ny);
	let last = 0;
	for (let i = 0; i < values.length; i++) {
		const v = next();
		if (v !== GAP) last += v;
		if (last < 0 || last > STEPS) damaged();
		values[i] = v === GAP ? NaN : low + last * step;
	}
	return { ...shape, values };
}
