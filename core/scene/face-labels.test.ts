import { describe, expect, it } from 'vitest';
import { faceLabels } from './face-labels';
import { spreadLabels } from './leader-labels';

const ALL = [0, 0, 1000, 1000] as const;
const box = (x0: number, y0: number, x1: number, y1: number) => [x0, y0, x1, y0, x1, y1, x0, y1];

describe('names inside faces', () => {
	it('stand in the middle of a face that has room, and of each of its pieces', () => {
		const [one] = faceLabels([{ text: 'Slate', width: 60, rings: [box(100, 100, 300, 140)] }], ALL);
		expect(one!.y).toBeCloseTo(120, 0);
		expect(one!.x).toBeGreaterThan(130);
		expect(one!.x).toBeLessThan(270);
		const two = faceLabels([{ text: 'Slate', width: 60, rings: [box(0, 0, 200, 40), box(400, 0, 600, 40), box(900, 0, 910, 4)] }], ALL);
		expect(two).toHaveLength(2);
	});
	it('are not there where the name would leave the face: too thin, too short, too narrow', () => {
		for (const ring of [box(0, 0, 900, 14), box(0, 0, 50, 200), box(0, 0, 2, 2), []])
			expect(faceLabels([{ text: 'Limestone', width: 60, rings: [ring] }], ALL)).toEqual([]);
	});
	it('lie inside what is seen of the face', () => {
		const [one] = faceLabels([{ text: 'Slate', width: 60, rings: [box(-5000, 500, 5000, 3000)] }], ALL);
		expect(one!.x).toBeGreaterThan(30);
		expect(one!.x).toBeLessThan(970);
		expect(one!.y).toBeLessThan(994);
		expect(faceLabels([{ text: 'Slate', width: 60, rings: [box(2000, 0, 3000, 900)] }], ALL)).toEqual([]);
	});
	it('keep out of holes, and what fills the hole has its own', () => {
		const rings = [box(0, 0, 400, 200), box(60, 20, 340, 180), box(100, 60, 300, 140)];
		const found = faceLabels([{ text: 'Ore', width: 25, rings }], ALL);
		expect(found.every((l) => l.x < 60 || l.x > 340 || l.y < 20 || l.y > 180 || (l.x > 100 && l.x < 300 && l.y > 60 && l.y < 140))).toBe(
			true
		);
		expect(found.some((l) => l.x > 100 && l.x < 300)).toBe(true);
	});
});

describe('names in a row', () => {
	const label = (x: number, width = 40, rank = 1) => ({ x, width, rank });
	it('stand above their things where they have room', () => {
		expect(spreadLabels([label(300), label(100)], 0, 500).map((l) => l.at)).toEqual([100, 300]);
	});
	it('make room for each other evenly, in order, within the ends', () => {
		const near = spreadLabels([label(200), label(202), label(204)], 0, 500);
		expect(near.map((l) => l.at)).toEqual([156, 202, 248]);
		expect(spreadLabels([label(1), label(2)], 0, 500).map((l) => l.at)).toEqual([20, 66]);
		expect(spreadLabels([label(499), label(498)], 0, 500).map((l) => l.at)).toEqual([434, 480]);
	});
	it('never touch, and never cross, whatever there is to name', () => {
		for (let seed = 1; seed <= 200; seed++) {
			let s = seed * 7919;
			const random = () => (s = (s * 16_807) % 2_147_483_647) / 2_147_483_647;
			const list = Array.from({ length: 1 + Math.floor(random() * 30) }, () => label(random() * 900, 10 + random() * 60, random()));
			const row = spreadLabels(list, 0, 900);
			row.forEach((l, i) => {
				expect(l.at - l.width / 2).toBeGreaterThanOrEqual(-1e-9);
				expect(l.at + l.width / 2).toBeLessThanOrEqual(900 + 1e-9);
				const next = row[i + 1];
				if (!next) return;
				expect(next.x).toBeGreaterThanOrEqual(l.x);
				expect(next.at - next.width / 2 - (l.at + l.width / 2)).toBeGreaterThanOrEqual(6 - 1e-9);
			});
		}
	});
	it('leave out those of the lowest rank when the row is full', () => {
		expect(spreadLabels([label(10, 60, 1), label(20, 60, 3), label(30, 60, 2)], 0, 130).map((l) => l.rank)).toEqual([3, 2]);
		expect(spreadLabels([label(10, 600)], 0, 130)).toEqual([]);
		expect(spreadLabels([], 0, 130)).toEqual([]);
	});
});
