import { beforeAll, describe, expect, it } from 'vitest';
import { p1, p3 } from '../../bench/problems';
import { solidOf, surfaceOf, unitsIn, type TriangleMesh } from './extract';
import type { SolidMesh } from './cut-lattice';
import { buildModel } from '../model/build';
import { fitGround } from '../model/fit-ground';
import { elevationGrid, gridOver, thicknessGrid, trueThicknessGrid } from './grid-over';

const box = { minX: 0, minY: 0, maxX: 2000, maxY: 2000 };
let planes: SolidMesh;
let faulted: SolidMesh;
beforeAll(async () => {
	planes = (await buildModel(fitGround(p1().input), { spacing: 100 })).mesh;
	faulted = (await buildModel(fitGround(p3().input), { spacing: 100 })).mesh;
});

/** A box from z = 0 to the given height, as 12 triangles with normals outward. */
const block = (height: number): TriangleMesh => ({
	positions: Float64Array.from([0, 0, 0, 10, 0, 0, 10, 10, 0, 0, 10, 0, 0, 0, height, 10, 0, height, 10, 10, height, 0, 10, height]),
	triangles: Uint32Array.from([0, 2, 1, 0, 3, 2, 4, 5, 6, 4, 6, 7, 0, 1, 5, 0, 5, 4, 1, 2, 6, 1, 6, 5, 2, 3, 7, 2, 7, 6, 3, 0, 4, 3, 4, 7])
});

describe('grids over a box', () => {
	it('have their nodes in the middle of cells of about the size asked for', () => {
		expect(gridOver({ minX: 0, minY: 0, maxX: 100, maxY: 45 }, 10)).toEqual({ x0: 5, y0: 4.5, dx: 10, dy: 9, nx: 10, ny: 5 });
		expect(gridOver({ minX: 0, minY: 0, maxX: 1, maxY: 1 }, 500)).toMatchObject({ nx: 1, ny: 1, x0: 0.5 });
	});
});

describe('thickness', () => {
	it('of a block is its height on all nodes inside, also on its edges and diagonals, and nothing outside', () => {
		const t = thicknessGrid(block(7), { x0: -2.5, y0: -2.5, dx: 2.5, dy: 2.5, nx: 7, ny: 7 });
		for (let j = 0; j < 7; j++)
			for (let i = 0; i < 7; i++) {
				const [x, y] = [-2.5 + 2.5 * i, -2.5 + 2.5 * j];
				const inside = x > 0 && x < 10 && y > 0 && y < 10;
				if (inside) expect(t.values[j * 7 + i]).toBeCloseTo(7, 5);
				else if (x < 0 || x > 10 || y < 0 || y > 10) expect(t.values[j * 7 + i]).toBeNaN();
			}
	});
	it('of all units adds up to the height of the model at every node', () => {
		const grid = gridOver(box, 37);
		const sum = new Float64Array(grid.nx * grid.ny);
		for (const u of unitsIn(faulted))
			thicknessGrid(solidOf(faulted, u), grid).values.forEach((v, i) => (sum[i]! += Number.isNaN(v) ? 0 : v));
		for (const v of sum) expect(v).toBeCloseTo(1000, 2);
	});
	it('times the area of a cell gives the volume', () => {
		const grid = gridOver(box, 12.5);
		for (const u of unitsIn(faulted)) {
			let volume = 0;
			for (const v of thicknessGrid(solidOf(faulted, u), grid).values) if (!Number.isNaN(v)) volume += v * grid.dx * grid.dy;
			expect(Math.abs(volume / faulted.volumes.get(u)! - 1)).toBeLessThan(2e-3);
		}
	});
	it('across layers that dip 27° is what they measure, 110 m', () => {
		const grid = gridOver({ minX: 700, minY: 700, maxX: 1300, maxY: 1300 }, 50);
		const solid = solidOf(planes, 1);
		for (const v of trueThicknessGrid(solid, grid).values) expect(v).toBeCloseTo(110, 1);
		for (const v of thicknessGrid(solid, grid).values) expect(v).toBeCloseTo(110 / Math.cos((27 * Math.PI) / 180), 1);
	});
});

describe('elevation', () => {
	it('of a plane is that plane, and nothing where it does not reach', () => {
		const grid = gridOver(box, 90);
		const p = p1();
		const r = elevationGrid(surfaceOf(planes, 0), grid);
		let met = 0;
		r.values.forEach((z, k) => {
			if (Number.isNaN(z)) return;
			met++;
			expect(Math.abs(p.above(0, grid.x0 + (k % grid.nx) * grid.dx, grid.y0 + Math.floor(k / grid.nx) * grid.dy, z))).toBeLessThan(0.01);
		});
		expect(met).toBeGreaterThan(200);
		expect(met).toBeLessThanOrEqual(grid.nx * grid.ny);
	});
});
