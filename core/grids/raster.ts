/**
 * A regular grid of values at points (not areas). Column i runs east, row j runs north, so the value at
 * (x0 + i·dx, y0 + j·dy) is `values[j * nx + i]`. NaN where there is no value.
 */
export interface Raster {
	x0: number;
	y0: number;
	dx: number;
	dy: number;
	nx: number;
	ny: number;
	values: Float32Array;
	/** Unit of measure of the values; left out where it is not known. */
	unit?: string;
}

/** Bilinear value at a point; outside the grid and beside gaps the nearest value; NaN only when the whole grid is empty. */
export function sampleRaster(r: Raster, x: number, y: number): number {
	const u = Math.min(r.nx - 1, Math.max(0, (x - r.x0) / r.dx));
	const v = Math.min(r.ny - 1, Math.max(0, (y - r.y0) / r.dy));
	const i = Math.min(r.nx - 2, Math.floor(u));
	const j = Math.min(r.ny - 2, Math.floor(v));
	const a = u - i;
	const b = v - j;
	const at = j * r.nx + i;
	// A gap that has no weight does not count.
	const part = (k: number, weight: number) => (weight === 0 ? 0 : r.values[k]! * weight);
	const value = part(at, (1 - a) * (1 - b)) + part(at + 1, a * (1 - b)) + part(at + r.nx, (1 - a) * b) + part(at + r.nx + 1, a * b);
	return Number.isNaN(value) ? nearestValue(r, Math.round(u), Math.round(v)) : value;
}

/** Value of the nearest cell that has one, looking outwards in growing squares. */
function nearestValue(r: Raster, i: number, j: number): number {
	for (let ring = 0; ring < Math.max(r.nx, r.ny); ring++) {
		let best = NaN;
		let least = Infinity;
		for (let jj = Math.max(0, j - ring); jj <= Math.min(r.ny - 1, j + ring); jj++)
			for (let ii = Math.max(0, i - ring); ii <= Math.min(r.nx - 1, i + ring); ii++) {
				if (Math.max(Math.abs(ii - i), Math.abs(jj - j)) !== ring) continue;
				const value = r.values[jj * r.nx + ii]!;
				const d = (ii - i) ** 2 + (jj - j) ** 2;
				if (!Number.isNaN(value) && d < least) {
					least = d;
					best = value;
				}
			}
		if (!Number.isNaN(best)) return best;
	}
	return NaN;
}

/** Least and greatest value, and how many cells have none. */
export function rasterRange(r: Raster): { min: number; max: number; missing: number } {
	let min = Infinity;
	let max = -Infinity;
	let missing = 0;
	for (const v of r.values) {
		if (Number.isNaN(v)) missing++;
		else {
			if (v < min) min = v;
			if (v > max) max = v;
		}
	}
	return { min, max, missing };
}

/** True when the point lies inside the grid and beside no gap. */
export function rasterCovers(r: Raster, x: number, y: number): boolean {
	const u = (x - r.x0) / r.dx;
	const v = (y - r.y0) / r.dy;
	return u >= 0 && v >= 0 && u <= r.nx - 1 && v <= r.ny - 1 && !Number.isNaN(r.values[Math.round(v) * r.nx + Math.round(u)]!);
}
