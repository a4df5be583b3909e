import FFT from 'fft.js';
import { describe, expect, it } from 'vitest';
import { Barriers } from '../grids/barriers';
import { plainGridding, readingsOfFunction } from '../grids/for-tests';
import { gridRows } from '../grids/gridding';
import { inverseDistance } from '../grids/methods/inverse-distance';
import { seededRandom } from '../statistics/random';
import { fastLength, fourier } from './fourier-kernel';

const surface = (x: number, y: number) => 40 * Math.sin(x / 170) + 30 * Math.cos(y / 130);

describe('the Fourier kernel', () => {
	const numbers = (n: number, seed: number) => {
		const { normal } = seededRandom(seed);
		return Float64Array.from({ length: n }, normal);
	};

	it.each([1, 2, 3, 4, 5, 6, 8, 9, 10, 12, 15, 16, 25, 27, 30, 60, 120])('is the sum that it stands for: %d numbers', (n) => {
		const [re, im] = [numbers(n, n), numbers(n, n + 99)];
		const [a, b] = [re.slice(), im.slice()];
		fourier(a, b, n, 1);
		for (let k = 0; k < n; k++) {
			let [x, y] = [0, 0];
			for (let j = 0; j < n; j++) {
				const [c, s] = [Math.cos((2 * Math.PI * j * k) / n), -Math.sin((2 * Math.PI * j * k) / n)];
				x += re[j]! * c - im[j]! * s;
				y += re[j]! * s + im[j]! * c;
			}
			expect(a[k]).toBeCloseTo(x, 10);
			expect(b[k]).toBeCloseTo(y, 10);
		}
	});

	it('agrees with a kept library where the length is a power of two', () => {
		const n = 1024;
		const [re, im] = [numbers(n, 1), numbers(n, 2)];
		const fft = new FFT(n);
		const given = Array.from({ length: 2 * n }, (_, k) => (k % 2 ? im : re)[k >> 1]!);
		const out = fft.createComplexArray();
		fft.transform(out, given);
		fourier(re, im, 1, n);
		for (let k = 0; k < n; k++) {
			expect(re[k]).toBeCloseTo(out[2 * k]!, 10);
			expect(im[k]).toBeCloseTo(out[2 * k + 1]!, 10);
		}
	});

	it.each([
		[12, 45],
		[9, 7],
		[25, 1],
		[250, 243]
	])('takes a grid of %d × %d there and back, with lengths that are odd, too', (w, h) => {
		const [nx, ny] = [fastLength(w), fastLength(h)];
		const [re, im] = [numbers(nx * ny, 5), numbers(nx * ny, 6)];
		const [a, b] = [re.slice(), im.slice()];
		fourier(a, b, nx, ny);
		// Parseval: the squares keep their sum.
		const squares = (v: Float64Array, u: Float64Array) => v.reduce((s, x, k) => s + x * x + u[k]! * u[k]!, 0);
		expect(squares(a, b) / (nx * ny) / squares(re, im)).toBeCloseTo(1, 12);
		fourier(b, a, nx, ny);
		for (let k = 0; k < nx * ny; k += 7) expect(a[k]! / (nx * ny)).toBeCloseTo(re[k]!, 11);
	});

	it('tells which lengths it knows', () => {
		expect([1, 7, 11, 13, 17, 2400, 2401, 4097].map(fastLength)).toEqual([1, 8, 12, 15, 18, 2400, 2430, 4320]);
		expect(() => fourier(new Float64Array(7), new Float64Array(7), 7, 1)).toThrow('7 is no product');
	});
});

describe('the inverse distance kernel', () => {
	const points = readingsOfFunction(57, 3, surface);
	const search = { most: 57, least: 1, radius: 0, sectors: 1 as const };

	it.each([1, 2, 3, 4])('gives the same bits as the plain loop, for power %d, smoothed and not', (power) => {
		for (const smoothing of [0, 12.5])
			for (const count of [1, 2, 3, 4, 5, 101]) {
				const g = inverseDistance({ points, barriers: new Barriers(new Float64Array(0)) }, { ...search, power, smoothing });
				const out = new Float32Array(count);
				g.row!(points.y[3]!, points.x[3]!, 9.7, out);
				expect([...out]).toEqual(Array.from(out, (_, i) => Math.fround(g.at(points.x[3]! + i * 9.7, points.y[3]!))));
				// The first cell lies at a reading.
				if (!smoothing) expect(out[0]).toBe(Math.fround(points.value[3]!));
			}
	});

	it('is not asked for powers it does not know, nor where a limit leaves readings out', () => {
		const with_ = (more: object) =>
			inverseDistance({ points, barriers: new Barriers(new Float64Array(0)) }, { ...search, power: 2, smoothing: 0, ...more }).row;
		expect(with_({})).toBeDefined();
		for (const more of [{ power: 2.5 }, { radius: 100 }, { most: 12 }, { sectors: 4 }]) expect(with_(more)).toBeUndefined();
	});

	it('takes rows that run down or to the left', () => {
		const frame = { x0: 400_900, y0: 4_990_800, dx: -10, dy: -7, nx: 33, ny: 9 };
		const task = {
			gridding: plainGridding({ method: 'inverse-distance', most: 0 }),
			input: { points, barriers: new Float64Array(0) },
			frame
		};
		const all = gridRows({ ...task, from: 0, to: 9 });
		expect([...gridRows({ ...task, from: 4, to: 5 })]).toEqual([...all.subarray(4 * 33, 5 * 33)]);
		const plain = inverseDistance({ points, barriers: new Barriers(new Float64Array(0)) }, { ...search, power: 2, smoothing: 0 });
		expect(all[5 * 33 + 8]).toBe(Math.fround(plain.at(400_900 - 80, 4_990_800 - 35)));
	});
});
