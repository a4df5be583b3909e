import { isTableKind, tableKind, type KindOfTable } from '#core/tables/kinds';
import type { ProjectObject } from '$lib/api/types';

/** What is known of the kind of a table, as the object of a project tells it. */
export function kindOf(t: Pick<ProjectObject, 'state'>): KindOfTable {
	const kind = t.state['kind'];
	return tableKind(isTableKind(kind) ? kind : 'other');
}

/** Its rows can stand in tracks beside a hole. */
export const hasTracks = (t: Pick<ProjectObject, 'state'>): boolean => ['along', 'depth', 'hole'].includes(kindOf(t).at);

/** Its rows are marks of their own in space: places, starts of holes, directions. */
export const hasMarks = (t: Pick<ProjectObject, 'state'>): boolean =>
	['map', 'start'].includes(kindOf(t).at) || kindOf(t).directions === true;
