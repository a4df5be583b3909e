import Papa from 'papaparse';
import { fail } from '../problem';
import { COMMENTS, guessLayout, isEmptyRow, TableBuilder, type Line } from './layout';
import { DELIMITERS, type RawTable, type Reading } from './raw-table';

const LONGEST_LINE = 1 << 20;
const SAMPLE = 60_000;

/** Text of a file in UTF-8 (with or without byte order mark), UTF-16 or, when the bytes are not UTF-8, Latin-1. */
export function decodeText(bytes: Uint8Array): string {
	if (bytes[0] === 0xff && bytes[1] === 0xfe) return new TextDecoder('utf-16le').decode(bytes);
	if (bytes[0] === 0xfe && bytes[1] === 0xff) return new TextDecoder('utf-16be').decode(bytes);
	try {
		return new TextDecoder('utf-8', { fatal: true }).decode(bytes);
	} catch {
		return new TextDecoder('windows-1252').decode(bytes);
	}
}

/** Cells of the first lines of a text under one delimiter. */
function cut(sample: string, delimiter: Reading['delimiter'], whole: boolean): Line[] {
	const { text, papa } = prepared(sample, delimiter);
	const lines: Line[] = [];
	let line = 1;
	for (const cells of Papa.parse<string[]>(text, { delimiter: papa }).data) {
		lines.push({ cells: cells.map((c) => c.trim()), line });
		line += 1 + cells.reduce((n, c) => n + breaksIn(c), 0);
	}
	// The sample may end inside a row.
	return whole ? lines : lines.slice(0, -1);
}

const breaksIn = (cell: string): number => (cell.includes('\n') ? cell.split('\n').length - 1 : 0);

/** Runs of blanks become one tab, so that every table is cut at one character. */
const prepared = (text: string, delimiter: Reading['delimiter']): { text: string; papa: string } =>
	delimiter === 'space' ? { text: text.replace(/^[ \t]+|[ \t]+$/gm, '').replace(/[ \t]+/g, '\t'), papa: '\t' } : { text, papa: delimiter };

/** The delimiter that cuts most of the first lines into the same number of cells, the more the better. */
function guessDelimiter(sample: string, whole: boolean): Reading['delimiter'] {
	let best: Reading['delimiter'] = ',';
	let score = 0;
	for (const d of DELIMITERS) {
		const counts = new Map<number, number>();
		let used = 0;
		for (const { cells } of cut(sample.slice(0, 20_000), d, whole && sample.length <= 20_000).slice(0, 60)) {
			if (isEmptyRow(cells) || COMMENTS.some((c) => cells[0]!.startsWith(c))) continue;
			used++;
			counts.set(cells.length, (counts.get(cells.length) ?? 0) + 1);
		}
		for (const [cells, times] of counts) {
			// Blanks stand inside words, too: they count only when nothing else does.
			const s = cells < 2 ? 0 : (times / used) ** 2 * Math.min(cells, 8) * (d === 'space' ? 0.3 : 1);
			if (s > score + 1e-9) {
				score = s;
				best = d;
			}
		}
	}
	return best;
}

/** What can be told of a text from its first lines: everything of `Reading` that is not given. */
export function guessReading(text: string, known: Partial<Reading> = {}): Reading {
	const whole = text.length <= SAMPLE;
	const sample = whole ? text : text.slice(0, SAMPLE);
	const delimiter = known.delimiter ?? guessDelimiter(sample, whole);
	return guessLayout(cut(sample, delimiter, whole), delimiter, known);
}

/**
 * Reads delimited text.
 * @param known what is already said of the file; the rest is guessed
 * @throws ProblemError `empty-file`, `not-text`, `not-a-table`, `line-too-long`, `doubled-header`
 */
export function readDelimited(bytes: Uint8Array, name: string, known: Partial<Reading> = {}): RawTable {
	if (bytes.length === 0) fail('empty-file', `${name} is empty`, 'Choose the file again; nothing was stored.', name);
	refuseWhatIsNotText(bytes, name);
	const text = decodeText(bytes);
	return cutTable(text, name, guessReading(text, known));
}

