import { describe, expect, it } from 'vitest';
import { drawMapPicture } from './map-picture';

const box = { minX: 0, minY: 0, maxX: 100, maxY: 50 };
const ring = [0, 0, 100, 0, 100, 50, 0, 50];

describe('the small map of a project', () => {
	it('keeps north up and everything inside', () => {
		const svg = drawMapPicture({ box, geology: [{ color: '#aabbcc', rings: [ring] }], holes: [[50, 50]], section: [] });
		const numbers = [...svg.matchAll(/[ML](-?[\d.]+) (-?[\d.]+)/g)].map((m) => [Number(m[1]), Number(m[2])]);
		for (const [x, y] of numbers) expect(x! >= 0 && x! <= 240 && y! >= 0 && y! <= 150).toBe(true);
		expect(svg).toContain('M120.0 18.0h0');
		// All four corners of the ring, the first in the south-west.
		expect(svg).toContain('d="M6.0 132.0L234.0 132.0L234.0 18.0L6.0 18.0Z"');
	});
	it('lets nothing into the drawing that is no colour, and leaves out what has no place', () => {
		const svg = drawMapPicture({ box, geology: [{ color: '"/><script>', rings: [ring] }], holes: [[NaN, 1]], section: [[1, 1]] });
		expect(svg).not.toContain('script');
		expect(svg).not.toContain('NaN');
	});
	it('draws ten thousand holes as a part of them, and a box without width', () => {
		const holes = Array.from({ length: 10_000 }, (_, i) => [i % 100, 5] as [number, number]);
		const svg = drawMapPicture({ box: { ...box, maxX: 0 }, geology: [], holes, section: [] });
		expect(svg.match(/h0/g)!.length).toBeLessThanOrEqual(400);
		expect(svg).not.toMatch(/NaN|Infinity/);
	});
});
