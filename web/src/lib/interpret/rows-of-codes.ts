import type { DataSet } from '#core/datasets/dataset';

/** Rows of a data set whose code is one of some, by number in their table. */
export function rowsOfCodes(set: DataSet | null, codes: readonly string[]): number[] {
	const column = set?.columns.find((c) => c.key === 'code');
	if (!set || column?.type !== 'category' || !codes.length) return [];
	const wanted = new Set(codes.map((c) => column.categories.indexOf(c)).filter((k) => k >= 0));
	const rows: number[] = [];
	for (let i = 0; i < set.rowCount; i++) if (wanted.has(column.values[i]!)) rows.push(set.row[i]!);
	return rows;
}

/** What some rows of a log are together. */
interface RowsSum {
	rows: number;
	holes: number;
	length: number;
	/** Codes with their length, the longest first. */
	codes: [string, number][];
}

export function sumOfRows(set: DataSet, numbers: readonly number[]): RowsSum {
	const column = set.columns.find((c) => c.key === 'code');
	const wanted = new Set(numbers);
	const holes = new Set<number>();
	const codes = new Map<string, number>();
	let [rows, length] = [0, 0];
	for (let i = 0; i < set.rowCount; i++) {
		if (!wanted.has(set.row[i]!)) continue;
		rows++;
		holes.add(set.hole[i]!);
		const own = set.to[i]! - set.from[i]!;
		length += own;
		const code = column?.type === 'category' ? (column.categories[column.values[i]!] ?? '') : '';
		codes.set(code, (codes.get(code) ?? 0) + own);
	}
	return { rows, holes: holes.size, length, codes: [...codes].sort((a, b) => b[1] - a[1]) };
}
