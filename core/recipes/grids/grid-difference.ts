import { packOfRaster } from '../../formats/raster-pack';
import * as yup from 'yup';
import { compareGrids } from '../../grids/compared';
import { frameBox, quarterOf, requireOverlap } from '../../grids/frame';
import { resample } from '../../grids/resample';
import { fail } from '../../problem';
import { gridOf, gridReport } from '../opened';
import { recipe, theOne } from '../recipe';
import { GRID } from '../roles';

/** One grid less another: how far they differ, how they go together, and the volume between them. */
export const gridDifference = recipe({
	id: 'grid-difference',
	title: 'Difference of two grids',
	about: 'A grid: one less another, with mean, RMS, histogram, scatter, and the volume where it lies above and below.',
	version: 1,
	answers: 'difference-of-grids',
	previews: true,
	form: 'grid',
	atOnce: true,
	roles: { first: { ...GRID, title: 'Grid' }, second: { ...GRID, title: 'less' } },
	parameters: yup.object({}).noUnknown(),
	run(inputs, _parameters, { preview }) {
		const [first, second] = [theOne(inputs, 'first'), theOne(inputs, 'second')];
		const [a, b] = [gridOf(first), gridOf(second)];
		requireOverlap(frameBox(a), frameBox(b), [first.name, second.name], 'second');
		const { difference, pairs, histogram, ...c } = compareGrids(preview ? resample(a, quarterOf(a), 'mean') : a, b);
		if (c.count === 0)
			fail('no-overlap', `${first.name} and ${second.name} have a value in no common cell`, 'Choose two that overlap.', 'second');
		return {
			pack: packOfRaster(difference, a.unit === b.unit ? a.unit : ''),
			report: {
				...gridReport(difference),
				rms: c.rms,
				meanAbsolute: c.meanAbsolute,
				median: c.median,
				correlation: c.correlation,
				above: c.above,
				below: c.below,
				histogram,
				pairs: pairs.map(([x, y]) => ({ first: x, second: y })),
				words: `${first.name} less ${second.name}.`
			}
		};
	}
});
