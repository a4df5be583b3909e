import * as yup from 'yup';
import { baseAt } from '../../surveys/steps';
import { fail } from '../../problem';
import { likelyColumn, refuseColumn } from '../grids/gridded';
import { numbersIn, productOfReadings, readingsIn } from '../opened';
import { columnOf, columnPerhaps, perhaps } from '../parameters';
import { recipe, theOne } from '../recipe';
import { READINGS } from '../roles';
import {
	refuseStations,
	rootMeanSquare,
	STATIONS,
	stationFields,
	stationsIn,
	suggestStations,
	withColumn,
	type StationParameters
} from './stations';

interface Drift extends StationParameters {
	baseColumn: string;
	baseTime: string;
	datum: number | null;
}

/** Readings less what a base station read at the same time. */
export const driftCorrected = recipe<Drift>({
	id: 'drift-corrected',
	title: 'Stations: drift by a base station',
	about: 'The stations with one more column: the reading less what the base read at that time, plus the datum of the base.',
	version: 1,
	form: 'places',
	roles: { ...STATIONS, base: { ...READINGS, title: 'Base station', prefers: ['stations'] } },
	parameters: yup
		.object({
			...stationFields(),
			baseColumn: columnOf('base', 'Column of the base'),
			baseTime: columnPerhaps('base', 'Its time', ['date', 'number']),
			datum: perhaps('Datum', -1e9, 1e9, { help: 'What the base is to read; left empty, the mean of its readings.' })
		})
		.noUnknown() as never,
	suggest(inputs) {
		const base = theOne(inputs, 'base').rows;
		return {
			...suggestStations(inputs),
			baseColumn: likelyColumn(base),
			baseTime: base?.columns.find((c) => c.type === 'date')?.key ?? ''
		};
	},
	refuse(inputs, p) {
		refuseStations(inputs, p);
		refuseColumn(theOne(inputs, 'base'), p.baseColumn, ['number'], 'baseColumn');
		if (!p.time || !p.baseTime)
			fail('no-time', 'drift needs the time of the stations and of the base', 'Choose both columns.', p.time ? 'baseTime' : 'time');
	},
	run(inputs, p) {
		const given = theOne(inputs, 'readings');
		const base = theOne(inputs, 'base');
		const { r, values, times } = stationsIn(given, p);
		const b = readingsIn(base);
		const read = numbersIn(base, b, p.baseColumn);
		const known = read.filter(Number.isFinite);
		if (known.length === 0) fail('no-readings', `${base.name} holds no reading`, 'Choose another column.', 'baseColumn');
		const datum = p.datum ?? known.reduce((s, v) => s + v, 0) / known.length;
		const at = baseAt(numbersIn(base, b, p.baseTime), read);
		let [without, noTime] = [0, 0];
		const drift = new Float64Array(r.rowCount).fill(NaN);
		const result = values.map((v, i) => {
			if (!Number.isFinite(times![i]!)) {
				noTime++;
				return NaN;
			}
			const d = at(times![i]!) - datum;
			if (Number.isNaN(d)) without++;
			drift[i] = d;
			return v - d;
		});
		if (!result.some(Number.isFinite))
			fail(
				'no-time',
				noTime === r.rowCount ? `no station of ${given.name} has a time` : `${base.name} was read at none of the times of ${given.name}`,
				'Is it the base of that day? Are both times in one zone?',
				'time'
			);
		const { readings, key } = withColumn(r, p.column, 'driftless', result);
		return productOfReadings(readings, {
			column: key,
			datum,
			drift: rootMeanSquare(drift),
			...(without ? { withoutBase: without } : {}),
			...(noTime ? { withoutTime: noTime } : {}),
			words: `"${key}": "${p.column}" of ${given.name} less "${p.baseColumn}" of ${base.name} at the same time, datum ${Number(datum.toPrecision(9))}.`
		});
	}
});
