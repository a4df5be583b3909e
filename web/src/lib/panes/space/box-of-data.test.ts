import { describe, expect, it } from 'vitest';
import { boxOfData, seesBox } from './box-of-data';

const paths = (...xyz: number[]) => ({
	holes: xyz.length ? [{ name: 'A', collar: [xyz[0]!, xyz[1]!, xyz[2]!] as const, totalDepth: 1, row: 0 }] : [],
	start: Uint32Array.of(0, xyz.length / 3),
	depths: new Float64Array(xyz.length / 3),
	xyz: Float64Array.from(xyz)
});
const terrain = { x0: 100, y0: 200, dx: 10, dy: 10, nx: 3, ny: 2, values: Float32Array.of(1, 2, 3, NaN, 5, 6) };

describe('what is framed before there is an extent', () => {
	it('are the holes, with a little room around them', () => {
		expect(boxOfData(paths(0, 0, 10, 100, 50, -90), terrain)).toEqual({ minX: -5, minY: -5, minZ: -95, maxX: 105, maxY: 55, maxZ: 15 });
	});
	it('a single vertical hole has a width, too', () => {
		const b = boxOfData(paths(5, 5, 0, 5, 5, -200), null)!;
		expect([b.maxX - b.minX, b.maxY - b.minY, b.maxZ - b.minZ]).toEqual([20, 20, 220]);
	});
	it('a hole with a digit lost in its place is not looked for', () => {
		const places = [...Array.from({ length: 10 }, (_, i) => 402_000 + 10 * i), 40_205];
		const many = {
			holes: places.map((x, i) => ({ name: `H${i}`, collar: [x, 0, 0] as const, totalDepth: 1, row: i })),
			start: Uint32Array.from({ length: 12 }, (_, i) => i),
			depths: new Float64Array(11),
			xyz: Float64Array.from(places.flatMap((x) => [x, 0, 0]))
		};
		expect(boxOfData(many, null)!.minX).toBeGreaterThan(401_900);
	});
	it('without holes is the terrain; without either, nothing', () => {
		expect(boxOfData(paths(), terrain)).toEqual({ minX: 100, minY: 200, minZ: 0, maxX: 120, maxY: 210, maxZ: 7 });
		expect(boxOfData(null, null)).toBeNull();
		expect(boxOfData(null, { ...terrain, values: new Float32Array(6).fill(NaN) })).toBeNull();
		expect(boxOfData(paths(NaN, NaN, NaN), null)).toBeNull();
	});
});

it('a view that was kept is given back when it looks at what is here now', () => {
	const box = { minX: 0, minY: 0, minZ: -100, maxX: 1000, maxY: 1000, maxZ: 0 };
	expect(seesBox({ position: [-500, -900, 600], target: [500, 500, -50] }, box)).toBe(true);
	expect(seesBox({ position: [401_000, 4_991_000, 600], target: [402_000, 4_992_000, 0] }, box)).toBe(false);
	expect(seesBox({ position: [500, 500, 90_000], target: [500, 500, -50] }, box)).toBe(false);
	expect(seesBox({ position: [0, 0, 0], target: [0, 0, 0] }, box)).toBe(false);
});
