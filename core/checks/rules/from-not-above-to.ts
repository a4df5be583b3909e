import { plainNumber, type Found, type Rule } from '../finding';

/** An interval whose upper end is at or below its lower end. */
export const fromNotAboveTo: Rule = {
	id: 'from-not-above-to',
	title: 'From not above to',
	severity: 'held',
	reason: 'The interval has no length, or a negative one.',
	scope: 'holes',
	ofVersions: true,
	mends: ['swap'],
	*check({ tables, rows, lengthUnit }): Iterable<Found> {
		for (const table of tables) {
			const from = table.numbers['from'];
			const to = table.numbers['to'];
			if (!from || !to) continue;
			for (const row of rows(table))
				if (from[row]! >= to[row]!)
					yield {
						table,
						row,
						column: 'from',
						hole: table.text['hole']![row]!,
						message: `from ${plainNumber(from[row]!)} ${lengthUnit} is not above to ${plainNumber(to[row]!)} ${lengthUnit}`,
						hint: 'Swap or mend the two depths, or exclude the row.'
					};
		}
	}
};
