import { readPack } from '#core/formats/pack';
import type { Raster } from '#core/grids/raster';

/** A terrain as `importTerrain` packed it. */
export function unpackTerrain(bytes: Uint8Array): Raster {
	const pack = readPack(bytes);
	const { x0, y0, dx, dy, nx, ny } = pack.info as unknown as Omit<Raster, 'values'>;
	return { x0, y0, dx, dy, nx, ny, values: pack.arrays['values'] as Float32Array };
}
