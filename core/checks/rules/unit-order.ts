import { unitOrCode } from '../../units/column';
import type { Found, Rule } from '../finding';

/** An older unit on a younger one inside one hole, where the column does not allow it. */
export const unitOrder: Rule = {
	id: 'unit-order',
	title: 'Against the column',
	severity: 'noted',
	reason: 'The log is upside-down at this contact, a fault repeats the units, or the column is in the wrong order.',
	scope: 'holes',
	ofVersions: true,
	*check({ tables, byHole, column, lumping, lengthUnit }): Iterable<Found> {
		if (!column || column.length < 2 || !lumping) return;
		const index = new Map(column.map((u, i) => [u.id, i]));
		for (const table of tables) {
			if (table.kind !== 'intervals') continue;
			const from = table.numbers['from']!;
			const codes = table.text['code']!;
			for (const [hole, rows] of byHole(table)) {
				rows.sort((a, b) => from[a]! - from[b]!);
				for (let i = 1; i < rows.length; i++) {
					const above = index.get(unitOrCode(lumping, codes[rows[i - 1]!]!));
					const below = index.get(unitOrCode(lumping, codes[rows[i]!]!));
					if (above === undefined || below === undefined || above <= below) continue;
					// What is intruded may lie on its intrusion.
					if (column[below]!.contact === 'intrusive') continue;
					yield {
						table,
						row: rows[i]!,
						column: 'code',
						hole,
						message: `${column[above]!.name} lies on the younger ${column[below]!.name} at ${from[rows[i]!]} ${lengthUnit}`,
						hint: 'Check the log; where a fault or a fold repeats the units, leave it.',
						others: [rows[i - 1]!]
					};
				}
			}
		}
	}
};
