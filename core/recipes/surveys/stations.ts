import { freeKey, type ReadingColumn, type Readings } from '../../datasets/readings';
import { linesOf, type SurveyLine } from '../../surveys/lines';
import { likelyColumn, refuseColumn } from '../grids/gridded';
import { numbersIn, readingsIn, textsIn } from '../opened';
import { columnOf, columnPerhaps } from '../parameters';
import { theOne, type Described, type Given } from '../recipe';
import { READINGS } from '../roles';

/** What every step of a survey is told. */
export interface StationParameters {
	line: string;
	column: string;
	time: string;
}

export const STATIONS = { readings: { ...READINGS, title: 'Stations', prefers: ['stations'] as const } };
export const stationFields = () => ({
	column: columnOf('readings', 'Column'),
	line: columnPerhaps('readings', 'Line', ['text', 'number'], { help: 'Left empty: all stations are one line.' }),
	time: columnPerhaps('readings', 'Time', ['date', 'number'], {
		help: 'Stations stand in the order of their times; left empty, of the rows.'
	})
});

export function suggestStations(inputs: readonly Described[]): StationParameters {
	const rows = theOne(inputs, 'readings').rows;
	const has = (key: string) => rows?.columns.some((c) => c.key === key) ?? false;
	return { line: has('line') ? 'line' : '', time: has('date') ? 'date' : '', column: likelyColumn(rows) };
}

export function refuseStations(inputs: readonly Described[], p: StationParameters): void {
	const given = theOne(inputs, 'readings');
	refuseColumn(given, p.column, ['number']);
	if (p.line) refuseColumn(given, p.line, ['text', 'number'], 'line');
	if (p.time) refuseColumn(given, p.time, ['date', 'number'], 'time');
}

/** Stations opened: their values, and their lines. */
export interface Stations {
	given: Given;
	r: Readings;
	values: Float64Array;
	times: Float64Array | null;
	lines: SurveyLine[];
}

export function stationsIn(given: Given, p: StationParameters): Stations {
	const r = readingsIn(given);
	const times = p.time ? numbersIn(given, r, p.time) : null;
	const names = p.line ? textsIn(given, r, p.line) : Array.from({ length: r.rowCount }, () => '');
	return { given, r, values: numbersIn(given, r, p.column), times, lines: linesOf(names, r.x, r.y, times) };
}

/** The same rows with one more column, named after the one that it was made from. */
export function withColumn(r: Readings, of: string, suffix: string, values: Float64Array): { readings: Readings; key: string } {
	const source = r.columns.find((c) => c.key === of);
	const key = freeKey(`${of}_${suffix}`, r.columns);
	const column: ReadingColumn = { key, label: key, type: 'number', unit: source && source.type !== 'text' ? source.unit : '', values };
	return { readings: { ...r, columns: [...r.columns, column] }, key };
}

/** Values by line, put back in the order of the rows; stations of no line have none. */
export function byRow(
	count: number,
	lines: readonly SurveyLine[],
	of: (line: SurveyLine, index: number) => ArrayLike<number>
): Float64Array {
	const out = new Float64Array(count).fill(NaN);
	lines.forEach((l, k) => {
		const values = of(l, k);
		l.rows.forEach((row, m) => (out[row] = values[m]!));
	});
	return out;
}

export const rootMeanSquare = (values: ArrayLike<number>): number => {
	let [s, n] = [0, 0];
	for (let i = 0; i < values.length; i++) if (Number.isFinite(values[i]!)) [s, n] = [s + values[i]! ** 2, n + 1];
	return n ? Math.sqrt(s / n) : NaN;
};
