import { rasterCovers, sampleRaster } from '../../grids/raster';
import { plainNumber, type Found, type Rule } from '../finding';

/** A collar far above or below the terrain. */
export const againstTerrain: Rule = {
	id: 'against-terrain',
	title: 'Elevation against terrain',
	severity: 'noted',
	reason: 'Either the collar, the terrain or the datum of one of them is wrong.',
	scope: 'holes',
	mends: ['propose'],
	bounds: { most: { label: 'Greatest difference', value: 10, unit: 'length', most: 10_000 } },
	*check({ tables, rows, terrain, lengthUnit, bound }): Iterable<Found> {
		if (!terrain) return;
		const most = bound('most');
		for (const table of tables) {
			const { easting, northing, elevation } = table.numbers;
			if (table.kind !== 'collars' || !easting || !northing || !elevation) continue;
			for (const row of rows(table)) {
				const z = elevation[row]!;
				if (Number.isNaN(z) || !rasterCovers(terrain, easting[row]!, northing[row]!)) continue;
				const ground = sampleRaster(terrain, easting[row]!, northing[row]!);
				if (Math.abs(z - ground) <= most) continue;
				const slip = [0.1, 10, 0.01, 100, -1].find((f) => Math.abs(z * f - ground) <= most);
				yield {
					table,
					row,
					column: 'elevation',
					hole: table.text['hole']![row]!,
					message: `elevation ${plainNumber(z)} ${lengthUnit} lies ${Math.abs(z - ground).toFixed(1)} ${lengthUnit} ${z > ground ? 'above' : 'below'} the terrain${slip ? `; ${plainNumber(z * slip)} would fit` : ''}`,
					hint: 'Mend the elevation, or leave the cell empty to take it from the terrain.',
					proposal: slip ? plainNumber(z * slip) : ground.toFixed(2)
				};
			}
		}
	}
};
