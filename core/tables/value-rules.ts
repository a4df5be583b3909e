import type { Table } from './table';

/** What a cell of a measured column holds, when it is not a plain positive number. */
export type ValueClass = 'missing' | 'below' | 'above' | 'text' | 'zero' | 'negative';
export const VALUE_CLASSES: readonly ValueClass[] = ['missing', 'below', 'above', 'text', 'zero', 'negative'];

/** What is done with a class of cells: left out, kept as the number it is, replaced by a number, or by a share of the limit that it states. */
export type ValueAct = { act: 'leave' } | { act: 'keep' } | { act: 'number'; number: number } | { act: 'share'; share: number };

/** Rules of one column; a class that is not named is treated as in `DEFAULT_ACTS`. */
interface ColumnRule {
	acts: Partial<Record<ValueClass, ValueAct>>;
	/** Classes that somebody has looked at. */
	reviewed?: ValueClass[];
}

/** By header name. */
export type ValueRules = Record<string, ColumnRule>;

export const DEFAULT_ACTS: Readonly<Record<ValueClass, ValueAct>> = {
	missing: { act: 'leave' },
	below: { act: 'leave' },
	above: { act: 'leave' },
	text: { act: 'leave' },
	zero: { act: 'keep' },
	negative: { act: 'keep' }
};

const BELOW = /^(<|bdl|b\.?d\.?l?\.?|nd|n\.d\.?|tr|trace|below)/i;
const ABOVE = /^(>|over|odl)/i;

/** The class of a cell; null for a positive number. */
export function valueClass(cell: string, value: number): ValueClass | null {
	if (cell === '') return 'missing';
	if (BELOW.test(cell)) return 'below';
	if (ABOVE.test(cell)) return 'above';
	if (Number.isNaN(value)) return 'text';
	return value === 0 ? 'zero' : value < 0 ? 'negative' : null;
}

/** The number that a cell such as `<0,5` or `> 1000` states; NaN when it states none. A negative number states its limit. */
function statedLimit(cell: string, read: (cell: string) => number): number {
	return Math.abs(read(cell.replace(/^[^\d+-]*/, '').trim()));
}

const actOf = (rule: ColumnRule | undefined, c: ValueClass): ValueAct => rule?.acts[c] ?? DEFAULT_ACTS[c];

/** The number that stands for a cell of a class. A share without a stated limit leaves the cell out. */
function valueOf(act: ValueAct, cell: string, value: number, read: (cell: string) => number): number {
	switch (act.act) {
		case 'leave':
			return NaN;
		case 'keep':
			return Number.isNaN(value) ? statedLimit(cell, read) : value;
		case 'number':
			return act.number;
		case 'share':
			return act.share * statedLimit(cell, read);
	}
}

/**
 * Applies the rules of the measured columns of a table, in place. Cells that a rule gives a meaning are no longer odd.
 * @param cells raw cells by header name
 */
export function applyValueRules(
	table: Table,
	columns: readonly string[],
	cells: (column: string) => readonly string[],
	rules: ValueRules,
	read: (cell: string) => number
): void {
	const settled = new Set<string>();
	for (const column of columns) {
		const rule = rules[table.headers[column]!];
		if (!rule) continue;
		const values = table.numbers[column]!;
		const raw = cells(column);
		for (let row = 0; row < values.length; row++) {
			const c = valueClass(raw[row]!, values[row]!);
			if (c === null) continue;
			values[row] = valueOf(actOf(rule, c), raw[row]!, values[row]!, read);
			if (rule.acts[c]) settled.add(`${row} ${column}`);
		}
	}
	if (settled.size) table.notNumbers = table.notNumbers.filter((o) => !settled.has(`${o.row} ${o.column}`));
}

/** How many cells of each class a column has. */
export function countClasses(cells: readonly string[], read: (cell: string) => number): Record<ValueClass, number> {
	const counts: Record<ValueClass, number> = { missing: 0, below: 0, above: 0, text: 0, zero: 0, negative: 0 };
	for (const cell of cells) {
		const c = valueClass(cell, read(cell));
		if (c) counts[c]++;
	}
	return counts;
}
