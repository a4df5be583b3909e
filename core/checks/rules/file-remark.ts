import type { Found, Rule } from '../finding';

/** What the format of a file had to say when it was read: cut off, parents missing, odd values. */
export const fileRemark: Rule = {
	id: 'file-remark',
	title: 'Remark on the file',
	severity: 'noted',
	reason: 'The file breaks the rules of its own format; some of it may be missing.',
	scope: 'table',
	*check({ tables, looksAt }): Iterable<Found> {
		for (const table of tables) {
			if (!looksAt(table, '')) continue;
			for (const message of table.remarks ?? [])
				yield { table, row: -1, message, hint: 'Ask for a whole file, or leave it when nothing is missing.' };
		}
	}
};
