import { describe, expect, it } from 'vitest';
import { pictureTransform } from './placed-picture';

describe('a picture on the map', () => {
	it.each([0, 30, 117, -75])('turned by %s° lies where its placement says', (degrees) => {
		const [cos, sin] = [Math.cos((degrees * Math.PI) / 180), Math.sin((degrees * Math.PI) / 180)];
		const p = { a: 2 * cos, b: 3 * sin, c: 1000, d: 2 * sin, e: -3 * cos, f: 2000 };
		const extent = [700, 1500, 1500, 2600];
		const scale = 0.5;
		const [a, b, c, d, e, f] = pictureTransform(p, extent, scale);
		for (const [column, row] of [
			[0, 0],
			[10, 0],
			[0, 7],
			[31, 16]
		] as const) {
			// The centre of a pixel is half a pixel in from its corner.
			const [i, j] = [column + 0.5, row + 0.5];
			const east = extent[0]! + (a * i + c * j + e) / scale;
			const north = extent[3]! - (b * i + d * j + f) / scale;
			expect(east).toBeCloseTo(p.a * column + p.b * row + p.c, 8);
			expect(north).toBeCloseTo(p.d * column + p.e * row + p.f, 8);
		}
	});
});
