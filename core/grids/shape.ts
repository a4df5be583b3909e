import type { Raster } from './raster';

/** Value of a cell; of one outside or without a value that of the cell in the middle, so that rims and gaps are level. */
function window(r: Raster, i: number, j: number): [number, number, number, number, number, number, number, number, number] {
	const own = r.values[j * r.nx + i]!;
	const at = (a: number, b: number) => {
		const [p, q] = [i + a, j + b];
		const [ci, cj] = [Math.min(r.nx - 1, Math.max(0, p)), Math.min(r.ny - 1, Math.max(0, q))];
		if (ci !== p || cj !== q) {
			// Beyond the rim it goes straight on.
			const [m, n] = [2 * ci - p, 2 * cj - q];
			const rim = r.values[cj * r.nx + ci]!;
			const back = m < 0 || n < 0 || m >= r.nx || n >= r.ny ? NaN : r.values[n * r.nx + m]!;
			return Number.isNaN(rim) || Number.isNaN(back) ? own : 2 * rim - back;
		}
		const v = r.values[q * r.nx + p]!;
		return Number.isNaN(v) ? own : v;
	};
	return [at(-1, -1), at(0, -1), at(1, -1), at(-1, 0), own, at(1, 0), at(-1, 1), at(0, 1), at(1, 1)];
}

/** Slopes to the east and to the north (Horn 1981), units of the values per length unit. */
function slopesAt(r: Raster, i: number, j: number): [number, number] {
	const [sw, s, se, w, , e, nw, n, ne] = window(r, i, j);
	return [(se + 2 * e + ne - sw - 2 * w - nw) / (8 * r.dx), (nw + 2 * n + ne - sw - 2 * s - se) / (8 * r.dy)];
}

const each = (r: Raster, f: (i: number, j: number) => number): Float32Array => {
	const out = new Float32Array(r.values.length);
	for (let j = 0, k = 0; j < r.ny; j++) for (let i = 0; i < r.nx; i++, k++) out[k] = Number.isNaN(r.values[k]!) ? NaN : f(i, j);
	return out;
};

/** Steepest slope, degrees from horizontal. */
export const slope = (r: Raster): Float32Array => each(r, (i, j) => (Math.atan(Math.hypot(...slopesAt(r, i, j))) * 180) / Math.PI);

/** Direction that the ground falls to, degrees clockwise from north; NaN where it is level. */
export const aspect = (r: Raster): Float32Array =>
	each(r, (i, j) => {
		const [east, north] = slopesAt(r, i, j);
		return east === 0 && north === 0 ? NaN : ((Math.atan2(-east, -north) * 180) / Math.PI + 360) % 360;
	});

/** Sum of the second differences along both axes (the Laplacian): above 0 in hollows, below 0 on crests. */
export const curvature = (r: Raster): Float32Array =>
	each(r, (i, j) => {
		const [, s, , w, c, e, , n] = window(r, i, j);
		return (e - 2 * c + w) / r.dx ** 2 + (n - 2 * c + s) / r.dy ** 2;
	});

/** How brightly the sun lights the ground, 0 to 1. @param azimuth of the sun, clockwise from north @param height above the horizon, degrees @param steep times that heights are exaggerated */
export function shading(r: Raster, azimuth: number, height: number, steep = 1): Float32Array {
	const [a, h] = [(azimuth * Math.PI) / 180, (height * Math.PI) / 180];
	const sun = [Math.sin(a) * Math.cos(h), Math.cos(a) * Math.cos(h), Math.sin(h)] as const;
	return each(r, (i, j) => {
		const [east, north] = slopesAt(r, i, j);
		const [x, y] = [-east * steep, -north * steep];
		return Math.max(0, (x * sun[0] + y * sun[1] + sun[2]) / Math.sqrt(x * x + y * y + 1));
	});
}

/** Mean of the cells within a radius, weighted by a bell whose half width is half of it. @param radius length units */
export function smooth(r: Raster, radius: number): Float32Array {
	const pass = (values: Float64Array, along: 'x' | 'y'): Float64Array => {
		const step = along === 'x' ? r.dx : r.dy;
		const reach = Math.max(0, Math.floor(radius / Math.abs(step)));
		const weights = Float64Array.from({ length: 2 * reach + 1 }, (_, k) =>
			Math.exp(-2 * (((k - reach) * step) / Math.max(radius, 1e-9)) ** 2)
		);
		const out = new Float64Array(values.length);
		const [stride, count] = along === 'x' ? [1, r.nx] : [r.nx, r.ny];
		for (let k = 0; k < values.length; k++) {
			const at = along === 'x' ? k % r.nx : Math.floor(k / r.nx);
			let [s, w] = [0, 0];
			for (let d = Math.max(-reach, -at); d <= Math.min(reach, count - 1 - at); d++) {
				const v = values[k + d * stride]!;
				if (v !== v) continue;
				s += v * weights[d + reach]!;
				w += weights[d + reach]!;
			}
			out[k] = w > 0 ? s / w : NaN;
		}
		return out;
	};
	const known = Float64Array.from(r.values);
	const out = pass(pass(known, 'x'), 'y');
	return Float32Array.from(out, (v, k) => (Number.isNaN(r.values[k]!) ? NaN : v));
}

