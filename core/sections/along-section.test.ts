import { describe, expect, it } from 'vitest';
import type { HolePaths } from '../datasets/hole-paths';
import {
	crossings,
	fenceTraces,
	holesNearSection,
	legAzimuth,
	onProjected,
	parallelTraces,
	partOfProjected,
	planeOnSection,
	traceAlongHole,
	traceThrough
} from './along-section';
import { traceLength, type Trace } from './section';

const east: Trace = [
	[0, 0],
	[1000, 0]
];
const paths: HolePaths = {
	holes: ['near', 'far', 'into'].map((name, i) => ({ name, collar: [0, 0, 0] as const, totalDepth: 100, row: i })),
	start: Uint32Array.of(0, 2, 4, 7),
	depths: Float64Array.of(0, 100, 0, 100, 0, 50, 100),
	xyz: Float64Array.of(200, 30, 10, 200, 30, -90, 300, 500, 0, 300, 500, -100, 600, 120, 0, 600, 80, -30, 620, 40, -60)
};
const round = (list: readonly number[]) => list.map((v) => Math.round(v * 1e6) / 1e6 + 0);

describe('holes on a section', () => {
	it('are those of which a part lies in the corridor, with how far they were projected', () => {
		const found = holesNearSection(paths, east, 50);
		expect(found.map((h) => [h.name, ...round(h.off)])).toEqual([
			['near', 30, 30],
			['into', 40, 120]
		]);
		expect(holesNearSection(paths, east, 10)).toEqual([]);
		expect(holesNearSection(paths, east, 5000)).toHaveLength(3);
	});
	it('beyond the ends of the trace are none of it', () => {
		expect(
			holesNearSection(
				paths,
				[
					[700, 0],
					[1000, 0]
				],
				5000
			)
		).toEqual([]);
	});
	it('give places at depths, with the bends between', () => {
		const into = holesNearSection(paths, east, 50)[1]!;
		expect(round(onProjected(into, 25))).toEqual([600, -15]);
		expect(round(onProjected(into, 75))).toEqual([610, -45]);
		expect(round(partOfProjected(into, 25, 75))).toEqual([600, -15, 600, -30, 610, -45]);
	});
});

describe('planes on a section', () => {
	it('have their true dip across the strike, and none along it', () => {
		expect(planeOnSection(east, 500, 20, 30, 90)).toMatchObject({ along: 500, off: 20 });
		expect(planeOnSection(east, 500, 20, 30, 90).apparent).toBeCloseTo(30, 9);
		expect(planeOnSection(east, 500, 20, 30, 270).apparent).toBeCloseTo(-30, 9);
		expect(planeOnSection(east, 500, 20, 30, 0).apparent).toBeCloseTo(0, 9);
		// tan 45° · cos 60° is the tangent of 26.565°.
		expect(planeOnSection(east, 500, 0, 45, 30).apparent).toBeCloseTo(26.565, 3);
	});
	it('use the leg that they lie at', () => {
		const bent: Trace = [
			[0, 0],
			[100, 0],
			[100, 100]
		];
		expect([legAzimuth(bent, 0), legAzimuth(bent, 1)]).toEqual([90, 0]);
		expect(planeOnSection(bent, 101, 80, 20, 0).apparent).toBeCloseTo(20, 9);
	});
});

describe('sets of sections', () => {
	it('parallel ones lie at their spacing on both sides', () => {
		expect(parallelTraces(east, 100, 1, 2).map((t) => t[0]![1])).toEqual([100, -100, -200]);
		expect(
			parallelTraces(
				[
					[5, 5],
					[5, 5]
				],
				100,
				1,
				1
			)
		).toEqual([]);
	});
	it('a fence stands square to its line', () => {
		const fence = fenceTraces(east, 250, 400);
		expect(fence).toHaveLength(4);
		expect(round(fence[0]!.flat())).toEqual([125, 200, 125, -200]);
	});
	it('cross where they cross', () => {
		expect(
			crossings(east, [
				[300, -50],
				[300, 50]
			])
		).toEqual([300]);
		expect(
			crossings(east, [
				[300, 10],
				[300, 50]
			])
		).toEqual([]);
		expect(
			crossings(
				[
					[0, 0],
					[100, 0],
					[100, 100]
				],
				[
					[50, 50],
					[150, 50]
				]
			)
		).toEqual([150]);
		expect(
			crossings(east, [
				[0, 0],
				[500, 0]
			])
		).toEqual([]);
	});
	it('go through places from one end to the other, stretched', () => {
		expect(
			round(
				traceThrough(
					[
						[100, 0],
						[0, 0],
						[50, 10]
					],
					10
				)[0]!
			)
		).toEqual(round([-10 / Math.hypot(1, 0.2), -2 / Math.hypot(1, 0.2)]));
		expect(
			traceThrough(
				[
					[100, 0],
					[0, 0],
					[50, 10]
				],
				10
			)[1]
		).toEqual([50, 10]);
		expect(
			traceThrough(
				[
					[5, 5],
					[5, 5]
				],
				20
			)
		).toEqual([
			[-15, 5],
			[25, 5]
		]);
		expect(
			traceThrough(
				[
					[0, 0],
					[1, 100]
				],
				0
			)
		).toEqual([
			[0, 0],
			[1, 100]
		]);
	});
	it('go along a hole, and from west to east through a vertical one', () => {
		expect(traceAlongHole(paths, 0, 50)).toEqual([
			[150, 30],
			[250, 30]
		]);
		expect(traceLength(traceAlongHole(paths, 2, 50))).toBeCloseTo(Math.hypot(20, 80) + 100, 9);
	});
});
