import type { Found, Rule } from '../finding';

/** Two collars with one name: the first in the file counts. */
export const duplicateCollar: Rule = {
	id: 'duplicate-collar',
	title: 'Duplicate collar',
	severity: 'held',
	reason: 'Rows of other tables could belong to either of the two.',
	scope: 'holes',
	*check({ tables, byHole }): Iterable<Found> {
		const first = new Map<string, { table: string; line: number }>();
		for (const table of tables) {
			if (table.kind !== 'collars') continue;
			for (const [hole, rows] of byHole(table))
				for (const row of rows) {
					const before = first.get(hole);
					if (!before) first.set(hole, { table: table.name, line: table.lines[row]! });
					else
						yield {
							table,
							row,
							hole,
							message: `${hole} stands in the collars already, on line ${before.line}`,
							hint: 'Rename one of them or exclude the wrong one. Until then the first counts.',
							...(before.table === table.name ? { others: [rows[0]!] } : {})
						};
				}
		}
	}
};