function cutTable(text: string, name: string, reading: Reading): RawTable {
	const { text: input, papa } = prepared(text, reading.delimiter);
	const builder = new TableBuilder(reading, name);
	if (!input.includes('"')) {
		cutPlain(input, papa, builder);
		return builder.finish();
	}
	let line = 1;
	const config: Papa.ParseConfig<string[]> & { chunkSize: number; chunk(part: { data: string[][] }): void } = {
		delimiter: papa,
		chunkSize: 1 << 22,
		chunk: ({ data }) => {
			for (const cells of data) {
				builder.take(cells, line++);
				for (const c of cells) line += breaksIn(c);
			}
		}
	};
	Papa.parse<string[]>(input, config);
	return builder.finish();
}

/**
 * Cuts text without quotes, where every delimiter and every line end counts. A cell like the one above it is not made anew: names of
 * holes and codes come a thousand times, and a million rows of them must fit into memory.
 */
function cutPlain(text: string, delimiter: string, builder: TableBuilder): void {
	const above: string[] = [];
	const cells: string[] = [];
	const cell = (from: number, to: number): void => {
		const column = cells.length;
		const last = above[column];
		cells.push(last !== undefined && last.length === to - from && text.startsWith(last, from) ? last : (above[column] = text.slice(from, to)));
	};
	let line = 1;
	const mark = delimiter.charCodeAt(0);
	const carriage = text.includes('\r');
	const ends = carriage && !text.includes('\n') ? '\r' : '\n';
	for (let from = 0; from < text.length; ) {
		let end = text.indexOf(ends, from);
		if (end < 0) end = text.length;
		const stop = carriage && end > from && text.charCodeAt(end - 1) === 13 ? end - 1 : end;
		cells.length = 0;
		let at = from;
		for (let i = from; i < stop; i++) {
			if (text.charCodeAt(i) !== mark) continue;
			cell(at, i);
			at = i + 1;
		}
		cell(at, stop);
		builder.take(cells, line++);
		from = end + 1;
	}
}

function refuseWhatIsNotText(bytes: Uint8Array, name: string): void {
	const utf16 = (bytes[0] === 0xff && bytes[1] === 0xfe) || (bytes[0] === 0xfe && bytes[1] === 0xff);
	if (!utf16 && bytes.subarray(0, 4096).includes(0))
		fail('not-text', `${name} is not a text file`, 'A table is read from delimited text (CSV), XLSX, LAS or AGS; this is none of them.', name);
	let since = 0;
	for (let i = bytes.indexOf(10); i >= 0; i = bytes.indexOf(10, i + 1)) {
		if (i - since > LONGEST_LINE) break;
		since = i + 1;
	}
	// Lines may end with a carriage return alone.
	for (let i = since, from = since; i < bytes.length; i++) {
		if (bytes[i] === 10 || bytes[i] === 13) from = i + 1;
		else if (i - from > LONGEST_LINE)
			fail('line-too-long', `${name} has a line longer than ${LONGEST_LINE / 1024} KiB`, 'This is not a table with line ends; check how the file was written.', name);
	}
}

/** Text for a CSV cell. A text that a spreadsheet would run as a formula is kept from doing so. */
export function csvCell(value: string | number): string {
	if (typeof value === 'number') return String(value);
	const safe = /^[=+\-@\t\r]/.test(value) && !/^[+-]?[\d.]+(e[+-]?\d+)?$/i.test(value) ? `'${value}` : value;
	return /[",\n\r]/.test(safe) ? `"${safe.replaceAll('"', '""')}"` : safe;
}

/** CSV text with a header line. */
export const writeCsv = (header: readonly string[], rows: Iterable<readonly (string | number)[]>): string => {
	const out = [header.map(csvCell).join(',')];
	for (const row of rows) out.push(row.map(csvCell).join(','));
	return out.join('\n') + '\n';
};
