import type { Reading } from './raw-table';

/** How numbers are written. */
type NumberStyle = Pick<Reading, 'decimal' | 'thousands'>;

export const PLAIN_NUMBERS: NumberStyle = { decimal: '.', thousands: '' };

const GROUPED = (mark: string, decimal: string) => new RegExp(`^[+-]?\\d{1,3}(\\${mark}\\d{3})+(\\${decimal}\\d*)?$`);
/** Blanks that keep groups of digits together, and the minus of typesetters. */
const BLANKS = /[\u00a0\u2007\u2009\u202f]/g;
const MINUS = /^\u2212/;
const WIDE = /[^\u0000-\u007f]/;

const STYLES = new Map<string, (cell: string) => number>();

/** A reader of numbers of one style: NaN for anything that is not a number, the empty cell included. */
export function numberReader({ decimal, thousands }: NumberStyle): (cell: string) => number {
	const key = decimal + thousands;
	const known = STYLES.get(key);
	if (known) return known;
	const grouped = thousands ? GROUPED(thousands, decimal) : null;
	const reader = (cell: string): number => {
		// Number() takes words such as Infinity and forms such as 0x10; no table means them.
		const c = cell.charCodeAt(cell.length - 1);
		if (!((c >= 48 && c <= 57) || c === 46 || c === 44)) return NaN;
		let text = cell.charCodeAt(0) > 127 || WIDE.test(cell) ? cell.replace(BLANKS, ' ').replace(MINUS, '-') : cell;
		if (grouped && grouped.test(text)) text = text.replaceAll(thousands, '');
		if (decimal === ',') {
			if (text.includes('.')) return NaN;
			text = text.replace(',', '.');
		}
		const second = text.charCodeAt(1);
		if (second === 120 || second === 88 || second === 98 || second === 111) return NaN;
		const v = Number(text);
		return Number.isFinite(v) ? v : NaN;
	};
	STYLES.set(key, reader);
	return reader;
}

/**
 * Guesses how numbers are written from cells that hold digits. A comma is a decimal comma when some cell has other than three
 * digits behind it and no cell has a point; groups of three digits behind a mark are thousands.
 */
export function guessNumberStyle(cells: Iterable<string>): NumberStyle {
	let decimalComma = 0;
	let point = 0;
	const groups: Record<string, number> = { ',': 0, '.': 0, ' ': 0, "'": 0 };
	for (const given of cells) {
		const cell = WIDE.test(given) ? given.replace(BLANKS, ' ').replace(MINUS, '-') : given;
		if (!/^[+-]?\d[\d.,' ]*$/.test(cell)) continue;
		for (const mark of [' ', "'"]) if (GROUPED(mark, '.').test(cell) || GROUPED(mark, ',').test(cell)) groups[mark]!++;
		// Nobody writes a leading zero before a mark of thousands.
		if (GROUPED(',', '.').test(cell) && !/^[+-]?0/.test(cell)) groups[',']!++;
		else if (/^[+-]?[\d'. ]*,\d+$/.test(cell)) decimalComma++;
		if (GROUPED('.', ',').test(cell) && (cell.includes(',') || (cell.match(/\./g) ?? []).length > 1)) groups['.']!++;
		else if (/^[+-]?[\d', ]*\.\d*$/.test(cell)) point++;
	}
	const decimal = point === 0 && (decimalComma > 0 || groups['.']! > 0) ? ',' : '.';
	if (decimal === ',') return { decimal, thousands: groups['.']! > 0 ? '.' : groups[' ']! > 0 ? ' ' : groups["'"]! > 0 ? "'" : '' };
	return { decimal, thousands: groups[',']! > 0 && decimalComma === 0 ? ',' : groups[' ']! > 0 ? ' ' : groups["'"]! > 0 ? "'" : '' };
}
