import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { Feature, MultiLineString } from 'geojson';
import { contourLines } from './contour-lines';
import { distanceTo } from './distance';
import { frameOf } from './frame';
import { calculateGrid, renamedInExpression } from './grid-expression';
import { insideOf } from './mask';
import type { Raster } from './raster';
import { resample, valueAt } from './resample';
import { aspect, curvature, medianOf, shading, slope, smooth, upslopeArea } from './shape';
import { zoneStatistics } from './zones';

const made = (nx: number, ny: number, f: (x: number, y: number) => number, d = 10): Raster => ({
	x0: 1000,
	y0: 2000,
	dx: d,
	dy: d,
	nx,
	ny,
	values: Float32Array.from({ length: nx * ny }, (_, k) => f(1000 + (k % nx) * d, 2000 + Math.floor(k / nx) * d))
});
const tilted = made(9, 7, (x, y) => 0.3 * x - 0.4 * y);

describe('the shape of a grid', () => {
	it('of a plane is its slope everywhere, at the rim, too, the way down, and no curvature', () => {
		for (const v of slope(tilted)) expect(v).toBeCloseTo((Math.atan(0.5) * 180) / Math.PI, 3);
		// It falls to the west and to the north.
		for (const v of aspect(tilted)) expect(v).toBeCloseTo(360 - (Math.atan2(0.3, 0.4) * 180) / Math.PI, 2);
		for (const v of curvature(tilted)) expect(v).toBeCloseTo(0, 4);
		for (const v of shading(tilted, 323.13, 63.43)) expect(v).toBeCloseTo(1, 3);
		expect(aspect(made(3, 3, () => 5)).every(Number.isNaN)).toBe(true);
	});
	it('of a bowl curves upwards as its formula says', () => {
		const bowl = made(11, 11, (x, y) => 0.01 * (x - 1050) ** 2 + 0.02 * (y - 2050) ** 2);
		expect(curvature(bowl)[5 * 11 + 5]).toBeCloseTo(0.06, 4);
	});
	it('means keep a constant, medians throw a spike away, gaps stay gaps', () => {
		const flat = made(9, 9, () => 3);
		flat.values[40] = 100;
		flat.values[0] = NaN;
		expect(medianOf(flat, 15)[40]).toBe(3);
		expect(smooth(flat, 25)[40]).toBeLessThan(40);
		for (const f of [medianOf(flat, 15), smooth(flat, 25), slope(flat)]) expect(f[0]).toBeNaN();
		flat.values[40] = 3;
		for (const v of smooth(flat, 25).subarray(1)) expect(v).toBeCloseTo(3, 5);
	});
	it('all water that falls on a valley leaves through its lowest cell, hollows or not', () => {
		const valley = made(9, 9, (x, y) => Math.abs(x - 1040) + 0.1 * (y - 2000));
		valley.values[4 * 9 + 4] = -50;
		const area = upslopeArea(valley);
		expect(Math.max(...area)).toBe(area[4]!);
		// Its own two rims drain by themselves.
		expect(area[4]).toBeGreaterThan(0.7 * 81 * 100);
		let rim = 0;
		area.forEach((a, k) => {
			if (a === Math.max(...area)) rim = k;
		});
		expect(rim).toBe(4);
	});
	it('on level ground every cell drains somewhere once', () =>
		fc.assert(
			fc.property(fc.array(fc.integer({ min: 0, max: 3 }), { minLength: 36, maxLength: 36 }), (heights) => {
				const r = { ...made(6, 6, () => 0), values: Float32Array.from(heights) };
				const area = upslopeArea(r);
				for (const a of area) expect(a).toBeGreaterThanOrEqual(100);
				// A cell in the middle never keeps its water: what leaves through the rim is at least all of it.
				expect(area.filter((_, k) => k % 6 === 0 || k % 6 === 5 || k < 6 || k >= 30).reduce((a, b) => a + b, 0)).toBeGreaterThanOrEqual(
					3600
				);
			})
		));
});

