import { formatDate } from '../../tables/dates';
import { roleOf } from '../../tables/kinds';
import type { Found, Rule } from '../finding';

/** A date that does not exist, lies in the future, or before anybody drilled. */
export const badDate: Rule = {
	id: 'bad-date',
	title: 'Impossible date',
	severity: 'noted',
	reason: 'A water level or sample on a wrong day stands in the wrong place of its series.',
	scope: 'holes',
	bounds: { earliest: { label: 'Earliest year', value: 1850, unit: '', least: 1500, most: 2100 } },
	*check({ tables, rows, today, uses, bound }): Iterable<Found> {
		const earliest = Date.UTC(bound('earliest'), 0, 1) / 86_400_000;
		for (const table of tables) {
			const columns = Object.keys(table.numbers).filter((key) => roleOf(table.kind, key)?.type === 'date');
			if (columns.length === 0) continue;
			const odd = new Map(
				table.notNumbers.filter((c) => columns.includes(c.column) && uses(table, c.row)).map((c) => [`${c.row} ${c.column}`, c.cell])
			);
			for (const row of rows(table))
				for (const column of columns) {
					const say = { table, row, column, ...(table.text['hole'] ? { hole: table.text['hole'][row]! } : {}) };
					const cell = odd.get(`${row} ${column}`);
					const v = table.numbers[column]![row]!;
					if (cell !== undefined)
						yield { ...say, message: `"${cell.slice(0, 40)}" is not a date that exists`, hint: 'Write it as 2024-05-31.' };
					else if (today !== undefined && v > today + 1)
						yield { ...say, message: `${formatDate(v)} lies in the future`, hint: 'Mend the year, or the order of day and month.' };
					else if (v < earliest) yield { ...say, message: `${formatDate(v)} lies before ${bound('earliest')}`, hint: 'Mend the year.' };
				}
		}
	}
};
