import { describe, expect, it } from 'vitest';
import { insideCoverage } from './coverage';
import type { Raster } from './raster';

const raster = (nx: number, ny: number, hasValue: (i: number, j: number) => boolean, dx = 10, dy = 10): Raster => ({
	x0: 1000,
	y0: 2000,
	dx,
	dy,
	nx,
	ny,
	values: Float32Array.from({ length: nx * ny }, (_, k) => (hasValue(k % nx, Math.floor(k / nx)) ? 5 : NaN))
});

describe('what a raster covers', () => {
	it('without gaps is its rectangle, to a corner by the straight line', () => {
		const inside = insideCoverage(raster(11, 6, () => true));
		expect([inside(1050, 2025), inside(1003, 2025), inside(1000, 2010)]).toEqual([25, 3, 0]);
		expect(inside(990, 2020)).toBe(-10);
		expect(inside(1103, 2054)).toBeCloseTo(-5, 9);
	});
	it('ends halfway to a node without a value', () => {
		const inside = insideCoverage(raster(21, 21, (i) => i < 10));
		expect(inside(1095, 2100)).toBeCloseTo(0, 5);
		expect(inside(1080, 2100)).toBeCloseTo(15, 5);
		expect(inside(1130, 2100)).toBeLessThan(-30);
	});
	it('has the distances of brute force, whatever the gaps and the shape of the cells', () => {
		let s = 11;
		const random = () => (s = (s * 48_271) % 2_147_483_647) / 2_147_483_647;
		for (let round = 0; round < 20; round++) {
			const [nx, ny, dx, dy] = [3 + Math.floor(random() * 12), 3 + Math.floor(random() * 12), 3 + random() * 20, 3 + random() * 20];
			const known = Array.from({ length: nx * ny }, () => random() > 0.3);
			if (!known.includes(true) || !known.includes(false)) continue;
			const r = raster(nx, ny, (i, j) => known[j * nx + i]!, dx, dy);
			const inside = insideCoverage(r);
			const half = Math.min(dx, dy) / 2;
			for (let j = 1; j < ny - 1; j++)
				for (let i = 1; i < nx - 1; i++) {
					const own = known[j * nx + i]!;
					let best = Infinity;
					known.forEach((k, n) => {
						if (k !== own) best = Math.min(best, Math.hypot(((n % nx) - i) * dx, (Math.floor(n / nx) - j) * dy));
					});
					const edge = Math.min(i * dx, (nx - 1 - i) * dx, j * dy, (ny - 1 - j) * dy);
					expect(inside(r.x0 + i * dx, r.y0 + j * dy)).toBeCloseTo(Math.min(edge, own ? best - half : half - best), 3);
				}
		}
	});
	it('is nothing of a raster without any value', () => {
		const inside = insideCoverage(raster(5, 5, () => false));
		for (const [x, y] of [[1020, 2020], [1000, 2000], [0, 0]] as const) expect(inside(x, y)).toBeLessThan(0); // prettier-ignore
	});
});
