import { describe, expect, it } from 'vitest';
import { evaluateField } from './field-kernel';
import { gradientAt, inBlock, plus, valueAt } from './field';
import { fitField } from './fit';
import { solveField } from './solve-field';

const random = (seed: number) => () => (seed = (seed * 48271) % 2147483647) / 2147483647;
const r = random(7);
const places = Array.from({ length: 40 }, () => ({ x: 1000 * r(), y: 1000 * r() }));
const field = fitField(
	{
		groupCount: 2,
		faultCount: 1,
		points: places.map(({ x, y }, i) => ({
			x,
			y,
			z: 20 * Math.sin(x / 150) - 60 * (i % 2) - (x > 500 ? 30 : 0),
			group: i % 2,
			block: x > 500 ? 1 : 0
		})),
		values: [],
		gradients: places.slice(0, 6).map(({ x, y }) => ({ x, y, z: 0, gradient: [0, 0, 1] as const, block: x > 500 ? 1 : 0 })),
		bounds: []
	},
	{ range: 1500 }
).field;
const other = solveField(
	{
		groupCount: 1,
		faultCount: 0,
		points: [],
		values: places.slice(0, 25).map(({ x, y }, i) => ({ x, y, z: -10, value: 8 * Math.cos(i), block: x > 500 ? 1 : 0 })),
		gradients: [],
		bounds: []
	},
	{ range: 1500, drift: 'none', frame: field }
).field;

describe('a field plus a multiple of another', () => {
	const sum = plus(field, other, -0.7);

	it('has the sum of their values and gradients everywhere, seen from either side of a fault', () => {
		for (const block of [0, 1]) {
			const [s, f, o] = [sum, field, other].map((g) => inBlock(g, block)) as [
				ReturnType<typeof inBlock>,
				ReturnType<typeof inBlock>,
				ReturnType<typeof inBlock>
			];
			for (let i = 0; i < 50; i++) {
				const p = [1000 * r(), 1000 * r(), 200 * r() - 100] as const;
				expect(valueAt(s, ...p)).toBeCloseTo(valueAt(f, ...p) - 0.7 * valueAt(o, ...p), 10);
				const [gs, gf, go] = [gradientAt(s, ...p), gradientAt(f, ...p), gradientAt(o, ...p)];
				for (let c = 0; c < 3; c++) expect(gs[c]!).toBeCloseTo(gf[c]! - 0.7 * go[c]!, 9);
			}
		}
	});

	it('keeps the levels and the frame of the first, and the kernel agrees', () => {
		expect([...sum.levels]).toEqual([...field.levels]);
		expect([sum.center, sum.unit]).toEqual([field.center, field.unit]);
		const xyz = Float64Array.from({ length: 300 }, (_, i) => (i % 3 === 2 ? -100 + 200 * r() : 1000 * r()));
		const at = inBlock(sum, 1);
		evaluateField(sum, 1, xyz).forEach((v, i) => expect(v).toBeCloseTo(valueAt(at, xyz[3 * i]!, xyz[3 * i + 1]!, xyz[3 * i + 2]!), 10));
	});

	it('a field in the frame of another honours its own values there', () => {
		const b = [inBlock(other, 0), inBlock(other, 1)];
		places
			.slice(0, 25)
			.forEach(({ x, y }, i) => expect(valueAt(b[x > 500 ? 1 : 0]!, x, y, -10) * other.unit).toBeCloseTo(8 * Math.cos(i), 4));
	});
});
