import { isControl } from '../control-rows';
import type { Found, Rule } from '../finding';

/** One sample number on two rows. */
export const duplicateSample: Rule = {
	id: 'duplicate-sample',
	title: 'Duplicate sample number',
	severity: 'noted',
	reason: 'A result of the laboratory could belong to either row.',
	scope: 'table',
	*check({ tables, rows, looksAt }): Iterable<Found> {
		for (const table of tables) {
			const samples = table.text['sample'];
			if (!samples || !table.headers['sample'] || !looksAt(table, 'sample')) continue;
			const control = isControl(table);
			const first = new Map<string, number>();
			for (const row of rows(table)) {
				const s = samples[row]!;
				if (s === '' || control(row)) continue;
				const before = first.get(s);
				if (before === undefined) first.set(s, row);
				else
					yield {
						table,
						row,
						column: 'sample',
						...(table.text['hole'] ? { hole: table.text['hole'][row]! } : {}),
						message: `sample ${s} stands on line ${table.lines[before]} already`,
						hint: 'Mend one of the two numbers, or exclude the wrong row.',
						others: [before]
					};
			}
		}
	}
};
