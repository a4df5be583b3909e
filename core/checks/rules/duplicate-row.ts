import type { Found, Rule } from '../finding';

/** Two rows with the same cells in every column that is read, in a table whose rows belong to no hole. */
export const duplicateRow: Rule = {
	id: 'duplicate-row',
	title: 'Duplicate row',
	severity: 'held',
	reason: 'One measurement counted twice pulls every surface and mean towards it.',
	scope: 'table',
	notOfHoles: true,
	*check({ tables, rows }): Iterable<Found> {
		for (const table of tables) {
			if (table.text['hole']) continue;
			const columns = [...Object.values(table.numbers), ...Object.values(table.text)];
			const first = new Map<string, number>();
			for (const row of rows(table)) {
				const key = columns.map((c) => c[row]).join('\u001f');
				const before = first.get(key);
				if (before === undefined) first.set(key, row);
				else
					yield {
						table,
						row,
						message: `the row is the same as line ${table.lines[before]}`,
						hint: 'Exclude one of the two. Until then the first counts.',
						others: [before]
					};
			}
		}
	}
};
