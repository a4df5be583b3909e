import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { planeNormal } from '../geometry/angles';
import type { Raster } from '../grids/raster';
import { evaluateField } from './field-kernel';
import { seededRandom } from '../statistics/random';
import type { FieldData } from './data';
import { gradientAt, inBlock, valueAt } from './field';
import { fitField } from './fit';
import { framed, gradientFrom, gradientInto, inverseOf, metricOf, times, type Frame } from './frame';

const { uniform } = seededRandom(7);
const random = (low: number, high: number) => low + (high - low) * uniform();
const scattered = Array.from({ length: 40 }, () => ({ x: random(0, 1000), y: random(0, 1000) }));
const base = (x: number, y: number) => 30 * Math.sin(x / 150) + 0.02 * y;
const empty: FieldData = { groupCount: 1, faultCount: 0, points: [], values: [], gradients: [], bounds: [] };
const asked = Array.from({ length: 60 }, () => [random(0, 1000), random(0, 1000), random(-200, 200)] as const);

describe('a metric', () => {
	it('makes the lengths of an anisotropy equal, and its inverse undoes it', () => {
		fc.assert(
			fc.property(
				fc.double({ min: 0, max: 90, noNaN: true }),
				fc.double({ min: 0, max: 360, noNaN: true }),
				fc.double({ min: 0, max: 180, noNaN: true }),
				(dip, dipAzimuth, pitch) => {
					const m = metricOf({ dip, dipAzimuth, pitch, ratios: [4, 2, 1] });
					const n = planeNormal(dip, dipAzimuth);
					// Across the plane four times as long as along the longest direction.
					expect(Math.hypot(...times(m, n))).toBeCloseTo(4, 9);
					const back = times(inverseOf(m), times(m, [0.3, -0.7, 0.2]));
					[0.3, -0.7, 0.2].forEach((v, c) => expect(back[c]).toBeCloseTo(v, 9));
					// The longest direction stays, and it lies in the plane.
					const along = Array.from({ length: 720 }, (_, i) => (i * Math.PI) / 720).map((a) => {
						const strike = [Math.sin(((dipAzimuth - 90) * Math.PI) / 180), Math.cos(((dipAzimuth - 90) * Math.PI) / 180), 0];
						const down = [
							Math.sin((dipAzimuth * Math.PI) / 180) * Math.cos((dip * Math.PI) / 180),
							Math.cos((dipAzimuth * Math.PI) / 180) * Math.cos((dip * Math.PI) / 180),
							-Math.sin((dip * Math.PI) / 180)
						];
						return {
							pitch: (a * 180) / Math.PI,
							length: Math.hypot(
								...times(
									m,
									[0, 1, 2].map((c) => Math.cos(a) * strike[c]! + Math.sin(a) * down[c]!)
								)
							)
						};
					});
					const least = along.reduce((a, b) => (b.length < a.length ? b : a));
					expect(least.length).toBeCloseTo(1, 3);
					expect(Math.min(Math.abs(least.pitch - pitch), 180 - Math.abs(least.pitch - pitch))).toBeLessThan(0.3);
				}
			),
			// A level plane has the directions of one that hardly dips.
			{
				numRuns: 30,
				examples: [
					[0, 70, 0.1875],
					[0, 250, 100],
					[5e-324, 10, 30],
					[90, 0, 45]
				]
			}
		);
	});
	it('of equal ratios changes nothing', () => {
		const points = scattered.map((p) => ({ ...p, z: base(p.x, p.y), group: 0, block: 0 }));
		const [a, b] = [
			fitField({ ...empty, points }, { range: 1500 }).field,
			fitField({ ...empty, points }, { range: 1500, metric: metricOf({ dip: 30, dipAzimuth: 70, pitch: 20, ratios: [2, 2, 2] }) }).field
		];
		for (const p of asked) expect(valueAt(inBlock(b, 0), ...p) - b.levels[0]!).toBeCloseTo(valueAt(inBlock(a, 0), ...p) - a.levels[0]!, 7);
	});
	it('gives what a fit of stretched data gives', () => {
		// Across the layers four times as far: the same as data with elevations four times as high.
		const points = scattered.map((p) => ({ ...p, z: base(p.x, p.y), group: 0, block: 0 }));
		const gradients = scattered.slice(0, 6).map((p) => ({ ...p, z: base(p.x, p.y), gradient: planeNormal(20, 90), block: 0 }));
		const a = fitField(
			{ ...empty, points, gradients },
			{ range: 1500, orientationNugget: 1e-9, metric: metricOf({ dip: 0, dipAzimuth: 0, pitch: 0, ratios: [4, 4, 1] }) }
		).field;
		const high = (p: { z: number }) => ({ ...p, z: 4 * p.z });
		const b = fitField(
			{
				...empty,
				points: points.map((p) => ({ ...p, ...high(p) })),
				gradients: gradients.map((g) => ({ ...g, ...high(g), gradient: [g.gradient[0], g.gradient[1], g.gradient[2] / 4] as const }))
			},
			{ range: 1500, orientationNugget: 1e-9 }
		).field;
		for (const [x, y, z] of asked)
			expect(valueAt(inBlock(a, 0), x, y, z) - a.levels[0]!).toBeCloseTo(valueAt(inBlock(b, 0), x, y, 4 * z) - b.levels[0]!, 7);
	});
	it('makes a lens long where contacts are few', () => {
		// A ridge along north, seen on two lines only: with a long direction along it, it goes on between them.
		const points = [100, 900].flatMap((y) =>
			Array.from({ length: 21 }, (_, i) => ({ x: 50 * i, y, z: 60 * Math.exp(-(((50 * i - 500) / 120) ** 2)), group: 0, block: 0 }))
		);
		const height = (metric: number[] | null) => {
			const f = fitField({ ...empty, points }, { range: 3000, metric }).field;
			let [low, high] = [-200, 200];
			for (let i = 0; i < 50; i++) {
				const m = (low + high) / 2;
				if (valueAt(inBlock(f, 0), 500, 500, m) > f.levels[0]!) high = m;
				else low = m;
			}
			return low;
		};
		const long = height(metricOf({ dip: 0, dipAzimuth: 90, pitch: 0, ratios: [6, 1, 1] }));
		expect(Math.abs(long - 60)).toBeLessThan(Math.abs(height(null) - 60));
		expect(long).toBeGreaterThan(45);
	});
});

