import { middleOf } from './spread';
import type { Found, Rule } from '../finding';

/** A dip column that looks like a direction, or a direction column that looks like dips. */
export const strikeOrDip: Rule = {
	id: 'strike-or-dip',
	title: 'Strike and dip can not be told apart',
	severity: 'noted',
	reason: 'With the two columns exchanged every plane stands at right angles to the truth.',
	scope: 'table',
	*check({ tables, rows, looksAt }): Iterable<Found> {
		for (const table of tables) {
			const dip = table.numbers['dip'];
			const key = table.headers['strike'] ? 'strike' : 'dipAzimuth';
			const direction = table.numbers[key];
			if (!dip || !direction || !(looksAt(table, 'dip') || looksAt(table, key))) continue;
			const used = [...rows(table)];
			if (used.length < 5) continue;
			const d = middleOf(Float64Array.from(used, (r) => dip[r]!));
			const a = middleOf(Float64Array.from(used, (r) => direction[r]!));
			if (!d || !a) continue;
			const large = table.notNumbers.length === 0 && [...dip].filter((v) => v > 90).length;
			if (large && large > 0.1 * table.rowCount)
				yield {
					table,
					row: -1,
					column: 'dip',
					message: `${large} of ${table.rowCount} dips are above 90°: the column may hold strikes or directions`,
					hint: 'Look at the roles of the columns.'
				};
			else if (a.high <= 90 && used.length >= 20)
				yield {
					table,
					row: -1,
					column: key,
					message: `no ${key === 'strike' ? 'strike' : 'dip azimuth'} is above 90°: the column may hold dips`,
					hint: 'Look at the roles of the columns; leave it when all planes go down between north and east.'
				};
		}
	}
};
