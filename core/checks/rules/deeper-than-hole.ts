import { plainNumber, type Found, type Rule } from '../finding';

/** Times that a row is deeper than its hole: metres in place of feet. */
const FEET = 1 / 0.3048;

/** A station, an interval or a reading below the end of the hole by more than the rounding of the two depths. */
export const deeperThanHole: Rule = {
	id: 'deeper-than-hole',
	title: 'Deeper than the hole',
	severity: 'held',
	reason: 'Either the total depth or the depth of the row is wrong.',
	scope: 'holes',
	ofVersions: true,
	mends: ['deepen-hole'],
	bounds: { tolerance: { label: 'Difference that is taken for rounding', value: 0.1, unit: 'length', most: 1000 } },
	*check({ tables, holes, byHole, lengthUnit, bound }): Iterable<Found> {
		// Both depths were rounded, perhaps in another unit.
		const tolerance = bound('tolerance') + 1e-6;
		for (const table of tables) {
			const column = table.numbers['to'] ? 'to' : table.numbers['depth'] ? 'depth' : 'waterDepth';
			const depths = table.numbers[column];
			if (table.kind === 'collars' || !depths) continue;
			for (const [hole, rows] of byHole(table)) {
				const collar = holes.get(hole);
				if (!collar) continue;
				const total = collar.table.numbers['totalDepth']![collar.row]!;
				for (const row of rows) {
					const depth = depths[row]!;
					if (!(depth > total + tolerance)) continue;
					const feet = Math.abs(depth / total / FEET - 1) < 0.03;
					yield {
						table,
						row,
						column,
						hole,
						message: `${plainNumber(depth)} ${lengthUnit} is below the end of ${hole} at ${plainNumber(total)} ${lengthUnit}${feet ? `: ${(depth / total).toFixed(2)} times as deep, as feet are in place of metres` : ''}`,
						hint: feet
							? 'Say under Gather that the depths of one of the two files are in feet. Extend the hole only when it really is that deep.'
							: 'Mend the depth, or the total depth of the collar.'
					};
				}
			}
		}
	}
};
