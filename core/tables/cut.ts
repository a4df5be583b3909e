import type { Reading } from './raw-table';

/** What quotation marks mean: `careful` doubts one that would swallow lines which look like rows; `all` counts every one; `none` are plain characters. */
export type Quotes = 'careful' | 'all' | 'none';

/** A line of a file cut into cells, not trimmed. */
interface CutLine {
	cells: string[];
	/** Line on which it begins, counted from 1. */
	line: number;
	/** Lines that a quotation mark on it would have swallowed: the mark was taken as it stands. */
	doubted: number;
}

/** A cell that goes on over more lines than this is doubted whatever it holds, and so is one longer than this. */
const MOST_LINES = 200;
const LONGEST_CELL = 100_000;

interface Place {
	text: string;
	/** Character that ends lines; the other kinds are looked after where they matter. */
	ends: '\n' | '\r';
	carriage: boolean;
}

/** Runs of blanks become one tab, so that every table is cut at one character. */
export const prepared = (text: string, delimiter: Reading['delimiter']): { text: string; mark: string } =>
	delimiter === 'space' ? { text: text.replace(/^[ \t]+|[ \t]+$/gm, '').replace(/[ \t]+/g, '\t'), mark: '\t' } : { text, mark: delimiter };

/**
 * Cuts delimited text (RFC 4180) line by line. A cell like the one above it is not made anew: names of holes and codes come a thousand
 * times, and a million rows of them must fit into memory. @yields lines with at least one cell
 */
export function* cutLines(input: string, delimiter: Reading['delimiter'], quotes: Quotes): Generator<CutLine> {
	const { text, mark } = prepared(input, delimiter);
	const carriage = text.includes('\r');
	const place: Place = { text, ends: carriage && !text.includes('\n') ? '\r' : '\n', carriage };
	const hasQuotes = quotes !== 'none' && text.includes('"');
	const above: string[] = [];
	/** The last line that was cut without trouble: what a row looks like. */
	let pattern: string[] = [];
	let line = 1;
	for (let from = 0; from < text.length;) {
		const end = endOfLine(place, from);
		const stop = stopOf(place, from, end);
		const quote = hasQuotes ? text.indexOf('"', from) : -1;
		const quoted = quote >= 0 && quote < stop ? cutQuoted(place, mark, from, quotes, pattern) : null;
		if (quoted && 'cells' in quoted) {
			yield { cells: quoted.cells, line, doubted: 0 };
			if (quoted.breaks === 0) pattern = quoted.cells;
			line += quoted.breaks + 1;
			from = quoted.next;
			continue;
		}
		const cells = cutPlain(text, mark.charCodeAt(0), from, stop, above);
		yield { cells, line, doubted: quoted?.doubted ?? 0 };
		if (hasQuotes && !quoted && cells.length >= pattern.length) pattern = cells;
		line++;
		from = end + 1;
	}
}

function endOfLine({ text, ends }: Place, from: number): number {
	const end = text.indexOf(ends, from);
	return end < 0 ? text.length : end;
}

const stopOf = ({ text, carriage }: Place, from: number, end: number): number =>
	carriage && end > from && text.charCodeAt(end - 1) === 13 ? end - 1 : end;

/** Cuts a line in which every delimiter counts. */
function cutPlain(text: string, mark: number, from: number, stop: number, above: string[]): string[] {
	const cells: string[] = [];
	const cell = (a: number, b: number): void => {
		const column = cells.length;
		const last = above[column];
		cells.push(last !== undefined && last.length === b - a && text.startsWith(last, a) ? last : (above[column] = text.slice(a, b)));
	};
	let at = from;
	for (let i = from; i < stop; i++) {
		if (text.charCodeAt(i) !== mark) continue;
		cell(at, i);
		at = i + 1;
	}
	cell(at, stop);
	return cells;
}

type Quoted = { cells: string[]; next: number; breaks: number } | { doubted: number };