describe('elevations that are followed', () => {
	const follow: Raster = {
		x0: -100,
		y0: -100,
		dx: 50,
		dy: 50,
		nx: 25,
		ny: 25,
		values: Float32Array.from({ length: 625 }, (_, n) => Math.fround(40 * Math.sin((n % 25) / 3) + 2 * Math.floor(n / 25)))
	};
	const at = (x: number, y: number) => framed({ center: [0, 0, 0], unit: 1, metric: null, follow }, [x, y, 0])[2]! * -1;
	it('carry layers over bumps that the contacts do not show', () => {
		const points = scattered.slice(0, 12).map((p) => ({ ...p, z: at(p.x, p.y) - 25, group: 0, block: 0 }));
		const { field } = fitField({ ...empty, points }, { range: 1500, follow });
		for (const [x, y] of asked) expect((valueAt(inBlock(field, 0), x, y, at(x, y) - 25) - field.levels[0]!) * field.unit).toBeCloseTo(0, 6);
	});
	it('turn gradients into the frame and back', () => {
		const f: Frame = {
			center: [10, 20, 30],
			unit: 7,
			metric: metricOf({ dip: 40, dipAzimuth: 120, pitch: 10, ratios: [5, 2, 1] }),
			follow
		};
		for (const [x, y, z] of asked) {
			const g = [Math.sin(x), Math.cos(y), Math.sin(z)] as const;
			gradientFrom(f, gradientInto(f, g, x, y), x, y).forEach((v, c) => expect(v).toBeCloseTo(g[c]!, 9));
		}
	});
	it('the kernel is held to the plain twin, and gradients to differences', () => {
		const points = scattered.map((p) => ({ ...p, z: base(p.x, p.y), group: 0, block: 0 }));
		const gradients = [{ x: 300, y: 300, z: 0, gradient: planeNormal(35, 200), block: 0 }];
		const { field } = fitField(
			{ ...empty, points, gradients },
			{ range: 1500, follow, metric: metricOf({ dip: 15, dipAzimuth: 60, pitch: 45, ratios: [3, 2, 1] }) }
		);
		const b = inBlock(field, 0);
		const kernel = evaluateField(field, 0, Float64Array.from(asked.flat()));
		asked.forEach((p, i) => expect(kernel[i]).toBeCloseTo(valueAt(b, ...p), 9));
		for (const [x, y, z] of asked) {
			// Not across a node of the grid, where its slope changes.
			if (Math.min(...[x, y].map((v) => Math.abs(((v + 100) % 50) - 25))) > 20) continue;
			const h = 1e-3;
			const dz = ((valueAt(b, x, y, z + h) - valueAt(b, x, y, z - h)) / (2 * h)) * field.unit;
			expect(gradientAt(b, x, y, z)[2]).toBeCloseTo(dz, 5);
		}
	});
});
