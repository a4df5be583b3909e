import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { Nearby, NearestPoint } from './nearest';

const place = fc.record({
	x: fc.double({ min: -1000, max: 1000, noNaN: true }),
	y: fc.double({ min: -1000, max: 1000, noNaN: true }),
	z: fc.double({ min: -50, max: 50, noNaN: true })
});

describe('the nearest place', () => {
	it('is as far as the nearest of all, wherever one asks from', () => {
		fc.assert(
			fc.property(
				fc.array(place, { minLength: 1, maxLength: 120 }),
				fc.array(place, { minLength: 1, maxLength: 8 }),
				fc.integer({ min: 1, max: 9 }),
				(points, asked, far) => {
					const near = new NearestPoint(points);
					for (const q of asked) {
						const [x, y, z] = [q.x * far, q.y * far, q.z * far];
						expect(near.distance(x, y, z)).toBeCloseTo(Math.min(...points.map((p) => Math.hypot(p.x - x, p.y - y, p.z - z))), 9);
					}
				}
			)
		);
	});
	it('can leave places out', () => {
		const near = new NearestPoint([
			{ x: 0, y: 0, z: 0 },
			{ x: 3, y: 4, z: 0 }
		]);
		expect(near.distance(0, 0, 0)).toBe(0);
		expect(near.distance(0, 0, 0, (i) => i !== 0)).toBe(5);
		expect(near.distance(0, 0, 0, () => false)).toBe(Infinity);
	});
	it('of many places on a sheet is found without asking them all', () => {
		const points = Array.from({ length: 20_000 }, (_, i) => ({ x: (i % 200) * 10, y: Math.floor(i / 200) * 10, z: Math.sin(i) }));
		const near = new NearestPoint(points);
		let asked = 0;
		expect(near.distance(701, 502, 0, () => (asked++, true))).toBeLessThan(3);
		expect(asked).toBeLessThan(200);
	});
	it('is none that has no place, and is not asked from nowhere', () => {
		for (const count of [3, 200]) {
			const near = new NearestPoint(Array.from({ length: count }, (_, i) => ({ x: i === 1 ? NaN : i, y: 0, z: 0 })));
			expect(near.nearest(1, 0, 0)).toEqual({ index: 0, distance: 1 });
			expect(near.nearest(NaN, 0, 0)).toEqual({ index: -1, distance: Infinity });
		}
	});
	it('of none is nowhere', () => expect(new NearestPoint([]).distance(1, 2, 3)).toBe(Infinity));
});

it('a place is near when any of all is within the distance', () => {
	fc.assert(
		fc.property(
			fc.array(place, { minLength: 1, maxLength: 120 }),
			fc.array(place, { minLength: 1, maxLength: 8 }),
			fc.double({ min: 1, max: 400, noNaN: true }),
			(points, asked, distance) => {
				const near = new Nearby(points, distance);
				for (const q of asked)
					expect(near.isNear(q.x, q.y, q.z)).toBe(
						points.some((p) => (p.x - q.x) ** 2 + (p.y - q.y) ** 2 + (p.z - q.z) ** 2 <= distance ** 2)
					);
			}
		)
	);
});
