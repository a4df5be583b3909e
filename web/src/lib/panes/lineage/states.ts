import type { ProjectObject } from '$lib/api/types';

const isEmpty = (v: unknown): boolean =>
	Array.isArray(v) ? v.length === 0 : typeof v === 'object' && v !== null && Object.keys(v).length === 0;
/** Which part of an object's state says that there is something in it, and what it is called when there is not. */
const CONTENT: Record<string, [string, string]> = {
	column: ['units', 'no units yet'],
	lumping: ['codes', 'nothing lumped yet'],
	faults: ['faults', 'none'],
	section: ['trace', 'not drawn yet']
};

/** The state of an object in two or three words. */
export function stateOf(o: Pick<ProjectObject, 'kind' | 'state' | 'missing' | 'outOfDate' | 'inputs'>): string {
	const content = CONTENT[o.kind];
	if (content && isEmpty(o.state[content[0]])) return content[1];
	return o.missing ? 'not built' : o.outOfDate ? 'out of date' : o.inputs.length ? 'up to date' : 'source';
}

/** Stages where things are worked on. */
const WHERE: Readonly<Record<string, string>> = {
	terrain: 'gather',
	column: 'interpret',
	lumping: 'interpret',
	faults: 'interpret',
	shaping: 'interpret',
	rules: 'check',
	contacts: 'build',
	fields: 'build',
	model: 'build'
};

/** Where a thing leads, below the address of the project. */
export const whereOf = (o: Pick<ProjectObject, 'id' | 'kind'>): string =>
	o.kind === 'table' ? `check?table=${o.id}` : `${WHERE[o.kind] ?? 'examine'}?select=object~${o.id}`;
