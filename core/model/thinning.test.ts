import { describe, expect, it } from 'vitest';
import { inBlock, surfaceField, valueAt } from '../fields/field';
import { fitField } from '../fields/fit';
import { finish } from '../fields/steps';
import { passingHoles, thinWalls } from './thinning';

/** A flat sheet of 10 m at elevation 0: a field of heights with a level for each wall. */
const extent = { minX: 0, minY: 0, minZ: -200, maxX: 1000, maxY: 1000, maxZ: 200 };
const places = Array.from({ length: 900 }, (_, i) => ({ x: 20 + 32 * (i % 30), y: 20 + 32 * Math.floor(i / 30), block: 0 }));
const contacts = places
	.filter((p) => p.x < 500)
	.flatMap((p) => [
		{ ...p, z: 5 },
		{ ...p, z: -5 }
	]);
const field = fitField(
	{
		groupCount: 2,
		faultCount: 0,
		points: contacts.filter((_, i) => i % 9 < 2).map((p) => ({ ...p, group: p.z > 0 ? 0 : 1 })),
		values: [],
		gradients: [
			{ x: 100, y: 100, z: 0, gradient: [0, 0, 1], block: 0 },
			{ x: 300, y: 800, z: 0, gradient: [0, 0, 1], block: 0 }
		],
		bounds: []
	},
	{ range: 1400 }
).field;
const levels = [field.levels[0]!, field.levels[1]!] as const;

describe('a sheet that thins out', () => {
	const passing = places.filter((p) => p.x > 560).map((p) => ({ ...p, z: 0 }));
	const [upper, lower] = finish(thinWalls(field, levels, contacts, passing, [0, 0, 1], extent, [], { range: 1400 }));
	const [up, down] = [inBlock(upper, 0), inBlock(lower, 0)];
	const thickness = (x: number, y: number) => {
		// Both walls are level, so that heights tell.
		const height = (b: typeof up, level: number) => -(valueAt(b, x, y, 0) - level) * field.unit;
		return height(up, levels[0]) - height(down, levels[1]);
	};

	it('is as thick as ever among the holes that meet it, and gone among those that do not', () => {
		for (const [x, y] of [
			[100, 100],
			[250, 500],
			[420, 900]
		] as const)
			expect(thickness(x, y)).toBeGreaterThan(9);
		for (const [x, y] of [
			[600, 100],
			[700, 500],
			[900, 900]
		] as const)
			expect(thickness(x, y)).toBeLessThan(0);
	});

	it('ends between them, and far beyond it stays as the nearest hole has it', () => {
		const end = Array.from({ length: 131 }, (_, i) => 430 + i).find((x) => thickness(x, 500) < 0)!;
		expect(end).toBeGreaterThan(468);
		expect(end).toBeLessThan(564);
		expect(thickness(-150, 500)).toBeGreaterThan(5);
		expect(thickness(1200, 500)).toBeLessThan(0);
	});

	it('is solved at once, however many holes there are', () => {
		expect([upper.local, lower.local]).toEqual([null, null]);
		expect(upper.weights.length - field.weights.length).toBeLessThan(1200);
	});
});

describe('holes that pass a sheet', () => {
	const flat = surfaceField({ x0: 0, y0: 0, dx: 1000, dy: 1000, nx: 2, ny: 2, values: new Float32Array(4) }, 1000);
	const hole = (name: string, ...at: [number, number, number][]) =>
		at.map(([z, depth, block]) => ({ hole: name, unit: 1, x: 500, y: 500, z, depth, block }));
	const found = (...holes: ReturnType<typeof hole>[]) => finish(passingHoles(flat, 0, holes.flat(), new Set(['met'])));

	it('are found with the place where they cross its middle', () => {
		const crossing = found(
			hole('a', [90, 10, 0], [-110, 210, 0]),
			hole('above', [90, 10, 0], [20, 80, 0]),
			hole('met', [50, 0, 0], [-50, 100, 0])
		);
		expect(crossing.map((c) => c.hole)).toEqual(['a']);
		expect(crossing[0]!.z).toBeCloseTo(0, 6);
		expect(crossing[0]!.depth).toBeCloseTo(100, 6);
	});

	it('are looked at down the hole, whatever the order of their places', () => {
		const [one] = found(hole('a', [-110, 210, 0], [90, 10, 0], [40, 60, 0]));
		expect(one!.depth).toBeCloseTo(100, 6);
		expect(found(hole('b', [10, 0, 0], [-10, 20, 0], [10, 40, 0], [-10, 60, 0]))).toHaveLength(3);
	});

	it('do not pass it where what is younger hides it', () => {
		const places = [hole('a', [90, 10, 0], [10, 90, 0], [-10, 110, 0], [-110, 210, 0])].flat();
		const younger = (depth: number) => [{ ...places[0]!, unit: 0, z: 100 - depth, depth }];
		const crossing = (depth: number) => finish(passingHoles(flat, 0, places, new Set(), younger(depth))).map((p) => p.hole);
		// A younger dyke from 95 to 105 m; one that was met higher up says nothing here.
		expect([crossing(100), crossing(50)]).toEqual([[], ['a']]);
	});

	it('do not pass it by a fault between two places', () => expect(found(hole('f', [90, 10, 0], [-110, 210, 1]))).toEqual([]));
});
