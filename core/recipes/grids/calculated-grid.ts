import { packOfRaster } from '../../formats/raster-pack';
import * as yup from 'yup';
import { segmentsOf } from '../../grids/barriers';
import { frameBox, MOST_CELLS, quarterOf, requireOverlap, type Frame } from '../../grids/frame';
import { calculateGrid, GRID_FUNCTIONS, plainName } from '../../grids/grid-expression';
import { fail } from '../../problem';
import { featuresOf, gridOf, gridReport } from '../opened';
import { textOf } from '../parameters';
import { playing, recipe } from '../recipe';
import { GRID, LINES, perhapsOf } from '../roles';
import { keepWithin } from './masked';

/** A grid by an expression over others, at the cells of the first of them. */
export const calculatedGrid = recipe<{ expression: string }>({
	id: 'calculated-grid',
	title: 'Calculated grid',
	about: `A grid by an expression over others, by their names: terrain - depth_to_water; if(slope(terrain) > 30, 1, 0). There are ${Object.values(GRID_FUNCTIONS).join('; ')}; distance (to lines), x and y.`,
	version: 1,
	previews: true,
	form: 'grid',
	roles: {
		grids: { ...GRID, title: 'Grids', most: 12 },
		frame: perhapsOf(GRID, 'Cells as of'),
		lines: perhapsOf(LINES, 'Lines (for distance)', 4),
		outline: perhapsOf(LINES, 'Within')
	},
	parameters: yup
		.object({
			expression: textOf('Expression', '', {
				expression: 'grids',
				help: 'Of the names of the grids; in [brackets] where they are no plain word.'
			})
		})
		.noUnknown(),
	suggest(inputs) {
		const names = playing(inputs, 'grids').map((g) => plainName(g.name));
		return { expression: names.length > 1 ? `${names[0]} - ${names[1]}` : (names[0] ?? '') };
	},
	refuse(_inputs, { expression }) {
		if (!expression) fail('bad-expression', 'there is no expression', 'For example: terrain - depth_to_water', 'expression');
	},
	run(inputs, { expression }, { preview }) {
		const grids = playing(inputs, 'grids').map((g) => ({ name: g.name, raster: gridOf(g) }));
		const reference = playing(inputs, 'frame')[0];
		let frame: Frame = reference ? gridOf(reference) : finest(expression, grids);
		for (const g of grids) requireOverlap(frameBox(frame), frameBox(g.raster), [reference?.name ?? grids[0]!.name, g.name], 'grids');
		if (preview) frame = quarterOf(frame);
		if (frame.nx * frame.ny > MOST_CELLS) fail('too-fine', 'the frame has more cells than a grid may have', 'Choose another.', 'frame');
		const lines = playing(inputs, 'lines');
		const { x0, y0, dx, dy, nx, ny } = frame;
		const values = calculateGrid(expression, grids, frame, lines.length ? segmentsOf(lines.flatMap(featuresOf)) : null);
		const raster = { x0, y0, dx, dy, nx, ny, values };
		const masked = keepWithin(raster, playing(inputs, 'outline'));
		if (values.every(Number.isNaN))
			fail('no-values', 'the expression has a value nowhere', 'Do the grids overlap where they have values?', 'expression');
		return {
			pack: packOfRaster(raster),
			report: { ...gridReport(raster), ...(masked ? { masked } : {}), words: `${expression}, of ${grids.map((g) => g.name).join(', ')}.` }
		};
	}
});

/** The frame of the grid that is named first in the expression; of the first one when none is. */
function finest(expression: string, grids: readonly { name: string; raster: Frame }[]): Frame {
	const at = (name: string) => {
		const own = [expression.indexOf(name), expression.toLowerCase().indexOf(plainName(name))].filter((k) => k >= 0);
		return own.length ? Math.min(...own) : Infinity;
	};
	return grids.reduce((a, b) => (at(b.name) < at(a.name) ? b : a)).raster;
}
