import { plainNumber, type Found, type Rule } from '../finding';

/** Two stations of a hole at one depth: the first in the file counts. */
export const duplicateStation: Rule = {
	id: 'duplicate-station',
	title: 'Duplicate station',
	severity: 'held',
	reason: 'A hole has one direction at each depth.',
	scope: 'holes',
	*check({ tables, byHole, lengthUnit }): Iterable<Found> {
		for (const table of tables) {
			const depth = table.numbers['depth'];
			if (table.kind !== 'surveys' || !depth) continue;
			for (const [hole, rows] of byHole(table)) {
				const first = new Map<number, number>();
				for (const row of rows) {
					const before = first.get(depth[row]!);
					if (before === undefined) first.set(depth[row]!, row);
					else
						yield {
							table,
							row,
							column: 'depth',
							hole,
							message: `${hole} has a station at ${plainNumber(depth[row]!)} ${lengthUnit} already, on line ${table.lines[before]}`,
							hint: 'Mend the depth, or exclude the wrong one. Until then the first counts.',
							others: [before]
						};
				}
			}
		}
	}
};
