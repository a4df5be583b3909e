import { frameBox, type Rectangle } from './frame';
import type { Raster } from './raster';

/** Part of a grid, perhaps with wider cells: what a pane needs to draw it. */
interface GridPart extends Raster {
	/** Cells of the grid along a side of one of its own; 1 where these are the cells themselves. */
	every: number;
}

/**
 * The cells of a grid that lie in a rectangle, or all; where they are more than wanted, means of 2 × 2, 3 × 3, … of them. Cells without
 * a value do not count; where all lack one there is none.
 * @param box rectangle on the map; null is all
 * @param most cells that are wanted at most
 * @returns null where the rectangle does not meet the grid
 */
export function partOf(r: Raster, box: Rectangle | null, most: number): GridPart | null {
	const own = frameBox(r);
	const wanted = box ?? own;
	const range = (low: number, high: number, first: number, d: number, n: number): [number, number] => {
		const [a, b] = [(low - first) / d, (high - first) / d];
		return [Math.max(0, Math.floor(Math.min(a, b) + 0.5)), Math.min(n, Math.ceil(Math.max(a, b) + 0.5))];
	};
	let [i0, i1] = range(wanted.minX, wanted.maxX, r.x0, r.dx, r.nx);
	let [j0, j1] = range(wanted.minY, wanted.maxY, r.y0, r.dy, r.ny);
	if (i0 >= i1 || j0 >= j1) return null;
	const every = Math.max(1, Math.ceil(Math.sqrt(((i1 - i0) * (j1 - j0)) / most)));
	// Wider cells lie where those of the whole grid would, so that parts fit together.
	[i0, j0] = [i0 - (i0 % every), j0 - (j0 % every)];
	[i1, j1] = [Math.min(r.nx, Math.ceil(i1 / every) * every), Math.min(r.ny, Math.ceil(j1 / every) * every)];
	const [nx, ny] = [Math.ceil((i1 - i0) / every), Math.ceil((j1 - j0) / every)];
	const sums = new Float64Array(nx);
	const counts = new Uint32Array(nx);
	const values = new Float32Array(nx * ny);
	for (let j = 0; j < ny; j++) {
		sums.fill(0);
		counts.fill(0);
		for (let b = j0 + j * every; b < Math.min(j1, j0 + (j + 1) * every); b++)
			for (let i = 0, a = i0; i < nx; i++)
				for (const end = Math.min(i1, a + every); a < end; a++) {
					const v = r.values[b * r.nx + a]!;
					if (v !== v) continue;
					sums[i] = sums[i]! + v;
					counts[i] = counts[i]! + 1;
				}
		for (let i = 0; i < nx; i++) values[j * nx + i] = counts[i]! ? sums[i]! / counts[i]! : NaN;
	}
	const middle = (every - 1) / 2;
	return {
		x0: r.x0 + (i0 + middle) * r.dx,
		y0: r.y0 + (j0 + middle) * r.dy,
		dx: r.dx * every,
		dy: r.dy * every,
		nx,
		ny,
		values,
		every,
		...(r.unit ? { unit: r.unit } : {})
	};
}
