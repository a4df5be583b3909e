import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { Barriers } from './barriers';
import { crossValidate } from './cross-validation';
import { frameOf, quarterOf, sameFrame, type Frame } from './frame';
import { plainGridding, readingsOfFunction } from './for-tests';
import { grid, gridder, METHODS, type Gridding, type Method } from './gridding';
import { nearestPolygons } from './methods/nearest';
import { gatherPoints, type Points } from './points';
import { sampleRaster } from './raster';

const FRAME: Frame = frameOf({ minX: 400_000, minY: 4_990_000, maxX: 401_000, maxY: 4_991_000 }, 20);
const none = new Float64Array(0);
const all = Object.keys(METHODS) as Method[];
const through: Method[] = ['inverse-distance', 'nearest', 'linear', 'natural-neighbour', 'kriging', 'kriging-trend'];
const at = (f: Frame, k: number): [number, number] => [f.x0 + (k % f.nx) * f.dx, f.y0 + Math.floor(k / f.nx) * f.dy];
const own = (points: Points, barriers = none) => ({ points, barriers });

/** Greatest difference of a grid from a function, over cells that have a value, and how many there are. */
function differences(values: Float32Array, f: (x: number, y: number) => number): { most: number; known: number } {
	let [most, known] = [0, 0];
	values.forEach((v, k) => {
		if (Number.isNaN(v)) return;
		known++;
		const [x, y] = at(FRAME, k);
		most = Math.max(most, Math.abs(v - f(x - 400_000, y - 4_990_000)));
	});
	return { most, known };
}

describe('readings of a plane', () => {
	const plane = (x: number, y: number) => 250 + 0.03 * x - 0.07 * y;
	const points = readingsOfFunction(150, 3, plane);
	it.each(['linear', 'natural-neighbour'] as const)('come back exactly by %s', async (method) => {
		const { raster } = await grid(plainGridding({ method }), own(points), FRAME);
		const { most, known } = differences(raster.values, plane);
		expect(most).toBeLessThan(1e-4);
		expect(known).toBeGreaterThan(2000);
	});
	it('come back by minimum curvature without tension, beyond the readings, too', async () => {
		const { raster, misfit } = await grid(plainGridding({ method: 'minimum-curvature' }), own(points), FRAME);
		expect(differences(raster.values, plane)).toEqual({ most: expect.closeTo(0, 1), known: raster.values.length });
		expect(misfit).toBeLessThan(0.01);
	});
	it('come back by kriging with a plane, whatever the variogram', async () => {
		for (const shape of ['spherical', 'exponential', 'gaussian'] as const) {
			const g = plainGridding({ method: 'kriging-trend', most: 24, variogram: 'typed', shape, sill: 4, range: 300 });
			expect(differences((await grid(g, own(points), FRAME)).raster.values, plane).most).toBeLessThan(1e-3);
		}
	});
	it('come back by a polynomial of any degree that holds them', async () => {
		for (const degree of [1, 2, 4])
			expect(
				differences((await grid(plainGridding({ method: 'trend', degree }), own(points), FRAME)).raster.values, plane).most
			).toBeLessThan(1e-3);
	});
});

it('a second-degree surface comes back by kriging with a second-degree trend and by its polynomial', async () => {
	const f = (x: number, y: number) => 1e-4 * x * x - 2e-4 * x * y + 3;
	const points = readingsOfFunction(200, 5, f);
	const kriging = plainGridding({ method: 'kriging-trend', drift: 'quadratic', most: 30, variogram: 'typed', sill: 100, range: 400 });
	expect(differences((await grid(kriging, own(points), FRAME)).raster.values, f).most).toBeLessThan(1e-2);
	expect(differences((await grid(plainGridding({ method: 'trend', degree: 2 }), own(points), FRAME)).raster.values, f).most).toBeLessThan(
		1e-3
	);
});

