import { valueColumns, type Table } from './table';

/** Spread of the numbers of a column. */
interface NumberSummary {
	column: string;
	count: number;
	missing: number;
	min: number;
	max: number;
	mean: number;
	median: number;
	/** Counts of `BINS` equal bins from min to max. */
	histogram: number[];
}

/** What is in a table, at a glance. Only rows that are not excluded. */
export interface TableSummary {
	rows: number;
	excluded: number;
	holes: number | null;
	/** Least and greatest depth, project units; null for tables without depths. */
	depths: [number, number] | null;
	numbers: NumberSummary[];
	/** Codes with their number of rows, the most frequent first; at most `MOST_CODES`. */
	codes: { code: string; count: number }[];
	/** Cells of text columns that are empty. */
	missingText: { column: string; missing: number }[];
}

const BINS = 24;
const MOST_CODES = 5000;

/** Summarises a table. */
export function summarise(table: Table): TableSummary {
	const used = (row: number) => table.excluded[row] === 0;
	const excluded = table.excluded.reduce((n, e) => n + e, 0);
	const depths = (['from', 'to', 'depth', 'totalDepth'] as const).map((k) => table.numbers[k]).filter((v) => v !== undefined);
	let low = Infinity;
	let high = -Infinity;
	for (const v of depths)
		for (let row = 0; row < v.length; row++) {
			if (!used(row)) continue;
			if (v[row]! < low) low = v[row]!;
			if (v[row]! > high) high = v[row]!;
		}
	const columns = [...new Set([...Object.keys(table.numbers).filter((k) => table.headers[k]), ...valueColumns(table)])];
	return {
		rows: table.rowCount,
		excluded,
		holes: table.text['hole'] ? new Set(table.text['hole'].filter((_, row) => used(row))).size : null,
		depths: low <= high ? [low, high] : null,
		numbers: columns.map((c) => summariseNumbers(table.headers[c] ?? c, table.numbers[c]!, table.excluded)),
		codes: codesIn(table),
		missingText: Object.keys(table.text)
			.map((c) => ({
				column: table.headers[c] ?? c,
				missing: table.text[c]!.reduce((n, v, row) => n + (v === '' && used(row) ? 1 : 0), 0)
			}))
			.filter((m) => m.missing > 0)
	};
}

function summariseNumbers(column: string, values: Float64Array, excluded: Uint8Array): NumberSummary {
	const own = new Float64Array(values.length);
	let filled = 0;
	let missing = 0;
	for (let row = 0; row < values.length; row++) {
		if (excluded[row]) continue;
		const v = values[row]!;
		if (v === v) own[filled++] = v;
		else missing++;
	}
	return describe(column, own.subarray(0, filled).sort(), missing);
}

function describe(column: string, own: Float64Array, missing: number): NumberSummary {
	const n = own.length;
	const [min, max] = n ? [own[0]!, own[n - 1]!] : [NaN, NaN];
	const histogram = new Array<number>(BINS).fill(0);
	let sum = 0;
	for (const v of own) {
		sum += v;
		histogram[max > min ? Math.min(BINS - 1, Math.floor(((v - min) / (max - min)) * BINS)) : 0]!++;
	}
	return {
		column,
		count: n,
		missing,
		min,
		max,
		mean: n ? sum / n : NaN,
		median: n ? (own[(n - 1) >> 1]! + own[n >> 1]!) / 2 : NaN,
		histogram
	};
}

/** The codes of a table with their number of rows that are not excluded, the most frequent first. */
export function codesIn({ text, excluded }: Table): TableSummary['codes'] {
	const counts = new Map<string, number>();
	const codes = text['code'] ?? [];
	// Rows that follow each other say the same more often than not.
	let [last, run] = ['', 0];
	const count = () => last !== '' && run > 0 && counts.set(last, (counts.get(last) ?? 0) + run);
	for (let row = 0; row < codes.length; row++) {
		if (excluded[row]) continue;
		if (codes[row] !== last) {
			count();
			[last, run] = [codes[row]!, 0];
		}
		run++;
	}
	count();
	return [...counts]
		.map(([code, count]) => ({ code, count }))
		.sort((a, b) => b.count - a.count || (a.code < b.code ? -1 : 1))
		.slice(0, MOST_CODES);
}
