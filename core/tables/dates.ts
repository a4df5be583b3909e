/** Order of day, month and year in a date of three numbers; `iso` is year, month, day. */
export type DateOrder = 'iso' | 'dmy' | 'mdy';

const DAY = 86_400_000;
const MONTHS = ['jan', 'feb', 'mar', 'apr', 'may', 'jun', 'jul', 'aug', 'sep', 'oct', 'nov', 'dec'];

/**
 * Days since 1970-01-01 (UTC, with the time of day as a fraction) of a date as people write it; NaN for anything else and for
 * days that do not exist.
 * @param order how 03/04/2021 is meant; dates with the year first or with a month's name need none
 */
export function parseDate(text: string, order: DateOrder = 'dmy'): number {
	const m = /^(\d{1,4})[-/. ]([a-z]{3,9}|\d{1,2})[-/. ](\d{1,4})(?:[T ]+(\d{1,2}):(\d{2})(?::(\d{2})(?:\.\d+)?)?\s*(?:Z|UTC)?)?$/i.exec(text.trim());
	if (!m) return NaN;
	const [a, b, c] = [Number(m[1]), m[2]!, Number(m[3])];
	let year: number;
	let month: number;
	let day: number;
	if (m[1]!.length > 2) [year, month, day] = [a, monthOf(b), c];
	else if (/^[a-z]/i.test(b)) [day, month, year] = [a, monthOf(b), c];
	else if (order === 'mdy') [month, day, year] = [a, Number(b), c];
	else [day, month, year] = [a, Number(b), c];
	if (m[1]!.length <= 2 && m[3]!.length === 2) year += year < 70 ? 2000 : 1900;
	const [hour, minute, second] = [Number(m[4] ?? 0), Number(m[5] ?? 0), Number(m[6] ?? 0)];
	const time = Date.UTC(year, month - 1, day, hour, minute, second);
	const back = new Date(time);
	if (back.getUTCFullYear() !== year || back.getUTCMonth() !== month - 1 || back.getUTCDate() !== day || hour > 23 || minute > 59 || second > 59) return NaN;
	return time / DAY;
}

const monthOf = (text: string): number => (/^\d/.test(text) ? Number(text) : MONTHS.indexOf(text.slice(0, 3).toLowerCase()) + 1);

/** The order in which most of some dates exist; day first when nothing tells. */
export function guessDateOrder(cells: readonly string[]): DateOrder {
	const exist = (order: DateOrder) => cells.filter((c) => !Number.isNaN(parseDate(c, order))).length;
	return exist('mdy') > exist('dmy') ? 'mdy' : 'dmy';
}

/** A date as ISO text, with the time when it has one. */
export const formatDate = (days: number): string => {
	const text = new Date(Math.round(days * DAY)).toISOString();
	return Number.isInteger(days) ? text.slice(0, 10) : text.slice(0, 16).replace('T', ' ');
};