it('kriging along a grid gives back what follows that grid', () => {
	const along = { ...FRAME, values: Float32Array.from({ length: FRAME.nx * FRAME.ny }, (_, k) => Math.sin(k / 7) * 20 + (k % 50)) };
	// At nodes, where the grid is what it is.
	const nodes = Array.from({ length: 40 }, (_, i) => (i * 619 + 31) % along.values.length);
	const points = gatherPoints(
		nodes.map((k) => at(FRAME, k)[0]),
		nodes.map((k) => at(FRAME, k)[1]),
		nodes.map((k) => 5 - 0.5 * along.values[k]!),
		null
	).points;
	const g = gridder(plainGridding({ method: 'kriging-drift', most: 20, variogram: 'typed', range: 300 }), { ...own(points), along })!;
	for (const k of [77, 500, 1234]) expect(g.at(...at(FRAME, k))).toBeCloseTo(5 - 0.5 * along.values[k]!, 3);
});

describe('any readings', () => {
	const f = (x: number, y: number) => 40 * Math.sin(x / 170) + 30 * Math.cos(y / 130);
	const points = readingsOfFunction(120, 9, f);
	it.each(through)('%s passes through them', (method) => {
		const g = gridder(plainGridding({ method, most: 20, variogram: 'typed', range: 400, sill: 900 }), own(points))!;
		for (const i of [0, 17, 63, 119]) expect(g.at(points.x[i]!, points.y[i]!)).toBeCloseTo(points.value[i]!, 3);
	});
	it('minimum curvature misses them by little, with any tension', async () => {
		for (const tension of [0, 0.3, 0.9])
			expect((await grid(plainGridding({ method: 'minimum-curvature', tension }), own(points), FRAME)).misfit).toBeLessThan(1);
	});
	it('means lie between the least and the greatest', async () => {
		for (const method of ['inverse-distance', 'nearest', 'linear', 'natural-neighbour'] as const) {
			const { raster } = await grid(plainGridding({ method, beyond: 'nearest' }), own(points), FRAME);
			const [least, greatest] = [Math.min(...points.value), Math.max(...points.value)];
			for (const v of raster.values) expect(v >= least - 1e-4 && v <= greatest + 1e-4).toBe(true);
		}
	});
	it('sectors and a radius choose the readings; too few give no value', () => {
		const cross = gatherPoints([0, 1, 2, 3, -10], [0, 0, 0, 0, 0], [1, 2, 3, 4, 100], null).points;
		const plain = gridder(plainGridding({ most: 4 }), own(cross))!.at(0.5, 0);
		const parted = gridder(plainGridding({ most: 4, sectors: '4' }), own(cross))!.at(0.5, 0);
		expect(parted).toBeGreaterThan(plain - 5);
		expect(parted).not.toBeCloseTo(plain, 6);
		expect(gridder(plainGridding({ radius: 2, least: 4 }), own(cross))!.at(0.5, 0)).toBeNaN();
		expect(gridder(plainGridding({ radius: 2, least: 3 }), own(cross))!.at(0.5, 0)).toBeGreaterThan(1);
	});
	it('weights of kriging add up to 1: a constant comes back', () =>
		fc.assert(
			fc.property(fc.double({ min: -1e4, max: 1e4, noNaN: true }), fc.integer({ min: 1, max: 40 }), (constant, most) => {
				const p = { ...points, value: points.value.map(() => constant) };
				const g = gridder(plainGridding({ method: 'kriging', most, variogram: 'typed', nugget: 0.1 }), own(p))!;
				expect(g.at(400_333, 4_990_555)).toBeCloseTo(constant, 5);
			}),
			{ numRuns: 30 }
		));
	it('what kriging says of its error is true: errors left out have the variance that it tells', () => {
		const g = plainGridding({ method: 'kriging', most: 24 });
		const v = crossValidate(g, own(points), 0);
		expect(v.count).toBe(120);
		expect(v.correlation).toBeGreaterThan(0.9);
		expect(Math.abs(v.meanError)).toBeLessThan(3);
	});
	it('the chance of being above a value lies between 0 and 1 and follows it', async () => {
		const { raster } = await grid(plainGridding({ method: 'kriging-indicator', above: 0, most: 20 }), own(points), FRAME);
		for (const p of raster.values) expect(p >= 0 && p <= 1).toBe(true);
		const right = raster.values.filter((p, k) => p > 0.5 === f(at(FRAME, k)[0] - 400_000, at(FRAME, k)[1] - 4_990_000) > 0);
		expect(right.length / raster.values.length).toBeGreaterThan(0.85);
	});
	it('the ground nearest to each covers a rectangle once', () => {
		const faces = nearestPolygons(points, { minX: 400_000, minY: 4_990_000, maxX: 401_000, maxY: 4_991_000 });
		expect(faces).toHaveLength(120);
		const area = (ring: number[][]) =>
			Math.abs(
				ring.reduce((s, [x, y], i) => s + (i ? (ring[i - 1]![0]! - 4e5) * (y! - 4.99e6) - (x! - 4e5) * (ring[i - 1]![1]! - 4.99e6) : 0), 0)
			) / 2;
		const sum = faces.reduce((s, p) => s + area((p.geometry as { coordinates: number[][][] }).coordinates[0]!), 0);
		expect(sum).toBeCloseTo(1e6, 0);
	});
});

