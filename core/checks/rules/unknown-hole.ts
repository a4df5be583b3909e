import { isOfHoles } from '../../tables/kinds';
import { rowsOfHoles } from '../../tables/row-index';
import type { Found, Rule } from '../finding';

/** Rows of a hole that has no collar, or whose collar takes no part: one finding for all rows of the hole in a table. */
export const unknownHole: Rule = {
	id: 'unknown-hole',
	title: 'Hole without a collar',
	severity: 'held',
	reason: 'Without a collar nobody knows where the rows are.',
	scope: 'holes',
	mends: ['propose'],
	*check({ tables, holes, byHole }): Iterable<Found> {
		let spelled: Map<string, string[]> | null = null;
		const collars = tables.filter((t) => t.kind === 'collars');
		for (const table of tables) {
			if (!isOfHoles(table.kind)) continue;
			for (const [hole, rows] of byHole(table)) {
				if (holes.has(hole)) continue;
				const say = { table, row: rows[0]!, column: 'hole', hole, all: rows };
				const many = rows.length > 1 ? ` (${rows.length.toLocaleString('en')} rows)` : '';
				const own = hole === '' ? undefined : collars.find((t) => rowsOfHoles(t)!.get(hole)?.length);
				if (own) {
					const out = own.excluded[rowsOfHoles(own)!.get(hole)![0]!] === 1;
					yield {
						...say,
						message: `the collar of ${hole} is ${out ? 'left out' : 'held back'}${many}`,
						hint: out ? 'Take the collar back in, or leave these rows out, too.' : 'Mend the collar; these rows follow it.'
					};
					continue;
				}
				spelled ??= spellings(holes.keys());
				// Two collars that differ only in spelling: nobody can tell which is meant.
				const meant = spelled.get(plainName(hole)) ?? spelled.get(likeName(hole)) ?? [];
				const one = meant.length === 1 ? meant[0]! : null;
				yield {
					...say,
					message: hole
						? `there is no collar for ${hole}${many}${one ? `, but there is one for ${one}` : meant.length ? `; it could be ${meant.slice(0, 4).join(' or ')}` : ''}`
						: `the ${rows.length > 1 ? `${rows.length.toLocaleString('en')} rows name` : 'row names'} no hole`,
					hint: one ? `Take ${one}, mend the name, or add the collar.` : 'Mend the name here, or add the collar.',
					...(one ? { proposal: one } : {})
				};
			}
		}
	}
};

/** Names of collars by what is left of them without spelling, and without letters that look like digits. */
function spellings(names: Iterable<string>): Map<string, string[]> {
	const out = new Map<string, string[]>();
	const put = (key: string, name: string) => {
		const list = out.get(key);
		if (!list) out.set(key, [name]);
		else if (!list.includes(name)) list.push(name);
	};
	for (const name of names) {
		put(plainName(name), name);
		put(likeName(name), name);
	}
	return out;
}

/** A hole's name as compared between files: without case, blanks, punctuation and leading zeros. */
export const plainName = (name: string): string =>
	name
		.toLowerCase()
		.replace(/[^a-z0-9]+/g, '')
		.replace(/(^|[a-z])0+(?=\d)/g, '$1');

/** The same, with letters beside digits taken for the digits that they look like: BH-1O for BH-10. */
const likeName = (name: string): string =>
	`~${name
		.toLowerCase()
		.replace(/(?<=\d)[o]|o(?=\d)/g, '0')
		.replace(/(?<=\d)[li]|[li](?=\d)/g, '1')
		.replace(/(?<=\d)s|s(?=\d)/g, '5')
		.replace(/[^a-z0-9]+/g, '')
		.replace(/(^|[a-z])0+(?=\d)/g, '$1')}`;
