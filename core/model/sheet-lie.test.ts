import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { anyCase } from '../../bench/any-ground';
import { random } from '../../bench/problems';
import { logsOf, seenIn, type Truth } from '../../bench/sampled';
import { RADIANS } from '../geometry/angles';
import { dot } from '../geometry/vector';
import { interceptsOf } from './intercepts';
import { isSheet, lieOf } from './sheet-lie';

const box = { minX: 0, minY: 0, minZ: -400, maxX: 1000, maxY: 1000, maxZ: 0 };
const column = [
	['d', 'intrusive'],
	['h', 'conformable'],
	['i', 'conformable']
] as const;

/** What holes on a grid show of one intrusion. */
function seenBy(
	inside: (x: number, y: number, z: number) => boolean,
	hole: { azimuth: number; inclination: number },
	seed: number,
	apart = 90
) {
	const r = random(seed);
	const n = Math.floor(1000 / apart);
	const holes = Array.from({ length: n * n }, (_, i) => ({
		x: apart * ((i % n) + 0.3 + 0.4 * r()),
		y: apart * (Math.floor(i / n) + 0.3 + 0.4 * r()),
		...hole,
		depth: 430
	}));
	const t: Truth = { box, column, unitAt: (x, y, z) => (inside(x, y, z) ? 0 : z > -500 ? 1 : 2), holes };
	const { input } = seenIn(t, logsOf(t));
	const intercepts = interceptsOf(
		input.contacts.filter((c) => c.surface === 0),
		input.observations,
		0
	);
	const lie = lieOf(intercepts, input.observations, 0);
	return { lie, intercepts, isSheet: isSheet(intercepts, lie, input.observations, 0, []) };
}
const plane = (dip: number, azimuth: number) => {
	const [s, a] = [Math.sin(dip * RADIANS), azimuth * RADIANS];
	return [s * Math.sin(a), s * Math.cos(a), Math.cos(dip * RADIANS)] as const;
};

