import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { cubeCount, latticeOf, nodePositions, type Lattice } from './lattice';
import { Locator } from './locate';
import { refineLattice } from './refine';

const plain = latticeOf({ minX: 402_000, minY: 4_992_000, minZ: -300, maxX: 402_700, maxY: 4_992_500, maxZ: 100 }, 100);
const wanted = new Uint8Array(cubeCount(plain));
wanted[9] = 1;
wanted[60] = 3;
const finer: Lattice = { ...plain, finer: refineLattice(plain, wanted)! };
const places = fc.tuple(
	fc.double({ min: 0, max: 700, noNaN: true }),
	fc.double({ min: 0, max: 500, noNaN: true }),
	fc.double({ min: -300, max: 100, noNaN: true })
);

describe('a place in a lattice', () => {
	it.each([
		['plain', plain],
		['with finer parts', finer]
	])('%s is a mean of the corners of its tetrahedron', (_, l) => {
		const locator = new Locator(l);
		fc.assert(
			fc.property(places, ([x, y, z]) => {
				expect(locator.find(402_000 + x, 4_992_000 + y, z)).toBe(true);
				const corners = nodePositions(l, locator.nodes);
				const sum = [0, 0, 0];
				locator.weights.forEach((w, k) => {
					expect(w).toBeGreaterThan(-1e-8);
					for (let c = 0; c < 3; c++) sum[c]! += w * corners[3 * k + c]!;
				});
				expect(locator.weights.reduce((a, b) => a + b, 0)).toBeCloseTo(1, 9);
				expect(sum[0]).toBeCloseTo(402_000 + x, 5);
				expect(sum[1]).toBeCloseTo(4_992_000 + y, 5);
				expect(sum[2]).toBeCloseTo(z, 6);
			}),
			{ numRuns: 400, seed: 4 }
		);
	});

	it('lies in a small tetrahedron where there are some', () => {
		const locator = new Locator(finer);
		const sizeAt = (cube: number) => {
			const [i, j, k] = [cube % 7, Math.floor(cube / 7) % 5, Math.floor(cube / 35)];
			locator.find(402_000 + 100 * i + 52, 4_992_000 + 100 * j + 47, -300 + 100 * k + 51);
			const p = nodePositions(finer, locator.nodes);
			return Math.max(...[0, 1, 2, 3].map((a) => Math.hypot(p[3 * a]! - p[0]!, p[3 * a + 1]! - p[1]!, p[3 * a + 2]! - p[2]!)));
		};
		expect(sizeAt(60)).toBeLessThan(30);
		expect(sizeAt(9)).toBeLessThan(100);
		expect(sizeAt(139)).toBeGreaterThan(150);
	});

	it('on the sides of the box is in it, beyond them is not', () => {
		const locator = new Locator(plain);
		expect(locator.find(402_000, 4_992_000, -300)).toBe(true);
		expect(locator.find(402_700, 4_992_500, 100)).toBe(true);
		expect(locator.find(402_700.001, 4_992_500, 100)).toBe(false);
		expect(locator.find(402_100, 4_992_100, -300.001)).toBe(false);
		expect(locator.find(NaN, 4_992_100, 0)).toBe(false);
	});
});
