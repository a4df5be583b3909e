/** Order of day, month and year in a date of three numbers; `iso` is year, month, day. */
export type DateOrder = 'iso' | 'dmy' | 'mdy';

const DAY = 86_400_000;
const MONTHS = ['jan', 'feb', 'mar', 'apr', 'may', 'jun', 'jul', 'aug', 'sep', 'oct', 'nov', 'dec'];
const TIME = String.raw`(?:[T ]+(\d{1,2}):(\d{2})(?::(\d{2})(?:[.,]\d+)?)?\s*([ap]m)?\s*(Z|UTC|GMT|[+-]\d{2}:?\d{2})?)?`;
const DATE = new RegExp(String.raw`^(\d{1,4})[-/. ]([a-z]{3,9}|\d{1,2})[-/. ](\d{1,4})${TIME}$`, 'i');
/** Year, month and day with nothing between them. */
const COMPACT = new RegExp(String.raw`^((?:19|20)\d{2})(\d{2})(\d{2})${TIME}$`, 'i');
/** A day as a spreadsheet counts it, from 1899-12-30: years 1954 to 2119. */
const SERIAL = /^\d{5}(?:[.,]\d+)?$/;
const SERIAL_START = -25_569;

/**
 * Days since 1970-01-01 (UTC, with the time of day as a fraction) of a date as people write it; NaN for anything else and for
 * days that do not exist. A time with a zone is brought to UTC; one without is taken as UTC.
 * @param order how 03/04/2021 is meant; dates with the year first or with a month's name need none
 */
export function parseDate(text: string, order: DateOrder = 'dmy'): number {
	const trimmed = text.trim();
	if (SERIAL.test(trimmed)) {
		const serial = Number(trimmed.replace(',', '.'));
		return serial >= 20_000 && serial < 80_400 ? Math.round((serial + SERIAL_START) * 86_400) / 86_400 : NaN;
	}
	const compact = COMPACT.exec(trimmed);
	const m = compact ?? DATE.exec(trimmed);
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
	const half = m[7]?.toLowerCase();
	const given = Number(m[4] ?? 0);
	if (half && (given < 1 || given > 12)) return NaN;
	const hour = half ? (given % 12) + (half === 'pm' ? 12 : 0) : given;
	const [minute, second] = [Number(m[5] ?? 0), Number(m[6] ?? 0)];
	const time = Date.UTC(year, month - 1, day, hour, minute, second);
	const back = new Date(time);
	if (
		back.getUTCFullYear() !== year ||
		back.getUTCMonth() !== month - 1 ||
		back.getUTCDate() !== day ||
		hour > 23 ||
		minute > 59 ||
		second > 59
	)
		return NaN;
	return (time - zoneOf(m[8]) * 60_000) / DAY;
}

/** Minutes that a zone is ahead of UTC. */
function zoneOf(zone: string | undefined): number {
	const m = /^([+-])(\d{2}):?(\d{2})$/.exec(zone ?? '');
	return m ? (m[1] === '-' ? -1 : 1) * (60 * Number(m[2]) + Number(m[3])) : 0;
}

const monthOf = (text: string): number => (/^\d/.test(text) ? Number(text) : MONTHS.indexOf(text.slice(0, 3).toLowerCase()) + 1);

/** The order in which most of some dates exist; day first when nothing tells. */
export function guessDateOrder(cells: readonly string[]): DateOrder {
	const counts = { dmy: 0, mdy: 0, first: 0, all: 0 };
	for (const c of cells) {
		if (c === '') continue;
		counts.all++;
		if (/^\d{4}[-/. ]/.test(c)) counts.first++;
		else {
			if (!Number.isNaN(parseDate(c, 'dmy'))) counts.dmy++;
			if (!Number.isNaN(parseDate(c, 'mdy'))) counts.mdy++;
		}
	}
	if (counts.all > 0 && counts.first === counts.all) return 'iso';
	return counts.mdy > counts.dmy ? 'mdy' : 'dmy';
}

/** A date as ISO text, with the time when it has one, to the second where it needs that. */
export function formatDate(days: number): string {
	const seconds = Math.round(days * 86_400);
	const text = new Date(seconds * 1000).toISOString();
	if (seconds % 86_400 === 0) return text.slice(0, 10);
	return text.slice(0, seconds % 60 === 0 ? 16 : 19).replace('T', ' ');
}
