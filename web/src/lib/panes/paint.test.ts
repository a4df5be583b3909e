import { describe, expect, it } from 'vitest';
import type { ModelScene } from '$lib/workspace.svelte';
import { bytes, length, volume } from '../ui/numbers';
import { doubtPaint, movementPaint, movementScale, rgbOfPaint } from './paint';
import { rampOf } from './ramp';

const model = (positions: number[]) => ({ key: 'k', mesh: { positions: Float64Array.from(positions) } }) as unknown as ModelScene;
const plain = (text: string) => text.replace(/\s/g, ' ');

describe('movement as colours', () => {
	it('is white at nothing, the same strength up and down, and not led by a single far place', () => {
		const s = movementScale(Float32Array.from({ length: 1000 }, (_, i) => (i === 0 ? 5000 : (i % 21) - 10)));
		expect([s.low, s.high]).toEqual([-10, 10]);
		expect([s.at(0), s.at(10), s.at(-10), s.at(5000)]).toEqual([0.5, 1, 0, 1]);
		const shade = (v: number) => (s.color(v).match(/\d+/g) ?? []).map(Number).reduce((a, b) => a + b, 0);
		expect(shade(0)).toBeGreaterThan(700);
		expect(shade(10)).toBeLessThan(400);
		expect(shade(-10)).toBeLessThan(400);
		expect(s.color(10)).not.toBe(s.color(-10));
	});

	it('has three colours from 0 to 1 for each vertex, and one of its own where nothing is known', () => {
		const paint = movementPaint(model([0, 0, 0, 1, 1, 1, 2, 2, 2]), Float32Array.of(0, 4, NaN), 'Model 1', 'm');
		expect([paint.surfacesOnly, paint.label]).toEqual([true, 'Moved since Model 1, m (up is positive)']);
		const rgb = rgbOfPaint(paint);
		expect(rgb).toHaveLength(9);
		expect(Math.min(...rgb)).toBeGreaterThanOrEqual(0);
		expect(Math.max(...rgb)).toBeLessThanOrEqual(1);
		const of = (v: number) => [...rgb.slice(3 * v, 3 * v + 3)].map((c) => c.toFixed(2)).join();
		expect(new Set([of(0), of(1), of(2)]).size).toBe(3);
	});

	it('of nothing at all does not divide by nothing', () => expect(movementScale(new Float32Array(4)).at(0)).toBe(0.5));
});

describe('doubt as colours', () => {
	// Two cells above each other, twice; the upper western one is air.
	const pack = { info: { size: [2, 1, 2], origin: [0, 0, 0], cell: [10, 10, 10] }, arrays: { entropy: Float32Array.of(0.25, 1, NaN, 0) } };
	const paint = doubtPaint(model([5, 5, 5, 15, 5, 5, 5, 5, 15, 15, 5, 15, -50, 5, 99]), pack);

	it('is that of the cell, of the one below where that is air, and of the nearest beyond the box', () => {
		expect([...paint.values]).toEqual([0.25, 1, 0.25, 0, 0.25]);
		expect([paint.at!(19, 1, 1), paint.at!(1, 1, 19)]).toEqual([1, 0.25]);
	});

	it('is light where the models agree', () => {
		const rgb = rgbOfPaint(paint);
		const light = (v: number) => rgb[3 * v]! + rgb[3 * v + 1]! + rgb[3 * v + 2]!;
		expect(light(3)).toBeGreaterThan(light(0));
		expect(light(0)).toBeGreaterThan(light(1));
	});
});

describe('numbers as people read them', () => {
	it('a ramp is by logarithm where values spread widely, and keeps its ends free of single far values', () => {
		const even = rampOf(Array.from({ length: 100 }, (_, i) => i));
		expect([even.log, even.low, even.high]).toEqual([false, 2, 98]);
		const wide = rampOf([...Array.from({ length: 100 }, (_, i) => 10 ** (i / 25)), -5]);
		expect(wide.log).toBe(true);
		expect(wide.color(0)).toBe(wide.color(wide.low));
		expect(rampOf([3, 3, 3]).color(3)).toMatch(/^rgb/);
	});

	it('volumes, lengths and sizes of files', () => {
		expect(plain(volume(1_234_567, 'm'))).toBe('1 234 567 m³');
		expect(plain(volume(2_364_500_000, 'm'))).toBe('2 364.5 × 10⁶ m³');
		expect(plain(length(1234.5, 'ft', 1))).toBe('1 234.5 ft');
		expect([bytes(1), bytes(123_456), bytes(12_345_678), bytes(3.21e9)]).toEqual(['1 kB', '0.1 MB', '12 MB', '3.2 GB']);
	});
});
