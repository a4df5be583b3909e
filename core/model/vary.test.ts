import { describe, expect, it } from 'vitest';
import { anyCase } from '../../bench/any-ground';
import { run } from '../../bench/imperfect';
import { random } from '../../bench/problems';
import { logsOf, seenIn, type Truth } from '../../bench/sampled';
import { unitsAt } from './classify';
import { fitGround } from './fit-ground';

const box = { minX: 0, minY: 0, minZ: -300, maxX: 1000, maxY: 1000, maxZ: 0 };
const column = [
	['a', 'conformable'],
	['b', 'conformable'],
	['c', 'conformable']
] as const;
/** Beds of uneven thickness by how far up, or along, they lie. */
const beds =
	(up: (x: number, y: number, z: number) => number) =>
	(x: number, y: number, z: number): number => {
		const [v, thick] = [up(x, y, z), 40 * (1 + 0.5 * Math.sin(x / 120) * Math.cos(y / 150))];
		return v > 0 ? 0 : v > -thick ? 1 : 2;
	};
const holesOf = (azimuth: number, inclination: number) =>
	Array.from({ length: 64 }, (_, i) => ({
		...{ x: 70 + 120 * (i % 8), y: 80 + 118 * Math.floor(i / 8), azimuth, inclination, depth: 280 }
	}));
const share = async (t: Truth, ground: ReturnType<typeof fitGround>, ids: string[]) => {
	const r = random(9);
	const places = Array.from({ length: 3000 }, () => [1000 * r(), 1000 * r(), -250 * r()]);
	const units = await unitsAt(ground, Float64Array.from(places.flat()));
	return places.filter(([x, y, z], i) => t.column[t.unitAt(x!, y!, z!)]![0] === ids[units[i]!]).length / places.length;
};

describe('a contact that is upside down in its hole', () => {
	const t: Truth = { box, column, unitAt: beds((x, _, z) => z + 80 + 15 * Math.sin(x / 200)), holes: holesOf(0, -90) };
	/** In each of some holes a wrong code makes the oldest unit the uppermost one, and a second base of the one below it. */
	const wrong = [9, 20, 27, 35, 36, 44, 50, 54];
	const damaged = () => {
		const holes = logsOf(t);
		for (const i of wrong) holes[i]!.intervals[0]!.code = 'c';
		return { holes, names: wrong.map((i) => holes[i]!.name) };
	};

	it('shapes nothing where all others are upright, and its hole is named', async () => {
		const { holes, names } = damaged();
		const { input, findings } = seenIn(t, holes);
		const ground = fitGround(input);
		const named = new Set([...findings, ...ground.findings].map((f) => f.hole));
		expect(names.filter((n) => !named.has(n))).toEqual([]);
		expect(
			await share(
				t,
				ground,
				input.column.map((u) => u.id)
			)
		).toBeGreaterThan(0.97);
	});

	it('does not take the base of weathered ground down to the ends of the holes around it', async () => {
		const found = await run(anyCase(random(149 * 7919 + 13)), 149);
		expect(found.share).toBeGreaterThan(0.99);
		expect(found.volume).toBeLessThan(0.04);
		expect(found.named).toBe(found.damaged);
	});

	it('is as it should be where beds are turned over as a whole', async () => {
		const up = (x: number, _: number, z: number) => 0.9 * (x - 500) - 0.44 * (z + 150);
		const places = [200, 400, 500, 600, 800].map((y) => ({ x: 500, y, z: -150 }));
		const turned: Truth = { box, column, unitAt: beds(up), holes: holesOf(90, -50), layering: { field: up, places } };
		const { input, findings } = seenIn(turned, logsOf(turned));
		const ground = fitGround(input);
		expect(
			[...findings, ...ground.findings].filter((f) => ['against-neighbours', 'out-of-order'].includes('rule' in f ? f.rule : f.kind))
		).toEqual([]);
		expect(
			await share(
				turned,
				ground,
				input.column.map((u) => u.id)
			)
		).toBeGreaterThan(0.95);
	});
});