describe('calculating with grids', () => {
	const terrain = { name: 'Terrain', raster: made(9, 7, (x) => x / 10) };
	const depth = { name: 'Depth to water, May', raster: made(5, 4, () => 4, 20) };
	it('takes grids by their names or plain ones, brings them to one frame, and keeps gaps', () => {
		const plain = calculateGrid('terrain - depth_to_water_may', [terrain, depth], terrain.raster, null);
		expect(plain[0]).toBeCloseTo(96, 4);
		expect([...calculateGrid('[Terrain] - [Depth to water, May]', [terrain, depth], terrain.raster, null)]).toEqual([...plain]);
		const gap = { name: 'Gap', raster: { ...depth.raster, values: depth.raster.values.map((v, k) => (k === 0 ? NaN : v)) } };
		expect(calculateGrid('gap + 1', [gap], terrain.raster, null)[0]).toBeNaN();
		expect(calculateGrid('if(empty(gap), -1, gap)', [gap], terrain.raster, null)[0]).toBe(-1);
	});
	it('has conditions, filters, places and distances', () => {
		expect(calculateGrid('terrain > 102', [terrain], terrain.raster, null).subarray(0, 4)).toEqual(Float32Array.of(0, 0, 0, 1));
		expect(calculateGrid('slope(terrain * 10)', [terrain], terrain.raster, null)[20]).toBeCloseTo(45, 3);
		expect(calculateGrid('x + y', [], terrain.raster, null)[1]).toBe(3010);
		const line = Float64Array.of(1000, 1900, 1000, 2200);
		expect(calculateGrid('distance', [], terrain.raster, line)[3]).toBeCloseTo(30, 4);
	});
	it('follows a grid that is called otherwise, and nothing else', () => {
		const renamed = (e: string) => renamedInExpression(e, 'Water table', 'Water table, 2024');
		expect(renamed('terrain - water_table')).toBe('terrain - water_table_2024');
		expect(renamed("if([Water table] > 5, water_table2, 'water_table')")).toBe("if(water_table_2024 > 5, water_table2, 'water_table')");
		expect(renamedInExpression('slope(slope)', 'slope', '2 m')).toBe('slope([2 m])');
	});
	it('says what is wrong, and what there is', () => {
		expect(() => calculateGrid('terain + 1', [terrain], terrain.raster, null)).toThrow('there is no grid "terain"');
		expect(() => calculateGrid('', [terrain], terrain.raster, null)).toThrow('no expression');
		expect(() => calculateGrid('distance', [terrain], terrain.raster, null)).toThrow('needs lines');
		expect(() => calculateGrid('terrain +', [terrain], terrain.raster, null)).toThrow('can not be read');
		expect(() => calculateGrid("'word'", [terrain], terrain.raster, null)).toThrow('gives text');
		expect(() => calculateGrid('smooth(terrain)', [terrain], terrain.raster, null)).toThrow('takes 2 values');
	});
});

describe('distances', () => {
	it('are those to the nearest segment, asked of all', () =>
		fc.assert(
			fc.property(fc.array(fc.double({ min: 0, max: 100, noNaN: true }), { minLength: 4, maxLength: 80 }), (numbers) => {
				const s = Float64Array.from(numbers.slice(0, numbers.length - (numbers.length % 4)));
				const f = { x0: 3, y0: 4, dx: 17, dy: 13, nx: 6, ny: 7 };
				const got = distanceTo(s, f);
				got.forEach((d, k) => {
					const [x, y] = [f.x0 + (k % 6) * f.dx, f.y0 + Math.floor(k / 6) * f.dy];
					let best = Infinity;
					for (let i = 0; i < s.length; i += 4)
						for (let t = 0; t <= 200; t++)
							best = Math.min(
								best,
								Math.hypot(s[i]! + ((s[i + 2]! - s[i]!) * t) / 200 - x, s[i + 1]! + ((s[i + 3]! - s[i + 1]!) * t) / 200 - y)
							);
					expect(d).toBeLessThanOrEqual(best + 1e-3);
					expect(d).toBeGreaterThan(best - 1);
				});
			}),
			{ numRuns: 30 }
		));
	it('to nothing are none', () => expect(distanceTo(new Float64Array(0), tilted).every(Number.isNaN)).toBe(true));
});

