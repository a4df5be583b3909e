import { packOfRaster } from '../../formats/raster-pack';
import * as yup from 'yup';
import { frameBox, frameOf, requireOverlap, type Frame } from '../../grids/frame';
import { resample, RESAMPLING, type Resampling } from '../../grids/resample';
import { gridOf, gridReport, proposeCell } from '../opened';
import { oneOfWords, perhaps } from '../parameters';
import { playing, recipe, theOne } from '../recipe';
import { GRID, LINES, perhapsOf } from '../roles';
import { keepWithin } from './masked';

/** A grid with other cells, or cut to an outline. */
export const resampledGrid = recipe<{ how: Resampling; cell: number | null }>({
	id: 'resampled-grid',
	title: 'Grid with other cells',
	about: 'A grid with the cells of another, or with wider or narrower ones, cut to an outline.',
	version: 1,
	form: 'grid',
	roles: { grid: GRID, frame: perhapsOf(GRID, 'Cells as of'), outline: perhapsOf(LINES, 'Within') },
	parameters: yup
		.object({
			how: oneOfWords('Values', RESAMPLING, 'straight'),
			cell: perhaps('Cell', 1e-6, 1e6, { unit: 'length', whenRole: { role: 'frame', played: false } })
		})
		.noUnknown() as never,
	suggest: (_inputs, project) => ({ how: 'straight', cell: proposeCell(project) }),
	run(inputs, { how, cell }) {
		const given = theOne(inputs, 'grid');
		const r = gridOf(given);
		const reference = playing(inputs, 'frame')[0];
		const f: Frame = reference ? gridOf(reference) : frameOf(frameBox(r), cell ?? 2 * Math.abs(r.dx));
		if (reference) requireOverlap(frameBox(f), frameBox(r), [reference.name, given.name], 'frame');
		const raster = resample(r, f, how);
		keepWithin(raster, playing(inputs, 'outline'));
		return {
			pack: packOfRaster(raster, r.unit),
			report: { ...gridReport(raster), words: `${given.name}, ${RESAMPLING[how]}, cells of ${f.dx}.` }
		};
	}
});
