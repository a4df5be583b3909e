import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { frameBox } from './frame';
import { partOf } from './overview';
import type { Raster } from './raster';

const raster = (nx: number, ny: number, of: (i: number, j: number) => number, more: Partial<Raster> = {}): Raster => ({
	x0: 1000,
	y0: 2000,
	dx: 10,
	dy: 5,
	nx,
	ny,
	values: Float32Array.from({ length: nx * ny }, (_, k) => of(k % nx, Math.floor(k / nx))),
	...more
});

describe('part of a grid', () => {
	it('is the grid itself where it is small enough', () => {
		const r = raster(7, 5, (i, j) => i + 10 * j);
		expect(partOf(r, null, 35)).toEqual({ ...r, every: 1 });
	});

	it('has means of cells where they are too many, without those that have no value', () => {
		const r = raster(5, 4, (i, j) => (i < 2 && j < 2 ? NaN : i === 2 && j === 0 ? NaN : i + 10 * j));
		const part = partOf(r, null, 6)!;
		expect(part).toMatchObject({ every: 2, nx: 3, ny: 2, dx: 20, dy: 10, x0: 1005, y0: 2002.5 });
		expect(part.values[0]).toBeNaN();
		expect(part.values[1]).toBeCloseTo((3 + 12 + 13) / 3, 5);
		// The last column is one cell wide.
		expect(part.values[2]).toBeCloseTo((4 + 14) / 2, 5);
	});

	it('is what lies in a rectangle, on cells that those of the whole would have; nothing where it lies elsewhere', () => {
		const r = raster(100, 80, (i, j) => i + 1000 * j);
		const part = partOf(r, { minX: 1195, minY: 2097.5, maxX: 1305, maxY: 2147.5 }, 1e6)!;
		expect(part).toMatchObject({ every: 1, x0: 1200, y0: 2100, nx: 11, ny: 10 });
		expect([part.values[0], part.values.at(-1)]).toEqual([20 + 20_000, 30 + 29_000]);
		expect(partOf(r, { minX: 0, minY: 0, maxX: 900, maxY: 900 }, 100)).toBeNull();
		const wide = partOf(r, { minX: 1195, minY: 2097.5, maxX: 1305, maxY: 2147.5 }, 30)!;
		const whole = partOf(r, null, (100 * 80) / wide.every ** 2 + 1)!;
		expect(whole.every).toBe(wide.every);
		const [u, v] = [(wide.x0 - whole.x0) / whole.dx, (wide.y0 - whole.y0) / whole.dy];
		expect([u, v]).toEqual([Math.round(u), Math.round(v)]);
		expect(wide.values[0]).toBe(whole.values[v * whole.nx + u]);
	});

	it('holds for any grid, also one whose rows run down: within wanted numbers, covering, with the same mean', () => {
		fc.assert(
			fc.property(
				fc.integer({ min: 1, max: 60 }),
				fc.integer({ min: 1, max: 60 }),
				fc.integer({ min: 1, max: 500 }),
				fc.boolean(),
				(nx, ny, most, down) => {
					const r = raster(nx, ny, (i, j) => Math.sin(i * 3.1 + j), down ? { dy: -5 } : {});
					const part = partOf(r, null, most)!;
					expect(part.nx * part.ny).toBeLessThanOrEqual(most + nx + ny + 1);
					const [a, b] = [frameBox(part), frameBox(r)];
					expect(a.minX).toBeLessThanOrEqual(b.minX + 1e-9);
					expect(a.maxX).toBeGreaterThanOrEqual(b.maxX - 1e-9);
					expect(a.maxY).toBeGreaterThanOrEqual(b.maxY - 1e-9);
					const least = Math.min(...r.values);
					for (const v of part.values) expect(v).toBeGreaterThanOrEqual(least - 1e-6);
				}
			)
		);
	});
});
