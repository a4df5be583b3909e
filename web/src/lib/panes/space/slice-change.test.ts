import { describe, expect, it } from 'vitest';
import { RADIANS } from '#core/geometry/angles';
import type { Vec3 } from '#core/geometry/vector';
import type { Slice } from '$lib/workbench/state';
import { changedSlice, movedSlice } from './slice-change';

const none: Slice = { kind: 'none', at: [0, 0, 0], azimuth: 90, dip: 60, thickness: 0, flipped: false };
const extent = { minX: 100, minY: 200, minZ: -300, maxX: 300, maxY: 600, maxZ: 100 };
/** Upward normal of a plane, by dip and dip azimuth, degrees. */
const normalOf = (dip: number, azimuth: number): Vec3 => [
	Math.sin(dip * RADIANS) * Math.sin(azimuth * RADIANS),
	Math.sin(dip * RADIANS) * Math.cos(azimuth * RADIANS),
	Math.cos(dip * RADIANS)
];

describe('a slice', () => {
	it('begins in the middle of the model, and stays where it is from then on', () => {
		const first = changedSlice(none, { kind: 'vertical' }, extent);
		expect(first).toEqual({ ...none, kind: 'vertical', at: [200, 400, -100] });
		const moved = { ...first, at: [110, 210, 0] as Slice['at'] };
		expect(changedSlice(moved, { kind: 'horizontal' }, extent).at).toEqual([110, 210, 0]);
		expect(changedSlice(moved, { thickness: 20 }, extent)).toEqual({ ...moved, thickness: 20 });
	});
	it('lies where it is told to, also first, and where it was without an extent', () => {
		expect(changedSlice(none, { kind: 'free', at: [1, 2, 3] }, extent).at).toEqual([1, 2, 3]);
		expect(changedSlice(none, { kind: 'free' }, null).at).toEqual([0, 0, 0]);
		expect(changedSlice(none, { flipped: true }, extent).at).toEqual([0, 0, 0]);
	});
	it('turns with its handle where it lies freely, from either side', () => {
		const free: Slice = { ...none, kind: 'free' };
		for (const [dip, azimuth] of [
			[35, 210],
			[72.4, 15.5]
		] as const) {
			const n = normalOf(dip, azimuth);
			const back: Vec3 = [-n[0], -n[1], -n[2]];
			for (const [slice, toward] of [
				[free, back],
				[{ ...free, flipped: true }, n]
			] as const)
				expect(movedSlice(slice, [5, 6, 7], toward)).toEqual({ ...slice, at: [5, 6, 7], dip, azimuth });
		}
	});
	it('of a kind that keeps its direction only moves', () => {
		const vertical: Slice = { ...none, kind: 'vertical' };
		expect(movedSlice(vertical, [5, 6, 7], [1, 0, 0])).toEqual({ ...vertical, at: [5, 6, 7] });
	});
});