describe('nothing leaks across a barrier', () => {
	// Two sides of a wall at x = 500 that is longer than the ground.
	const points = readingsOfFunction(160, 21, (x) => (x < 500 ? 10 : 90));
	const wall = Float64Array.of(400_500, 4_980_000, 400_500, 5_000_000);
	it.each(all.filter((m) => m !== 'trend' && m !== 'kriging-drift'))('%s', async (method) => {
		const g = plainGridding({ method, beyond: 'nearest', most: 16, above: 50, variogram: 'typed', sill: 100, range: 400 });
		const { raster } = await grid(g, own(points, wall), FRAME);
		const scale = method === 'kriging-indicator' ? [0, 1] : [10, 90];
		raster.values.forEach((v, k) => {
			const x = at(FRAME, k)[0] - 400_000;
			if (Math.abs(x - 500) < 1e-6) return;
			expect(Math.abs(v - scale[x < 500 ? 0 : 1]!)).toBeLessThan(method === 'minimum-curvature' ? 0.5 : 1e-3);
		});
	});
	it('a way that passes an end of it is free', () => {
		const b = new Barriers(Float64Array.of(0, 0, 0, 10));
		expect([b.between(-1, 5, 1, 5), b.between(-1, 11, 1, 11), b.between(-2, 5, -1, 5)]).toEqual([true, false, false]);
		// A place on it is on one side.
		expect(b.between(0, 5, 4, 5)).not.toBe(b.between(-4, 5, 0, 5));
	});
});

describe('a direction that reaches farther', () => {
	// Ridges that run to 30°, read on few lines across them.
	const [sin, cos] = [Math.sin(Math.PI / 6), Math.cos(Math.PI / 6)];
	const ridges = (x: number, y: number) => 10 * Math.sin((x * cos - y * sin) / 40);
	const points = readingsOfFunction(300, 5, ridges);
	const rms = async (method: Method, more: Partial<Gridding>) => {
		const frame = frameOf({ minX: 400_100, minY: 4_990_100, maxX: 400_900, maxY: 4_990_900 }, 20);
		const { raster } = await grid(plainGridding({ method, most: 24, beyond: 'nearest', ...more }), own(points), frame);
		let s = 0;
		raster.values.forEach((v, k) => {
			const [x, y] = [frame.x0 + (k % frame.nx) * 20 - 400_000, frame.y0 + Math.floor(k / frame.nx) * 20 - 4_990_000];
			s += (v - ridges(x, y)) ** 2;
		});
		return Math.sqrt(s / raster.values.length);
	};
	it.each(['inverse-distance', 'linear', 'natural-neighbour', 'kriging'] as const)(
		'finds again by %s what runs on that way',
		async (method) => {
			const [plain, right, wrong] = [
				await rms(method, {}),
				await rms(method, { stretch: 5, azimuth: 30 }),
				await rms(method, { stretch: 5, azimuth: 120 })
			];
			expect(right).toBeLessThan(0.75 * plain);
			expect(wrong).toBeGreaterThan(plain);
			// There and back is one direction.
			expect(await rms(method, { stretch: 5, azimuth: 210 })).toBeCloseTo(right, 6);
		}
	);

	it('is the same as a map that was made shorter by hand, with barriers and a grid that the mean follows', () => {
		const along = {
			x0: 399_000,
			y0: 4_989_000,
			dx: 100,
			dy: 100,
			nx: 31,
			ny: 31,
			values: Float32Array.from({ length: 961 }, (_, k) => (k % 31) + Math.floor(k / 31) ** 2)
		};
		const north = { stretch: 4, azimuth: 0, method: 'kriging-drift' as const, variogram: 'typed' as const, most: 20, range: 300 };
		const short = (y: number) => middle + (y - middle) / 4;
		const middle = points.y.reduce((s, y) => s + y / points.y.length, 0);
		const barrier = Float64Array.of(400_500, 4_990_000, 400_500, 4_990_400);
		const a = gridder(plainGridding(north), { points, barriers: barrier, along })!;
		const b = gridder(plainGridding({ ...north, stretch: 1, method: 'kriging' }), {
			points: { ...points, y: points.y.map(short) },
			barriers: barrier.map((v, k) => (k % 2 ? short(v) : v))
		})!;
		const flatly = gridder(plainGridding({ ...north, method: 'kriging' }), { points, barriers: barrier })!;
		for (const [x, y] of [
			[400_480, 4_990_200],
			[400_520, 4_990_200],
			[400_700, 4_990_800]
		] as const) {
			expect(flatly.at(x, y)).toBeCloseTo(b.at(x, short(y)), 6);
			expect(flatly.varianceAt!(x, y)).toBeCloseTo(b.varianceAt!(x, short(y)), 6);
			expect(Number.isFinite(a.at(x, y))).toBe(true);
		}
		// Values that are the grid come back exactly, wherever it is asked for on the map.
		const like = { ...points, value: points.x.map((x, i) => sampleRaster(along, x, points.y[i]!)) };
		const drifted = gridder(plainGridding(north), { points: like, barriers: new Float64Array(0), along })!;
		expect(drifted.at(400_333, 4_990_444)).toBeCloseTo(sampleRaster(along, 400_333, 4_990_444), 3);
	});
});

