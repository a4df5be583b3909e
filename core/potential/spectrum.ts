import type { Raster } from '../grids/raster';
import { fastLength, fourier } from '../kernels/fourier-kernel';

/** A grid as waves: complex numbers, row by row, of `nx` × `ny` padded cells. */
interface Spectrum {
	nx: number;
	ny: number;
	re: Float64Array;
	im: Float64Array;
	/** Wave numbers per length unit (radians) of a column and a row. */
	kx: (i: number) => number;
	ky: (j: number) => number;
	/** Back to the cells of the grid. */
	back(): Float32Array;
}

/** The least length that is transformed fast and leaves room for a rim of a tenth on each side. */
const paddedSize = (n: number): number => fastLength(Math.max(8, n * 1.2));

/**
 * Turns a grid into waves (Blakely 1995, 11). Gaps are filled and a plane is taken off first; beyond the rim the grid runs out to the
 * other side in a half wave, so that it closes. The plane is not given back by itself: filters say what becomes of it.
 * @throws RangeError for a grid without any value
 */
export function spectrumOf(r: Raster): { spectrum: Spectrum; plane: (i: number, j: number) => number; slopes: [number, number] } {
	const whole = filledUp(r);
	const { c, a, b } = planeOf(whole, r.nx, r.ny);
	const plane = (i: number, j: number) => c + a * i + b * j;
	const [nx, ny] = [paddedSize(r.nx), paddedSize(r.ny)];
	const re = new Float64Array(nx * ny);
	const im = new Float64Array(nx * ny);
	const [left, low] = [(nx - r.nx) >> 1, (ny - r.ny) >> 1];
	// Every row runs out to its own other end, then every column does.
	const aside = runOut(left, r.nx, nx);
	for (let j = 0; j < r.ny; j++) {
		const row = re.subarray((j + low) * nx, (j + low + 1) * nx);
		for (let i = 0; i < r.nx; i++) row[left + i] = whole[j * r.nx + i]! - plane(i, j);
		for (const { to, parts } of aside) row[to] = parts.reduce((s, [at, w]) => s + w * row[at]!, 0);
	}
	for (const { to, parts } of runOut(low, r.ny, ny)) {
		const out = re.subarray(to * nx, (to + 1) * nx);
		for (const [at, w] of parts) for (let i = 0, p = at * nx; i < nx; i++, p++) out[i] = out[i]! + w * re[p]!;
	}
	fourier(re, im, nx, ny);
	const wave = (n: number, d: number) => (k: number) => (2 * Math.PI * (k <= n / 2 ? k : k - n)) / (n * d);
	const spectrum: Spectrum = {
		nx,
		ny,
		re,
		im,
		kx: wave(nx, r.dx),
		ky: wave(ny, r.dy),
		back() {
			// Real and imaginary parts for each other: that is the way back.
			fourier(im, re, nx, ny);
			const scale = 1 / (nx * ny);
			const out = new Float32Array(r.nx * r.ny);
			for (let j = 0; j < r.ny; j++)
				for (let i = 0; i < r.nx; i++)
					out[j * r.nx + i] = Number.isNaN(r.values[j * r.nx + i]!) ? NaN : scale * re[(j + low) * nx + i + left]!;
			return out;
		}
	};
	return { spectrum, plane, slopes: [a / r.dx, b / r.dy] };
}

/**
 * How a line goes on from both ends so that they meet: both ends turned round a point there, so that the slope goes on, one fading into
 * the other.
 * @returns each place beyond the line, and the places and shares that it is made of
 */
function runOut(from: number, count: number, size: number): { to: number; parts: [number, number][] }[] {
	const room = size - count;
	const at = (k: number) => from + Math.max(0, Math.min(count - 1, k));
	return Array.from({ length: room }, (_, k) => {
		const w = 0.5 - 0.5 * Math.cos((Math.PI * (k + 1)) / (room + 1));
		return {
			to: (from + count + k) % size,
			parts: [
				[at(count - 1), 2 * (1 - w)],
				[at(count - 2 - Math.min(k, count - 2)), w - 1],
				[at(0), 2 * w],
				[at(1 + Math.min(room - 1 - k, count - 2)), -w]
			]
		};
	});
}

/** Values with gaps filled by the mean of what is around, ring by ring. */
function filledUp(r: Raster): Float64Array {
	const out = Float64Array.from(r.values);
	let gaps: number[] = [];
	for (let k = 0; k < out.length; k++) if (!Number.isFinite(out[k]!)) gaps.push(k);
	if (gaps.length === out.length) throw new RangeError('a grid without values has no waves');
	while (gaps.length) {
		const found: [number, number][] = [];
		const left: number[] = [];
		for (const k of gaps) {
			const [i, j] = [k % r.nx, Math.floor(k / r.nx)];
			let [s, n] = [0, 0];
			for (let b = Math.max(0, j - 1); b <= Math.min(r.ny - 1, j + 1); b++)
				for (let a = Math.max(0, i - 1); a <= Math.min(r.nx - 1, i + 1); a++) {
					const v = out[b * r.nx + a]!;
					if (Number.isFinite(v)) [s, n] = [s + v, n + 1];
				}
			if (n) found.push([k, s / n]);
			else left.push(k);
		}
		for (const [k, v] of found) out[k] = v;
		gaps = left;
	}
	return out;
}

/** The plane nearest to all cells, in steps of cells. */
function planeOf(v: Float64Array, nx: number, ny: number): { c: number; a: number; b: number } {
	const [mi, mj] = [(nx - 1) / 2, (ny - 1) / 2];
	let [s, si, sj, ii, jj] = [0, 0, 0, 0, 0];
	for (let j = 0; j < ny; j++)
		for (let i = 0; i < nx; i++) {
			const z = v[j * nx + i]!;
			s += z;
			si += z * (i - mi);
			sj += z * (j - mj);
			ii += (i - mi) ** 2;
			jj += (j - mj) ** 2;
		}
	const [a, b] = [ii > 0 ? si / ii : 0, jj > 0 ? sj / jj : 0];
	return { a, b, c: s / (nx * ny) - a * mi - b * mj };
}

/** Multiplies every wave by a complex number that depends on its wave numbers. */
export function multiply(s: Spectrum, by: (kx: number, ky: number, k: number) => readonly [number, number]): void {
	for (let j = 0, p = 0; j < s.ny; j++)
		for (let i = 0; i < s.nx; i++, p++) {
			const [kx, ky] = [s.kx(i), s.ky(j)];
			const [a, b] = by(kx, ky, Math.sqrt(kx * kx + ky * ky));
			const [u, v] = [s.re[p]!, s.im[p]!];
			s.re[p] = u * a - v * b;
			s.im[p] = u * b + v * a;
		}
}
