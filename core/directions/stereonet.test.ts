import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { lineDirection, planeNormal } from '../geometry/angles';
import { dot, type Vec3 } from '../geometry/vector';
import {
	density,
	downward,
	fisher,
	girdle,
	greatCircle,
	orientationTensor,
	poleOf,
	project,
	smallCircle,
	trendPlunge,
	unproject,
	withinCone
} from './stereonet';

const round = (v: readonly number[], n = 6) => v.map((x) => Number(x.toFixed(n)) + 0);
const direction = fc.tuple(fc.double({ min: 0, max: 359.9, noNaN: true }), fc.double({ min: 0, max: 90, noNaN: true }));

describe('the projection', () => {
	it('puts the vertical in the middle and the horizontal on the rim', () => {
		expect(round(project([0, 0, -1]))).toEqual([0, 0]);
		expect(round(project([1, 0, 0]))).toEqual([1, 0]);
		expect(round(project(lineDirection(0, 0)))).toEqual([0, 1]);
		// An upward end stands for the line as well as the downward one.
		expect(round(project([0.6, 0, 0.8]))).toEqual(round(project([-0.6, 0, -0.8])));
	});
	it('keeps areas: the cap within 60° of the vertical has half of the net', () => {
		expect(Math.hypot(...project(lineDirection(77, -30))) ** 2).toBeCloseTo(0.5, 9);
	});
	it('goes back to where it came from', () => {
		fc.assert(
			fc.property(direction, ([azimuth, plunge]) => {
				const v = lineDirection(azimuth, -plunge);
				const back = unproject(...project(v))!;
				expect(dot(v, back)).toBeCloseTo(1, 9);
			})
		);
		expect(unproject(0.9, 0.9)).toBeNull();
	});
	it('a great circle is square to its pole and ends on the rim', () => {
		fc.assert(
			fc.property(direction, ([azimuth, dip]) => {
				const points = greatCircle(dip, azimuth);
				expect(Math.hypot(...points[0]!)).toBeCloseTo(1, 6);
				for (const p of points)
					expect(Math.abs(dot(unproject(p[0] * 0.9999999, p[1] * 0.9999999)!, poleOf(dip, azimuth)))).toBeLessThan(1e-3);
			})
		);
	});
	it('a small circle keeps its angle, also where it passes the rim', () => {
		for (const part of smallCircle(lineDirection(90, -5), 20))
			for (const p of part)
				expect(Math.abs(dot(unproject(p[0] * 0.999999, p[1] * 0.999999)!, lineDirection(90, -5)))).toBeCloseTo(
					Math.cos((20 * Math.PI) / 180),
					3
				);
		expect(smallCircle(lineDirection(90, -5), 20).length).toBeGreaterThan(1);
		expect(smallCircle(lineDirection(90, -80), 5)).toHaveLength(1);
	});
});

describe('Fisher statistics', () => {
	it('of directions spread evenly round an axis have that axis, and the resultant of their angle', () => {
		const v = Array.from({ length: 12 }, (_, i) => lineDirection(30 * i, -60));
		const f = fisher(v);
		expect(round(f.mean)).toEqual([0, 0, -1]);
		expect(f.resultant).toBeCloseTo(Math.sin(Math.PI / 3), 9);
		// κ = (n − 1) / (n − R)
		expect(f.kappa).toBeCloseTo(11 / (12 - 12 * Math.sin(Math.PI / 3)), 9);
		expect(f.alpha95).toBeGreaterThan(0);
	});
	it('treat poles near the rim as one cluster, whichever end points down', () => {
		const poles = [85, 87, 89, 91, 93, 95].map((dip) => downward(planeNormal(dip, 90)));
		const f = fisher(poles);
		expect(Math.abs(f.mean[0])).toBeCloseTo(1, 3);
		expect(f.kappa).toBeGreaterThan(100);
	});
	it('of one direction have no spread, and of equal ones an infinite concentration', () => {
		expect(fisher([[0, 0, -1]]).kappa).toBeNaN();
		expect(
			fisher([
				[0, 0, -1],
				[0, 0, -1]
			]).kappa
		).toBe(Infinity);
		expect(() => fisher([])).toThrow(RangeError);
	});
	it('do not depend on the order, nor on which end of an axis was written down', () => {
		fc.assert(
			fc.property(fc.array(direction, { minLength: 3, maxLength: 12 }), (list) => {
				const v = list.map(([a, p]) => lineDirection(a, -(20 + p * 0.6)));
				const [one, other] = [fisher(v), fisher([...v].reverse().map((d): Vec3 => [-d[0], -d[1], -d[2]]))];
				expect(Math.abs(dot(one.mean, other.mean))).toBeCloseTo(1, 6);
			})
		);
	});
});

