import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { rasterCovers, rasterRange, sampleRaster, type Raster } from './raster';
import { clipRaster, coarsen, warpRaster } from './warp';

const make = (nx: number, ny: number, at: (i: number, j: number) => number, where: Partial<Raster> = {}): Raster => ({
	x0: 0,
	y0: 0,
	dx: 1,
	dy: 1,
	...where,
	nx,
	ny,
	values: Float32Array.from({ length: nx * ny }, (_, k) => at(k % nx, Math.floor(k / nx)))
});

describe('the value at a place', () => {
	it('is exact for any bilinear surface, wherever the grid lies and however large its cells', () => {
		fc.assert(
			fc.property(
				fc.array(fc.integer({ min: -50, max: 50 }), { minLength: 4, maxLength: 4 }),
				fc.constantFrom(0.5, 1, 30),
				fc.constantFrom(0.25, 2, 90),
				fc.double({ min: 0, max: 1, noNaN: true }),
				fc.double({ min: 0, max: 1, noNaN: true }),
				([a, b, c, d], dx, dy, u, v) => {
					const f = (x: number, y: number) => a! + b! * x + c! * y + d! * x * y;
					const r = make(6, 5, f, { x0: 4000, y0: -700, dx, dy });
					expect(sampleRaster(r, 4000 + 5 * u * dx, -700 + 4 * v * dy)).toBeCloseTo(f(5 * u, 4 * v), 6);
				}
			)
		);
	});
	it('never leaves the range of the grid', () => {
		fc.assert(
			fc.property(
				fc.array(fc.integer({ min: -9, max: 9 }), { minLength: 12, maxLength: 12 }),
				fc.double({ min: -20, max: 20, noNaN: true }),
				fc.double({ min: -20, max: 20, noNaN: true }),
				(v, x, y) => {
					const r = make(4, 3, (i, j) => v[4 * j + i]!);
					const { min, max } = rasterRange(r);
					expect(sampleRaster(r, x, y)).toBeGreaterThanOrEqual(min - 1e-9);
					expect(sampleRaster(r, x, y)).toBeLessThanOrEqual(max + 1e-9);
				}
			)
		);
	});
	it('outside is that of the edge', () => {
		const r = make(3, 3, (i, j) => 10 * j + i);
		expect([sampleRaster(r, -5, -5), sampleRaster(r, 9, 1), sampleRaster(r, 1, 99)]).toEqual([0, 12, 21]);
	});
	it('beside a gap is that of the nearest cell with one, and on a node of its own it does not see the gap', () => {
		const r = make(4, 4, (i, j) => (i === 1 && j === 1 ? NaN : 10 * j + i));
		expect(sampleRaster(r, 2, 1)).toBe(12);
		expect(sampleRaster(r, 1.9, 1.1)).toBe(12);
		expect([1, 10, 12, 21]).toContain(sampleRaster(r, 1, 1));
	});
	it('of a grid of gaps is none', () =>
		expect(
			sampleRaster(
				make(3, 3, () => NaN),
				1,
				1
			)
		).toBeNaN());
	it('is covered inside the outermost nodes and not on a gap', () => {
		const r = make(3, 3, (i, j) => (i === 2 && j === 2 ? NaN : 1));
		expect([
			rasterCovers(r, 0, 0),
			rasterCovers(r, 2, 0),
			rasterCovers(r, 2.01, 0),
			rasterCovers(r, -0.01, 1),
			rasterCovers(r, 2, 2),
			rasterCovers(r, 1.4, 1.4)
		]).toEqual([true, true, false, false, false, true]);
	});
	it('the range leaves gaps out and counts them', () => {
		expect(rasterRange(make(2, 2, (i, j) => (i + j === 2 ? NaN : i - j)))).toEqual({ min: -1, max: 1, missing: 1 });
		expect(rasterRange(make(2, 2, () => NaN))).toMatchObject({ missing: 4 });
	});
});