describe('readings that are few or lie badly', () => {
	const one = gatherPoints([5], [6], [7], null).points;
	const same = gatherPoints([1, 2, 3, 1], [1, 5, 2, 4], [4, 4, 4, 4], null).points;
	const line = gatherPoints([0, 1, 2, 3, 4], [0, 1, 2, 3, 4], [1, 2, 3, 4, 5], null).points;
	const small = frameOf({ minX: 0, minY: 0, maxX: 10, maxY: 10 }, 1);
	it.each([
		['exactly', 0],
		['but for the last digits of large coordinates', 1e-10]
	])('in one line %s span no triangle, turned and stretched too', async (_, off) => {
		for (const [dx, dy] of [
			[1, 0],
			[0, 1],
			[1, 1],
			[0.37, 1.91]
		] as const)
			for (const stretch of [1, 3]) {
				const steps = Array.from({ length: 9 }, (_v, i) => i * 100);
				const p = gatherPoints(
					steps.map((s, i) => 500_000 + s * dx + (i % 2) * off),
					steps.map((s) => 4_990_000 + s * dy),
					steps,
					null
				).points;
				for (const method of ['linear', 'natural-neighbour'] as const)
					await expect(async () => grid(plainGridding({ method, stretch, azimuth: 20 }), own(p), small)).rejects.toThrow('in one line');
			}
		// A survey line that sways by a metre in ten kilometres is none.
		const swaying = gatherPoints([0, 5000, 10_000], [0, 1, 0], [1, 2, 3], null).points;
		await expect(grid(plainGridding({ method: 'linear' }), own(swaying), small)).resolves.toBeDefined();
	});
	it.each(['inverse-distance', 'nearest', 'kriging', 'kriging-trend', 'minimum-curvature'] as const)(
		'one reading by %s is that reading',
		async (method) => {
			const { raster } = await grid(plainGridding({ method }), own(one), small);
			expect([...new Set(raster.values)]).toEqual([7]);
		}
	);
	it.each(all.filter((m) => !['trend', 'kriging-drift', 'kriging-indicator'].includes(m)))(
		'equal readings by %s stay equal',
		async (method) => {
			const { raster } = await grid(plainGridding({ method, beyond: 'nearest' }), own(same), small);
			for (const v of raster.values) expect(v).toBeCloseTo(4, 5);
		}
	);
	it('in a line they make no triangles, and it is said so; other methods go on', async () => {
		for (const method of ['linear', 'natural-neighbour'] as const) {
			await expect(grid(plainGridding({ method }), own(line), small)).rejects.toThrow('in one line');
			await expect(grid(plainGridding({ method }), own(one), small)).rejects.toThrow('1 place makes no triangle');
		}
		await expect(grid(plainGridding({ method: 'trend', degree: 2 }), own(line), small)).rejects.toThrow('do not determine');
		for (const method of ['inverse-distance', 'kriging', 'kriging-trend', 'minimum-curvature'] as const)
			expect((await grid(plainGridding({ method }), own(line), small)).raster.values.every(Number.isFinite)).toBe(true);
	});
	it('several at one place count once, in one cell as is wanted, and all is counted', () => {
		const x = [0.1, 0.2, 0.1, 5, NaN, 50, 7];
		const y = [0, 0, 0, 5, 5, 50, 7];
		const v = [1, 2, 5, 4, 9, 6, NaN];
		const { points, report } = gatherPoints(x, y, v, small, 'mean');
		expect(report).toEqual({
			rows: 7,
			read: 5,
			missing: 2,
			outside: 1,
			doubledCells: 1,
			doubledReadings: 3,
			used: 3,
			least: 8 / 3,
			greatest: 6,
			mean: (8 / 3 + 4 + 6) / 3
		});
		expect([...points.from]).toEqual([0, 3, 5]);
		expect(gatherPoints(x, y, v, small, 'all').report.used).toBe(4);
		const value = (how: 'first' | 'last' | 'least' | 'greatest' | 'sum' | 'count' | 'median') =>
			gatherPoints(x, y, v, small, how).points.value[0];
		expect([value('first'), value('last'), value('least'), value('greatest'), value('sum'), value('count'), value('median')]).toEqual([
			1, 5, 1, 5, 8, 3, 2
		]);
	});
	it('none at all is an error that says what to do', () => {
		expect(() => gatherPoints([], [], [], null)).toThrow('no rows');
		expect(() => gatherPoints([1], [NaN], [3], null)).toThrow('none of 1 rows');
	});
	it('cross-validation of a single reading has no estimate, and of a line none by triangles', () => {
		expect(crossValidate(plainGridding({}), own(one), 0).count).toBe(0);
		expect(crossValidate(plainGridding({ method: 'nearest' }), own(line), 0)).toMatchObject({ count: 5, rms: 1 });
		expect(() => crossValidate(plainGridding({ method: 'linear' }), own(line), 0)).toThrow('in one line');
	});
	it('leaving out by groups leaves out every reading once', () => {
		const points = readingsOfFunction(60, 4, (x, y) => x + y);
		for (const method of ['linear', 'minimum-curvature', 'inverse-distance'] as const) {
			const v = crossValidate(plainGridding({ method, beyond: 'nearest' }), own(points), 6);
			expect(v.count).toBe(60);
			expect(v.worst).toHaveLength(20);
			expect(v.rms).toBeGreaterThanOrEqual(v.meanAbsolute);
		}
	});
});

