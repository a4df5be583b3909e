import * as yup from 'yup';
import type { Feature, Position } from 'geojson';
import { plainName } from '../../grids/grid-expression';
import { valueAt } from '../../grids/resample';
import { freeKey, type ReadingColumn } from '../../datasets/readings';
import { fail } from '../../problem';
import { featuresOf, gridOf, productOfReadings, traceOf } from '../opened';
import { perhaps } from '../parameters';
import { playing, recipe, type Given } from '../recipe';
import { GRID, LINES, SECTIONS } from '../roles';

const MOST_PLACES = 50_000;

/** Values of grids along lines. */
export const gridProfile = recipe<{ step: number | null }>({
	id: 'grid-profile',
	title: 'Profile along lines',
	about:
		'Places along sections or the lines of layers with the distance along them and the value of each grid: for a chart, a table, a file.',
	version: 1,
	form: 'places',
	roles: {
		lines: { ...LINES, title: 'Lines or sections', kinds: SECTIONS.kinds!, most: 100 },
		grids: { ...GRID, title: 'Grids', most: 12 }
	},
	parameters: yup
		.object({ step: perhaps('Every', 1e-6, 1e6, { unit: 'length', help: 'Left empty: the cell of the first grid.' }) })
		.noUnknown() as never,
	refuse: (inputs) => void playing(inputs, 'lines').forEach((g) => SECTIONS.kinds!.includes(g.kind) && traceOf(g)),
	run(inputs, p) {
		const given = playing(inputs, 'lines');
		const grids = playing(inputs, 'grids').map((g) => ({ name: g.name, raster: gridOf(g) }));
		const step = p.step ?? Math.min(Math.abs(grids[0]!.raster.dx), Math.abs(grids[0]!.raster.dy));
		const places: { line: string; x: number; y: number; distance: number }[] = [];
		for (const { name, line } of given.flatMap((g) => namedLines(g, given.length > 1))) {
			let along = 0;
			let next = 0;
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
		const of = given.map((g) => g.name).join(', ');
		if (places.length === 0) fail('no-lines', `${of} holds no lines`, 'Draw one, or choose another layer.', 'lines');
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
			{ lines: new Set(places.map((q) => q.line)).size, step, words: `${grids.map((g) => g.name).join(', ')} along ${of}.` }
		);
	}
});

/** The lines of an input: of a section its own, of a layer each by its name or number. */
function namedLines(g: Given, among: boolean): { name: string; line: readonly Position[] }[] {
	if (SECTIONS.kinds!.includes(g.kind)) return [{ name: g.name, line: traceOf(g).map(([x, y]) => [x, y]) }];
	return featuresOf(g).flatMap((f, i) => {
		const own = String(f.properties?.['name'] ?? i + 1);
		return linesOf(f).map((line) => ({ name: among ? `${g.name} ${own}` : own, line }));
	});
}

function linesOf(f: Feature): Position[][] {
	const g = f.geometry;
	if (!g) return [];
	return g.type === 'LineString' ? [g.coordinates] : g.type === 'MultiLineString' ? g.coordinates : [];
}
