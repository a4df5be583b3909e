import { UNKNOWN } from '../palette';
import { guessMapping } from '../tables/mapping';
import { readDelimited } from '../tables/delimited';
import { readTable, type Table } from '../tables/table';
import type { TableKind } from '../tables/kinds';
import type { Unit } from '../units/column';
import type { Raster } from '../grids/raster';
import { checkHoles, groundInput, type Interpretation } from './pipeline';
import { NO_THINGS } from './shape-ground';
import { plainShaping, shapingSchema, type Shaping } from './shaping';

// A ground of two units in 16 holes, for tests.
export const table = (name: string, kind: TableKind, text: string): Table => {
	const raw = readDelimited(new TextEncoder().encode(text), name);
	return readTable(name, kind, raw, guessMapping(raw, kind), { lengthUnit: 'm' });
};
export const unit = (id: string, contact: Unit['contact'] = 'conformable'): Unit => ({ id, name: id, color: UNKNOWN, contact });
const extent = { minX: 0, minY: 0, minZ: -200, maxX: 1000, maxY: 1000, maxZ: 50 };
export const places = [100, 400, 600, 900].flatMap((x) => [100, 400, 600, 900].map((y) => [x, y] as const));
export const collars = table(
	'collars',
	'collars',
	`hole,easting,northing,elevation,total depth\n${places.map(([x, y], i) => `H${i},${x},${y},0,150`).join('\n')}\n`
);
/** Cover to 40 m, then slate; weathered to 60, 80 and 100 m in turn. */
export const lithology = table(
	'lithology',
	'intervals',
	`hole,from,to,code\n${places.map((_, i) => `H${i},0,40,cover\nH${i},40,150,slate`).join('\n')}\n`
);
export const weathering = table(
	'weathering',
	'other',
	`hole,from,to,grade\n${places.map((_, i) => `H${i},0,80,W\nH${i},80,150,F`).join('\n')}\n`
);
export const options = { lengthUnit: 'm', settings: {}, around: { terrain: null, extent, column: [], lumping: {}, today: 20_000 } };
export const ground = (shaping: Partial<Shaping>, tables: Table[] = [collars, lithology], more: Partial<Interpretation> = {}) => {
	const whole = shapingSchema.validateSync({ ...plainShaping(), ...shaping }) as Shaping;
	return groundInput(tables, checkHoles(tables, options), {
		extent,
		column: [unit('cover'), unit('slate')],
		lumping: { cover: 'cover', slate: 'slate' },
		faults: [],
		terrain: null,
		shaping: whole,
		things: NO_THINGS,
		...more
	}).input;
};
export const terrain: Raster = { x0: 0, y0: 0, dx: 1000, dy: 1000, nx: 2, ny: 2, values: Float32Array.of(20, 40, 20, 40) };
