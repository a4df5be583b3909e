import { describe, expect, it } from 'vitest';
import { sharedCopy, sharedDeep, sharedDoubles } from './shared';

describe('room that threads share', () => {
	it('holds a copy of each kind of numbers, or of the first of them', () => {
		for (const a of [
			Float64Array.of(1.5, NaN, -3),
			Float32Array.of(1.5, 2, 3),
			Int32Array.of(-1, 2, 3),
			Uint32Array.of(1, 2, 4e9),
			Int16Array.of(-7, 8, 9),
			Uint16Array.of(7, 8, 65535),
			Uint8Array.of(1, 2, 255)
		]) {
			const copy = sharedCopy(a);
			expect(copy).toEqual(a);
			expect(copy.constructor).toBe(a.constructor);
			expect(copy.buffer).toBeInstanceOf(SharedArrayBuffer);
			expect([...sharedCopy(a, 2)]).toEqual([...a.subarray(0, 2)]);
		}
		expect(sharedDoubles(3)).toEqual(new Float64Array(3));
	});

	it('a tree keeps its shape, and its arrays are copies of their own', () => {
		const tree = { name: 'x', none: null, list: [1, { deep: Float64Array.of(1, 2) }], half: Int32Array.of(5, 6, 7).subarray(1) };
		const shared = sharedDeep(tree);
		expect(shared).toEqual(tree);
		tree.half[0] = 99;
		expect([...shared.half]).toEqual([6, 7]);
		// What is sent to a thread is the same memory there.
		const sent = structuredClone(shared);
		(shared.list[1] as { deep: Float64Array }).deep[0] = 42;
		expect((sent.list[1] as { deep: Float64Array }).deep[0]).toBe(42);
	});
});
