import { isOfHoles } from '../../tables/kinds';
import type { Found, Rule } from '../finding';

/** Rows of a hole that has no collar. */
export const unknownHole: Rule = {
	id: 'unknown-hole',
	title: 'Unknown hole',
	severity: 'held',
	reason: 'Without a collar nobody knows where the row is.',
	scope: 'holes',
	mends: ['propose'],
	*check({ tables, holes, byHole }): Iterable<Found> {
		let plain: Map<string, string> | null = null;
		for (const table of tables) {
			if (!isOfHoles(table.kind)) continue;
			for (const [hole, rows] of byHole(table)) {
				if (holes.has(hole)) continue;
				plain ??= new Map([...holes.keys()].map((h) => [plainName(h), h]));
				const meant = plain.get(plainName(hole));
				for (const row of rows)
					yield {
						table,
						row,
						column: 'hole',
						hole,
						message: hole ? `there is no collar for ${hole}${meant ? `, but there is one for ${meant}` : ''}` : 'the row names no hole',
						hint: meant ? `Take ${meant}, mend the name, or add the collar.` : 'Mend the name here, or add the collar.',
						...(meant ? { proposal: meant } : {})
					};
			}
		}
	}
};

/** A hole's name as compared between files: without case, blanks, punctuation and leading zeros. */
const plainName = (name: string): string => name.toLowerCase().replace(/[^a-z0-9]+/g, '').replace(/(^|[a-z])0+(?=\d)/g, '$1');
