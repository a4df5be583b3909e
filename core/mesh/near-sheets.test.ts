import { describe, expect, it } from 'vitest';
import { NearSheets } from './near-sheets';

/** Two sheets of one triangle each, 90 m apart, and places to which the second may reach. */
const two = () => {
	const positions = Float64Array.from(
		[
			[0, 0, 0],
			[8, 0, 0],
			[0, 8, 0],
			[90, 0, 0],
			[98, 0, 0],
			[90, 8, 5],
			[2, 2, -4],
			[2, 3, 4],
			[30, 60, 90]
		].flat()
	);
	const triangles = Uint32Array.of(0, 1, 2, 3, 4, 5);
	const gone = new Uint8Array(2);
	return {
		triangles,
		gone,
		near: new NearSheets(
			positions,
			triangles,
			Uint32Array.of(0, 1),
			gone,
			Int32Array.of(0, 1),
			Uint32Array.from({ length: 9 }, (_, v) => v),
			10
		)
	};
};

describe('sheets that lie near each other', () => {
	it('are none where one sheet is alone', () => {
		const { near } = two();
		expect(near.crossed(3, 6, 7, 1, -1)).toBe(false);
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

	it('cover a triangle that lies in the cells of another', () => {
		const { near } = two();
		expect([near.covers(0, 1, 2, 1), near.covers(0, 1, 2, 3)]).toEqual([true, false]);
	});
});
