import { packOfRaster } from '../formats/raster-pack';
import * as yup from 'yup';
import { thicknessGrid, trueThicknessGrid } from '../mesh/grid-over';
import { solidOf } from '../mesh/extract';
import { frameOver, gridOf, gridReport, proposeCell, refuseUnknown, solidsOf, unitNumber } from './opened';
import { fail } from '../problem';
import { resample } from '../grids/resample';
import { lengthOf, oneOfWords, unitOf } from './parameters';
import { playing, recipe, theOne } from './recipe';
import { GRID, MODEL, perhapsOf } from './roles';

/** Thickness of one unit of a model as a grid; NaN where a vertical line does not meet it. */
export const thickness = recipe<{ unit: string; measured: 'vertical' | 'across'; cell: number }>({
	id: 'thickness',
	title: 'Thickness of a unit',
	about:
		'A grid: how thick a unit of a model is, along the vertical or across its layering; of what lies below a water table only, if you want.',
	version: 1,
	form: 'grid',
	atOnce: true,
	roles: { model: MODEL, below: perhapsOf(GRID, 'Only below (elevation)') },
	parameters: yup
		.object({
			unit: unitOf('model'),
			measured: oneOfWords('Measured', { vertical: 'along the vertical', across: 'across the layering' }, 'vertical', {
				whenRole: { role: 'below', played: false }
			}),
			cell: lengthOf('Cell')
		})
		.noUnknown() as never,
	suggest: (inputs, project) => ({ unit: theOne(inputs, 'model').units[0]?.id ?? '', measured: 'vertical', cell: proposeCell(project) }),
	refuse: (inputs, { unit }) => refuseUnknown(theOne(inputs, 'model'), unit),
	run(inputs, { unit, measured, cell }, { project }) {
		const given = theOne(inputs, 'model');
		const mesh = solidsOf(given);
		const solid = solidOf(mesh, unitNumber(given, unit));
		const frame = frameOver(mesh, cell);
		const below = playing(inputs, 'below')[0];
		if (below) {
			const raster = thicknessGrid(solid, frame, resample(gridOf(below), frame, 'straight').values);
			if (raster.values.every(Number.isNaN))
				fail('no-overlap', `${below.name} has no value over this unit`, 'Take a grid that covers it.', 'below');
			return { pack: packOfRaster(raster, project.lengthUnit), report: gridReport(raster) };
		}
		const raster = measured === 'across' ? trueThicknessGrid(solid, frame) : thicknessGrid(solid, frame);
		return { pack: packOfRaster(raster, project.lengthUnit), report: gridReport(raster) };
	}
});
