import { describe, expect, it } from 'vitest';
import { Barriers } from '../barriers';
import { plainGridding, readingsOfFunction } from '../for-tests';
import { gridRows } from '../gridding';
import { inverseDistance } from './inverse-distance';

const surface = (x: number, y: number) => 40 * Math.sin(x / 170) + 30 * Math.cos(y / 130);

describe('the inverse distance kernel', () => {
	const points = readingsOfFunction(57, 3, surface);
	const search = { most: 57, least: 1, radius: 0, sectors: 1 as const };

	it.each([1, 2, 3, 4])('gives the same bits as the plain loop, for power %d, smoothed and not', (power) => {
		for (const smoothing of [0, 12.5])
			for (const count of [1, 2, 3, 4, 5, 101]) {
				const g = inverseDistance({ points, barriers: new Barriers(new Float64Array(0)) }, { ...search, power, smoothing });
				const out = new Float32Array(count);
				g.row!(points.y[3]!, points.x[3]!, 9.7, out);
				expect([...out]).toEqual(Array.from(out, (_, i) => Math.fround(g.at(points.x[3]! + i * 9.7, points.y[3]!))));
				// The first cell lies at a reading.
				if (!smoothing) expect(out[0]).toBe(Math.fround(points.value[3]!));
			}
	});

	it('is not asked for powers it does not know, nor where a limit leaves readings out', () => {
		const with_ = (more: object) =>
			inverseDistance({ points, barriers: new Barriers(new Float64Array(0)) }, { ...search, power: 2, smoothing: 0, ...more }).row;
		expect(with_({})).toBeDefined();
		for (const more of [{ power: 2.5 }, { radius: 100 }, { most: 12 }, { sectors: 4 }]) expect(with_(more)).toBeUndefined();
	});

	it('takes rows that run down or to the left', () => {
		const frame = { x0: 400_900, y0: 4_990_800, dx: -10, dy: -7, nx: 33, ny: 9 };
		const task = {
			gridding: plainGridding({ method: 'inverse-distance', most: 0 }),
			input: { points, barriers: new Float64Array(0) },
			frame
		};
		const all = gridRows({ ...task, from: 0, to: 9 });
		expect([...gridRows({ ...task, from: 4, to: 5 })]).toEqual([...all.subarray(4 * 33, 5 * 33)]);
		const plain = inverseDistance({ points, barriers: new Barriers(new Float64Array(0)) }, { ...search, power: 2, smoothing: 0 });
		expect(all[5 * 33 + 8]).toBe(Math.fround(plain.at(400_900 - 80, 4_990_800 - 35)));
	});
});
