import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { p6, STOCK } from '../../bench/grounds';
import { random } from '../../bench/problems';
import { sampled, type Truth } from '../../bench/sampled';
import { buildModel } from './build';
import { fitEllipsoid, normalAt, placesOn, type Ellipsoid } from './ellipsoid';
import { fitGround } from './fit-ground';
import { unitAt } from './walk';

const turned = (angle: number): Ellipsoid => ({
	center: [402_000, 4_992_000, -500],
	axes: [
		[Math.cos(angle), Math.sin(angle), 0],
		[-Math.sin(angle), Math.cos(angle), 0],
		[0, 0, 1]
	],
	radii: [300, 180, 240],
	misfit: 0
});
const valueAt = (e: Ellipsoid, p: { x: number; y: number; z: number }) => {
	const d = [p.x - e.center[0], p.y - e.center[1], p.z - e.center[2]];
	return e.axes.reduce((s, a, k) => s + ((a[0] * d[0]! + a[1] * d[1]! + a[2] * d[2]!) / e.radii[k]!) ** 2, 0);
};
/** Boundary points, two a hole. */
const boundary = (e: Ellipsoid, count: number, off: (i: number) => number = () => 0) =>
	placesOn(e, count).map((p, i) => ({ x: p.x + off(i), y: p.y + off(i + 7), z: p.z + off(i + 13), hole: `H${i >> 1}` }));

describe('the ellipsoid of a body', () => {
	it('is found from points on it, whatever way it lies', () => {
		fc.assert(
			fc.property(fc.double({ min: 0, max: Math.PI, noNaN: true }), fc.integer({ min: 14, max: 60 }), (angle, count) => {
				const e = turned(angle);
				const found = fitEllipsoid(boundary(e, count), [])!;
				[...found.radii].sort((a, b) => a - b).forEach((r, k) => expect(Math.abs(r / [180, 240, 300][k]! - 1)).toBeLessThan(0.03));
				found.center.forEach((v, k) => expect(Math.abs(v - e.center[k]!)).toBeLessThan(3));
				expect(found.misfit).toBeLessThan(12);
			}),
			{ numRuns: 25, seed: 2 }
		);
	});

	it('tells how far the boundary is off, by the points of other holes', () => {
		const r = random(4);
		const noise = Array.from({ length: 200 }, () => 40 * (r() - 0.5));
		const rough = fitEllipsoid(
			boundary(turned(1), 60, (i) => noise[i]!),
			[]
		)!;
		expect(rough.misfit).toBeGreaterThan(6);
		expect(rough.misfit).toBeLessThan(30);
	});

	it('keeps places inside and outside on their sides', () => {
		const e = turned(0.4);
		// Points on the lower half only: how high it is comes from a hole that passes over it.
		const lower = boundary(e, 60).filter((p) => p.z < -520);
		const passing = [{ x: e.center[0], y: e.center[1], z: -255, hole: 'OVER', inside: false }];
		const found = fitEllipsoid(lower, passing)!;
		expect(valueAt(found, passing[0]!)).toBeGreaterThan(0.97);
	});

	it('is none of few points, and a bad one of points in a plane, in a line, or of an open shape', () => {
		expect(fitEllipsoid(boundary(turned(0), 8), [])).toBeNull();
		expect(
			fitEllipsoid(
				Array.from({ length: 20 }, () => ({ x: 5, y: 5, z: 5, hole: 'H' })),
				[]
			)
		).toBeNull();
		const saddle = Array.from({ length: 40 }, (_, i) => {
			const [x, y] = [(i % 7) - 3, Math.floor(i / 7) - 3];
			return { x: 100 * x, y: 100 * y, z: 30 * (x * x - y * y), hole: `H${i}` };
		});
		const grid = saddle.map((p) => ({ ...p, z: 7 }));
		const line = saddle.map((p, i) => ({ ...p, x: i, y: 2 * i, z: 3 * i }));
		for (const points of [saddle, grid, line]) {
			const found = fitEllipsoid(points, []);
			if (found) expect(found.misfit).toBeGreaterThan(0.12 * Math.cbrt(found.radii[0] * found.radii[1] * found.radii[2]));
		}
	});

	it('has normals that point away from it, and places all over it', () => {
		const e = turned(0.7);
		const places = placesOn(e, 200);
		let sum = [0, 0, 0];
		for (const p of places) {
			expect(valueAt(e, p)).toBeCloseTo(1, 9);
			const n = normalAt(e, p);
			expect(Math.hypot(...n)).toBeCloseTo(1, 9);
			expect(valueAt(e, { x: p.x + n[0], y: p.y + n[1], z: p.z + n[2] })).toBeGreaterThan(1);
			sum = [sum[0]! + p.x - e.center[0], sum[1]! + p.y - e.center[1], sum[2]! + p.z - e.center[2]];
		}
		expect(Math.hypot(...sum) / 200).toBeLessThan(2);
	});
});

describe('a stock met by some holes', () => {
	/** Share of the body's volume that is misplaced, and its volume against the true one. */
	async function errorsOf(
		seed: number,
		inside: (x: number, y: number, z: number) => boolean
	): Promise<{ misplaced: number; volume: number }> {
		const b = p6(seed);
		const t: Truth = {
			...b,
			column: [
				['stock', 'intrusive'],
				['host', 'conformable'],
				['floor', 'conformable']
			],
			unitAt: (x, y, z) => (inside(x, y, z) ? 0 : z > -900 ? 1 : 2),
			layering: { ...b.layering!, places: [] }
		};
		const ground = fitGround(sampled(t));
		const at = unitAt(ground);
		const r = random(seed);
		let [wrong, own] = [0, 0];
		for (let i = 0; i < 6000; i++) {
			const p = [400 + 1200 * r(), 400 + 1200 * r(), -950 * r()] as const;
			if (inside(...p)) own++;
			if ((at(...p) === 0) !== inside(...p)) wrong++;
		}
		const { mesh } = await buildModel(ground, { spacing: 100 });
		return { misplaced: wrong / own, volume: mesh.volumes.get(0)! / ((own / 6000) * 1200 * 1200 * 950) };
	}
	const [cx, cy, cz] = STOCK.center;
	const [rx, ry, rz] = STOCK.radii;

	it.each([82, 235, 354])('that is an ellipsoid comes out as one, wherever the holes are (%i)', async (seed) => {
		const { misplaced, volume } = await errorsOf(seed, (x, y, z) => ((x - cx) / rx) ** 2 + ((y - cy) / ry) ** 2 + ((z - cz) / rz) ** 2 < 1);
		expect(misplaced).toBeLessThan(0.03);
		expect(Math.abs(volume - 1)).toBeLessThan(0.05);
	});

	it('that is another shape is not forced to be one', async () => {
		const lobes = (x: number, y: number, z: number) => {
			const d = [x - cx, y - cy, z - cz] as const;
			const r = Math.hypot(...d);
			return r < 350 * (1 + 0.3 * Math.cos(3 * Math.atan2(d[1], d[0])) * (1 - (d[2] / (r + 1e-9)) ** 2));
		};
		expect((await errorsOf(48, lobes)).misplaced).toBeLessThan(0.4);
	});
});
