import { valueColumns } from '../../tables/table';
import { plainNumber, type Found, type Rule } from '../finding';

/** A negative or zero value in a column that has hardly any: a code for below detection, or a slip. */
export const negativeValue: Rule = {
	id: 'negative-value',
	title: 'Zero or negative where it can not be',
	severity: 'noted',
	reason: 'Laboratories write "below detection" as a negative number or as zero; taken as a number it pulls every mean down.',
	scope: 'table',
	bounds: { share: { label: 'Share of such values above which the column is taken to allow them', value: 20, unit: '%', most: 100 } },
	*check({ tables, rows, looksAt, bound }): Iterable<Found> {
		for (const table of tables) {
			if (table.kind !== 'assays') continue;
			for (const column of valueColumns(table)) {
				if (!looksAt(table, column)) continue;
				const values = table.numbers[column]!;
				let filled = 0;
				let low = 0;
				for (const row of rows(table)) {
					if (!Number.isNaN(values[row]!)) filled++;
					if (values[row]! <= 0) low++;
				}
				if (low === 0 || low > (bound('share') / 100) * filled) continue;
				for (const row of rows(table))
					if (values[row]! <= 0)
						yield {
							table,
							row,
							column,
							hole: table.text['hole']![row]!,
							message: `${column} is ${plainNumber(values[row]!)}`,
							hint: 'Say in the value rules of the column what it stands for, or mend it.'
						};
			}
		}
	}
};