/** Median of the cells within a radius. @param radius length units */
export function medianOf(r: Raster, radius: number): Float32Array {
	const [ri, rj] = [Math.floor(radius / Math.abs(r.dx)), Math.floor(radius / Math.abs(r.dy))];
	const list: number[] = [];
	return each(r, (i, j) => {
		list.length = 0;
		for (let b = Math.max(0, j - rj); b <= Math.min(r.ny - 1, j + rj); b++)
			for (let a = Math.max(0, i - ri); a <= Math.min(r.nx - 1, i + ri); a++) {
				if (((a - i) * r.dx) ** 2 + ((b - j) * r.dy) ** 2 > radius * radius) continue;
				const v = r.values[b * r.nx + a]!;
				if (v === v) list.push(v);
			}
		list.sort((x, y) => x - y);
		return (list[(list.length - 1) >> 1]! + list[list.length >> 1]!) / 2;
	});
}

/**
 * Area that drains through each cell, with its own: hollows are filled first (Barnes, Lehman & Mulla 2014), then water goes to the
 * steepest of eight neighbours (O'Callaghan & Mark 1984). Square length units.
 */
export function upslopeArea(r: Raster): Float32Array {
	const { nx, ny, values } = r;
	const n = nx * ny;
	const filled = Float64Array.from(values);
	const receiver = new Int32Array(n).fill(-1);
	const order: number[] = [];
	const seen = new Uint8Array(n);
	const heap = new Heap(filled);
	const neighbours = (k: number, visit: (m: number, far: number) => void) => {
		const [i, j] = [k % nx, Math.floor(k / nx)];
		for (let b = -1; b <= 1; b++)
			for (let a = -1; a <= 1; a++) {
				if ((a === 0 && b === 0) || i + a < 0 || j + b < 0 || i + a >= nx || j + b >= ny) continue;
				visit(k + b * nx + a, Math.hypot(a * r.dx, b * r.dy));
			}
	};
	for (let k = 0; k < n; k++) {
		if (Number.isNaN(values[k]!)) continue;
		let rim = k % nx === 0 || k % nx === nx - 1 || k < nx || k >= n - nx;
		if (!rim) neighbours(k, (m) => (rim ||= Number.isNaN(values[m]!)));
		if (rim) {
			seen[k] = 1;
			heap.push(k);
		}
	}
	for (let k = heap.pop(); k >= 0; k = heap.pop()) {
		order.push(k);
		neighbours(k, (m) => {
			if (seen[m] || Number.isNaN(values[m]!)) return;
			seen[m] = 1;
			receiver[m] = k;
			filled[m] = Math.max(filled[m]!, filled[k]!);
			heap.push(m);
		});
	}
	// Where the ground falls by itself it goes down the steepest way, not back along the flood.
	for (const k of order) {
		let best = 0;
		neighbours(k, (m, far) => {
			const fall = (filled[k]! - filled[m]!) / far;
			if (fall > best) [best, receiver[k]] = [fall, m];
		});
	}
	const out = new Float32Array(n);
	const area = Float64Array.from(values, (v) => (Number.isNaN(v) ? NaN : Math.abs(r.dx * r.dy)));
	// From high to low; level ground in the order of the flood, turned round.
	const turn = new Int32Array(n);
	order.forEach((k, p) => (turn[k] = p));
	const downhill = order.slice().sort((a, b) => filled[b]! - filled[a]! || turn[b]! - turn[a]!);
	for (const k of downhill) if (receiver[k]! >= 0) area[receiver[k]!]! += area[k]!;
	for (let k = 0; k < n; k++) out[k] = area[k]!;
	return out;
}

/** The least of some cells first. */
class Heap {
	private readonly list: number[] = [];
	constructor(private readonly height: Float64Array) {}
	push(k: number): void {
		const { list, height } = this;
		let at = list.push(k) - 1;
		while (at > 0) {
			const up = (at - 1) >> 1;
			if (height[list[up]!]! <= height[k]!) break;
			list[at] = list[up]!;
			at = up;
		}
		list[at] = k;
	}
	/** −1 when there is none. */
	pop(): number {
		const { list, height } = this;
		if (list.length === 0) return -1;
		const top = list[0]!;
		const last = list.pop()!;
		if (list.length === 0) return top;
		let at = 0;
		for (;;) {
			let child = 2 * at + 1;
			if (child >= list.length) break;
			if (child + 1 < list.length && height[list[child + 1]!]! < height[list[child]!]!) child++;
			if (height[list[child]!]! >= height[last]!) break;
			list[at] = list[child]!;
			at = child;
		}
		list[at] = last;
		return top;
	}
}
