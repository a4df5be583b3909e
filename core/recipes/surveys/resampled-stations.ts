import * as yup from 'yup';
import { freeKey, type ReadingColumn } from '../../datasets/readings';
import { fail } from '../../problem';
import { valueOn } from '../../surveys/lines';
import { stepsAlong } from '../../surveys/steps';
import { productOfReadings } from '../opened';
import { lengthOf } from '../parameters';
import { recipe, theOne } from '../recipe';
import { refuseStations, STATIONS, stationFields, stationsIn, suggestStations, type StationParameters } from './stations';

const MOST = 2_000_000;

/** Stations at equal distances along their lines. */
export const resampledStations = recipe<StationParameters & { step: number }>({
	id: 'resampled-stations',
	title: 'Stations at equal distances',
	about: 'Places at equal steps along each line, with all numbers straight between the stations before and after.',
	version: 1,
	previews: true,
	form: 'places',
	roles: STATIONS,
	parameters: yup.object({ ...stationFields(), step: lengthOf('Every') }).noUnknown() as never,
	suggest(inputs) {
		const box = theOne(inputs, 'readings').rows?.box;
		const size = box ? Math.max(box.maxX - box.minX, box.maxY - box.minY) : 1000;
		return { ...suggestStations(inputs), step: Number((size / 200).toPrecision(1)) || 1 };
	},
	refuse: refuseStations,
	run(inputs, p) {
		const given = theOne(inputs, 'readings');
		const { r, lines } = stationsIn(given, p);
		const length = lines.reduce((s, l) => s + (l.distance[l.distance.length - 1] ?? 0), 0);
		if (length / p.step > MOST)
			fail('too-many', `steps of ${p.step} make more than ${MOST.toLocaleString('en')} places`, 'Take longer steps.', 'step');
		const places = lines.flatMap((l) => stepsAlong(l, p.step).map((s) => ({ l, ...s })));
		const along = (values: ArrayLike<number>) => Float64Array.from(places, (q) => valueOn(q.l, values, q.on));
		const near = (q: (typeof places)[number]) => q.l.rows[q.on[0] + (q.on[1] > 0.5 ? 1 : 0)]!;
		const columns = r.columns.map((c): ReadingColumn =>
			c.type === 'text' ? { ...c, values: places.map((q) => c.values[near(q)]!) } : { ...c, values: along(c.values) }
		);
		columns.push({
			key: freeKey('distance', columns),
			label: 'Distance along the line',
			type: 'number',
			unit: '',
			values: Float64Array.from(places, (q) => q.distance)
		});
		return productOfReadings(
			{
				rowCount: places.length,
				row: Uint32Array.from(places, (q) => r.row[near(q)]!),
				x: along(r.x),
				y: along(r.y),
				z: along(r.z),
				columns
			},
			{ lines: lines.length, words: `${given.name} every ${p.step} along its lines.` }
		);
	}
});
