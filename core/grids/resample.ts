import { sameFrame, type Frame } from './frame';
import { rasterCovers, sampleRaster, type Raster } from './raster';

export const RESAMPLING = { straight: 'straight between cells', nearest: 'nearest cell', mean: 'mean of the cells within' } as const;
export type Resampling = keyof typeof RESAMPLING;

/** Value of a grid at a place, NaN beyond its outer edge and beside gaps: a grid does not go on where it ends. */
export function valueAt(r: Raster, x: number, y: number): number {
	const [u, v] = [(x - r.x0) / r.dx, (y - r.y0) / r.dy];
	if (u < -0.5 || v < -0.5 || u > r.nx - 0.5 || v > r.ny - 0.5) return NaN;
	const at = Math.min(r.ny - 1, Math.max(0, Math.round(v))) * r.nx + Math.min(r.nx - 1, Math.max(0, Math.round(u)));
	if (Number.isNaN(r.values[at]!)) return NaN;
	return rasterCovers(r, x, y) ? sampleRaster(r, x, y) : r.values[at]!;
}

/** The values of a grid at the cells of another frame; NaN where it has none. */
export function resample(r: Raster, f: Frame, how: Resampling): Raster {
	if (sameFrame(r, f)) return { ...f, values: Float32Array.from(r.values) };
	const values = new Float32Array(f.nx * f.ny);
	const { x0, y0, dx, dy, nx, ny } = f;
	for (let j = 0, k = 0; j < ny; j++)
		for (let i = 0; i < nx; i++, k++) {
			const [x, y] = [x0 + i * dx, y0 + j * dy];
			if (how === 'straight') values[k] = valueAt(r, x, y);
			else if (how === 'nearest') {
				const [a, b] = [Math.round((x - r.x0) / r.dx), Math.round((y - r.y0) / r.dy)];
				values[k] = a >= 0 && b >= 0 && a < r.nx && b < r.ny ? r.values[b * r.nx + a]! : NaN;
			} else values[k] = meanWithin(r, x - dx / 2, y - dy / 2, x + dx / 2, y + dy / 2) ?? valueAt(r, x, y);
		}
	return { x0, y0, dx, dy, nx, ny, values };
}

/** Mean of the cells whose middle lies in a rectangle; null when none does. */
function meanWithin(r: Raster, minX: number, minY: number, maxX: number, maxY: number): number | null {
	const from = (low: number, high: number, o: number, d: number, n: number) =>
		[Math.max(0, Math.ceil((Math.min(low, high) - o) / d)), Math.min(n - 1, Math.ceil((Math.max(low, high) - o) / d) - 1)] as const;
	const [i0, i1] = from(minX, maxX, r.x0, r.dx, r.nx);
	const [j0, j1] = from(minY, maxY, r.y0, r.dy, r.ny);
	let [s, n] = [0, 0];
	for (let j = j0; j <= j1; j++)
		for (let i = i0; i <= i1; i++) {
			const v = r.values[j * r.nx + i]!;
			if (v === v) [s, n] = [s + v, n + 1];
		}
	return n ? s / n : null;
}
