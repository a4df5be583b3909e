import type { Preview } from '$lib/api/types';

/** So large a share of the rows shown must be unreadable in a column before its role is doubted. */
const MANY = 0.25;

/**
 * What is not certain about a file, in words. A file without any can be brought in with others, unasked.
 * @param hasCollars the project has a table of collars
 */
export function doubtsOf(p: Preview, hasCollars: boolean): string[] {
	const doubts: string[] = [];
	if (p.problem) doubts.push(p.problem.message);
	if (p.system) doubts.push(`the system “${p.system}” has no EPSG code: in which are its coordinates?`);
	if (p.as === 'picture' && p.picture && p.picture.placement === null && !p.core) doubts.push('where does the picture lie?');
	if (p.as !== 'table') return doubts;
	if (p.missing?.length) doubts.push(`no column is ${p.missing.join(', ')}`);
	if (p.ambiguous?.length) doubts.push(`day or month first in ${p.ambiguous.join(', ')}?`);
	if (p.kind === 'other' && !p.remembered) doubts.push('what kind of table is it?');
	if (p.kind === 'collars' && hasCollars) doubts.push('there are collars already: is this a second table, or a newer file of the first?');
	const shown = p.rows?.length ?? 0;
	for (const h of p.header ?? []) {
		const bad = (p.trouble ?? []).filter((t) => t.column === h).length;
		if (shown && bad > MANY * shown) doubts.push(`is ${h} what its role says? ${bad} of ${shown} cells can not be read so`);
	}
	return doubts;
}
