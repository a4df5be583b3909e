import { addCalculated, type CalculatedColumn } from './calculated';
import { dipAzimuthOfStrike } from '../geometry/angles';
import { placing, type Coordinates } from '../geometry/coordinates';
import { guessDateOrder, parseDate, type DateOrder } from './dates';
import { roleOf, tableKind, type TableKind } from './kinds';
import type { Role } from './roles';
import { LEAVE, validateMapping, type ColumnUnits, type Mapping } from './mapping';
import { unitFactor } from './measures';
import { numberReader } from './numbers';
import type { OddRow, RawTable } from './raw-table';
import { readMarked } from './marked';
import { signedInclination, type InclinationHabit, type Written } from './written';
import { applyValueRules, type ValueRules } from './value-rules';

/** A cell of a number or date column that holds something else. */
interface OddCell {
	row: number;
	column: string;
	cell: string;
}

/** A table as it is understood: a column of text or numbers for each role. All columns have `rowCount` entries. */
export interface Table {
	name: string;
	kind: TableKind;
	rowCount: number;
	/** Line of the file of each row, counted from 1. */
	lines: Int32Array;
	/** 1 where a user has left the row out. */
	excluded: Uint8Array;
	/** Text by role; columns that are kept are keyed by their header name. */
	text: Record<string, string[]>;
	/**
	 * In project units; NaN where a cell is empty or is not a number. Values are keyed by their header name; dates are days since
	 * 1970-01-01.
	 */
	numbers: Record<string, Float64Array>;
	/** Cells of number and date columns that hold something else. */
	notNumbers: OddCell[];
	/** Rows whose line of the file does not fit the table. */
	odd?: readonly OddRow[];
	/** What the format of its file had to say. */
	remarks?: readonly string[];
	/** How columns are written, by key. */
	written?: Record<string, string>;
	/** Header name of the column behind each key of `text` and `numbers`. */
	headers: Record<string, string>;
	/** Unit of each calculated column, and what is wrong with those that could not be calculated. */
	calculated?: Record<string, { unit: string; problem?: string }>;
	/** Of a version of a log: name of the table that it goes out from. */
	versionOf?: string;
	/** Of a version: 1 where a row was changed in it, and the code of each row before. */
	changed?: Uint8Array;
	before?: readonly string[];
	/** Of a version: edits of cells that say something else now than when they were edited. */
	outdated?: readonly { row: number; position: number; was: string; now: string }[];
	/** Of a version: edits whose row is not there any more. */
	unplaced?: readonly { hole: string; place: string; column: string; value: string }[];
}

interface ReadOptions {
	excluded?: Uint8Array;
	units?: ColumnUnits;
	/** Unit of the project. */
	lengthUnit?: string;
	values?: ValueRules;
	coordinates?: Coordinates;
	/** Units of measure that the file states, by header. */
	stated?: Readonly<Record<string, string>>;
	calculated?: readonly CalculatedColumn[];
	written?: Written;
}

/**
 * Reads the cells of a raw table by a mapping.
 * @throws ProblemError when the mapping does not fit
 */
export function readTable(name: string, kind: TableKind, raw: RawTable, mapping: Mapping, options: ReadOptions = {}): Table {
	validateMapping(kind, raw.header, mapping);
	const table: Table = {
		name,
		kind,
		rowCount: raw.rowCount,
		lines: raw.lines,
		excluded: options.excluded ?? new Uint8Array(raw.rowCount),
		text: {},
		numbers: {},
		notNumbers: [],
		headers: {},
		...(raw.odd?.length ? { odd: raw.odd } : {}),
		...(raw.notes?.length ? { remarks: raw.notes } : {})
	};
	raw.header.forEach((header, column) => {
		const roleKey = mapping[header] ?? LEAVE;
		if (roleKey === LEAVE) return;
		const role = roleOf(kind, roleKey)!;
		const key = role.many ? header : role.key;
		table.headers[key] = header;
		const cells = raw.columns[column]!;
		if (role.type === 'text') {
			table.text[key] = cells;
			return;
		}
		const habit = options.written?.[header];
		if (role.key === 'inclination' || role.type === 'date')
			table.written = { ...table.written, [key]: habit ?? (role.type === 'date' ? guessDateOrder(cells) : 'negative-down') };
		table.numbers[key] = readNumbers(
			table,
			key,
			cells,
			cellReader(role, raw, cells, options.units?.[header], options.lengthUnit ?? 'm', habit)
		);
	});
	if (options.values)
		applyValueRules(
			table,
			valueColumns(table),
			(c) => raw.columns[raw.header.indexOf(table.headers[c]!)]!,
			options.values,
			numberReader(raw.reading)
		);
	if (options.coordinates) place(table, options.coordinates);
	derive(table);
	if (options.calculated) addCalculated(table, options.calculated, options.lengthUnit ?? 'm', options.stated ?? {});
	return table;
}

