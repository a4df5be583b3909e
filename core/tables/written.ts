import { guessDateOrder, type DateOrder } from './dates';
import { roleOf, type TableKind } from './kinds';
import type { Mapping } from './mapping';
import { numberReader } from './numbers';
import type { RawTable } from './raw-table';

/** How an inclination is written: signed and negative down (as it is shown here), the same with its sign turned, or as the angle from straight down. */
export type InclinationHabit = 'negative-down' | 'positive-down' | 'from-vertical';
/** How the cells of a column are written, where that can not be seen from one of them. */
export type Habit = InclinationHabit | DateOrder;
/** By header name. */
export type Written = Record<string, Habit>;

const INCLINATION_HABITS: readonly { habit: InclinationHabit; label: string }[] = [
	{ habit: 'negative-down', label: 'negative is down (−90 straight down)' },
	{ habit: 'positive-down', label: 'positive is down (90 straight down)' },
	{ habit: 'from-vertical', label: 'from vertical (0 straight down)' }
];
const DATE_ORDERS: readonly { habit: DateOrder; label: string }[] = [
	{ habit: 'dmy', label: 'day, month, year' },
	{ habit: 'mdy', label: 'month, day, year' },
	{ habit: 'iso', label: 'year first' }
];
export const HABITS: readonly Habit[] = [...INCLINATION_HABITS.map((h) => h.habit), ...DATE_ORDERS.map((h) => h.habit)];

/** The signed inclination from horizontal, negative down, of a number in degrees. */
export function signedInclination(value: number, habit: InclinationHabit): number {
	return habit === 'positive-down' ? -value : habit === 'from-vertical' ? value - 90 : value;
}

/** The number in degrees that stands for a signed inclination; the way back. */
export function writtenInclination(signed: number, habit: InclinationHabit): number {
	return habit === 'positive-down' ? -signed : habit === 'from-vertical' ? signed + 90 : signed;
}

/** Which habits a column has to choose from, by its role. */
export function habitsOf(kind: TableKind, roleKey: string): readonly { habit: Habit; label: string }[] {
	const role = roleOf(kind, roleKey);
	if (role?.key === 'inclination') return INCLINATION_HABITS;
	return role?.type === 'date' ? DATE_ORDERS : [];
}

/** The habits of columns, from their headers and all of their values. */
export function guessWritten(raw: RawTable, kind: TableKind, mapping: Mapping): Written {
	const out: Written = {};
	raw.header.forEach((h, i) => {
		const role = roleOf(kind, mapping[h] ?? '');
		if (role?.key === 'inclination') out[h] = guessInclination(h, raw.columns[i]!, numberReader(raw.reading));
		else if (role?.type === 'date') out[h] = guessDateOrder(raw.columns[i]!);
	});
	return out;
}

function guessInclination(header: string, cells: readonly string[], read: (cell: string) => number): InclinationHabit {
	if (/vert|zenith|colat/i.test(header)) return 'from-vertical';
	let [down, up] = [0, 0];
	for (const c of cells) {
		const v = read(c);
		if (v < 0) down++;
		else if (v > 0) up++;
	}
	// Holes go down far more often than up.
	return up > down ? 'positive-down' : 'negative-down';
}

/** Whether a column holds dates that could be read in two ways, and none that tells. */
export const isAmbiguous = (cells: readonly string[]): boolean => {
	const mixed = cells.filter((c) => /^\d{1,2}[-/. ]\d{1,2}[-/. ]\d{2,4}/.test(c));
	return (
		mixed.length > 0 &&
		mixed.every((c) =>
			c
				.split(/[-/. ]/)
				.slice(0, 2)
				.every((n) => Number(n) <= 12)
		)
	);
};
