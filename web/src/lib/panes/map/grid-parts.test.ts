import { expect, it } from 'vitest';
import { needsPart } from './grid-parts.svelte';

it('a part of a grid is read where there are finer cells than those at hand, and the screen would show them', () => {
	const raster = { x0: 0, y0: 0, dx: 4, dy: 4, nx: 2000, ny: 2000, values: new Float32Array(0) };
	const of = (every: number, path: string | null, resolution: number) => needsPart({ every, path, raster }, resolution);
	expect(of(4, '/part', 1)).toBe(true);
	// Each cell is a point or two of the screen.
	expect(of(4, '/part', 2)).toBe(false);
	expect(of(1, '/part', 0.1)).toBe(false);
	expect(of(4, null, 0.1)).toBe(false);
	expect(needsPart({ every: 2, path: '/part', raster: { ...raster, dx: -4 } }, 1)).toBe(true);
});
