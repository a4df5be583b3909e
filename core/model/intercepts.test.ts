import { describe, expect, it } from 'vitest';
import type { ContactPoint, Observation } from '../units/contacts';
import { centreOf, extentOf, interceptsOf } from './intercepts';
import { interceptAt } from './part-sheets';

const contact = (depth: number, hole = 'A'): ContactPoint => ({ surface: 0, x: 0, y: 0, z: -depth, hole, depth, table: 'log', row: 0 });
const place = (unit: number, depth: number, hole = 'A'): Observation => ({ unit, x: 0, y: 0, z: -depth, hole, depth });

describe('where a hole crosses a sheet', () => {
	it('is midway of both walls, or of what was seen inside from the one that was met, up or down', () => {
		const seen = [place(1, 20), place(0, 50), place(1, 80), place(0, 110), place(0, 118), place(1, 160), place(0, 190), place(1, 240)];
		// Walls at 40 and 60; one at 100, with what follows not logged; one at 200, with what lies above not logged.
		const [deepest, middle, upper] = interceptsOf(
			[40, 60, 100, 200].map((d) => contact(d)),
			seen,
			0
		).sort((a, b) => a.middle[2] - b.middle[2]);
		expect([upper, middle, deepest].map((i) => i!.contacts.length)).toEqual([2, 1, 1]);
		expect([upper, middle, deepest].map((i) => i!.middle[2])).toEqual([-50, -100, -200]);
		expect([upper, middle, deepest].map((i) => centreOf(i!)[2])).toEqual([-50, -109, -195]);
		expect([upper, middle, deepest].map((i) => extentOf(i!))).toEqual([20, 18, 10]);
	});

	it('is its contact where nothing was seen inside, or on both sides of it', () => {
		const [bare] = interceptsOf([contact(100)], [place(1, 80), place(1, 120)], 0);
		expect([centreOf(bare!)[2], extentOf(bare!)]).toEqual([-100, 0]);
		const [both] = interceptsOf([contact(100)], [place(0, 80), place(0, 120)], 0);
		expect(centreOf(both!)[2]).toBe(-100);
		expect(interceptsOf([], [place(0, 80)], 0)).toEqual([]);
	});

	it('has the places inside that no older rock parts from it; another crossing, of which no wall was logged, is none of it', () => {
		const seen = [place(0, 50), place(1, 80), place(0, 110), place(0, 300, 'B')];
		const intercepts = interceptsOf([contact(40), contact(60)], seen, 0);
		const whose = interceptAt(intercepts, seen, 0);
		expect(whose({ hole: 'A', depth: 50 })).toBe(intercepts[0]);
		expect(whose({ hole: 'A', depth: 70 })).toBe(intercepts[0]);
		expect(whose({ hole: 'A', depth: 110 })).toBeUndefined();
		expect(whose({ hole: 'B', depth: 300 })).toBeUndefined();
		// Younger rock hides it, and says nothing of what it was before.
		const hidden = interceptAt(interceptsOf([contact(40), contact(60)], seen, 0), [place(-1, 80)], 0);
		expect(hidden({ hole: 'A', depth: 110 })).toBeDefined();
	});
});