describe('tensor and girdle', () => {
	it('the eigenvalues sum up to one, and fall', () => {
		fc.assert(
			fc.property(fc.array(direction, { minLength: 1, maxLength: 20 }), (list) => {
				const { values } = orientationTensor(list.map(([a, p]) => lineDirection(a, -p)));
				expect(values[0] + values[1] + values[2]).toBeCloseTo(1, 9);
				expect(values[0] >= values[1] && values[1] >= values[2]).toBe(true);
			})
		);
	});
	it('of a direction off an axis by less than can be squared is a number', () => {
		expect(orientationTensor([lineDirection(1.43e-322, 0)]).values).toEqual([1, 0, 0]);
	});
	it('poles of a cylindrical fold give its axis', () => {
		// Beds round a horizontal axis to the north: they dip east and west at any angle.
		const poles = [10, 30, 50, 70].flatMap((dip) => [poleOf(dip, 90), poleOf(dip, 270)]);
		const g = girdle(poles);
		expect(trendPlunge(g.axis).plunge).toBeCloseTo(0, 6);
		expect(trendPlunge(g.axis).trend % 180).toBeCloseTo(0, 6);
		expect(g.shape).toBeLessThan(1);
		expect(girdle(Array.from({ length: 9 }, (_, i) => lineDirection(40 * i, -82))).shape).toBeGreaterThan(1);
	});
});

describe('density', () => {
	it('is greatest where the directions are, and nothing outside of the net', () => {
		const v = Array.from({ length: 30 }, (_, i) => lineDirection(45 + (i % 5) - 2, -45 + (i % 3)));
		const size = 41;
		const grid = density(v, size);
		const top = grid.reduce(
			(best, x, i) => (x > (grid[best] ?? -Infinity) || Number.isNaN(grid[best]!) ? (Number.isNaN(x) ? best : i) : best),
			0
		);
		const [x, y] = project(lineDirection(45, -44));
		expect((2 * (top % size)) / (size - 1) - 1).toBeCloseTo(x, 1);
		expect((2 * Math.floor(top / size)) / (size - 1) - 1).toBeCloseTo(y, 1);
		expect(grid[0]).toBeNaN();
		expect(density([], 5).every(Number.isNaN)).toBe(true);
	});
	it('of an even spread stays within a few deviations of what it would be by chance', () => {
		// Points of a Fibonacci lattice on the half sphere.
		const v = Array.from({ length: 400 }, (_, i): Vec3 => {
			const z = -(i + 0.5) / 400;
			const a = i * 2.399963;
			return [Math.sqrt(1 - z * z) * Math.cos(a), Math.sqrt(1 - z * z) * Math.sin(a), z];
		});
		const inside = [...density(v, 21)].filter((x) => !Number.isNaN(x));
		const mean = inside.reduce((a, b) => a + b) / inside.length;
		// The expected count is σ deviations: 3.
		expect(mean).toBeCloseTo(3, 0);
		expect(Math.max(...inside) - Math.min(...inside)).toBeLessThan(1.5);
	});
	it('sets are what lies within a cone, either way round', () => {
		const v: Vec3[] = [lineDirection(0, -80), lineDirection(0, -60), lineDirection(180, 79), lineDirection(90, 0)];
		expect(withinCone(v, [0, 0, -1], 15)).toEqual([0, 2]);
	});
});

it('the density of axes is nothing on the whole for an even spread, and n½ times its unit at one pole', () => {
	// A spiral over the sphere: as even as it gets.
	const n = 4000;
	const even: Vec3[] = Array.from({ length: n }, (_, i) => {
		const z = 1 - (2 * i + 1) / n;
		const t = i * Math.PI * (3 - Math.sqrt(5));
		return [Math.sqrt(1 - z * z) * Math.cos(t), Math.sqrt(1 - z * z) * Math.sin(t), z];
	});
	const f = 2 * (1 + n / 9);
	const unit = Math.sqrt((n * (f / 2 - 1)) / f ** 2);
	// The mean of exp(f(|cos| − 1)) over the sphere is (1 − e^−f)/f.
	const expected = (n * (1 - Math.exp(-f))) / f;
	for (const v of density(even, 15)) if (!Number.isNaN(v)) expect(Math.abs(v * unit + 0.5 - expected)).toBeLessThan(0.08 * expected);
	const one = density(
		[
			[0, 0, -1],
			[0, 0, -1]
		],
		3
	);
	const f2 = 2 * (1 + 2 / 9);
	expect(one[4]).toBeCloseTo(1.5 / Math.sqrt((2 * (f2 / 2 - 1)) / f2 ** 2), 9);
});
