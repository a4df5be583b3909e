import { describe, expect, it } from 'vitest';
import { colorsApart, unitColors } from './unit-colors';

describe('colours of units', () => {
	it('are as far apart as colours are, for the reader who tells them apart worst', () => {
		expect(colorsApart('#000000', '#ffffff')).toBeCloseTo(1, 2);
		expect(colorsApart('#8a8a8a', '#8a8a8a')).toBe(0);
		// Red and green of one lightness are near to each other for some readers.
		expect(colorsApart('#c0504d', '#7a8a2a')).toBeLessThan(0.12);
	});
	it.each([3, 12, 40, 120])('differ clearly from their neighbours in a column of %i', (n) => {
		const colors = unitColors(Array.from({ length: n }, (_, i) => ({ name: `Unit ${i}` })));
		for (const c of colors) expect(c).toMatch(/^#[0-9a-f]{6}$/);
		for (let i = 1; i < n; i++) expect(colorsApart(colors[i]!, colors[i - 1]!), `${colors[i - 1]} ${colors[i]}`).toBeGreaterThan(0.1);
		if (n <= 12) expect(new Set(colors).size).toBe(n);
	});
	it('differ though the names speak of one rock', () => {
		const colors = unitColors(['Fine sand', 'Sandstone', 'Sand', 'Sandy dyke'].map((name) => ({ name })));
		for (let i = 1; i < 4; i++) expect(colorsApart(colors[i]!, colors[i - 1]!)).toBeGreaterThan(0.1);
	});
	it('stay where they are given, and the new ones keep away from them', () => {
		const colors = unitColors([{ name: 'A', color: '#c9b46a' }, { name: 'B' }, { name: 'C', color: '#c4773f' }]);
		expect([colors[0], colors[2]]).toEqual(['#c9b46a', '#c4773f']);
		expect(Math.min(colorsApart(colors[1]!, '#c9b46a'), colorsApart(colors[1]!, '#c4773f'))).toBeGreaterThan(0.1);
	});
	it('are the same for the same column', () =>
		expect(unitColors([{ name: 'x' }, { name: 'y' }])).toEqual(unitColors([{ name: 'x' }, { name: 'y' }])));
	it('say what the rock is where the name tells: limestone is bluer than sand', () => {
		const [sand, lime] = unitColors([{ name: 'Sandstone' }, { name: 'Limestone' }]);
		const blue = (c: string) => parseInt(c.slice(5), 16) - parseInt(c.slice(1, 3), 16);
		expect(blue(lime!)).toBeGreaterThan(blue(sand!) + 20);
	});
});
