import * as yup from 'yup';
import { filled, lagged, smoothed, spikesOf } from '../../surveys/steps';
import { fail } from '../../problem';
import { productOfReadings } from '../opened';
import { numberFrom, oneOfWords, wholeFrom } from '../parameters';
import { recipe, theOne } from '../recipe';
import {
	byRow,
	refuseStations,
	STATIONS,
	stationFields,
	stationsIn,
	suggestStations,
	withColumn,
	type StationParameters
} from './stations';

const STEPS = {
	spikes: 'take spikes out',
	gaps: 'fill gaps',
	smooth: 'smooth',
	lag: 'move along the line (lag)'
} as const;

interface Cleaned extends StationParameters {
	step: keyof typeof STEPS;
	half: number;
	threshold: number;
	least: number;
	longest: number;
	reach: number;
	lag: number;
	lagOf: 'length' | 'seconds';
}
const of = (...is: string[]) => ({ when: { parameter: 'step', is } });
const SUFFIX = { spikes: 'despiked', gaps: 'filled', smooth: 'smoothed', lag: 'moved' } as const;

/** A column made from another along lines: without spikes, with gaps filled, smoothed, or moved along. */
export const cleanedStations = recipe<Cleaned>({
	id: 'cleaned-stations',
	title: 'Stations: spikes, gaps, smoothing, lag',
	about: 'The stations with one more column, made from another along the lines; the one it is made from stays.',
	version: 1,
	previews: true,
	form: 'places',
	roles: STATIONS,
	parameters: yup
		.object({
			...stationFields(),
			step: oneOfWords('Step', STEPS, 'spikes'),
			half: wholeFrom('Stations on each side', 4, 1, 200, of('spikes')),
			threshold: numberFrom('Stands out at', 5, 1, 1000, { ...of('spikes'), help: 'Times the usual distance from the median around.' }),
			least: numberFrom('and by', 0, 0, 1e9, { ...of('spikes'), help: 'In units of the column.' }),
			longest: numberFrom('Longest gap', 0, 0, 1e6, { ...of('gaps'), unit: 'length', help: '0 fills all; ends are never filled.' }),
			reach: numberFrom('Over', 100, 0, 1e6, { ...of('smooth'), unit: 'length', help: 'On each side, weighted by a bell.' }),
			lag: numberFrom('By', 0, -1e6, 1e6, { ...of('lag'), help: 'Above 0 where the instrument tells late.' }),
			lagOf: oneOfWords('Measured in', { length: 'length', seconds: 'seconds' }, 'length', of('lag'))
		})
		.noUnknown() as never,
	suggest: (inputs) => ({ ...suggestStations(inputs), step: 'spikes' }),
	refuse(inputs, p) {
		refuseStations(inputs, p);
		if (p.step === 'lag' && p.lagOf === 'seconds' && !p.time)
			fail('no-time', 'a lag in seconds needs the times of the stations', 'Choose their column.', 'time');
	},
	run(inputs, p) {
		const given = theOne(inputs, 'readings');
		const { r, values, times, lines } = stationsIn(given, p);
		const changed: { row: number; line: string; before: number }[] = [];
		let count = 0;
		const result = byRow(r.rowCount, lines, (line) => {
			const own = Float64Array.from(line.rows, (row) => values[row]!);
			switch (p.step) {
				case 'spikes': {
					spikesOf(line, values, p.half, p.threshold, p.least).forEach((spike, k) => {
						if (!spike) return;
						changed.push({ row: r.row[line.rows[k]!]! + 1, line: line.name, before: own[k]! });
						own[k] = NaN;
					});
					return own;
				}
				case 'gaps': {
					const f = filled(line, values, p.longest);
					count += f.count;
					return f.values;
				}
				case 'smooth':
					return smoothed(line, values, p.reach);
				case 'lag': {
					if (p.lagOf === 'seconds') {
						const at = line.rows.map((row) => times![row]!);
						if (!at.every(Number.isFinite))
							fail(
								'no-time',
								`line ${line.name} has stations without a time`,
								'Mend them under Check, or measure the lag in length.',
								'time'
							);
						return lagged(line, values, at, p.lag / 86_400);
					}
					return lagged(line, values, line.distance, p.lag);
				}
			}
		});
		const { readings, key } = withColumn(r, p.column, SUFFIX[p.step], result);
		return productOfReadings(readings, {
			column: key,
			lines: lines.length,
			...(p.step === 'spikes' ? { spikes: changed.length, stations: changed.slice(0, 500) } : {}),
			...(p.step === 'gaps' ? { filled: count } : {}),
			words: `"${key}": "${p.column}" of ${given.name}, ${told(p)}.`
		});
	}
});

function told(p: Cleaned): string {
	switch (p.step) {
		case 'spikes':
			return `without stations that stand out at ${p.threshold} times the usual from ${p.half} on each side${p.least ? ` and by ${p.least}` : ''}`;
		case 'gaps':
			return `gaps filled straight${p.longest ? ` up to ${p.longest}` : ''}`;
		case 'smooth':
			return `smoothed over ${p.reach} on each side`;
		case 'lag':
			return `moved by ${p.lag} ${p.lagOf === 'seconds' ? 's' : 'along the line'}`;
	}
}
