import { tableKind } from '../../tables/kinds';
import type { Box } from '../../geometry/box';
import type { Raster } from '../../grids/raster';
import type { Found, Rule } from '../finding';

const FEWEST = 3;

/** Nearly all places of a table lie elsewhere than terrain and extent: exchanged columns, degrees, another system. */
export const collarsElsewhere: Rule = {
	id: 'collars-elsewhere',
	title: 'Places elsewhere than the project',
	severity: 'noted',
	reason: 'One mistake in the roles or the coordinate system puts every row in the wrong place.',
	scope: 'table',
	notOfHoles: true,
	*check({ tables, rows, terrain, extent }): Iterable<Found> {
		const around = terrain ? boxOf(terrain) : extent;
		for (const table of tables) {
			const { easting, northing } = table.numbers;
			if (!['map', 'start'].includes(tableKind(table.kind).at) || !easting || !northing) continue;
			const used = [...rows(table)].filter((r) => Number.isFinite(easting[r]!) && Number.isFinite(northing[r]!));
			if (used.length < FEWEST) continue;
			const share = (test: (x: number, y: number) => boolean) => used.filter((r) => test(easting[r]!, northing[r]!)).length / used.length;
			const say = { table, row: -1, column: 'easting', all: used };
			const degrees = share((x, y) => Math.abs(x) <= 180 && Math.abs(y) <= 90);
			const inside = (x: number, y: number) => !around || (x >= around.minX && x <= around.maxX && y >= around.minY && y <= around.maxY);
			if (
				degrees > 0.9 &&
				used.some((r) => easting[r] !== 0 || northing[r] !== 0) &&
				(around ? share(inside) < 0.1 : isSmall(used, easting, northing))
			)
				yield {
					...say,
					message: `the ${used.length} places of ${table.headers['easting'] ?? 'easting'} and ${table.headers['northing'] ?? 'northing'} look like degrees`,
					hint: 'Bring the file in again and say that its coordinates are in EPSG:4326, or in the system of degrees that they are in.'
				};
			else if (around && share(inside) < 0.1) {
				const turned = share((x, y) => inside(y, x)) > 0.8;
				yield {
					...say,
					message: `${used.length === 1 ? 'the place lies' : `all ${used.length} places lie`} outside ${terrain ? 'the terrain' : 'the extent'}${turned ? '; with easting and northing exchanged they lie in it' : ''}`,
					hint: turned ? 'Exchange the roles of the two columns.' : 'Look at the coordinate system of the file, and at that of the terrain.'
				};
			}
		}
	}
};

/** Places within a degree, given with many decimals: no local grid is written like that. */
const isSmall = (rows: readonly number[], x: Float64Array, y: Float64Array): boolean =>
	[x, y].every((v) => spanOf(rows, v) < 2) && rows.some((r) => Math.abs(x[r]! * 1e3 - Math.round(x[r]! * 1e3)) > 1e-9);

function spanOf(rows: readonly number[], v: Float64Array): number {
	let [low, high] = [Infinity, -Infinity];
	for (const r of rows) {
		low = Math.min(low, v[r]!);
		high = Math.max(high, v[r]!);
	}
	return high - low;
}

const boxOf = (t: Raster): Pick<Box, 'minX' | 'minY' | 'maxX' | 'maxY'> => ({
	minX: t.x0 - t.dx / 2,
	minY: t.y0 - t.dy / 2,
	maxX: t.x0 + (t.nx - 0.5) * t.dx,
	maxY: t.y0 + (t.ny - 0.5) * t.dy
});
