import { packOfRaster } from '../formats/raster-pack';
import * as yup from 'yup';
import { sideGrid } from '../mesh/grid-over';
import { sampleRaster } from '../grids/raster';
import { solidOf } from '../mesh/extract';
import { frameOver, gridOf, gridReport, proposeCell, refuseUnknown, solidsOf, unitNumber } from './opened';
import { lengthOf, oneOfWords, unitOf } from './parameters';
import { recipe, theOne } from './recipe';
import { GRID, MODEL } from './roles';

/** Depth of the top or base of a unit below a terrain or any other grid of elevations; NaN where either is not known. */
export const depthToUnit = recipe<{ unit: string; side: 'top' | 'base'; cell: number }>({
	id: 'depth-to-unit',
	title: 'Depth to a unit',
	about: 'A grid: how deep the top of a unit lies below the terrain, or its base.',
	version: 1,
	form: 'grid',
	atOnce: true,
	roles: { model: MODEL, terrain: { ...GRID, title: 'Below' } },
	parameters: yup
		.object({ unit: unitOf('model'), side: oneOfWords('Side', { top: 'top', base: 'base' }, 'top'), cell: lengthOf('Cell') })
		.noUnknown() as never,
	suggest: (inputs, project) => ({ unit: theOne(inputs, 'model').units[0]?.id ?? '', side: 'top', cell: proposeCell(project) }),
	refuse: (inputs, { unit }) => refuseUnknown(theOne(inputs, 'model'), unit),
	run(inputs, { unit, side, cell }, { project }) {
		const given = theOne(inputs, 'model');
		const terrain = gridOf(theOne(inputs, 'terrain'));
		const mesh = solidsOf(given);
		const raster = sideGrid(solidOf(mesh, unitNumber(given, unit)), frameOver(mesh, cell), side);
		for (let j = 0, n = 0; j < raster.ny; j++)
			for (let i = 0; i < raster.nx; i++, n++) {
				const [x, y] = [raster.x0 + i * raster.dx, raster.y0 + j * raster.dy];
				// Beyond its edge a grid says nothing; its edge values are not gone on with.
				raster.values[n] = isOver(terrain, x, y) ? sampleRaster(terrain, x, y) - raster.values[n]! : NaN;
			}
		return { pack: packOfRaster(raster, project.lengthUnit), report: gridReport(raster) };
	}
});

function isOver(r: ReturnType<typeof gridOf>, x: number, y: number): boolean {
	const [i, j] = [(x - r.x0) / r.dx, (y - r.y0) / r.dy];
	return i >= -0.5 && j >= -0.5 && i <= r.nx - 0.5 && j <= r.ny - 0.5;
}
