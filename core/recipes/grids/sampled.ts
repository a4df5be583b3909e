import * as yup from 'yup';
import { frameBox, requireOverlap } from '../../grids/frame';
import { frameBoxOf } from '../../grids/methods/box';
import { plainName } from '../../grids/grid-expression';
import { valueAt } from '../../grids/resample';
import { freeKey, rowsWhere } from '../../datasets/readings';
import { gridOf, productOfReadings, readingsIn } from '../opened';
import { oneOfWords } from '../parameters';
import { playing, recipe, theOne } from '../recipe';
import { GRID, READINGS } from '../roles';

/** Readings with the values of grids where they lie. */
export const sampled = recipe<{ missing: 'keep' | 'drop' }>({
	id: 'sampled',
	title: 'Grids at places',
	about: 'The rows of a table with one more column for each grid: its value where the row lies.',
	version: 1,
	form: 'places',
	roles: { readings: READINGS, grids: { ...GRID, title: 'Grids', most: 12 } },
	parameters: yup
		.object({ missing: oneOfWords('Rows beside the grids', { keep: 'stay', drop: 'are left out' }, 'keep') })
		.noUnknown() as never,
	run(inputs, { missing }) {
		const given = theOne(inputs, 'readings');
		const r = readingsIn(given);
		const grids = playing(inputs, 'grids').map((g) => ({ name: g.name, raster: gridOf(g) }));
		for (const g of grids) {
			const placed = Array.from({ length: r.rowCount }, (_, i) => i).filter((i) => Number.isFinite(r.x[i]!) && Number.isFinite(r.y[i]!));
			const box = frameBoxOf({ x: Float64Array.from(placed, (i) => r.x[i]!), y: Float64Array.from(placed, (i) => r.y[i]!) });
			const d = Math.abs(g.raster.dx);
			requireOverlap(
				{ minX: box.minX - d, minY: box.minY - d, maxX: box.maxX + d, maxY: box.maxY + d },
				frameBox(g.raster),
				[given.name, g.name],
				'grids'
			);
		}
		const columns = grids.map(({ name, raster }) => ({
			key: freeKey(plainName(name) || 'grid', r.columns),
			label: name,
			type: 'number' as const,
			unit: '',
			values: Float64Array.from({ length: r.rowCount }, (_, i) => (Number.isFinite(r.x[i]!) ? valueAt(raster, r.x[i]!, r.y[i]!) : NaN))
		}));
		const all = { ...r, columns: [...r.columns, ...columns] };
		const without = columns.map((c) => c.values.reduce((n, v) => n + (Number.isNaN(v) ? 1 : 0), 0));
		const out = missing === 'keep' ? all : rowsWhere(all, (i) => columns.some((c) => !Number.isNaN(c.values[i]!)));
		return productOfReadings(out, {
			added: columns.map((c, i) => ({ column: c.key, of: c.label, without: without[i]! })),
			words: `${given.name} with ${grids.map((g) => g.name).join(', ')} at its places.`
		});
	}
});
