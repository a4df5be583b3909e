import FFT from 'fft.js';
import { describe, expect, it } from 'vitest';
import { seededRandom } from '../statistics/random';
import { fastLength, fourier } from './fourier-kernel';

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
