import * as yup from 'yup';
import { thicknessGrid, trueThicknessGrid } from '../mesh/grid-over';
import { solidOf } from '../mesh/extract';
import { frameOver, gridReport, packOfRaster, proposeCell, refuseUnknown, solidsOf, unitNumber } from './opened';
import { lengthOf, oneOfWords, unitOf } from './parameters';
import { recipe, theOne } from './recipe';
import { MODEL } from './roles';

/** Thickness of one unit of a model as a grid; NaN where a vertical line does not meet it. */
export const thickness = recipe<{ unit: string; measured: 'vertical' | 'across'; cell: number }>({
	id: 'thickness',
	title: 'Thickness of a unit',
	about: 'A grid: how thick a unit of a model is, along the vertical or across its layering.',
	version: 1,
	form: 'grid',
	roles: { model: MODEL },
	parameters: yup
		.object({
			unit: unitOf('model'),
			measured: oneOfWords('Measured', { vertical: 'along the vertical', across: 'across the layering' }, 'vertical'),
			cell: lengthOf('Cell')
		})
		.noUnknown() as never,
	suggest: (inputs, project) => ({ unit: theOne(inputs, 'model').units[0]?.id ?? '', measured: 'vertical', cell: proposeCell(project) }),
	refuse: (inputs, { unit }) => refuseUnknown(theOne(inputs, 'model'), unit),
	run(inputs, { unit, measured, cell }) {
		const given = theOne(inputs, 'model');
		const mesh = solidsOf(given);
		const solid = solidOf(mesh, unitNumber(given, unit));
		const frame = frameOver(mesh, cell);
		const raster = measured === 'across' ? trueThicknessGrid(solid, frame) : thicknessGrid(solid, frame);
		return { pack: packOfRaster(raster), report: gridReport(raster) };
	}
});
