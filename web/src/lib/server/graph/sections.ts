import { MOST_SECTIONS } from '#core/project/project-file';
import { canonicalJson } from '#core/lineage/key';
import { fail } from '#core/problem';
import { freshLetters } from '#core/sections/letters';
import { validateTrace } from '#core/sections/section';
import type { Executor } from '../db/client';
import { object, objectInput } from '../db/schema';
import { actor } from '../store/actor';
import { changeWithin, doChange, lockObject, recordChange } from './changes';
import { loadGraph, type ObjectRow } from './graph';
import { refuseUsed } from './made';
import { wholeState } from './models';
import type { StateOf } from './states';
import type { Step } from './steps';
import { inProject } from '../store/projects';

/** What a section is, besides its name. */
type SectionState = StateOf<'section'>;
/** A section that is wanted; without a name it gets the next letter. */
type NewSection = SectionState & { name?: string | undefined };
/** What is to be other about a section: null takes away what it has of its own, what is left out stays. */
type SectionChange = { id: string; revision: number; name?: string | undefined } & {
	[K in keyof SectionState]?: SectionState[K] | null | undefined;
};

/** The sections of a graph in their order: first the main one, which every project has. */
export const sectionsIn = <T extends { kind: string }>(graph: readonly T[]): T[] => graph.filter((o) => o.kind === 'section');

/** A section as it is told: with its name, and what it has of its own; one that is damaged has no line. */
export const toldSection = (o: Pick<ObjectRow, 'id' | 'revision' | 'name'>, state: SectionState | null) => ({
	id: o.id,
	revision: o.revision,
	name: o.name,
	...own(state ?? {})
});

/** A state without what it does not have of its own. */
const own = ({ trace, set, corridor, exaggeration }: { [K in keyof SectionState]?: SectionState[K] | null | undefined }) => ({
	trace: trace ?? [],
	...(set ? { set } : {}),
	...(corridor !== undefined && corridor !== null ? { corridor } : {}),
	...(exaggeration ? { exaggeration } : {})
});

/** Refuses names that are wanted and that others have, or will have. Two of before may be called alike: that is no fault of what is asked now. */
function refuseDoubled(wanted: readonly string[], others: readonly string[]): void {
	const twice = wanted.find((n, i) => others.includes(n) || wanted.indexOf(n) < i);
	if (twice !== undefined)
		fail('doubled-name', `two sections would be called "${twice}"`, 'Choose another name; nothing was changed.', 'name');
}

const find = (sections: readonly ObjectRow[], id: string): ObjectRow =>
	sections.find((s) => s.id === id) ??
	fail('not-found', 'there is no such section in this project', 'It may have been taken out meanwhile.');

/** Puts sections into a project, behind those that it has. @returns their ids, in the same order */
export async function insertSections(tx: Executor, projectId: string, list: readonly NewSection[]): Promise<string[]> {
	const graph = await loadGraph(tx, projectId);
	const there = sectionsIn(graph);
	const [main] = there;
	if (!main) return fail('not-found', 'there is no such project');
	const beside = there.length - 1 + list.length;
	if (beside > MOST_SECTIONS)
		fail(
			'too-many-sections',
			`that would be ${beside} sections beside the main one; at most ${MOST_SECTIONS} are kept`,
			'Choose a wider spacing, or take some out first; nothing was added.',
			'sections'
		);
	for (const s of list) validateTrace(s.trace);
	const names = there.map((s) => s.name);
	const wanted = list.flatMap((s) => s.name ?? []);
	refuseDoubled(wanted, names);
	const letters = freshLetters([...names, ...wanted], list.length - wanted.length);
	const last = Math.max(...there.map((s) => s.position));
	const rows = await tx
		.insert(object)
		.values(
			list.map((s, i) => ({
				projectId,
				kind: 'section',
				name: s.name ?? letters.shift()!,
				state: own(s),
				createdBy: actor().name,
				position: last + 1 + i
			}))
		)
		.returning({ id: object.id });
	const inputs = rows.flatMap(({ id }) => main.edges.map((e) => ({ objectId: id, inputId: e.input })));
	if (inputs.length) await tx.insert(objectInput).values(inputs);
	return rows.map((r) => r.id);
}

/** Adds sections as one change. @returns their ids. @throws ProblemError `doubled-name`, `section-trace`, `too-many-sections` */
export async function addSections(projectId: string, list: readonly NewSection[]): Promise<string[]> {
	return inProject(projectId, async (tx) => {
		const ids = await insertSections(tx, projectId, list);
		await recordChange(
			tx,
			projectId,
			list.length === 1 ? 'Add a section' : `Add ${list.length} sections`,
			ids.map((id) => ({ kind: 'removed', what: 'object', id, after: false }))
		);
		return ids;
	});
}

/** Changes sections as one change: all of them, or none. @throws ProblemError `not-found`, `edited-elsewhere`, `doubled-name`, `section-trace` */
export async function changeSections(projectId: string, list: readonly SectionChange[]): Promise<void> {
	await doChange(projectId, list.length === 1 ? 'Change a section' : `Change ${list.length} sections`, async (tx) => {
		const sections = sectionsIn(await loadGraph(tx, projectId));
		const renamed = new Map(list.flatMap((s) => (s.name === undefined ? [] : [[s.id, s.name] as const])));
		refuseDoubled(
			[...renamed.values()],
			sections.filter((s) => !renamed.has(s.id)).map((s) => s.name)
		);
		const steps: Step[] = [];
		for (const { id, revision, name, ...change } of list) {
			const section = find(sections, id);
			await lockObject(tx, projectId, id, revision);
			if (change.trace) validateTrace(change.trace);
			const after = own({ ...wholeState(section, 'section'), ...change });
			if (canonicalJson(after) !== canonicalJson(section.state)) steps.push({ kind: 'state', object: id, before: section.state, after });
			if (name !== undefined && name !== section.name) steps.push({ kind: 'renamed', object: id, before: section.name, after: name });
		}
		return steps;
	});
}

/**
 * Takes sections out as one change.
 * @param used also when results are made of them
 * @throws ProblemError `main-section` for the one that every project has; `in-use`, which names the results
 */
export async function removeSections(projectId: string, ids: readonly string[], used: boolean): Promise<void> {
	await inProject(projectId, async (tx) => {
		const graph = await loadGraph(tx, projectId);
		const sections = sectionsIn(graph);
		const out = [...new Set(ids)].map((id) => find(sections, id));
		if (out.includes(sections[0]!))
			fail('main-section', 'the main section stays', 'Draw it elsewhere; other sections can be taken out.', 'sections');
		refuseUsed(graph, out, used);
		await changeWithin(
			tx,
			projectId,
			out.length === 1 ? `Take out the section ${out[0]!.name}` : `Take out ${out.length} sections`,
			out.map((s) => ({ kind: 'removed', what: 'object', id: s.id, after: true }))
		);
	});
}
