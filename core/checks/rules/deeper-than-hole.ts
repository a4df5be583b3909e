import { plainNumber, type Found, type Rule } from '../finding';

const TOLERANCE = 1e-6;

/** A station, an interval or a reading below the end of the hole. */
export const deeperThanHole: Rule = {
	id: 'deeper-than-hole',
	title: 'Deeper than the hole',
	severity: 'held',
	reason: 'Either the total depth or the depth of the row is wrong.',
	scope: 'holes',
	mends: ['deepen-hole'],
	*check({ tables, holes, byHole, lengthUnit }): Iterable<Found> {
		for (const table of tables) {
			const column = table.numbers['to'] ? 'to' : table.numbers['depth'] ? 'depth' : 'waterDepth';
			const depths = table.numbers[column];
			if (table.kind === 'collars' || !depths) continue;
			for (const [hole, rows] of byHole(table)) {
				const collar = holes.get(hole);
				if (!collar) continue;
				const total = collar.table.numbers['totalDepth']![collar.row]!;
				for (const row of rows)
					if (depths[row]! > total + TOLERANCE)
						yield {
							table,
							row,
							column,
							hole,
							message: `${plainNumber(depths[row]!)} ${lengthUnit} is below the end of ${hole} at ${plainNumber(total)} ${lengthUnit}`,
							hint: 'Mend the depth, or the total depth of the collar.'
						};
			}
		}
	}
};