describe('frames', () => {
	it('are square cells over a rectangle, and a quarter of them over the same', () => {
		expect(FRAME).toMatchObject({ nx: 50, ny: 50, dx: 20, x0: 400_010, y0: 4_990_010 });
		expect(quarterOf(FRAME)).toMatchObject({ nx: 25, ny: 25, dx: 40, x0: 400_020 });
		expect(sameFrame(FRAME, { ...FRAME, x0: FRAME.x0 + 0.001 })).toBe(true);
		expect(sameFrame(FRAME, { ...FRAME, x0: FRAME.x0 + 5 })).toBe(false);
	});
	it('of a thousand million cells are refused with the width that would fit', () => {
		expect(() => frameOf({ minX: 0, minY: 0, maxX: 1e6, maxY: 1e6 }, 30)).toThrow(
			expect.objectContaining({ problem: expect.objectContaining({ kind: 'too-fine', hint: 'Cells of 200 would fit.' }) })
		);
		expect(frameOf({ minX: 0, minY: 0, maxX: 1e6, maxY: 1e6 }, 200).nx).toBe(5000);
	});
	it('of a line is a strip, and of one place there is none', () => {
		expect(frameOf({ minX: 0, minY: 5, maxX: 100, maxY: 5 }, 10)).toMatchObject({ nx: 10, ny: 2, y0: 0 });
		expect(() => frameOf({ minX: 1, minY: 1, maxX: 1, maxY: 1 }, 10)).toThrow('no area');
	});
});
