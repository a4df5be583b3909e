import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { anglesInCore } from '../holes/oriented-core';
import { pathThrough, positionAt } from '../holes/path';
import type { Raster } from '../grids/raster';
import { clipRaster, coarsen, warpRaster } from '../grids/warp';
import { planeNormal, lineDirection } from '../geometry/angles';
import { placing, placingBack } from '../geometry/coordinates';
import { applySimilarity, fitSimilarity, residuals, similarityParts, type CommonPoint } from '../geometry/similarity';
import { dot } from '../geometry/vector';

describe('a site grid', () => {
	it('is fitted exactly to two points, and by least squares to more', () => {
		fc.assert(
			fc.property(fc.double({ min: -180, max: 180, noNaN: true }), fc.double({ min: 0.5, max: 2, noNaN: true }), (rotation, scale) => {
				const r = (rotation * Math.PI) / 180;
				const map = (x: number, y: number): CommonPoint => [
					x,
					y,
					400_000 + scale * (x * Math.cos(r) - y * Math.sin(r)),
					4_990_000 + scale * (x * Math.sin(r) + y * Math.cos(r))
				];
				for (const points of [
					[map(0, 0), map(500, 20)],
					[map(0, 0), map(500, 20), map(-30, 400)]
				]) {
					const s = fitSimilarity(points);
					expect(similarityParts(s).scale).toBeCloseTo(scale, 9);
					expect(Math.cos(((similarityParts(s).rotation - rotation) * Math.PI) / 180)).toBeCloseTo(1, 9);
					const [x, y] = applySimilarity(s, 123, -45);
					expect(Math.hypot(x - map(123, -45)[2], y - map(123, -45)[3])).toBeLessThan(1e-5);
				}
			})
		);
	});
	it('says how far each point lies off, and refuses one point', () => {
		const off = residuals(
			fitSimilarity([
				[0, 0, 0, 0],
				[100, 0, 100, 0],
				[0, 100, 0, 101]
			]),
			[
				[0, 0, 0, 0],
				[100, 0, 100, 0],
				[0, 100, 0, 101]
			]
		);
		expect(Math.max(...off)).toBeGreaterThan(0.3);
		expect(Math.max(...off)).toBeLessThan(1);
		expect(() =>
			fitSimilarity([
				[1, 1, 2, 2],
				[1, 1, 2, 2]
			])
		).toThrow('two different points');
	});
});

describe('coordinate systems', () => {
	const utm = { from: '+proj=longlat +datum=WGS84 +no_defs', to: '+proj=utm +zone=28 +datum=WGS84 +units=m +no_defs' };
	it('agree with published figures of the UTM grid', () => {
		// On the central meridian easting is 500 000 m; at 45° N the northing is 0.9996 times the meridian arc of 4 984 944.378 m (WGS 84).
		const [x, y] = placing(utm)!(-15, 45);
		expect(x).toBeCloseTo(500_000, 3);
		expect(y).toBeCloseTo(0.9996 * 4_984_944.378, 2);
	});
	it('lead back to where they came from', () => {
		const [forward, back] = [placing(utm)!, placingBack(utm)!];
		const [lon, lat] = back(...forward(-16.2, 45.08));
		expect(lon).toBeCloseTo(-16.2, 9);
		expect(lat).toBeCloseTo(45.08, 9);
		expect(placing({})).toBeNull();
		expect(placing(utm)!(NaN, 1)).toEqual([NaN, NaN]);
	});
});

describe('rasters', () => {
	const plane = (x: number, y: number) => 2 * x - 3 * y + 5;
	const raster: Raster = {
		x0: 10,
		y0: 20,
		dx: 1,
		dy: 1,
		nx: 30,
		ny: 24,
		values: Float32Array.from({ length: 720 }, (_, i) => plane(10 + (i % 30), 20 + Math.floor(i / 30)))
	};
	const check = (r: Raster, at: (x: number, y: number) => number) => {
		let n = 0;
		r.values.forEach((v, i) => {
			if (Number.isNaN(v)) return;
			n++;
			expect(v).toBeCloseTo(at(r.x0 + (i % r.nx) * r.dx, r.y0 + Math.floor(i / r.nx) * r.dy), 2);
		});
		return n;
	};
	it('turned and moved keep their values at their places', () => {
		const s = fitSimilarity([
			[0, 0, 100, 200],
			[10, 0, 108, 206]
		]);
		const [forward, back] = [placing({ site: s })!, placingBack({ site: s })!];
		expect(check(warpRaster(raster, forward, back), (x, y) => plane(...back(x, y)))).toBeGreaterThan(600);
	});
	it('coarsened are means, clipped are parts', () => {
		expect(check(coarsen(raster, 3), plane)).toBe(80);
		const part = clipRaster(raster, [15.5, 25.5, 19.5, 30.5])!;
		expect([part.x0, part.y0, part.nx, part.ny]).toEqual([15, 25, 6, 7]);
		check(part, plane);
		expect(clipRaster(raster, [100, 100, 110, 110])).toBeNull();
	});
});

describe('planes in oriented core', () => {
	it('come out as they went in: alpha and beta made from a known plane and hole', () => {
		fc.assert(
			fc.property(
				fc.double({ min: 1, max: 89, noNaN: true }),
				fc.double({ min: 0, max: 359, noNaN: true }),
				fc.double({ min: 0, max: 359, noNaN: true }),
				fc.double({ min: -88, max: -20, noNaN: true }),
				(dip, dipAzimuth, azimuth, inclination) => {
					const n = planeNormal(dip, dipAzimuth);
					const d = lineDirection(azimuth, inclination);
					const alpha = (Math.asin(Math.min(1, Math.abs(dot(n, d)))) * 180) / Math.PI;
					fc.pre(alpha > 2 && alpha < 88);
					// All betas of this alpha: one of them gives the plane back.
					let best = -1;
					for (let beta = 0; beta < 360; beta += 0.25) {
						const a = anglesInCore(alpha, beta, azimuth, inclination)!;
						best = Math.max(best, Math.abs(dot(planeNormal(a.dip, a.dipAzimuth), n)));
					}
					expect(best).toBeGreaterThan(1 - 1e-4);
				}
			),
			{ numRuns: 40 }
		);
	});
	it('in a hole to the north: what is square to the core dips south, and the bottom line is its lower end', () => {
		expect(anglesInCore(90, 0, 0, -60)).toMatchObject({ dip: expect.closeTo(30, 9), dipAzimuth: expect.closeTo(180, 9) });
		// Horizontal beds in a hole of 60°: alpha 60; the lower end of the ellipse is where the bed runs down the core, on its upper side.
		const flat = anglesInCore(60, 180, 0, -60)!;
		expect(flat.dip).toBeLessThan(1e-6);
		expect(anglesInCore(45, 10, 0, -90)).toBeNull();
	});
});

it('a path through measured points goes through them, at the depths that are stated', () => {
	const path = pathThrough([0, 0, 100], 60, [
		{ at: [0, 0, 80], depth: 20 },
		{ at: [10, 0, 60], depth: 45 }
	]);
	const at = (d: number) => positionAt(path, d).map((v) => Number(v.toFixed(6)));
	expect([at(20), at(45)]).toEqual([
		[0, 0, 80],
		[10, 0, 60]
	]);
	expect(at(10)).toEqual([0, 0, 90]);
	expect(positionAt(path, 60)[2]).toBeLessThan(60);
});
