import type { DateSource } from './hole-ages';

/** Whether a column is called like one of ages. */
export const isAge = (header: string): boolean => /(^|[^a-z])age/i.test(header) || /Age[A-Z_]|_age/.test(header);

/**
 * Which columns of numbers date the depths of a table, by what they are called: ages with what they may be off by, two that ages lie between.
 * @returns null when none does
 */
export function dateColumns(columns: readonly string[]): Omit<DateSource, 'table'> | null {
	const ages = columns.filter(isAge);
	const find = (what: RegExp, among: readonly string[]) => among.find((k) => what.test(k));
	const error = find(/err|sd|sigma|unc|±/i, ages.length ? columns : []);
	const [low, high] = [find(/from|young|min|low/i, columns), find(/to(_|$)|old|max|high/i, columns)];
	const age = ages.find((k) => k !== error && k !== low && k !== high);
	const range = low && high && (isAge(low) || isAge(high) || age) ? { low, high } : null;
	if (age) return { age, ...(error ? { error } : {}), ...range };
	return range;
}
