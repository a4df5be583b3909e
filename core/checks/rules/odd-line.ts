import type { Found, Rule } from '../finding';

/** A line of the file with fewer or more cells than the header, or with a quotation mark that is never closed. */
export const oddLine: Rule = {
	id: 'odd-line',
	title: 'Line that does not fit the table',
	severity: 'held',
	reason: 'Cells of it may stand in the wrong columns, or be cut off.',
	scope: 'holes',
	*check({ tables, rows }): Iterable<Found> {
		for (const table of tables) {
			if (!table.odd?.length) continue;
			const odd = new Map(table.odd.map((o) => [o.row, o]));
			for (const row of rows(table)) {
				const o = odd.get(row);
				if (!o) continue;
				const say = { table, row, ...(table.text['hole'] ? { hole: table.text['hole'][row]! } : {}) };
				if (o.kind === 'quote')
					yield {
						...say,
						message: `a quotation mark on line ${table.lines[row]} is never closed; it would have swallowed ${o.count} further ${o.count === 1 ? 'line' : 'lines'}, and was taken as it is`,
						hint: 'Take the mark out of the file or the cell. When all marks are plain characters, say so under Gather.'
					};
				else if (o.kind === 'long')
					yield {
						...say,
						message: `line ${table.lines[row]} has ${o.count} cells, more than the header; cut off: ${o.lost!.slice(0, 5).join(', ').slice(0, 80)}`,
						hint: 'A cell may hold the delimiter without quotation marks, so that all behind it are shifted. Mend the line in the file, or exclude the row.'
					};
				else
					yield {
						...say,
						severity: 'noted',
						message: `line ${table.lines[row]} has only ${o.count} cells, fewer than the header`,
						hint: 'The last columns are taken to be empty. Look whether a cell is missing before them.'
					};
			}
		}
	}
};
