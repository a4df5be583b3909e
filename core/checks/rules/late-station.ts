import { rowOfLeast } from '../../tables/row-index';
import { plainNumber, type Found, type Rule } from '../finding';

/** The first station of a hole lies far below its collar. */
export const lateStation: Rule = {
	id: 'late-station',
	title: 'First station far down',
	severity: 'noted',
	reason: 'Above its first station a hole is taken to be straight; where it really runs nobody has measured.',
	scope: 'holes',
	bounds: { depth: { label: 'Depth of the first station from which it is noted', value: 30, unit: 'length', most: 10_000 } },
	*check({ tables, byHole, lengthUnit, bound }): Iterable<Found> {
		const most = bound('depth');
		for (const table of tables) {
			const depth = table.numbers['depth'];
			if (table.kind !== 'surveys' || !depth) continue;
			for (const [hole, rows] of byHole(table)) {
				const first = rowOfLeast(rows, depth);
				if (depth[first]! > most)
					yield {
						table,
						row: first,
						column: 'depth',
						hole,
						message: `the first station of ${hole} is at ${plainNumber(depth[first]!)} ${lengthUnit}`,
						hint: 'Add the stations above it, or one at the collar.'
					};
			}
		}
	}
};
