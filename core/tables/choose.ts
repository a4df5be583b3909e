import { compile } from '../expressions/expression';
import { fail } from '../problem';
import { histogramOf, quantileSorted, sortedValues, statisticsOf, type Histogram, type WindowStatistics } from '../statistics/spread';
import { sourcesOf } from './calculated';
import type { RawTable } from './raw-table';
import type { Table } from './table';

/** A number as it stands in a cell: at most 7 digits that mean something; nothing where there is none. */
export const cellOfNumber = (v: number): string => (Number.isFinite(v) ? String(Number(v.toPrecision(7))) : '');

/** The key behind the name of a column: of its header, or of a calculated column. */
const keyOf = (table: Table, name: string): string | undefined =>
	Object.keys(table.headers).find((k) => table.headers[k] === name) ??
	(table.calculated && Object.hasOwn(table.calculated, name) ? name : undefined);

/**
 * Numbers of the rows that fit a filter and hold a text, in the order of a column: numbers and dates by value, text by code points with
 * numbers inside it by value; rows without value last, whichever way. Rows that are equal keep their order.
 * @throws ProblemError `bad-expression`, `unknown-column`, `not-a-filter`
 */
export function chooseRows(
	raw: RawTable,
	table: Table,
	query: { filter?: string | undefined; sort?: string | undefined; descending?: boolean | undefined; find?: string | undefined },
	lengthUnit: string,
	stated: Readonly<Record<string, string>>
): Uint32Array {
	let rows: Uint32Array = Uint32Array.from({ length: table.rowCount }, (_, r) => r);
	if (query.filter) {
		const result = compile(query.filter).run(sourcesOf(table, lengthUnit, stated), table.rowCount);
		if (result.type !== 'boolean')
			return fail(
				'not-a-filter',
				'the filter gives a value, not yes or no',
				"Compare it with something: Cu_pct > 0.5, or Lithology = 'Granite'.",
				'filter'
			);
		rows = rows.filter((r) => result.values[r] === 1);
	}
	if (query.find) {
		const wanted = query.find.toLowerCase();
		rows = rows.filter((r) => raw.columns.some((c) => c[r]!.toLowerCase().includes(wanted)));
	}
	if (query.sort === undefined) return query.descending ? rows.reverse() : rows;
	const key = keyOf(table, query.sort);
	const position = raw.header.indexOf(query.sort);
	if (key === undefined && position < 0)
		return fail('unknown-column', `there is no column "${query.sort}"`, `The columns are: ${raw.header.join(', ')}.`, 'sort');
	const sign = query.descending ? -1 : 1;
	const numbers = key === undefined ? undefined : table.numbers[key];
	if (numbers)
		return rows.sort((a, b) => {
			const [x, y] = [numbers[a]!, numbers[b]!];
			if (x !== x || y !== y) return Number(x !== x) - Number(y !== y) || a - b;
			return sign * (x - y) || a - b;
		});
	const cells = position >= 0 ? raw.columns[position]! : table.text[key!]!;
	const ranks = ranksOf(cells);
	return rows.sort((a, b) => {
		if (cells[a] === '' || cells[b] === '') return Number(cells[a] === '') - Number(cells[b] === '') || a - b;
		return sign * (ranks[a]! - ranks[b]!) || a - b;
	});
}

/** Rank of each text among the different ones, so that a million rows are compared as numbers. */
function ranksOf(cells: readonly string[]): Uint32Array {
	const order = new Intl.Collator('en', { numeric: true });
	const rank = new Map([...new Set(cells)].sort(order.compare).map((c, i) => [c, i]));
	return Uint32Array.from(cells, (c) => rank.get(c)!);
}

export interface ColumnStatistics {
	column: string;
	rows: number;
	missing: number;
	/** Null for text. */
	numbers: (WindowStatistics & { quartiles: [number, number]; histogram: Histogram }) | null;
	/** The most frequent classes, for text. */
	classes: { name: string; count: number }[] | null;
	different: number;
}

/** @throws ProblemError `unknown-column` */
export function statisticsOfColumn(raw: RawTable, table: Table, rows: Uint32Array, column: string): ColumnStatistics {
	const key = keyOf(table, column);
	const position = raw.header.indexOf(column);
	if (key === undefined && position < 0) return fail('unknown-column', `there is no column "${column}"`, undefined, 'column');
	const used = rows.filter((r) => table.excluded[r] === 0);
	const numbers = key === undefined ? undefined : table.numbers[key];
	if (numbers) {
		const sorted = sortedValues(Float64Array.from(used, (r) => numbers[r]!));
		let different = 0;
		for (let i = 0; i < sorted.length; i++) if (i === 0 || sorted[i] !== sorted[i - 1]) different++;
		return {
			column,
			rows: used.length,
			missing: used.length - sorted.length,
			numbers: {
				...statisticsOf(sorted),
				quartiles: [quantileSorted(sorted, 0.25), quantileSorted(sorted, 0.75)],
				histogram: histogramOf(sorted, 24)
			},
			classes: null,
			different
		};
	}
	const cells = position >= 0 ? raw.columns[position]! : table.text[key!]!;
	const counts = new Map<string, number>();
	for (const r of used) counts.set(cells[r]!, (counts.get(cells[r]!) ?? 0) + 1);
	const missing = counts.get('') ?? 0;
	counts.delete('');
	return {
		column,
		rows: used.length,
		missing,
		numbers: null,
		classes: [...counts]
			.map(([name, count]) => ({ name, count }))
			.sort((a, b) => b.count - a.count || (a.name < b.name ? -1 : 1))
			.slice(0, 200),
		different: counts.size
	};
}
