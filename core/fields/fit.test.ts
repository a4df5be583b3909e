import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { planeNormal } from '../geometry/angles';
import { evaluateField } from './field-kernel';
import { evaluatePlain, gradientAt, inBlock, valueAt } from './field';
import type { FieldData } from './data';
import { fitField } from './fit';

const empty: FieldData = { groupCount: 1, faultCount: 0, points: [], values: [], gradients: [], bounds: [] };
const wavy = (x: number, y: number) => 40 * Math.sin(x / 180) + 25 * Math.cos(y / 230);

function scattered(n: number, seed: number): FieldData {
	let s = seed;
	const random = () => (s = (s * 48271) % 2147483647) / 2147483647;
	const points = Array.from({ length: n }, (_, i) => {
		const [x, y] = [1000 * random(), 1000 * random()];
		const group = i % 2;
		return { x, y, z: wavy(x, y) - 80 * group, group, block: 0 };
	});
	return { ...empty, groupCount: 2, points };
}

describe('a fitted field', () => {
	it('has one value on all contacts of a surface, and higher values on younger ones', () => {
		const { field } = fitField(scattered(80, 3), { range: 1500 });
		const b = inBlock(field, 0);
		for (const p of scattered(80, 3).points)
			expect(Math.abs(valueAt(b, p.x, p.y, p.z) - field.levels[p.group]!) * field.unit).toBeLessThan(1e-3);
		expect(field.levels[0]).toBeGreaterThan(field.levels[1]!);
	});

	it('is exactly a plane when the data are', () => {
		const n = planeNormal(34, 250);
		const points = Array.from({ length: 12 }, (_, i) => {
			const [x, y] = [(i % 4) * 300, Math.floor(i / 4) * 320 + 7 * i];
			return { x, y, z: -(n[0] * x + n[1] * y) / n[2], group: 0, block: 0 };
		});
		const b = inBlock(fitField({ ...empty, points }, { range: 2000 }).field, 0);
		for (const [x, y] of [
			[-900, 4000],
			[555, 123]
		] as const)
			expect((valueAt(b, x, y, -(n[0] * x + n[1] * y) / n[2]) - b.field.levels[0]!) * b.field.unit).toBeCloseTo(0, 5);
	});

	it('has the gradients that were asked for', () => {
		const gradient = planeNormal(55, 70);
		const data: FieldData = {
			...scattered(20, 9),
			gradients: [
				{ x: 300, y: 400, z: 10, gradient, block: 0 },
				{ x: 800, y: 200, z: -30, gradient: planeNormal(10, 200), block: 0 }
			]
		};
		const b = inBlock(fitField(data, { range: 1500, orientationNugget: 0 }).field, 0);
		gradientAt(b, 300, 400, 10).forEach((g, c) => expect(g).toBeCloseTo(gradient[c]!, 6));
	});

	describe('with orientations that say nothing of thickness', () => {
		// Layers that grow from a quarter of their thickness to all of it from west to east, tilted.
		const truth = (x: number, y: number, z: number) => (z + 0.2 * y) / (0.25 + 0.75 * (x / 1000));
		const slope = (x: number, y: number, z: number) => {
			const e = 1e-3;
			return [
				(truth(x + e, y, z) - truth(x - e, y, z)) / (2 * e),
				(truth(x, y + e, z) - truth(x, y - e, z)) / (2 * e),
				(truth(x, y, z + e) - truth(x, y, z - e)) / (2 * e)
			] as const;
		};
		let s = 5;
		const random = () => (s = (s * 48271) % 2147483647) / 2147483647;
		const points = Array.from({ length: 60 }, (_, i) => {
			const [x, y, group] = [1000 * random(), 1000 * random(), i % 3];
			return { x, y, z: -100 * group * (0.25 + 0.75 * (x / 1000)) - 0.2 * y, group, block: 0 };
		});
		const gradients = Array.from({ length: 80 }, () => {
			const [x, y, z] = [1000 * random(), 1000 * random(), -300 * random()];
			const g = slope(x, y, z);
			const n = Math.hypot(...g);
			return { x, y, z, gradient: [g[0] / n, g[1] / n, g[2] / n] as [number, number, number], block: 0 };
		});
		const data: FieldData = { ...empty, groupCount: 3, points, gradients };
		const offOf = (lengthNugget: number) => {
			const { field } = fitField(data, { range: 1500, lengthNugget });
			const b = inBlock(field, 0);
			// Between the first and the last level, how far levels lie from where they should.
			let sum = 0;
			for (let i = 0; i < 200; i++) {
				const [x, y, group] = [100 + 4 * i, (i * 37) % 1000, i % 3];
				const z = -100 * group * (0.25 + 0.75 * (x / 1000)) - 0.2 * y;
				sum += ((valueAt(b, x, y, z) - field.levels[group]!) * field.unit) ** 2;
			}
			return Math.sqrt(sum / 200);
		};

		it('lies nearer to the truth than with all gradients of one length', () => expect(offOf(1)).toBeLessThan(0.6 * offOf(0.01)));

		it('still points where they point, whatever its length there', () => {
			const b = inBlock(fitField(data, { range: 1500, orientationNugget: 1e-6, lengthNugget: 1 }).field, 0);
			for (const g of gradients) {
				const at = gradientAt(b, g.x, g.y, g.z);
				const cos = (at[0] * g.gradient[0] + at[1] * g.gradient[1] + at[2] * g.gradient[2]) / Math.hypot(...at);
				expect(Math.acos(Math.min(1, cos))).toBeLessThan(0.01);
			}
		});

		it('with one error for both is as with none for the length', () => {
			const [a, b] = [
				fitField(data, { range: 1500, orientationNugget: 0.01 }).field,
				fitField(data, { range: 1500, orientationNugget: 0.01, lengthNugget: 0.01 }).field
			];
			expect(b).toEqual(a);
		});
	});

	it('has the gradient of its own values', () => {
		const data: FieldData = { ...scattered(20, 9), gradients: [{ x: 300, y: 400, z: 10, gradient: planeNormal(30, 70), block: 0 }] };
		const { field } = fitField(data, { range: 1500 });
		const b = inBlock(field, 0);
		const e = 1e-3;
		for (const [x, y, z] of [
			[100, 200, 5],
			[640, 720, -60],
			[301, 399, 12]
		] as const) {
			const g = gradientAt(b, x, y, z);
			expect(((valueAt(b, x + e, y, z) - valueAt(b, x - e, y, z)) / (2 * e)) * field.unit).toBeCloseTo(g[0], 5);
			expect(((valueAt(b, x, y + e, z) - valueAt(b, x, y - e, z)) / (2 * e)) * field.unit).toBeCloseTo(g[1], 5);
			expect(((valueAt(b, x, y, z + e) - valueAt(b, x, y, z - e)) / (2 * e)) * field.unit).toBeCloseTo(g[2], 5);
		}
	});

	it('keeps to the right side of bounds that it would break', () => {
		const data = scattered(30, 5);
		const high = { x: 500, y: 500, z: wavy(500, 500) - 30, group: 0, sense: 1 as const, block: 0, source: 'H' };
		const { field, activeBounds } = fitField({ ...data, bounds: [high] }, { range: 1500 });
		expect(activeBounds).toBe(1);
		expect(valueAt(inBlock(field, 0), high.x, high.y, high.z)).toBeGreaterThanOrEqual(field.levels[0]! - 1e-6);
	});

	it('jumps across a fault by what the data on both sides say', () => {
		const points = scattered(60, 8)
			.points.filter((p) => p.group === 0)
			.map((p) => ({ ...p, z: (p.x > 500 ? -70 : 0) + 0.1 * p.y, block: p.x > 500 ? 1 : 0 }));
		const { field } = fitField({ ...empty, faultCount: 1, points }, { range: 1500 });
		const jump = valueAt(inBlock(field, 1), 500, 500, 0) - valueAt(inBlock(field, 0), 500, 500, 0);
		expect(jump * field.unit).toBeCloseTo(70, 3);
	});

	it('says which part of the drift the data leave open', () => {
		const line = Array.from({ length: 8 }, (_, i) => ({ x: 100 * i, y: 50 * i, z: 3 * i, group: 0, block: 0 }));
		expect(fitField({ ...empty, faultCount: 1, points: line }, { range: 1500 }).unsettled).toEqual(['jump 0', 'minor']);
	});

	it('refuses an empty system', () => {
		expect(() => fitField(empty, { range: 100 })).toThrow('at least one');
	});
});

describe('the kernel', () => {
	it('agrees with its plain twin for any number of sources and points', () => {
		fc.assert(
			fc.property(
				fc.integer({ min: 4, max: 41 }),
				fc.integer({ min: 0, max: 5 }),
				fc.integer({ min: 1, max: 3000 }),
				(points, gradients, targets) => {
					const data: FieldData = {
						...scattered(points, points),
						gradients: Array.from({ length: gradients }, (_, i) => ({
							x: 150 * i,
							y: 900 - 120 * i,
							z: i,
							gradient: planeNormal(5 * i, 60 * i),
							block: i % 2
						}))
					};
					const { field } = fitField({ ...data, faultCount: 1 }, { range: 900 });
					const xyz = Float64Array.from({ length: 3 * targets }, (_, i) => ((i * 7919) % 2400) - 700);
					for (const block of [0, 1]) {
						const plain = new Float64Array(targets);
						evaluatePlain(inBlock(field, block), xyz, plain);
						const fast = evaluateField(field, block, xyz);
						for (let i = 0; i < targets; i++) expect(Math.abs(fast[i]! - plain[i]!)).toBeLessThan(1e-9 * (1 + Math.abs(plain[i]!)));
					}
				}
			),
			{ numRuns: 12 }
		);
	});
});
