import { describe, expect, it } from 'vitest';
import { seededRandom } from '../statistics/random';
import { Kriging } from './kriging';
import { covarianceAt, experimentalVariogram, fitVariogram, growth, semivariance, totalSill, type Variogram } from './variogram';

const spherical: Variogram = { nugget: 0.2, structures: [{ shape: 'spherical', sill: 1.8, range: 100 }] };

describe('models of variograms', () => {
	it('begin at the nugget, grow to the sill, and have it at their range', () => {
		expect(semivariance(spherical, 0)).toBe(0);
		expect(semivariance(spherical, 1e-9)).toBeCloseTo(0.2, 6);
		expect(semivariance(spherical, 50)).toBeCloseTo(0.2 + 1.8 * 0.6875, 12);
		expect(semivariance(spherical, 100)).toBeCloseTo(2, 12);
		expect(semivariance(spherical, 1e6)).toBe(2);
		expect(totalSill(spherical)).toBe(2);
		expect(covarianceAt(spherical, 0)).toBe(2);
		for (const shape of ['exponential', 'gaussian'] as const) expect(growth({ shape, range: 80 }, 80)).toBeCloseTo(1 - Math.exp(-3), 12);
		for (const shape of ['spherical', 'exponential', 'gaussian'] as const)
			for (let h = 0; h < 200; h += 7) expect(growth({ shape, range: 80 }, h + 7)).toBeGreaterThanOrEqual(growth({ shape, range: 80 }, h));
	});
});

describe('an experimental variogram', () => {
	const line = Float64Array.from({ length: 300 }, (_, i) => (i % 3 === 0 ? i / 3 : 0));
	it('of a straight slope is half of the square of the distance', () => {
		const lags = experimentalVariogram(
			line,
			Array.from({ length: 100 }, (_, i) => 3 * i),
			{ lag: 1, count: 6 }
		);
		expect(lags.map((l) => l.pairs)).toEqual([99, 98, 97, 96, 95]);
		lags.forEach((l, k) => {
			expect(l.distance).toBeCloseTo(k + 1, 12);
			expect(l.semivariance).toBeCloseTo((9 * (k + 1) ** 2) / 2, 9);
		});
	});
	it('along a direction takes the pairs of that direction only, and leaves out what is no number', () => {
		const xyz: number[] = [];
		const values: number[] = [];
		for (let i = 0; i < 10; i++)
			for (let j = 0; j < 10; j++) {
				xyz.push(i, j, 0);
				values.push(5 * i);
			}
		const along = (direction: readonly [number, number, number]) =>
			experimentalVariogram(Float64Array.from(xyz), values, { lag: 1, count: 4, along: { direction, tolerance: 1 } });
		for (const l of along([0, 1, 0])) expect(l.semivariance).toBe(0);
		along([1, 0, 0]).forEach((l, k) => expect(l.semivariance).toBeCloseTo((25 * (k + 1) ** 2) / 2, 9));
		values[0] = NaN;
		expect(along([1, 0, 0])[0]!.pairs).toBe(89);
	});
	it('refuses lags without a width', () =>
		expect(() => experimentalVariogram(line, new Float64Array(100), { lag: 0, count: 3 })).toThrow('above 0'));
});

describe('fitting', () => {
	it('finds the model again that made the lags', () => {
		for (const shape of ['spherical', 'exponential', 'gaussian'] as const) {
			const truth: Variogram = { nugget: 0.3, structures: [{ shape, sill: 1.1, range: 140 }] };
			const lags = Array.from({ length: 20 }, (_, i) => ({
				distance: 12 * (i + 0.5),
				semivariance: semivariance(truth, 12 * (i + 0.5)),
				pairs: 500 + 100 * i
			}));
			const found = fitVariogram(lags, shape);
			expect(found.nugget).toBeCloseTo(0.3, 3);
			expect(found.structures[0]!.sill).toBeCloseTo(1.1, 3);
			expect(found.structures[0]!.range).toBeCloseTo(140, 1);
		}
	});
	it('gives no negative nugget or sill, and refuses two lags', () => {
		const falling = Array.from({ length: 8 }, (_, i) => ({ distance: i + 1, semivariance: 2 - 0.1 * i, pairs: 50 }));
		const found = fitVariogram(falling, 'spherical');
		expect(found.nugget).toBeGreaterThanOrEqual(0);
		expect(found.structures[0]!.sill).toBeGreaterThanOrEqual(0);
		expect(() => fitVariogram(falling.slice(0, 2), 'spherical')).toThrow('three');
	});
});