describe('a coarser grid', () => {
	it('keeps the mean of what its cells stand for', () => {
		const r = make(12, 8, (i, j) => Math.sin(i) * 30 + j * j);
		const mean = (x: Raster) => x.values.reduce((s, v) => s + v, 0) / x.values.length;
		for (const step of [1, 2, 4]) expect(mean(coarsen(r, step))).toBeCloseTo(mean(r), 3);
	});
	it('takes what is there where a part is missing, and is a gap where all is', () => {
		const r = make(4, 4, (i, j) => (i < 2 && j < 2 ? NaN : i === 3 && j === 3 ? NaN : 5));
		expect([...coarsen(r, 2).values]).toEqual([NaN, 5, 5, 5]);
	});
	it('stands in the middle of what it stands for', () => {
		expect(
			coarsen(
				make(9, 9, () => 1, { x0: 100, dx: 10, dy: 10 }),
				3
			)
		).toMatchObject({ x0: 110, y0: 10, dx: 30, dy: 30, nx: 3, ny: 3 });
	});
});

describe('a part of a grid', () => {
	const r = make(10, 8, (i, j) => 100 * j + i, { x0: 50, y0: 20, dx: 5, dy: 2 });
	it('has the same value at the same place', () => {
		fc.assert(
			fc.property(
				fc.double({ min: 40, max: 100, noNaN: true }),
				fc.double({ min: 15, max: 40, noNaN: true }),
				fc.double({ min: 5, max: 40, noNaN: true }),
				fc.double({ min: 3, max: 15, noNaN: true }),
				(x, y, w, h) => {
					const part = clipRaster(r, [x, y, x + w, y + h]);
					if (!part) return;
					for (let j = 0; j < part.ny; j++)
						for (let i = 0; i < part.nx; i++)
							expect(part.values[j * part.nx + i]).toBe(sampleRaster(r, part.x0 + i * part.dx, part.y0 + j * part.dy));
					// It reaches at least over what was asked for, as far as there is something.
					expect(part.x0).toBeLessThanOrEqual(Math.max(x, r.x0));
					expect(part.x0 + (part.nx - 1) * part.dx).toBeGreaterThanOrEqual(Math.min(x + w, 95) - 1e-9);
				}
			)
		);
	});
	it('is the whole for a larger box, and none beside it', () => {
		expect(clipRaster(r, [0, 0, 1000, 1000])).toEqual(r);
		expect(clipRaster(r, [0, 0, 40, 10])).toBeNull();
		expect(clipRaster(r, [200, 0, 300, 10])).toBeNull();
	});
});

describe('a grid in another plane', () => {
	it('that is only moved keeps its size and its values', () => {
		const r = make(7, 5, (i, j) => i * i - j);
		const moved = warpRaster(
			r,
			(x, y) => [x + 1000, y - 300],
			(x, y) => [x - 1000, y + 300]
		);
		expect(moved).toMatchObject({ x0: 1000, y0: -300, dx: 1, nx: 7, ny: 5 });
		moved.values.forEach((v, k) => expect(v).toBeCloseTo(r.values[k]!, 4));
	});
	it('that is scaled has cells of the new size', () => {
		const warped = warpRaster(
			make(7, 5, () => 3),
			(x, y) => [2 * x, 2 * y],
			(x, y) => [x / 2, y / 2]
		);
		expect(warped.dx).toBeCloseTo(2, 9);
		expect([warped.nx, warped.ny]).toEqual([7, 5]);
	});
	it('that is turned has gaps at the corners of its box, and gaps stay gaps', () => {
		const s = Math.SQRT1_2;
		const turned = warpRaster(
			make(21, 21, (i, j) => (i === 10 && j === 10 ? NaN : 7)),
			(x, y) => [s * (x - y), s * (x + y)],
			(x, y) => [s * (x + y), s * (y - x)]
		);
		expect(turned.values[0]).toBeNaN();
		const centre = Math.round((turned.ny - 1) / 2) * turned.nx + Math.round((turned.nx - 1) / 2);
		expect(turned.values[centre]).toBeNaN();
		expect([...turned.values].filter((v) => v === 7).length).toBeGreaterThan(350);
	});
});
