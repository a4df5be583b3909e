import { fail } from '../problem';
import { COMMENTS, GUARDED, guessLayout, isEmptyRow, TableBuilder, type Line } from './layout';
import { cutLines, type Quotes } from './cut';
import { westernText } from './western';
import { DELIMITERS, type RawTable, type Reading } from './raw-table';

const LONGEST_LINE = 1 << 20;
const SAMPLE = 60_000;

/** The kind of UTF-16 that bytes are written in, by their mark or, without one, by the zeros of plain letters. */
function utf16Of(bytes: Uint8Array): 'utf-16le' | 'utf-16be' | null {
	if (bytes[0] === 0xff && bytes[1] === 0xfe) return 'utf-16le';
	if (bytes[0] === 0xfe && bytes[1] === 0xff) return 'utf-16be';
	const head = bytes.subarray(0, 4096 & ~1);
	let [even, odd] = [0, 0];
	for (let i = 0; i + 1 < head.length; i += 2) {
		if (head[i] === 0) even++;
		if (head[i + 1] === 0) odd++;
	}
	const pairs = Math.floor(head.length / 2);
	if (pairs < 8) return null;
	return odd > 0.6 * pairs && even === 0 ? 'utf-16le' : even > 0.6 * pairs && odd === 0 ? 'utf-16be' : null;
}

/** Text of a file in UTF-8 or UTF-16 (each with or without its mark) or, when the bytes are not UTF-8, Windows-1252. */
export function decodeText(bytes: Uint8Array): string {
	const wide = utf16Of(bytes);
	if (wide) return new TextDecoder(wide).decode(bytes);
	try {
		return new TextDecoder('utf-8', { fatal: true }).decode(bytes);
	} catch {
		return westernText(bytes);
	}
}

/** Cells of the first lines of a text under one delimiter. */
function cut(sample: string, delimiter: Reading['delimiter'], whole: boolean, quotes: Quotes = 'careful'): Line[] {
	const lines = Array.from(cutLines(sample, delimiter, quotes), ({ cells, line }) => ({ cells: cells.map((c) => c.trim()), line }));
	// The sample may end inside a row.
	return whole ? lines : lines.slice(0, -1);
}

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
function guessReading(text: string, known: Partial<Reading> = {}): Reading {
	const whole = text.length <= SAMPLE;
	const sample = whole ? text : text.slice(0, SAMPLE);
	const delimiter = known.delimiter ?? guessDelimiter(sample, whole);
	return guessLayout(cut(sample, delimiter, whole, known.quotes), delimiter, known);
}

/**
 * Reads delimited text.
 * @param known what is already said of the file; the rest is guessed
 * @throws ProblemError `empty-file`, `not-text`, `not-a-table`, `line-too-long`, `too-many-columns`
 */
export function readDelimited(bytes: Uint8Array, name: string, known: Partial<Reading> = {}): RawTable {
	if (bytes.length === 0) fail('empty-file', `${name} is empty`, 'Choose the file again; nothing was stored.', name);
	refuseWhatIsNotText(bytes, name);
	const text = decodeText(bytes);
	return cutTable(text, name, guessReading(text, known));
}

function cutTable(text: string, name: string, reading: Reading): RawTable {
	const builder = new TableBuilder(reading, name, true);
	for (const { cells, line, doubted } of cutLines(text, reading.delimiter, reading.quotes ?? 'careful')) builder.take(cells, line, doubted);
	return builder.finish();
}

function refuseWhatIsNotText(bytes: Uint8Array, name: string): void {
	if (!utf16Of(bytes) && bytes.subarray(0, 4096).includes(0))
		fail(
			'not-text',
			`${name} is not a text file`,
			'A table is read from delimited text (CSV), XLSX, LAS or AGS; this is none of them.',
			name
		);
	let since = 0;
	for (let i = bytes.indexOf(10); i >= 0; i = bytes.indexOf(10, i + 1)) {
		if (i - since > LONGEST_LINE) break;
		since = i + 1;
	}
	// Lines may end with a carriage return alone.
	for (let i = since, from = since; i < bytes.length; i++) {
		if (bytes[i] === 10 || bytes[i] === 13) from = i + 1;
		else if (i - from > LONGEST_LINE)
			fail(
				'line-too-long',
				`${name} has a line longer than ${LONGEST_LINE / 1024} KiB`,
				'This is not a table with line ends; check how the file was written.',
				name
			);
	}
}

/** Text for a CSV cell. A text that a spreadsheet would run as a formula is kept from doing so by an apostrophe, which `readDelimited` takes off again. */
export function csvCell(value: string | number): string {
	if (typeof value === 'number') return String(value);
	const safe = GUARDED.test(value) && !/^[+-]?[\d.]+(e[+-]?\d+)?$/i.test(value) ? `'${value}` : value;
	return /[",\n\r]/.test(safe) ? `"${safe.replaceAll('"', '""')}"` : safe;
}

/** CSV text with a header line. */
export const writeCsv = (header: readonly string[], rows: Iterable<readonly (string | number)[]>): string => {
	const out = [header.map(csvCell).join(',')];
	for (const row of rows) out.push(row.map(csvCell).join(','));
	return out.join('\n') + '\n';
};
