import { valueAt } from '#core/grids/resample';
import type { Raster } from '#core/grids/raster';

/** A value of a grid with its unit, or a dash. */
export const gridValue = (v: number, unit = ''): string => (Number.isNaN(v) ? '–' : `${Number(v.toPrecision(6))}${unitAfter(unit)}`);

/** What a grid holds at a place, with its unit. */
export const gridValueAt = (r: Raster, x: number, y: number): string => gridValue(valueAt(r, x, y), r.unit);

/** A unit as it stands after a number. */
export const unitAfter = (unit = ''): string => (unit === '' || unit.startsWith('°') ? unit : `\u00a0${unit}`);
