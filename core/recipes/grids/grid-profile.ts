import * as yup from 'yup';
import type { Feature, Position } from 'geojson';
import { plainName } from '../../grids/grid-expression';
import { valueAt } from '../../grids/resample';
import { freeKey, type ReadingColumn } from '../../datasets/readings';
import { fail } from '../../problem';
import { featuresOf, gridOf, productOfReadings } from '../opened';
import { perhaps } from '../parameters';
import { playing, recipe, theOne } from '../recipe';
import { GRID, LINES } from '../roles';

const MOST_PLACES = 50_000;

/** Values of grids along lines. */
export const gridProfile = recipe<{ step: number | null }>({
	id: 'grid-profile',
	title: 'Profile along lines',
	about: 'Places along the lines of a layer with the distance along them and the value of each grid: for a chart, a table, a file.',
	version: 1,
	form: 'places',
	roles: { lines: LINES, grids: { ...GRID, title: 'Grids', most: 12 } },
	parameters: yup
		.object({ step: perhaps('Every', 1e-6, 1e6, { unit: 'length', help: 'Left empty: the cell of the first grid.' }) })
		.noUnknown() as never,
	run(inputs, p) {
		const given = theOne(inputs, 'lines');
		const grids = playing(inputs, 'grids').map((g) => ({ name: g.name, raster: gridOf(g) }));
		const step = p.step ?? Math.min(Math.abs(grids[0]!.raster.dx), Math.abs(grids[0]!.raster.dy));
		const places: { line: string; x: number; y: number; distance: number }[] = [];
		featuresOf(given).forEach((f, i) => {
			for (const line of linesOf(f)) {
				let along = 0;
				let next = 0;
				const name = String(f.properties?.['name'] ?? i + 1);
				line.slice(1).forEach((b, k) => {
					const a = line[k]!;
					const length = Math.hypot(b[0]! - a[0]!, b[1]! - a[1]!);
					for (; next <= along + length + 1e-9 && length > 0; next += step) {
						const t = Math.min(1, (next - along) / length);
						places.push({ line: name, x: a[0]! + t * (b[0]! - a[0]!), y: a[1]! + t * (b[1]! - a[1]!), distance: next });
						if (places.length > MOST_PLACES)
							fail('too-many', `steps of ${step} make more than ${MOST_PLACES} places`, 'Take longer steps.', 'step');
					}
					along += length;
				});
			}
		});
		if (places.length === 0) fail('no-lines', `${given.name} holds no lines`, 'Draw one, or choose another layer.', 'lines');
		const columns: ReadingColumn[] = [
			{ key: 'line', label: 'Line', type: 'text', values: places.map((q) => q.line) },
			{ key: 'distance', label: 'Distance', type: 'number', unit: '', values: Float64Array.from(places, (q) => q.distance) }
		];
		for (const g of grids)
			columns.push({
				key: freeKey(plainName(g.name) || 'grid', columns),
				label: g.name,
				type: 'number',
				unit: '',
				values: Float64Array.from(places, (q) => valueAt(g.raster, q.x, q.y))
			});
		const first = columns[2] as Extract<ReadingColumn, { values: Float64Array }>;
		return productOfReadings(
			{
				rowCount: places.length,
				row: Uint32Array.from(places, (_, i) => i),
				x: Float64Array.from(places, (q) => q.x),
				y: Float64Array.from(places, (q) => q.y),
				z: Float64Array.from(first.values),
				columns
			},
			{ lines: new Set(places.map((q) => q.line)).size, step, words: `${grids.map((g) => g.name).join(', ')} along ${given.name}.` }
		);
	}
});

function linesOf(f: Feature): Position[][] {
	const g = f.geometry;
	if (!g) return [];
	return g.type === 'LineString' ? [g.coordinates] : g.type === 'MultiLineString' ? g.coordinates : [];
}
