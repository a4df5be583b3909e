import type { Raster } from '../grids/raster';
import type { Pack } from './pack';

/** A grid as it is stored. @param unit of its values, instead of its own; '' where they have none or it is not known */
export const packOfRaster = ({ values, unit: own, ...frame }: Raster, unit = own): Pack => ({
	info: { ...frame, ...(unit ? { unit } : {}) },
	arrays: { values: Float32Array.from(values) }
});

export function rasterOf({ info, arrays }: Pack): Raster {
	const { x0, y0, dx, dy, nx, ny, unit } = info as unknown as Omit<Raster, 'values'>;
	return { x0, y0, dx, dy, nx, ny, values: arrays['values'] as Float32Array, ...(unit ? { unit } : {}) };
}
