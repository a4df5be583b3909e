import * as yup from 'yup';
import { fail } from '../../problem';
import { lineSpacing, usualAzimuth } from '../../surveys/lines';
import { headingError, level, namedBy } from '../../surveys/levelling';
import { productOfReadings } from '../opened';
import { valueAt } from '../../grids/resample';
import { lineNoise } from '../../potential/filters';
import { gridOf } from '../opened';
import { numberFrom, oneOfWords, perhaps, textOf } from '../parameters';
import { playing, recipe, theOne, type Given, type Product } from '../recipe';
import { GRID, perhapsOf } from '../roles';
import {
	byRow,
	refuseStations,
	rootMeanSquare,
	STATIONS,
	stationFields,
	stationsIn,
	suggestStations,
	withColumn,
	type StationParameters,
	type Stations
} from './stations';

const STEPS = {
	level: 'level by tie lines',
	heading: 'take the error of heading off',
	micro: 'take off what lines leave in a grid (micro-levelling)'
} as const;

interface Levelling extends StationParameters {
	step: keyof typeof STEPS;
	ties: string;
	degree: 'zero' | 'one' | 'two';
	gap: number;
	heading: 'found' | 'typed';
	north: number;
	east: number;
	azimuth: number | null;
	spacing: number | null;
	most: number;
}
const DEGREES = { zero: 'lifted as a whole', one: 'tilted', two: 'bent' } as const;
const level_ = { when: { parameter: 'step', is: ['level'] } };
const heading_ = { when: { parameter: 'step', is: ['heading'] } };
const micro = { when: { parameter: 'step', is: ['micro'] } };
const typed = { when: { parameter: 'heading', is: ['typed'] } };

/** Lines of a survey brought to one level by the ties that cross them, or freed of what their heading adds. */
export const levelledStations = recipe<Levelling>({
	id: 'levelled-stations',
	title: 'Stations: levelling by tie lines, heading',
	about: 'The stations with one more column: lines brought to one level by the ties that cross them, with the misties before and after.',
	version: 1,
	form: 'places',
	roles: { ...STATIONS, grid: perhapsOf(GRID, 'Grid of the column (micro-levelling)') },
	parameters: yup
		.object({
			...stationFields(),
			step: oneOfWords('Step', STEPS, 'level'),
			ties: textOf('Tie lines', 'T*', { help: 'Their names, parted by commas; * is anything.' }),
			degree: oneOfWords('Each line is', DEGREES, 'zero', level_),
			gap: numberFrom('No crossing in gaps above', 0, 0, 1e6, { ...level_, unit: 'length', help: '0 is without limit.' }),
			heading: oneOfWords('The error is', { found: 'found from the crossings', typed: 'typed' }, 'found', heading_),
			north: numberFrom('Read on lines north', 0, -1e6, 1e6, {
				...typed,
				help: 'Too much on lines to the north, too little to the south.'
			}),
			east: numberFrom('Read on lines east', 0, -1e6, 1e6, typed),
			azimuth: perhaps('Lines run', 0, 360, { ...micro, unit: 'degrees', help: 'Left empty: as most of the lines do.' }),
			spacing: perhaps('Line spacing', 1e-6, 1e6, { ...micro, unit: 'length', help: 'Left empty: the usual distance between the lines.' }),
			most: numberFrom('No correction beyond', 0, 0, 1e9, { ...micro, help: 'In units of the column; 0 is without limit.' })
		})
		.noUnknown() as never,
	suggest: (inputs) => ({ ...suggestStations(inputs), step: 'level', ties: 'T*' }),
	refuse(inputs, p) {
		refuseStations(inputs, p);
		if (p.step === 'micro' && !playing(inputs, 'grid').length)
			fail(
				'input-missing',
				'micro-levelling reads off a grid what the lines leave in it',
				'Make a grid of the column first (Grid of readings), and choose it as "Grid".',
				'grid'
			);
		if (!p.line) fail('no-lines', 'levelling needs the column that names the lines', 'Choose it.', 'line');
	},
	run(inputs, p) {
		const given = theOne(inputs, 'readings');
		const { r, values, lines: all } = stationsIn(given, p);
		if (p.step === 'micro') return microLevelled(theOne(inputs, 'grid'), given, p, { r, values, lines: all });
		const isTie = namedBy(p.ties);
		const [lines, ties] = [all.filter((l) => !isTie(l.name)), all.filter((l) => isTie(l.name))];
		if (p.step === 'heading') {
			const found = p.heading === 'typed' ? { cosine: p.north, sine: p.east, crossings: 0 } : headingError(lines, ties, r.x, r.y, values);
			if (!found)
				return fail(
					'no-crossings',
					'no line crosses a tie of another direction: their heading can not be told',
					'Say which lines are ties, or type the error.',
					'ties'
				);
			const result = byRow(r.rowCount, all, (l) => {
				const a = (l.azimuth * Math.PI) / 180;
				const error = Number.isNaN(a) ? 0 : found.cosine * Math.cos(a) + found.sine * Math.sin(a);
				return l.rows.map((row) => values[row]! - error);
			});
			const { readings, key } = withColumn(r, p.column, 'headed', result);
			return productOfReadings(readings, {
				column: key,
				readNorth: found.cosine,
				readEast: found.sine,
				crossings: found.crossings,
				words: `"${key}": "${p.column}" of ${given.name} less the error of heading (${found.cosine.toFixed(3)} to the north, ${found.sine.toFixed(3)} to the east).`
			});
		}
		const degree = { zero: 0, one: 1, two: 2 }[p.degree];
		const made = level(lines, ties, r.x, r.y, values, degree, p.gap || Infinity);
		const moved = byRow(r.rowCount, [...lines, ...ties], (_, k) => (k < lines.length ? made.lines[k]! : made.ties[k - lines.length]!));
		const { readings, key } = withColumn(
			r,
			p.column,
			'levelled',
			values.map((v, i) => v + moved[i]!)
		);
		return productOfReadings(readings, {
			column: key,
			lines: lines.length,
			ties: ties.length,
			crossings: made.misties.length,
			misties: { before: made.before, after: made.after },
			...(made.alone.length ? { alone: made.alone.join(', ') } : {}),
			crossingTable: made.misties,
			words: `"${key}": "${p.column}" of ${given.name} levelled by ${ties.length} tie lines, each line ${DEGREES[p.degree]}; misties ${made.before.toPrecision(4)} before, ${made.after.toPrecision(4)} after.`
		});
	}
});

