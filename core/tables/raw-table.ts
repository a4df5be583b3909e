import type { Quotes } from './cut';

/** How the cells of a file are to be understood. What is not given is guessed. */
export interface Reading {
	/** Between cells; `space` for any run of blanks. */
	delimiter: ',' | ';' | '\t' | '|' | 'space';
	/** Mark between whole and fraction. */
	decimal: '.' | ',';
	/** Mark between groups of three digits; empty for none. */
	thousands: '' | ',' | '.' | ' ' | "'";
	/** Line of the header, counted from 1; 0 when there is none. */
	headerLine: number;
	/** The line under the header holds units. */
	unitsLine: boolean;
	/** Lines that begin with this are left out; empty for none. */
	comment: string;
	/** What quotation marks mean; `careful` when nothing is said. */
	quotes?: Quotes;
	/** Sheet of a workbook, or group of a file with several tables. */
	part?: string;
}

export const DELIMITERS: readonly Reading['delimiter'][] = [',', ';', '\t', '|', 'space'];

/** What a column is called in a file without a header. @param i from 0 */
export const numberedName = (i: number): string => `column ${i + 1}`;

/** A table as it stands in a file: text, column by column, nothing interpreted yet. */
export interface RawTable {
	header: string[];
	/** Units as the file states them, one for each column; null when it does not. */
	units: string[] | null;
	/** Cells by column; each array has `rowCount` entries. */
	columns: string[][];
	rowCount: number;
	/** Line of the file, counted from 1, on which each row starts. */
	lines: Int32Array;
	/** Rows whose line does not fit the table. */
	odd?: OddRow[];
	/** What its format has to say of it. */
	notes?: string[];
	reading: Reading;
}

/** A row whose line has fewer or more cells than the header, or a quotation mark that is never closed. */
export interface OddRow {
	row: number;
	kind: 'short' | 'long' | 'quote';
	/** Cells of the line; of a mark, lines that it would have swallowed. */
	count: number;
	/** Cells behind the last column, as they stand in the file. */
	lost?: string[];
}

/** The first rows of a table, for guesses and previews. */
export function firstRows(raw: RawTable, count: number): RawTable {
	const n = Math.min(count, raw.rowCount);
	return { ...raw, columns: raw.columns.map((c) => c.slice(0, n)), rowCount: n, lines: raw.lines.slice(0, n) };
}

/** What is known of a newer version of a file, or of one whose rows are added: how numbers are written, and which part it is. */
export const readingAgain = ({ part, decimal, thousands, quotes }: Reading): Partial<Reading> =>
	part === undefined ? { decimal, thousands, ...(quotes ? { quotes } : {}) } : { part };

/** One row as an array of cells. */
export const rowOf = (raw: RawTable, row: number): string[] => raw.columns.map((c) => c[row]!);
