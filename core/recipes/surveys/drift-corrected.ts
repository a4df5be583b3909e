import * as yup from 'yup';
import type { Readings } from '../../datasets/readings';
import { baseAt } from '../../surveys/steps';
import { fail } from '../../problem';
import { likelyColumn, refuseColumn } from '../grids/gridded';
import { numbersIn, productOfReadings, readingsIn, textsIn } from '../opened';
import { columnPerhaps, perhaps, textOf } from '../parameters';
import { playing, recipe, theOne, type Given } from '../recipe';
import { perhapsOf, READINGS } from '../roles';
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
	named: string;
	baseName: string;
	datum: number | null;
}

const apart = { whenRole: { role: 'base', played: true } };
const among = { whenRole: { role: 'base', played: false } };

/** Readings less what a base read at the same time: a station of its own, or one of the stations that is read again and again. */
export const driftCorrected = recipe<Drift>({
	id: 'drift-corrected',
	title: 'Stations: drift by a base station',
	about:
		'The stations with one more column: the reading less what the base read at that time, plus its datum. The base is a table of its own, or one of the stations that is read again and again.',
	version: 1,
	form: 'places',
	roles: { ...STATIONS, base: perhapsOf({ ...READINGS, prefers: ['stations'] }, 'Base station') },
	parameters: yup
		.object({
			...stationFields(),
			baseColumn: columnPerhaps('base', 'Column of the base', ['number'], apart),
			baseTime: columnPerhaps('base', 'Its time', ['date', 'number'], apart),
			named: columnPerhaps('readings', 'Stations are named in', ['text', 'number'], among),
			baseName: textOf('The base is called', '', { ...among, help: 'The station that is read again and again.' }),
			datum: perhaps('Datum', -1e9, 1e9, { help: 'What the base is to read; left empty, the mean of its readings.' })
		})
		.noUnknown() as never,
	suggest(inputs) {
		const base = playing(inputs, 'base')[0]?.rows;
		const stations = suggestStations(inputs);
		const texts = theOne(inputs, 'readings').rows?.columns.filter((c) => c.type === 'text' && c.key !== stations.line) ?? [];
		return {
			...stations,
			baseColumn: base ? likelyColumn(base) : '',
			baseTime: base?.columns.find((c) => c.type === 'date')?.key ?? '',
			named: (texts.find((c) => /station|name|point/i.test(c.key)) ?? texts[0])?.key ?? ''
		};
	},
	refuse(inputs, p) {
		refuseStations(inputs, p);
		const base = playing(inputs, 'base')[0];
		if (!p.time) fail('no-time', 'drift needs the time of the stations', 'Choose its column.', 'time');
		if (base) {
			refuseColumn(base, p.baseColumn, ['number'], 'baseColumn');
			if (!p.baseTime) fail('no-time', 'drift needs the time of the base', 'Choose its column.', 'baseTime');
		} else if (!p.named || !p.baseName)
			fail(
				'input-missing',
				'drift needs a base: a table of its own, or the name of a station that was read several times',
				'Choose the table as "Base station", or say in which column stations are named and what the base is called.',
				p.named ? 'baseName' : 'named'
			);
		else refuseColumn(theOne(inputs, 'readings'), p.named, ['text', 'number'], 'named');
	},
	run(inputs, p) {
		const given = theOne(inputs, 'readings');
		const { r, values, times } = stationsIn(given, p);
		const { base, read, readAt } = baseReadings(inputs, p, r, values, times!);
		const known = read.filter(Number.isFinite);
		if (known.length === 0) fail('no-readings', `${base} holds no reading`, 'Choose another column.', 'baseColumn');
		const datum = p.datum ?? known.reduce((s, v) => s + v, 0) / known.length;
		const at = baseAt(readAt, read);
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
				noTime === r.rowCount ? `no station of ${given.name} has a time` : `${base} was read at none of the times of ${given.name}`,
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
			words: `"${key}": "${p.column}" of ${given.name} less what ${base} read at the same time, datum ${Number(datum.toPrecision(9))}.`
		});
	}
});

/** What the base read, and when: of a table of its own, or of the stations that bear its name. */
function baseReadings(inputs: readonly Given[], p: Drift, r: Readings, values: Float64Array, times: Float64Array) {
	const base = playing(inputs, 'base')[0];
	if (base) {
		const b = readingsIn(base);
		return { base: `${base.name} ("${p.baseColumn}")`, read: numbersIn(base, b, p.baseColumn), readAt: numbersIn(base, b, p.baseTime) };
	}
	const given = theOne(inputs, 'readings');
	const wanted = p.baseName.trim().toLowerCase();
	const names = textsIn(given, r, p.named);
	const is = (i: number) => names[i]!.trim().toLowerCase() === wanted;
	const count = names.filter((_, i) => is(i) && Number.isFinite(values[i]!) && Number.isFinite(times[i]!)).length;
	if (count < 2)
		fail(
			'few-readings',
			count === 0
				? `no station of ${given.name} is called "${p.baseName}", with a time and a reading`
				: `"${p.baseName}" was read once only`,
			'Drift is what changes between readings of one place: name a station that was read several times.',
			'baseName'
		);
	return { base: `the station "${p.baseName}"`, read: values.map((v, i) => (is(i) ? v : NaN)), readAt: times };
}
