import type { Found, Rule } from '../finding';

/** Inclinations of both signs: some rows were written by another convention. */
export const mixedDipSigns: Rule = {
	id: 'mixed-dip-signs',
	title: 'Mixed signs of inclination',
	severity: 'noted',
	reason: 'Down is negative in one convention and positive in the other; a hole with the wrong sign points to the sky.',
	scope: 'table',
	*check({ tables, rows, looksAt }): Iterable<Found> {
		for (const table of tables) {
			const values = table.numbers['inclination'];
			if (!values || !looksAt(table, 'inclination') || (table.kind !== 'surveys' && table.kind !== 'collars')) continue;
			let up = 0;
			let down = 0;
			for (const row of rows(table)) {
				if (values[row]! > 0) up++;
				else if (values[row]! < 0) down++;
			}
			// Where the file counts down as positive, what was negative in it points up now.
			if (up === 0 || down === 0) {
				if (up > 0 && down === 0 && up > 2)
					yield {
						table,
						row: -1,
						column: 'inclination',
						message: `all ${up} inclinations are positive: the holes point upwards`,
						hint: 'If the file counts down as positive, say so: how inclinations are written can be changed for the table, with no new import.'
					};
				continue;
			}
			const wrong = up <= down ? 1 : -1;
			for (const row of rows(table))
				if (values[row]! * wrong > 0)
					yield {
						table,
						row,
						column: 'inclination',
						hole: table.text['hole']![row]!,
						message: `inclination ${values[row]} has another sign than ${Math.max(up, down)} other rows`,
						hint: 'Turn the sign, unless the hole was drilled upwards.',
						proposal: String(-values[row]!)
					};
		}
	},
	mends: ['propose']
};
