import { packOfRaster } from '../formats/raster-pack';
import * as yup from 'yup';
import { sideGrid } from '../mesh/grid-over';
import { solidOf } from '../mesh/extract';
import { frameOver, gridReport, proposeCell, refuseUnknown, solidsOf, unitNumber } from './opened';
import { lengthOf, oneOfWords, unitOf } from './parameters';
import { recipe, theOne } from './recipe';
import { MODEL } from './roles';

/** Elevation of the top or the base of a unit of a model; NaN where it is not there. */
export const unitElevation = recipe<{ unit: string; side: 'top' | 'base'; cell: number }>({
	id: 'unit-elevation',
	title: 'Elevation of a unit',
	about: 'A grid: how high the top of a unit lies, or its base.',
	version: 1,
	form: 'grid',
	atOnce: true,
	roles: { model: MODEL },
	parameters: yup
		.object({ unit: unitOf('model'), side: oneOfWords('Side', { top: 'top', base: 'base' }, 'base'), cell: lengthOf('Cell') })
		.noUnknown() as never,
	suggest: (inputs, project) => ({ unit: theOne(inputs, 'model').units[0]?.id ?? '', side: 'base', cell: proposeCell(project) }),
	refuse: (inputs, { unit }) => refuseUnknown(theOne(inputs, 'model'), unit),
	run(inputs, { unit, side, cell }, { project }) {
		const given = theOne(inputs, 'model');
		const mesh = solidsOf(given);
		const raster = sideGrid(solidOf(mesh, unitNumber(given, unit)), frameOver(mesh, cell), side);
		return { pack: packOfRaster(raster, project.lengthUnit), report: gridReport(raster) };
	}
});
