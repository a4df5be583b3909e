import type { Found, Rule } from '../finding';

/** A logged interval without a code. */
export const emptyCode: Rule = {
	id: 'empty-code',
	title: 'Interval without a code',
	severity: 'noted',
	reason: 'It says how deep something reaches, but not what it is.',
	scope: 'holes',
	*check({ tables, rows }): Iterable<Found> {
		for (const table of tables) {
			const codes = table.text['code'];
			if (table.kind !== 'intervals' || !codes) continue;
			for (const row of rows(table))
				if (codes[row] === '')
					yield {
						table,
						row,
						column: 'code',
						hole: table.text['hole']![row]!,
						message: 'the interval has no code',
						hint: 'Give it one, or exclude the row.'
					};
		}
	}
};
