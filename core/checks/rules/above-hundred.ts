import { valueColumns } from '../../tables/table';
import { plainNumber, type Found, type Rule } from '../finding';

const PERCENT = /(^|[^a-z])(rqd|tcr|scr|recovery|rec|core.?rec\w*|recov\w*)([^a-z]|$)|percent|pct|%/i;

/** A share of more than all, or less than nothing: recovery, rock quality designation. */
export const aboveHundred: Rule = {
	id: 'above-hundred',
	title: 'Share outside 0 to 100 %',
	severity: 'noted',
	reason: 'Nothing can be recovered more than whole; the length, or the unit, is wrong.',
	scope: 'holes',
	bounds: { most: { label: 'Greatest share', value: 100.5, unit: '%', least: 50, most: 1000 } },
	*check({ tables, rows, bound }): Iterable<Found> {
		const most = bound('most');
		for (const table of tables)
			for (const column of valueColumns(table)) {
				if (!PERCENT.test(table.headers[column] ?? column) || /ppm|ppb|g\/?t/i.test(column)) continue;
				const values = table.numbers[column]!;
				for (const row of rows(table)) {
					const v = values[row]!;
					if ((v <= most && v >= 0) || Number.isNaN(v)) continue;
					yield {
						table,
						row,
						column,
						...(table.text['hole'] ? { hole: table.text['hole'][row]! } : {}),
						message: `${column} is ${plainNumber(v)}, outside 0 to 100 %`,
						hint: 'Mend the value, or the lengths that it was worked out from.'
					};
				}
			}
	}
};
