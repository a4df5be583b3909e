import { sampleRaster, type Raster } from './raster';

/**
 * Squared distances along one line to the nearest place where `f` is zero, as the lower envelope of parabolas (Felzenszwalb &
 * Huttenlocher 2012, "Distance transforms of sampled functions").
 * @param f squared distances so far, Infinity where there is none
 * @param step length between neighbours
 */
function envelope(f: Float64Array, step: number): Float64Array {
	const n = f.length;
	const at = new Int32Array(n);
	const from = new Float64Array(n + 1);
	let k = -1;
	for (let q = 0; q < n; q++) {
		if (f[q] === Infinity) continue;
		let s = -Infinity;
		while (k >= 0) {
			const p = at[k]!;
			s = (f[q]! - f[p]! + step * step * (q * q - p * p)) / (2 * step * step * (q - p));
			if (s > from[k]!) break;
			k--;
			s = -Infinity;
		}
		at[++k] = q;
		from[k] = s;
		from[k + 1] = Infinity;
	}
	const out = new Float64Array(n).fill(Infinity);
	for (let q = 0, j = 0; k >= 0 && q < n; q++) {
		while (from[j + 1]! < q) j++;
		out[q] = (step * (q - at[j]!)) ** 2 + f[at[j]!]!;
	}
	return out;
}

/** Distance of each node to the nearest one of which `is` says yes, length units; Infinity when there is none. */
function distances(r: Raster, is: (node: number) => boolean): Float64Array {
	const out = Float64Array.from({ length: r.nx * r.ny }, (_, k) => (is(k) ? 0 : Infinity));
	for (let j = 0; j < r.ny; j++) out.set(envelope(out.subarray(j * r.nx, (j + 1) * r.nx), r.dx), j * r.nx);
	for (let i = 0; i < r.nx; i++) {
		const column = envelope(
			Float64Array.from({ length: r.ny }, (_, j) => out[j * r.nx + i]!),
			r.dy
		);
		for (let j = 0; j < r.ny; j++) out[j * r.nx + i] = Math.sqrt(column[j]!);
	}
	return out;
}

/**
 * How far inside the ground that a raster covers a place is: positive where it has values, negative in its gaps and beyond its edge.
 * @returns distance to the limit of what is known, length units
 */
export function insideCoverage(r: Raster): (x: number, y: number) => number {
	const [x1, y1] = [r.x0 + (r.nx - 1) * r.dx, r.y0 + (r.ny - 1) * r.dy];
	const inBox = (x: number, y: number) => {
		const [u, v] = [Math.min(x - r.x0, x1 - x), Math.min(y - r.y0, y1 - y)];
		// Beyond a corner it is the distance to the corner.
		return u >= 0 && v >= 0 ? Math.min(u, v) : -Math.hypot(Math.min(u, 0), Math.min(v, 0));
	};
	if (!r.values.some(Number.isNaN)) return inBox;
	const [toGap, toValue] = [distances(r, (k) => Number.isNaN(r.values[k]!)), distances(r, (k) => !Number.isNaN(r.values[k]!))];
	// The limit runs halfway between a node that has a value and one that has none.
	const half = Math.min(r.dx, r.dy) / 2;
	const most = Math.hypot(x1 - r.x0, y1 - r.y0);
	const signed: Raster = {
		...r,
		values: Float32Array.from(toGap, (d, k) => (d > 0 ? Math.min(d, most) - half : half - Math.min(toValue[k]!, most)))
	};
	return (x, y) => Math.min(inBox(x, y), sampleRaster(signed, x, y));
}