/** Brings positions into the system of the project. */
function place(table: Table, coordinates: Coordinates): void {
	const { easting, northing, elevation } = table.numbers;
	const map = placing(coordinates);
	if (map && easting && northing)
		for (let row = 0; row < table.rowCount; row++) {
			const [x, y] = map(easting[row]!, northing[row]!);
			easting[row] = x;
			northing[row] = y;
		}
	if (coordinates.verticalShift && elevation)
		for (let row = 0; row < table.rowCount; row++) elevation[row] = elevation[row]! + coordinates.verticalShift;
}

/**
 * A reader of the cells of a column: numbers in the unit of the project, dates as days; NaN for anything else.
 * @param unit of the column, where it is not that of the project
 * @param habit how it is written; of dates guessed from all cells when it is not said
 */
export function cellReader(
	role: Pick<Role, 'key' | 'type' | 'unit'>,
	raw: Pick<RawTable, 'reading'>,
	cells: readonly string[],
	unit: string | undefined,
	lengthUnit: string,
	habit: string | undefined
): (cell: string) => number {
	if (role.type === 'date') {
		const order = (habit ?? guessDateOrder(cells)) as DateOrder;
		return (cell) => parseDate(cell, order);
	}
	const plain = numberReader(raw.reading);
	if (!role.unit) return plain;
	const own = role.unit === 'length' ? lengthUnit : '°';
	const factor = unit ? unitFactor(role.unit, unit, own) : 1;
	const measure = role.unit;
	const read = (cell: string): number => {
		const v = plain(cell);
		return v === v || cell === '' ? v * factor : readMarked(cell, plain, measure, own);
	};
	return role.key === 'inclination' && habit && habit !== 'negative-down'
		? (cell) => signedInclination(read(cell), habit as InclinationHabit)
		: read;
}

/** Cells with which a spreadsheet says that there is no value. */
const NO_VALUE = /^#N\/?A!?$/i;

function readNumbers(table: Table, key: string, cells: readonly string[], read: (cell: string) => number): Float64Array {
	const values = new Float64Array(cells.length);
	for (let row = 0; row < values.length; row++) {
		const cell = cells[row]!;
		const v = read(cell);
		values[row] = v;
		if (v !== v && cell !== '' && !NO_VALUE.test(cell)) table.notNumbers.push({ row, column: key, cell });
	}
	return values;
}

/** Columns that follow from others: depths from bases or thicknesses, the dip azimuth from the strike. */
export function derive(table: Table): void {
	const { numbers, rowCount } = table;
	if (numbers['strike'] && !table.headers['dipAzimuth']) numbers['dipAzimuth'] = numbers['strike'].map(dipAzimuthOfStrike);
	if (table.kind !== 'intervals' || table.headers['from']) return;
	const from = new Float64Array(rowCount);
	const to = table.headers['to'] ? numbers['to']! : new Float64Array(rowCount);
	const thickness = table.headers['to'] ? null : numbers['thickness']!;
	const end = new Map<string, number>();
	// Rows stand in order down each hole; a base alone begins where the one before ends.
	for (let row = 0; row < rowCount; row++) {
		const hole = table.text['hole']![row]!;
		from[row] = end.get(hole) ?? 0;
		if (thickness) to[row] = from[row]! + thickness[row]!;
		if (!Number.isNaN(to[row]!) && !table.excluded[row]) end.set(hole, to[row]!);
	}
	numbers['from'] = from;
	numbers['to'] = to;
}

/** The names of the columns that hold measured values. */
export const valueColumns = (table: Table): string[] => {
	const fixed = new Set(tableKind(table.kind).roles.map((r) => r.key));
	return Object.keys(table.numbers).filter((k) => !fixed.has(k));
};
