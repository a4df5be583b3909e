import { plainNumber, type Found, type Rule } from '../finding';

/** Depths between two logged intervals of a hole that no row describes. Assays are selective, so they may have gaps. */
export const gap: Rule = {
	id: 'gap',
	title: 'Gap',
	severity: 'noted',
	reason: 'A boundary inside the gap can not be placed.',
	scope: 'holes',
	ofVersions: true,
	bounds: { least: { label: 'Shortest gap', value: 0.001, unit: 'length', most: 10_000 } },
	*check({ tables, byHole, lengthUnit, bound }): Iterable<Found> {
		const least = bound('least');
		for (const table of tables) {
			if (table.kind !== 'intervals') continue;
			const from = table.numbers['from']!;
			const to = table.numbers['to']!;
			for (const [hole, rows] of byHole(table)) {
				rows.sort((a, b) => from[a]! - from[b]!);
				for (let i = 1; i < rows.length; i++) {
					const [above, below] = [rows[i - 1]!, rows[i]!];
					if (!(from[below]! - to[above]! > least)) continue;
					yield {
						table,
						row: below,
						column: 'from',
						hole,
						message: `nothing is logged from ${plainNumber(to[above]!)} to ${plainNumber(from[below]!)} ${lengthUnit}`,
						hint: 'Add the missing interval in the file, or mend the depths.',
						others: [above]
					};
				}
			}
		}
	}
};
