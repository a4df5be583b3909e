import { formatDate } from '../../tables/dates';
import type { Found, Rule } from '../finding';

/** A reading of a hole before it was drilled, or two different ones on one day. */
export const earlyLevel: Rule = {
	id: 'early-level',
	title: 'Level that can not be',
	severity: 'noted',
	reason: 'Water can not be read in a hole that is not there yet, and stands at one level at a time.',
	scope: 'holes',
	*check({ tables, holes, byHole }): Iterable<Found> {
		for (const table of tables) {
			const date = table.numbers['date'];
			const depth = table.numbers['waterDepth'] ?? table.numbers['elevation'];
			if (table.kind !== 'levels' || !date || !depth) continue;
			for (const [hole, rows] of byHole(table)) {
				const collar = holes.get(hole);
				const drilled = collar?.table.numbers['date']?.[collar.row] ?? NaN;
				const first = new Map<number, number>();
				for (const row of rows) {
					if (date[row]! < Math.floor(drilled))
						yield {
							table,
							row,
							column: 'date',
							hole,
							message: `the level of ${formatDate(date[row]!)} was read before ${hole} was drilled on ${formatDate(drilled)}`,
							hint: 'Mend one of the two dates.'
						};
					// Two readings with their times are two readings.
					const before = first.get(date[row]!);
					if (before === undefined) first.set(date[row]!, row);
					else if (depth[before] !== depth[row])
						yield {
							table,
							row,
							column: 'date',
							hole,
							message: `${hole} has another level ${Number.isInteger(date[row]!) ? 'on' : 'at'} ${formatDate(date[row]!)} already, on line ${table.lines[before]}`,
							hint: 'Decide which of the two is right and exclude the other, or give their times.',
							others: [before]
						};
				}
			}
		}
	}
};