/** The column less what its lines leave in its grid, at the stations. */
function microLevelled(of: Given, given: Given, p: Levelling, { r, values, lines }: Pick<Stations, 'r' | 'values' | 'lines'>): Product {
	const grid = gridOf(of);
	const azimuth = p.azimuth ?? usualAzimuth(lines);
	const spacing = p.spacing ?? (azimuth === null ? null : lineSpacing(lines, r.x, r.y, azimuth));
	if (azimuth === null || spacing === null)
		return fail(
			'no-lines',
			'how the lines run, and how far apart they are, can not be told from the stations',
			'Type both, or choose the column that names the lines.',
			azimuth === null ? 'azimuth' : 'spacing'
		);
	const noise = { ...grid, values: lineNoise(grid, azimuth, spacing) };
	let [beside, held] = [0, 0];
	const correction = Float64Array.from(values, (v, i) => {
		const e = valueAt(noise, r.x[i]!, r.y[i]!);
		if (Number.isFinite(v) && Number.isNaN(e)) beside++;
		if (p.most > 0 && Math.abs(e) > p.most) held++;
		return p.most > 0 ? Math.max(-p.most, Math.min(p.most, e)) : e;
	});
	if (correction.every(Number.isNaN))
		fail('no-overlap', `${of.name} has no value at any station`, 'Take the grid of these stations.', 'grid');
	const { readings, key } = withColumn(
		r,
		p.column,
		'microlevelled',
		values.map((v, i) => v - correction[i]!)
	);
	return productOfReadings(readings, {
		column: key,
		lines: lines.length,
		azimuth,
		spacing,
		correction: rootMeanSquare(correction),
		...(held ? { held } : {}),
		...(beside ? { besideGrid: beside } : {}),
		words: `"${key}": "${p.column}" of ${given.name} less what lines ${Math.round(azimuth)}° and ${Number(spacing.toPrecision(3))} apart leave in ${of.name}${p.most ? `, at most ${p.most}` : ''}.`
	});
}
