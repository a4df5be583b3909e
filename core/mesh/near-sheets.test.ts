import { describe, expect, it } from 'vitest';
import { NearSheets } from './near-sheets';

/** Cubes of 10 m, with a corner at the origin. */
const LATTICE = { nx: 10, ny: 10, nz: 10, x0: 0, y0: 0, z0: 0, dx: 10, dy: 10, dz: 10 };

/** Two sheets of one triangle each, of the first six places. */
const sheetsOf = (places: number[][]) => {
	const triangles = Uint32Array.of(0, 1, 2, 3, 4, 5);
	const gone = new Uint8Array(2);
	const near = new NearSheets(Float64Array.from(places.flat()), triangles, Uint32Array.of(0, 1), gone, Int32Array.of(0, 1), LATTICE, 1);
	return { triangles, gone, near };
};

/** They lie 90 m apart; and places to which the second may reach. */
const two = () =>
	sheetsOf([
		[0, 0, 5],
		[8, 0, 5],
		[0, 8, 5],
		[90, 0, 5],
		[98, 0, 5],
		[90, 8, 9],
		[2, 2, 1],
		[2, 3, 9],
		[30, 60, 90]
	]);

describe('sheets that lie near each other', () => {
	it('are none where one sheet is alone', () => {
		const { near } = two();
		expect(near.crossed(6, 7, 8, -1, -1)).toBe(false);
	});

	it('are told where a triangle comes into a cell that only the other sheet passed before', () => {
		const { near, triangles, gone } = two();
		triangles.set([3, 6, 8], 3);
		near.add(1);
		expect(near.crossed(3, 6, 7, 1, -1)).toBe(true);
		expect(near.crossed(3, 4, 5, 1, -1)).toBe(false);
		gone[0] = 1;
		expect(near.crossed(3, 6, 7, 1, -1)).toBe(false);
	});

	it('are told where one corner of a triangle goes into a cube that only the other sheet passed before', () => {
		const { near, triangles } = two();
		triangles[5] = 7;
		near.moved(1, 5, 7, 3, 4);
		expect(near.crossed(3, 6, 7, 1, -1)).toBe(true);
		expect(near.crossed(6, 7, 8, -1, -1)).toBe(true);
		expect(near.crossed(3, 4, 5, -1, -1)).toBe(false);
	});

	it('are told where one lies on the wall of a cube, whichever side it was listed on', () => {
		const { near } = sheetsOf([
			[10, 0, 5],
			[10, 9, 5],
			[10, 0, 9],
			[12, 1, 1],
			[12, 8, 1],
			[12, 4, 9],
			[9, 2, 4],
			[19, 3, 5],
			[9, 4, 6]
		]);
		// It comes through both.
		expect([near.crossed(6, 7, 8, 1, -1), near.crossed(6, 7, 8, 0, -1), near.crossed(6, 7, 8, 0, 1)]).toEqual([true, true, false]);
	});
});
