import { sql, type SQL } from 'drizzle-orm';
import { fail } from '#core/problem';
import { MADE_KINDS } from '#core/recipes/register';
import { object } from '../db/schema';

/**
 * Kinds of object that have a name of their own besides those that come from files: models, what was kept, versions of
 * logs, and what people make.
 */
const NAMED_KINDS: readonly string[] = ['model', 'kept-model', 'table', ...MADE_KINDS];
const isNamed = (o: { kind: string; fileId: string | null }): boolean => o.fileId !== null || NAMED_KINDS.includes(o.kind);

/** Objects of a project whose names must differ. */
export const named = (): SQL => sql`(${object.fileId} is not null or ${object.kind} in ${[...NAMED_KINDS]})`;

/** Objects whose names must differ from that of one of a kind; null where none must. Sections are called by letters, whatever else is. */
export const rivals = (o: { kind: string; fileId: string | null }): SQL | null =>
	o.kind === 'section' ? sql`${object.kind} = 'section'` : isNamed(o) ? named() : null;

/** A name that no other object has: the wanted one, or with a number behind it. */
export function freeName(graph: readonly { kind: string; name: string; fileId: string | null }[], wanted: string): string {
	const taken = new Set(graph.filter(isNamed).map((o) => o.name));
	const short = wanted.slice(0, 190);
	if (!taken.has(short)) return short;
	for (let n = 2; ; n++) if (!taken.has(`${short} ${n}`)) return `${short} ${n}`;
}

/** @throws ProblemError `doubled-name` when another object is called so */
export function refuseTaken(
	graph: readonly { id: string; kind: string; name: string; fileId: string | null }[],
	name: string,
	own?: string
): void {
	const other = graph.find((o) => isNamed(o) && o.name === name && o.id !== own);
	if (other) fail('doubled-name', `something else is called "${name}" already`, 'Choose another name.', 'name');
}
