import { describe, expect, it } from 'vitest';
import { rimOf, usualByHole } from './rim';

const places = new Map(Array.from({ length: 64 }, (_, i) => [`H${i}`, { x: 100 * (i % 8), y: 100 * Math.floor(i / 8) }] as const));
const isInside = (i: number) => i % 8 > 0 && i % 8 < 7 && i > 7 && i < 56;

describe('holes at the rim', () => {
	it('are told by where the others lie: least amid them, most at the corners', () => {
		const rim = rimOf(places);
		expect(rim.get('H27')).toBeCloseTo(0, 12);
		expect(rim.get('H0')!).toBeGreaterThan(rim.get('H3')!);
		expect(rim.get('H3')!).toBeGreaterThan(0.3);
	});
	it('are measured by those that stand alike, others by all', () => {
		const rim = rimOf(places);
		// Half of all holes are off by 1 or less; at the rim they are by 5.
		const errors = [...places.keys()].map((hole, i) => ({ hole, error: isInside(i) ? 1 : 5 }));
		const usual = usualByHole(errors, rim);
		expect(usual('H27')).toBeCloseTo(1.4826, 6);
		expect(usual('H0')).toBeCloseTo(5 * 1.4826, 6);
		// One that is far off changes nothing of what is usual.
		const odd = usualByHole(
			errors.map((e) => (e.hole === 'H0' ? { ...e, error: 500 } : e)),
			rim
		);
		expect(odd('H0')).toBeCloseTo(5 * 1.4826, 6);
	});
	it('that nobody knows the place of go by all, and none or one of them is nothing to fear', () => {
		expect(usualByHole([{ hole: 'A', error: 2 }], rimOf(new Map()))('A')).toBeCloseTo(2 * 1.4826, 6);
		expect(usualByHole([], rimOf(new Map([['A', { x: 0, y: 0 }]])))('A')).toBe(0);
		const same = new Map(['A', 'B', 'C'].map((h) => [h, { x: 1, y: 1 }] as const));
		expect([...rimOf(same).values()]).toEqual([0, 0, 0]);
	});
});
