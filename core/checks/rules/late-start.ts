import { rowOfLeast } from '../../tables/row-index';
import { plainNumber, type Found, type Rule } from '../finding';

/** The first logged interval of a hole does not begin at the collar. */
export const lateStart: Rule = {
	id: 'late-start',
	title: 'First interval not at zero',
	severity: 'noted',
	reason: 'What lies at the collar is not known; the geology at the surface will not use the hole.',
	scope: 'holes',
	bounds: { least: { label: 'Depth from which it is noted', value: 0.001, unit: 'length', most: 10_000 } },
	*check({ tables, byHole, lengthUnit, bound }): Iterable<Found> {
		const least = bound('least');
		for (const table of tables) {
			if (table.kind !== 'intervals') continue;
			const from = table.numbers['from']!;
			for (const [hole, rows] of byHole(table)) {
				const first = rowOfLeast(rows, from);
				if (from[first]! > least)
					yield {
						table,
						row: first,
						column: 'from',
						hole,
						message: `the log of ${hole} begins at ${plainNumber(from[first]!)} ${lengthUnit}`,
						hint: 'Add what lies above, or leave it when nothing was recovered.'
					};
			}
		}
	}
};
