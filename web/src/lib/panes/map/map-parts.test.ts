import { describe, expect, it } from 'vitest';
import { degrees } from '$lib/workbench/geographic.svelte';
import { graticuleLines } from './graticule';
import { symbolKind } from './styles';

describe('the frame of a map', () => {
	it('has lines at round coordinates through the whole box, named with a thin space', () => {
		const lines = graticuleLines([402_000, 4_992_000, 402_950, 4_992_700], null);
		expect(lines.every((l) => !l.geographic)).toBe(true);
		const [east, north] = [lines.filter((l) => l.name.endsWith(' E')), lines.filter((l) => l.name.endsWith(' N'))];
		expect(east.length).toBeGreaterThan(2);
		expect(north.length).toBeGreaterThan(1);
		for (const l of east) {
			expect(l.points[0]![0]).toBe(l.points[1]![0]);
			expect(l.points[0]![0] % 100).toBe(0);
			expect(l.points.map((p) => p[1])).toEqual([4_992_000, 4_992_700]);
		}
		expect(east[0]!.name.replace(/\s/g, ' ')).toMatch(/^402 \d00 E$/);
	});

	it('has round degrees and minutes, too, where the place on the earth is known', () => {
		// A plane that is turned a little: a degree is 100 km.
		const geographic = {
			forward: ([x, y]: [number, number]): [number, number] => [x / 1e5 + y / 1e7, y / 1e5],
			inverse: ([lon, lat]: [number, number]): [number, number] => [(lon - lat / 100) * 1e5, lat * 1e5]
		};
		const lines = graticuleLines([0, 0, 100_000, 60_000], geographic).filter((l) => l.geographic);
		expect(lines.map((l) => l.name)).toContain('0°30′00.0″E');
		for (const l of lines.filter((x) => x.name.endsWith('N'))) for (const p of l.points) expect(p[1]).toBeCloseTo(l.points[0]![1], 6);
		for (const l of lines.filter((x) => x.name.endsWith('E')))
			expect(new Set(l.points.map((p) => (geographic.forward(p)[0] * 3600).toFixed(3))).size).toBe(1);
		// A system that has no place there gives the plain lines.
		expect(graticuleLines([0, 0, 1000, 1000], { ...geographic, forward: () => [NaN, NaN] }).some((l) => l.geographic)).toBe(false);
	});

	it('writes degrees, minutes and seconds without sixty of anything', () => {
		expect(degrees(-10.5, 'EW')).toBe('10°30′00.0″W');
		expect(degrees(45.999_999_9, 'NS')).toBe('46°00′00.0″N');
		expect(degrees(-0.016_68, 'NS')).toBe('0°01′00.0″S');
	});
});

it('a symbol follows the word that the geologist used, then how the plane lies', () => {
	expect(['Bedding', '', 'S0'].map((w) => symbolKind(w, 30, 1))).toEqual(['bedding', 'bedding', 'bedding']);
	expect([symbolKind('bedding', 30, -1), symbolKind('bedding', 0.5, 1), symbolKind('bedding', 89.5, 1)]).toEqual([
		'overturned',
		'horizontal',
		'vertical'
	]);
	expect([
		symbolKind('Slaty cleavage', 80, -1),
		symbolKind('joint set 2', 0, 1),
		symbolKind('stretching lineation', 20, 1),
		symbolKind('Fold axis', 3, 1)
	]).toEqual(['foliation', 'joint', 'line', 'line']);
});
