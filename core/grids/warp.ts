import { rasterCovers, sampleRaster, type Raster } from './raster';

type PlaneMap = (x: number, y: number) => [number, number];

/**
 * A raster brought into another plane: a grid of square cells as large as before, over the box of its turned corners; each
 * node takes the bilinear value of the place it came from.
 */
export function warpRaster(r: Raster, forward: PlaneMap, back: PlaneMap): Raster {
	const box = [Infinity, Infinity, -Infinity, -Infinity];
	const right = r.x0 + (r.nx - 1) * r.dx;
	const top = r.y0 + (r.ny - 1) * r.dy;
	const steps = 32;
	for (let i = 0; i <= steps; i++) {
		const [x, y] = [r.x0 + ((right - r.x0) * i) / steps, r.y0 + ((top - r.y0) * i) / steps];
		for (const [px, py] of [
			[x, r.y0],
			[x, top],
			[r.x0, y],
			[right, y]
		] as const) {
			const [u, v] = forward(px, py);
			box[0] = Math.min(box[0]!, u);
			box[1] = Math.min(box[1]!, v);
			box[2] = Math.max(box[2]!, u);
			box[3] = Math.max(box[3]!, v);
		}
	}
	// As many cells on the same ground: from the area of the four corners where they come to lie.
	const [a, b, c, d] = [forward(r.x0, r.y0), forward(right, r.y0), forward(right, top), forward(r.x0, top)];
	const area = Math.abs((c[0] - a[0]) * (d[1] - b[1]) - (d[0] - b[0]) * (c[1] - a[1])) / 2;
	const cell = Math.sqrt(area / ((r.nx - 1) * (r.ny - 1)));
	const nx = Math.max(2, Math.round((box[2]! - box[0]!) / cell) + 1);
	const ny = Math.max(2, Math.round((box[3]! - box[1]!) / cell) + 1);
	const values = new Float32Array(nx * ny).fill(NaN);
	for (let j = 0; j < ny; j++)
		for (let i = 0; i < nx; i++) {
			const [x, y] = back(box[0]! + i * cell, box[1]! + j * cell);
			if (rasterCovers(r, x, y)) values[j * nx + i] = sampleRaster(r, x, y);
		}
	return { x0: box[0]!, y0: box[1]!, dx: cell, dy: cell, nx, ny, values };
}

/** How far a warped raster is off its source at the nodes of that: the most, and the root mean square. At most 20 000 nodes are looked at. */
export function warpError(source: Raster, warped: Raster, forward: PlaneMap): { worst: number; rms: number } {
	const step = Math.max(1, Math.floor(Math.sqrt((source.nx * source.ny) / 20_000)));
	let [worst, sum, n] = [0, 0, 0];
	for (let j = 0; j < source.ny; j += step)
		for (let i = 0; i < source.nx; i += step) {
			const v = source.values[j * source.nx + i]!;
			const [x, y] = forward(source.x0 + i * source.dx, source.y0 + j * source.dy);
			if (Number.isNaN(v) || !rasterCovers(warped, x, y)) continue;
			const off = Math.abs(sampleRaster(warped, x, y) - v);
			worst = Math.max(worst, off);
			sum += off * off;
			n++;
		}
	return { worst, rms: n ? Math.sqrt(sum / n) : 0 };
}

/** Every `step`-th cell of a raster, each the mean of the cells that it stands for. */
export function coarsen(r: Raster, step: number): Raster {
	if (step <= 1) return r;
	const nx = Math.max(2, Math.floor(r.nx / step));
	const ny = Math.max(2, Math.floor(r.ny / step));
	const values = new Float32Array(nx * ny).fill(NaN);
	for (let j = 0; j < ny; j++)
		for (let i = 0; i < nx; i++) {
			let sum = 0;
			let n = 0;
			for (let b = 0; b < step; b++)
				for (let a = 0; a < step; a++) {
					const v = r.values[Math.min(r.ny - 1, j * step + b) * r.nx + Math.min(r.nx - 1, i * step + a)]!;
					if (Number.isNaN(v)) continue;
					sum += v;
					n++;
				}
			if (n) values[j * nx + i] = sum / n;
		}
	const shift = (step - 1) / 2;
	return { x0: r.x0 + shift * r.dx, y0: r.y0 + shift * r.dy, dx: r.dx * step, dy: r.dy * step, nx, ny, values };
}

/** The part of a raster that lies in a box, with the cells that touch it; null when none does. */
export function clipRaster(r: Raster, box: readonly [number, number, number, number]): Raster | null {
	const i0 = Math.max(0, Math.floor((box[0] - r.x0) / r.dx));
	const j0 = Math.max(0, Math.floor((box[1] - r.y0) / r.dy));
	const i1 = Math.min(r.nx - 1, Math.ceil((box[2] - r.x0) / r.dx));
	const j1 = Math.min(r.ny - 1, Math.ceil((box[3] - r.y0) / r.dy));
	const [nx, ny] = [i1 - i0 + 1, j1 - j0 + 1];
	if (nx < 2 || ny < 2) return null;
	const values = new Float32Array(nx * ny);
	for (let j = 0; j < ny; j++) values.set(r.values.subarray((j0 + j) * r.nx + i0, (j0 + j) * r.nx + i0 + nx), j * nx);
	return { ...r, x0: r.x0 + i0 * r.dx, y0: r.y0 + j0 * r.dy, nx, ny, values };
}
