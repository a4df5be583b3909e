import { contours } from 'd3-contour';
import { sampleRaster, type Raster } from '#core/grids/raster';

/** Shaded relief (light from north-west, 45° high; Horn 1981) over quiet height tints, as a picture one pixel a cell. */
export function shadedRelief(r: Raster): HTMLCanvasElement {
	const canvas = document.createElement('canvas');
	canvas.width = r.nx;
	canvas.height = r.ny;
	const context = canvas.getContext('2d')!;
	const image = context.createImageData(r.nx, r.ny);
	const at = (i: number, j: number) => r.values[Math.min(r.ny - 1, Math.max(0, j)) * r.nx + Math.min(r.nx - 1, Math.max(0, i))]!;
	for (let j = 0; j < r.ny; j++)
		for (let i = 0; i < r.nx; i++) {
			const z = at(i, j);
			const o = 4 * ((r.ny - 1 - j) * r.nx + i);
			if (Number.isNaN(z)) continue;
			const dzdx = (at(i + 1, j) - at(i - 1, j)) / (2 * r.dx);
			const dzdy = (at(i, j + 1) - at(i, j - 1)) / (2 * r.dy);
			const lambert = (1 + 1.4 * (dzdx * 0.7071 - dzdy * 0.7071)) / Math.sqrt(2 * (1 + 1.96 * (dzdx * dzdx + dzdy * dzdy)));
			const shade = 0.35 + 0.85 * Math.min(1, Math.max(0, lambert));
			const tint = z < 0 ? [206, 220, 226] : [238, 233, 220];
			for (let c = 0; c < 3; c++) image.data[o + c] = Math.min(255, tint[c]! * shade);
			image.data[o + 3] = 255;
		}
	context.putImageData(image, 0, 0);
	return canvas;
}

/** Pixels of the picture of a grid, at most; of a larger one every second cell is drawn, or every third. */
const MOST_PIXELS = 6_000_000;

/**
 * A grid in colours, one pixel a cell; nothing where it has no value.
 * @param rgb colour of a cell as one number, below 0 for none
 * @param faint cells that stand back
 */
export function colouredGrid(r: Raster, rgb: (cell: number) => number, faint: (cell: number) => boolean = () => false): HTMLCanvasElement {
	const every = Math.max(1, Math.ceil(Math.sqrt((r.nx * r.ny) / MOST_PIXELS)));
	const canvas = document.createElement('canvas');
	const [width, height] = [Math.ceil(r.nx / every), Math.ceil(r.ny / every)];
	canvas.width = width;
	canvas.height = height;
	const context = canvas.getContext('2d')!;
	const image = context.createImageData(width, height);
	const pixels = new Uint32Array(image.data.buffer);
	for (let j = 0; j < height; j++)
		for (let i = 0; i < width; i++) {
			const cell = Math.min(r.ny - 1, j * every) * r.nx + Math.min(r.nx - 1, i * every);
			if (Number.isNaN(r.values[cell]!)) continue;
			const c = rgb(cell);
			if (c < 0) continue;
			// Red is the lowest byte.
			pixels[(height - 1 - j) * width + i] = ((faint(cell) ? 46 : 255) << 24) | ((c & 255) << 16) | (c & 0xff00) | (c >> 16);
		}
	context.putImageData(image, 0, 0);
	return canvas;
}

const MOST_LEVELS = 400;

/** Contour lines at an interval, or at a round one that suits, as lines in map coordinates. */
export function contourLines(r: Raster, wanted: number | null = null): { value: number; lines: [number, number][][]; interval: number }[] {
	let low = Infinity;
	let high = -Infinity;
	for (const v of r.values) {
		if (v < low) low = v;
		if (v > high) high = v;
	}
	const interval =
		wanted && (high - low) / wanted <= MOST_LEVELS
			? wanted
			: ([1, 2, 5, 10, 20, 50, 100, 200, 500].find((s) => (high - low) / s <= 24) ?? 1000);
	const step = Math.max(1, Math.ceil(Math.max(r.nx, r.ny) / 300));
	const nx = Math.floor((r.nx - 1) / step) + 1;
	const ny = Math.floor((r.ny - 1) / step) + 1;
	const values = Array.from({ length: nx * ny }, (_, k) =>
		sampleRaster(r, r.x0 + (k % nx) * step * r.dx, r.y0 + Math.floor(k / nx) * step * r.dy)
	);
	const levels: number[] = [];
	for (let v = Math.ceil(low / interval) * interval; v <= high; v += interval) levels.push(v);
	const border = (x: number, y: number) => x <= 0.5 || y <= 0.5 || x >= nx - 0.5 || y >= ny - 0.5;
	return contours()
		.size([nx, ny])
		.thresholds(levels)(values)
		.map((m) => ({
			value: m.value,
			interval,
			// The rings also run along the border of the grid; those parts are no contours.
			lines: m.coordinates.flat().flatMap((ring) => {
				const parts: [number, number][][] = [[]];
				for (const p of ring) {
					const [x, y] = p as [number, number];
					if (border(x, y)) parts.push([]);
					else parts[parts.length - 1]!.push([r.x0 + (x - 0.5) * step * r.dx, r.y0 + (y - 0.5) * step * r.dy]);
				}
				return parts.filter((p) => p.length > 1);
			})
		}));
}