describe('ordinary kriging', () => {
	const { uniform, normal } = seededRandom(4);
	const xyz = Float64Array.from({ length: 3 * 60 }, (_, i) => (i % 3 === 2 ? 0 : 300 * uniform()));
	const values = Array.from({ length: 60 }, () => 5 + normal());
	it('gives back its samples without a nugget, with no variance', () => {
		const k = new Kriging(xyz, values, { nugget: 0, structures: spherical.structures });
		for (const i of [0, 17, 42]) {
			const e = k.at(xyz[3 * i]!, xyz[3 * i + 1]!, 0);
			expect(e.value).toBeCloseTo(values[i]!, 8);
			expect(e.variance).toBeCloseTo(0, 8);
		}
	});
	it('far from all samples tells about their mean, with more variance than the sill', () => {
		const e = new Kriging(xyz, values, spherical, { most: 60 }).at(1e5, 1e5, 0);
		expect(e.value).toBeCloseTo(values.reduce((a, b) => a + b, 0) / 60, 0);
		expect(e.variance).toBeGreaterThan(2);
	});
	it('of a constant is that constant, and moves along with the values', () => {
		expect(new Kriging(xyz, new Float64Array(60).fill(7), spherical).at(150, 150, 0).value).toBeCloseTo(7, 9);
		const shifted = new Kriging(
			xyz,
			values.map((v) => v + 100),
			spherical
		).at(111, 222, 0);
		expect(shifted.value - new Kriging(xyz, values, spherical).at(111, 222, 0).value).toBeCloseTo(100, 8);
	});
	it('of two samples is the answer by hand: the mean half-way, with its variance', () => {
		const k = new Kriging(Float64Array.of(0, 0, 0, 50, 0, 0), [1, 3], spherical);
		const e = k.at(25, 0, 0);
		expect(e.value).toBeCloseTo(2, 12);
		// 2 γ(25) − γ(50) / 2 for equal weights.
		expect(e.variance).toBeCloseTo(2 * semivariance(spherical, 25) - semivariance(spherical, 50) / 2, 9);
	});
	it('has nothing to tell without samples', () => expect(new Kriging(new Float64Array(0), [], spherical).at(0, 0, 0).value).toBeNaN());
});

it('pairs along a direction: none beyond the tolerance, none off the line, either way round', () => {
	// East, 20 degrees off it, north, and straight back west.
	const c = Math.cos((20 * Math.PI) / 180);
	const s = Math.sin((20 * Math.PI) / 180);
	const lags = (tolerance: number, bandwidth?: number) =>
		experimentalVariogram(Float64Array.from([0, 0, 0, 10 * c, 10 * s, 0]), [1, 3], {
			lag: 20,
			count: 1,
			along: { direction: [1, 0, 0], tolerance, ...(bandwidth === undefined ? {} : { bandwidth }) }
		});
	expect(lags(25)).toEqual([{ distance: expect.closeTo(10, 9), semivariance: 2, pairs: 1 }]);
	expect(lags(15)).toEqual([]);
	expect(lags(25, 3)).toEqual([]);
	expect(lags(25, 4)).toHaveLength(1);
	const back = experimentalVariogram(Float64Array.from([0, 0, 0, -10, 0, 0]), [1, 3], {
		lag: 20,
		count: 1,
		along: { direction: [1, 0, 0], tolerance: 1 }
	});
	expect(back).toHaveLength(1);
});
