import { expect, it } from 'vitest';
import type { GridReader } from '$lib/workspace-parts';
import { needsPart } from './grid-parts.svelte';

it('a part of a grid is read where there are finer cells than those at hand, and the screen would show them', () => {
	const read: GridReader = async () => new Uint8Array(0);
	const raster = { x0: 0, y0: 0, dx: 4, dy: 4, nx: 2000, ny: 2000, values: new Float32Array(0) };
	const of = (every: number, part: GridReader | null, resolution: number) => needsPart({ every, part, raster }, resolution);
	expect(of(4, read, 1)).toBe(true);
	// Each cell is a point or two of the screen.
	expect(of(4, read, 2)).toBe(false);
	expect(of(1, read, 0.1)).toBe(false);
	expect(of(4, null, 0.1)).toBe(false);
	expect(needsPart({ every: 2, part: read, raster: { ...raster, dx: -4 } }, 1)).toBe(true);
});
