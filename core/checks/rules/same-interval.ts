import { valueColumns, type Table } from '../../tables/table';
import { isControl } from '../control-rows';
import { plainNumber, type Found, type Rule } from '../finding';

/** Two rows of one hole with the same depths: the same row twice, or two answers to one question. The first in the file counts. */
export const sameInterval: Rule = {
	id: 'same-interval',
	title: 'One interval twice',
	severity: 'held',
	reason: 'The same depths are described twice; when the two disagree, one of them is wrong.',
	scope: 'holes',
	*check({ tables, byHole, lengthUnit }): Iterable<Found> {
		for (const table of tables) {
			const at =
				table.numbers['from'] && table.numbers['to']
					? (['from', 'to'] as const)
					: table.kind === 'readings'
						? (['depth', 'depth'] as const)
						: null;
			if (!at) continue;
			const [from, to] = [table.numbers[at[0]]!, table.numbers[at[1]]!];
			const answers = [...valueColumns(table), ...(table.text['code'] ? ['code'] : [])];
			const control = isControl(table);
			for (const [hole, all] of byHole(table)) {
				const rows = all.filter((r) => !control(r));
				if (isOrdered(rows, from)) continue;
				const first = new Map<string, number>();
				for (const row of rows) {
					const key = `${from[row]} ${to[row]}`;
					const before = first.get(key);
					if (before === undefined) {
						first.set(key, row);
						continue;
					}
					const differs = answers.find((c) => !same(table, c, before, row));
					yield {
						table,
						row,
						column: differs ?? at[0],
						hole,
						message: `${plainNumber(from[row]!)}${from === to ? '' : `–${plainNumber(to[row]!)}`} ${lengthUnit} stands on line ${table.lines[before]} already, ${differs ? `with another ${table.headers[differs]}` : 'with the same values'}`,
						hint: differs
							? 'Decide which of the two is right and exclude the other. Until then the first counts.'
							: 'Exclude one of the two. Until then the first counts.',
						others: [before]
					};
				}
			}
		}
	}
};

/** Rows that begin deeper and deeper can not come twice. */
function isOrdered(rows: readonly number[], from: Float64Array): boolean {
	for (let i = 1; i < rows.length; i++) if (!(from[rows[i]!]! > from[rows[i - 1]!]!)) return false;
	return true;
}

function same(table: Table, column: string, a: number, b: number): boolean {
	const numbers = table.numbers[column];
	return numbers ? Object.is(numbers[a]!, numbers[b]!) || numbers[a] === numbers[b] : table.text[column]![a] === table.text[column]![b];
}
