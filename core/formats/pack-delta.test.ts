import { describe, expect, it } from 'vitest';
import { seededRandom } from '../statistics/random';
import { readPack, writePack, type Pack, type PackedArray } from './pack';
import { isDelta, packDelta, withDelta } from './pack-delta';

const sent = (p: Pack): Pack => readPack(writePack(p));
const pack = (arrays: Record<string, PackedArray>, info: Record<string, unknown> = {}): Pack => ({ info, arrays });

describe('what changed of a pack', () => {
	it('leads from any pack to any other, and is small where little changed', () => {
		const random = seededRandom(17).uniform;
		const whole = (n: number) => Math.floor(random() * n);
		const array = (kind: number, n: number): PackedArray =>
			kind === 0
				? Float32Array.from({ length: n }, () => (random() < 0.1 ? NaN : random()))
				: kind === 1
					? Uint16Array.from({ length: n }, () => whole(9))
					: Float64Array.from({ length: n }, () => random());
		for (let round = 0; round < 200; round++) {
			const before = pack(Object.fromEntries(Array.from({ length: 4 }, (_, i) => [`c${i}`, array(i % 3, whole(60))])), { round });
			const after = pack(
				Object.fromEntries(
					Object.entries({ ...before.arrays, c9: array(0, 5) })
						.filter(() => random() < 0.9)
						.map(([name, a]) => {
							if (random() < 0.2) return [name, array(whole(3), whole(60))];
							const next = a.slice();
							for (let k = whole(4); k > 0 && next.length; k--) next[whole(next.length)] = random() * 9;
							const longer = new (a.constructor as new (n: number) => PackedArray)(next.length + whole(3));
							longer.set(next);
							return [name, longer];
						})
				),
				{ name: `n${round}` }
			);
			const delta = packDelta(before, after);
			if (delta) expect(withDelta(before, sent(delta))).toEqual(after);
			else for (const [name, a] of Object.entries(after.arrays)) expect(before.arrays[name]).not.toEqual(a);
		}
	});

	it('of a million rows with one changed is a few hundred bytes', () => {
		const before = pack({ code: new Uint16Array(1e6), to: Float32Array.from({ length: 1e6 }, (_, i) => i), at: new Uint32Array(3) });
		const after = pack({ ...before.arrays, code: before.arrays['code']!.slice() });
		after.arrays['code']![700_000] = 4;
		const bytes = writePack(packDelta(before, after)!);
		expect(bytes.length).toBeLessThan(1000);
		const made = withDelta(before, readPack(bytes)).arrays;
		expect([made['to'], made['at']].map((a, i) => a === [before.arrays['to'], before.arrays['at']][i])).toEqual([true, true]);
		expect(made['code']!.every((v, i) => v === (i === 700_000 ? 4 : 0))).toBe(true);
		// What is given stays as it is.
		expect(before.arrays['code']![700_000]).toBe(0);
	});

	it('is none where nothing is the same, and is refused by a pack that it is not of', () => {
		expect(packDelta(pack({}), pack({ a: new Uint8Array(4) }))).toBeNull();
		expect(packDelta(pack({ a: Uint8Array.of(1, 2) }), pack({ a: Uint8Array.of(3, 4) }))).toBeNull();
		const delta = packDelta(pack({ a: new Uint8Array(9) }), pack({ a: new Uint8Array(10) }))!;
		expect([isDelta(delta), isDelta(pack({}))]).toEqual([true, false]);
		expect(() => withDelta(pack({ a: new Uint8Array(4) }), delta)).toThrow('not the length');
		expect(() => withDelta(pack({}), delta)).toThrow('no array a');
	});
});