/** Cuts a line that holds quotation marks, and the lines that its cells go on over. */
function cutQuoted(place: Place, mark: string, from: number, quotes: Quotes, pattern: readonly string[]): Quoted {
	const { text } = place;
	const cells: string[] = [];
	let breaks = 0;
	let i = from;
	for (;;) {
		let start = i;
		while (text[start] === ' ' && mark !== ' ') start++;
		if (text[start] === '"') {
			const closed = closingQuote(place, mark, start);
			const spanned = closed ? breaksBetween(place, start, closed.at) : breaksBetween(place, start, text.length);
			if (
				quotes === 'careful' &&
				(!closed || spanned > 0) &&
				isDoubtful(place, mark, start, closed?.at ?? text.length, numbersIn(pattern, cells), closed !== null && !closed.odd, spanned)
			)
				return { doubted: Math.max(1, spanned) };
			if (!closed) {
				cells.push(unquoted(text.slice(start + 1)));
				return { cells, next: text.length, breaks: breaks + spanned };
			}
			breaks += spanned;
			// What stands between the mark and the next delimiter belongs to the cell: it was no quotation.
			const end = nextEnd(place, mark, closed.at + 1);
			const behind = text.slice(closed.at + 1, stopOf(place, closed.at + 1, end)).trim();
			cells.push(behind === '' ? unquoted(text.slice(start + 1, closed.at)) : text.slice(start, end));
			i = end;
		} else {
			const end = nextEnd(place, mark, i);
			cells.push(text.slice(i, text[end] === mark ? end : stopOf(place, i, end)));
			i = end;
		}
		if (text[i] === mark) i++;
		else return { cells, next: i + 1, breaks };
	}
}

const unquoted = (cell: string): string => (cell.includes('""') ? cell.replaceAll('""', '"') : cell);

/** The next delimiter or line end. */
function nextEnd({ text, ends }: Place, mark: string, from: number): number {
	for (let i = from; i < text.length; i++) if (text[i] === mark || text[i] === ends) return i;
	return text.length;
}

/** The mark that ends a quoted cell: one that is not doubled and stands before a delimiter or a line end. `odd` when marks stand inside that are neither. */
function closingQuote({ text, ends }: Place, mark: string, start: number): { at: number; odd: boolean } | null {
	let odd = false;
	for (let i = text.indexOf('"', start + 1); i >= 0; i = text.indexOf('"', i + 1)) {
		if (text[i + 1] === '"') {
			i++;
			continue;
		}
		let after = i + 1;
		while (text[after] === ' ' || (text[after] === '\r' && ends === '\n')) after++;
		if (after >= text.length || text[after] === mark || text[after] === ends) return { at: i, odd };
		odd = true;
		if (i - start > LONGEST_CELL) return null;
	}
	return null;
}

function breaksBetween({ text, ends }: Place, from: number, to: number): number {
	let n = 0;
	for (let i = text.indexOf(ends, from); i >= 0 && i < to; i = text.indexOf(ends, i + 1)) n++;
	return n;
}

/** Whether a quoted cell over several lines has swallowed rows: the mark that should have ended it is missing. */
function isDoubtful(place: Place, mark: string, start: number, end: number, pattern: RowPattern, well: boolean, spanned: number): boolean {
	if (!well || spanned > MOST_LINES || end - start > LONGEST_CELL) return true;
	const lines = place.text
		.slice(start + 1, end)
		.split(place.ends)
		.slice(1);
	return lines.some((l) => looksLikeRow(l.split(mark), pattern));
}

const isNumber = (cell: string): boolean => /^\s*"?[+-]?[\d.,' ]*\d"?\s*$/.test(cell);

/** What a row looks like: how many cells it has, and in which of them numbers stand. */
interface RowPattern {
	width: number;
	numbers: number[];
}

/** From a row before, and from the cells of this one that were cut already. */
const numbersIn = (before: readonly string[], cells: readonly string[]): RowPattern => ({
	width: before.length,
	numbers: [...new Set([before, cells].flatMap((list) => list.flatMap((c, i) => (isNumber(c) ? [i] : []))))]
});

/** Whether cells are as many as those of a row, with numbers where it has numbers. Text alone is no row: notes go on over lines, too. */
const looksLikeRow = (cells: readonly string[], { width, numbers }: RowPattern): boolean =>
	width >= 2 && numbers.length > 0 && cells.length >= width && numbers.filter((i) => isNumber(cells[i]!)).length >= numbers.length / 2;