describe('another frame', () => {
	it('straight between cells is exact for a plane, and nothing stands beyond the edge', () => {
		const f = frameOf({ minX: 1005, minY: 2005, maxX: 1200, maxY: 2055 }, 3);
		const r = resample(tilted, f, 'straight');
		r.values.forEach((v, k) => {
			const [x, y] = [f.x0 + (k % f.nx) * f.dx, f.y0 + Math.floor(k / f.nx) * f.dy];
			if (x > 1085 || y > 2065) expect(v).toBeNaN();
			else if (x <= 1080) expect(v).toBeCloseTo(0.3 * x - 0.4 * y, 3);
		});
	});
	it('means of the cells within keep the whole', () => {
		const coarse = resample(tilted, { ...tilted, x0: 1010, y0: 2010, dx: 30, dy: 30, nx: 3, ny: 2 }, 'mean');
		expect(coarse.values[0]).toBeCloseTo(0.3 * 1010 - 0.4 * 2010, 3);
		expect(valueAt(tilted, 999, 2000)).toBeCloseTo(0.3 * 1000 - 0.4 * 2000, 3);
		expect(valueAt(tilted, 990, 2000)).toBeNaN();
	});
});

it('within faces: the even-odd rule, with holes, and closed lines', () => {
	const f = frameOf({ minX: 0, minY: 0, maxX: 10, maxY: 10 }, 1);
	const ring = (a: number, b: number) => [
		[a, a],
		[b, a],
		[b, b],
		[a, b],
		[a, a]
	];
	const face: Feature = { type: 'Feature', properties: {}, geometry: { type: 'Polygon', coordinates: [ring(1, 9), ring(4, 6)] } };
	expect(insideOf([face], f)!.reduce((a, b) => a + b)).toBe(64 - 4);
	const line: Feature = { type: 'Feature', properties: {}, geometry: { type: 'LineString', coordinates: ring(0, 3) } };
	expect(insideOf([line], f)!.reduce((a, b) => a + b)).toBe(9);
	expect(
		insideOf(
			[
				{
					...line,
					geometry: {
						type: 'LineString',
						coordinates: [
							[0, 0],
							[5, 5]
						]
					}
				}
			],
			f
		)
	).toBeNull();
});

describe('contours', () => {
	it('of a plane are straight lines at the values, from edge to edge, and none beside a gap', () => {
		const r = made(21, 21, (x) => x - 1000);
		const lines = contourLines(r, 40, 0);
		expect(lines.map((l) => l.properties!['value'])).toEqual([40, 80, 120, 160, 200]);
		for (const l of lines.slice(0, 4)) {
			const parts = (l.geometry as MultiLineString).coordinates;
			expect(parts).toHaveLength(1);
			for (const [x] of parts[0]!) expect(x! - 1000).toBeCloseTo(l.properties!['value'] as number, 6);
			expect(Math.max(...parts[0]!.map((p) => p[1]!)) - Math.min(...parts[0]!.map((p) => p[1]!))).toBe(200);
		}
		for (let j = 8; j < 12; j++) for (let i = 0; i < 21; i++) r.values[j * 21 + i] = NaN;
		for (const l of contourLines(r, 40, 0).slice(0, 4))
			for (const part of (l.geometry as MultiLineString).coordinates)
				for (const [x, y] of part) {
					expect(x! - 1000).toBeCloseTo(l.properties!['value'] as number, 6);
					expect(y! <= 2071 || y! >= 2119).toBe(true);
				}
	});
	it('of nothing are none', () =>
		expect(
			contourLines(
				made(4, 4, () => NaN),
				1
			)
		).toEqual([]));
});

it('statistics by zone count every cell once', () => {
	const [a, b, c] = zoneStatistics([1, 2, 3, NaN, 10], [0, 0, 1, 1, -1], ['A', 'B', 'C'], 100);
	expect(a).toMatchObject({ zone: 'A', count: 2, area: 200, least: 1, greatest: 2, mean: 1.5, median: 1.5, sum: 3 });
	expect(b).toMatchObject({ count: 1, mean: 3 });
	expect(c).toMatchObject({ count: 0, sum: 0, mean: NaN });
});
