import * as yup from 'yup';
import { usualSpacing, gatherPoints } from '../../grids/points';
import { frameBoxOf } from '../../grids/methods/box';
import { nearestPolygons } from '../../grids/methods/nearest';
import { fail } from '../../problem';
import { numbersIn, readingsIn } from '../opened';
import { columnOf } from '../parameters';
import { recipe, theOne } from '../recipe';
import { READINGS } from '../roles';
import { likelyColumn, refuseColumn } from './gridded';

const MOST = 20_000;

/** The ground that is nearest to each reading. */
export const nearestFaces = recipe<{ column: string }>({
	id: 'nearest-faces',
	title: 'Ground nearest to each reading',
	about: 'Faces on the map: the ground that is nearer to one reading than to all others, with its value.',
	version: 1,
	previews: true,
	form: 'faces',
	roles: { readings: { ...READINGS, prefers: ['places'] } },
	parameters: yup.object({ column: columnOf('readings', 'Column') }).noUnknown() as never,
	suggest: (inputs) => ({ column: likelyColumn(theOne(inputs, 'readings').rows) }),
	refuse: (inputs, { column }) => refuseColumn(theOne(inputs, 'readings'), column, ['number']),
	run(inputs, { column }) {
		const given = theOne(inputs, 'readings');
		const r = readingsIn(given);
		const { points, report } = gatherPoints(r.x, r.y, numbersIn(given, r, column), null);
		if (points.x.length > MOST)
			fail('too-many', `${points.x.length} readings are more than ${MOST}`, 'Combine them on a grid first.', 'readings');
		const box = frameBoxOf(points);
		const margin = usualSpacing(points.x.length, box) / 2 || 1;
		const features = nearestPolygons(points, {
			minX: box.minX - margin,
			minY: box.minY - margin,
			maxX: box.maxX + margin,
			maxY: box.maxY + margin
		});
		return { pack: { info: { features }, arrays: {} }, report: { faces: features.length, readings: report } };
	}
});