describe('what is a sheet', () => {
	it('is told of any plane through the ground, met by holes across it or nearly along it, with how it lies', () => {
		fc.assert(
			fc.property(
				fc.integer({ min: 35, max: 85 }),
				fc.integer({ min: 0, max: 359 }),
				fc.double({ min: 10, max: 28, noNaN: true }),
				fc.integer({ min: 0, max: 359 }),
				fc.integer({ min: 1, max: 1000 }),
				(dip, azimuth, half, toward, seed) => {
					const n = plane(dip, azimuth);
					const inside = (x: number, y: number, z: number) => Math.abs(n[0] * (x - 500) + n[1] * (y - 500) + n[2] * (z + 200)) < half;
					const found = seenBy(inside, { azimuth: toward, inclination: -70 }, seed);
					// Holes along it may know one wall only.
					const walls = [1, -1].map((w) => found.lie.wall.filter((o) => o === w).length);
					const crossing = found.intercepts.filter((i) => i.contacts.length === 2).length;
					if (found.intercepts.length < 12 || (Math.min(...walls) < 3 && crossing < 3)) return;
					expect(found.isSheet).toBe(true);
					expect(Math.abs(dot(found.lie.normal, n))).toBeGreaterThan(Math.cos(8 * RADIANS));
				}
			),
			{ numRuns: 60 }
		);
	});

	it('is not told of a ball, a pillar or a thick lens, wherever it lies', () => {
		const shapes = [
			(x: number, y: number, z: number) => Math.hypot(x, y, z) < 160,
			(x: number, y: number) => Math.hypot(x, y) < 190,
			(x: number, y: number, z: number) => Math.hypot(x / 330, y / 280, z / 110) < 1
		];
		fc.assert(
			fc.property(
				fc.constantFrom(...shapes),
				fc.integer({ min: 400, max: 600 }),
				fc.integer({ min: 400, max: 600 }),
				fc.integer({ min: 1, max: 1000 }),
				(shape, cx, cy, seed) => {
					expect(seenBy((x, y, z) => shape(x - cx, y - cy, z + 200), { azimuth: 60, inclination: -60 }, seed).isSheet).toBe(false);
				}
			),
			{ numRuns: 40 }
		);
	});

	it('is no sheet where one hole, or several at one place, met it', () => {
		const contact = { surface: 0, x: 5, y: 5, z: -5, hole: 'A', depth: 5, table: 't', row: 0 };
		for (const contacts of [[contact], [contact, { ...contact, hole: 'B' }, { ...contact, hole: 'C' }]]) {
			const intercepts = interceptsOf(contacts, [], 0);
			const lie = lieOf(intercepts, [], 0);
			expect([lie.normal, isSheet(intercepts, lie, [], 0, [])]).toEqual([[0, 0, 1], false]);
		}
	});

	it('knows from which side each hole met it, where holes end inside', () => {
		const inside = (x: number, _y: number, z: number) => Math.abs(x - 500 + 0.3 * (z + 200)) < 40;
		const { lie, intercepts } = seenBy(inside, { azimuth: 90, inclination: -65 }, 3, 70);
		const one = intercepts.map((i, k) => [i, lie.wall[k]!] as const).filter(([i]) => i.contacts.length === 1);
		expect(one.length).toBeGreaterThan(10);
		for (const [{ middle }, wall] of one) expect(wall).toBe(Math.sign(middle[0] - 500 + 0.3 * (middle[2] + 200)));
	});

	it.each([30017, 30032])('is no stock that holes cross at its rim, where that is thin (%d)', (seed) => {
		const t = anyCase(random(seed * 7919 + 13), { kind: 'stock', damage: 'none' }).truth(random(seed));
		const { input } = seenIn(t, logsOf(t));
		const intercepts = interceptsOf(
			input.contacts.filter((c) => c.surface === 0),
			input.observations,
			0
		);
		expect(intercepts.length).toBeGreaterThan(4);
		expect(isSheet(intercepts, lieOf(intercepts, input.observations, 0), input.observations, 0, [])).toBe(false);
	});

	/** Whether vertical holes, each with a run of the unit, show a sheet. @param runs east, north, top and length of each, m */
	const showSheet = (runs: readonly (readonly [number, number, number, number])[]) => {
		const contacts = runs.flatMap(([x, y, top, length], i) =>
			[top, top - length].map((z) => ({ surface: 0, x, y, z, hole: `H${i}`, depth: -z, table: 't', row: 2 * i }))
		);
		const seen = runs.flatMap(([x, y, top, length], i) =>
			[0.25, 0.75].map((f) => ({ unit: 0, x, y, z: top - f * length, hole: `H${i}`, depth: f * length - top }))
		);
		const intercepts = interceptsOf(contacts, seen, 0);
		return isSheet(intercepts, lieOf(intercepts, seen, 0), seen, 0, []);
	};

	it('is no body that some holes cross for long, among more short rows that are wrong', () => {
		const r = random(5);
		const body = Array.from({ length: 7 }, (_, i) => [450 + 40 * (i % 3), 450 + 40 * Math.floor(i / 3), -60, 180 + 20 * r()] as const);
		const wrong = Array.from({ length: 11 }, () => [1000 * r(), 1000 * r(), -380 * r() - 10, 9] as const);
		expect(showSheet([...body, ...wrong])).toBe(false);
		expect(showSheet(body)).toBe(false);
	});

	it('is a vein that many holes cross in short, and three follow for long', () => {
		const r = random(6);
		const vein = Array.from({ length: 24 }, (_, i) => [180 * (i % 6), 240 * Math.floor(i / 6), -150 + 4 * r(), 3 + r()] as const);
		const long = [20, 310, 700].map((x) => [x, 500, -149, 160] as const);
		expect(showSheet(vein)).toBe(true);
		expect(showSheet([...vein, ...long])).toBe(true);
	});
});
