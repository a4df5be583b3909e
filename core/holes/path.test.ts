import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { lineDirection } from '../geometry/angles';
import { length, subtract } from '../geometry/vector';
import { directionAt, holePath, pathTable, positionAt, samplePath } from './path';

describe('hole path by minimum curvature', () => {
	it('is exact on an arc of a circle, also between stations', () => {
		// From vertical to horizontal towards east along a quarter circle of radius 500.
		const quarter = (Math.PI / 2) * 500;
		const path = holePath([0, 0, 0], quarter, [
			{ depth: 0, azimuth: 90, inclination: -90 },
			{ depth: quarter, azimuth: 90, inclination: 0 }
		]);
		for (const t of [0, 0.1, 0.37, 0.5, 0.99, 1]) {
			const angle = (t * Math.PI) / 2;
			const [x, y, z] = positionAt(path, t * quarter);
			expect(x).toBeCloseTo(500 * (1 - Math.cos(angle)), 9);
			expect(y).toBeCloseTo(0, 9);
			expect(z).toBeCloseTo(-500 * Math.sin(angle), 9);
		}
		expect(pathTable(path).at(-1)!.doglegSeverity).toBeCloseTo((90 / quarter) * 30, 9);
	});

	/** Distance of the end from the exact one, for a helix of this radius around a vertical axis, one turn each 2π·`reach`. */
	function helixError(radius: number, reach: number, step: number): number {
		const speed = Math.hypot(radius, reach);
		const at = (s: number) => [radius * Math.sin(s / speed), radius * (1 - Math.cos(s / speed)), (-reach * s) / speed] as const;
		const stations = Array.from({ length: 1000 / step + 1 }, (_, i) => {
			const [tx, ty, tz] = [
				(radius * Math.cos((i * step) / speed)) / speed,
				(radius * Math.sin((i * step) / speed)) / speed,
				-reach / speed
			];
			return { depth: i * step, azimuth: (Math.atan2(tx, ty) * 180) / Math.PI, inclination: (Math.asin(tz) * 180) / Math.PI };
		});
		return length(subtract(positionAt(holePath([0, 0, 0], 1000, stations), 1000), at(1000)));
	}

	it('follows a helix-like hole with stations each 10 m to 1 mm per 1 000 m (P11)', () => {
		expect(helixError(8, 500, 10)).toBeLessThan(0.001);
		// An arc has no torsion, so on a tight helix the error grows with the square of the distance of stations, and only so.
		expect(helixError(120, 120, 10) / helixError(120, 120, 5)).toBeCloseTo(4, 1);
		expect(helixError(120, 120, 1)).toBeLessThan(0.0015);
	});

	it('goes straight without stations, above the first and below the last', () => {
		positionAt(holePath([10, 20, 30], 100, []), 40).forEach((v, c) => expect(v).toBeCloseTo([10, 20, -10][c]!, 9));
		const path = holePath([0, 0, 0], 300, [{ depth: 100, azimuth: 0, inclination: -60 }]);
		const d = lineDirection(0, -60);
		for (const m of [50, 100, 300]) positionAt(path, m).forEach((v, c) => expect(v).toBeCloseTo(d[c]! * m, 9));
	});

	it('does not depend on the order of stations and is continuous with unit speed', () => {
		const station = fc.record({
			depth: fc.double({ min: 0, max: 500, noNaN: true }),
			azimuth: fc.double({ min: 0, max: 360, noNaN: true }),
			inclination: fc.double({ min: -90, max: -20, noNaN: true })
		});
		fc.assert(
			fc.property(fc.uniqueArray(station, { minLength: 1, maxLength: 8, selector: (s) => Math.round(s.depth) }), (stations) => {
				const a = holePath([0, 0, 0], 600, stations);
				const b = holePath([0, 0, 0], 600, [...stations].reverse());
				for (let d = 0; d < 600; d += 13) {
					expect(positionAt(b, d)).toEqual(positionAt(a, d));
					expect(length(directionAt(a, d))).toBeCloseTo(1, 9);
					// No chord is longer than the way along the hole.
					expect(length(subtract(positionAt(a, d + 13), positionAt(a, d)))).toBeLessThanOrEqual(13 + 1e-9);
				}
			}),
			{ numRuns: 60 }
		);
	});

	it('refuses a hole that turns straight back', () => {
		expect(() =>
			holePath([0, 0, 0], 100, [
				{ depth: 0, azimuth: 0, inclination: -90 },
				{ depth: 50, azimuth: 0, inclination: 90 }
			])
		).toThrow(RangeError);
	});

	it('samples from collar to end', () => {
		const s = samplePath(
			holePath([0, 0, 100], 80, [
				{ depth: 0, azimuth: 45, inclination: -80 },
				{ depth: 60, azimuth: 60, inclination: -60 }
			]),
			10
		);
		expect(s.depths[0]).toBe(0);
		expect(s.depths.at(-1)).toBe(80);
		expect([...s.xyz.slice(0, 3)]).toEqual([0, 0, 100]);
	});
});

describe('places that no leg reaches', () => {
	const path = holePath([10, 20, 30], 100, [
		{ depth: 0, azimuth: 90, inclination: -45 },
		{ depth: 50, azimuth: 90, inclination: -45 }
	]);
	const r = Math.SQRT1_2;
	it('above the collar lie straight on upwards, below the end straight on downwards', () => {
		positionAt(path, -10).forEach((v, i) => expect(v).toBeCloseTo([10 - 10 * r, 20, 30 + 10 * r][i]!, 9));
		positionAt(path, 120).forEach((v, i) => expect(v).toBeCloseTo([10 + 120 * r, 20, 30 - 120 * r][i]!, 9));
	});
	it('of two stations at one depth the first in the list counts', () => {
		const twice = holePath([0, 0, 0], 100, [
			{ depth: 0, azimuth: 0, inclination: -90 },
			{ depth: 0, azimuth: 90, inclination: -10 },
			{ depth: 40, azimuth: 0, inclination: -90 },
			{ depth: 40, azimuth: 90, inclination: -20 }
		]);
		positionAt(twice, 100).forEach((v, i) => expect(v).toBeCloseTo([0, 0, -100][i]!, 9));
	});
});
