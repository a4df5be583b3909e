import { UNKNOWN } from '#core/palette';
import { packInfo } from '#core/formats/pack';
import { fail } from '#core/problem';
import type { Shaping } from '#core/project/shaping';
import { sectionTitle } from '#core/sections/letters';
import { validateTrace } from '#core/sections/section';
import type { Unit } from '#core/units/column';
import { db } from '../db/client';
import type { AboutModel, SectionMessage } from '../threads/model-files';
import { loadModel, one, type ObjectRow } from '../graph/graph';
import { findProject } from '../store/projects';
import { resultBytes } from '../store/results';
import { recentShared } from './packs';
import { sectionsIn } from '../graph/sections';
import { stateOf } from '../graph/states';

/** The units of a model as it was built, in its order, with the names and colours of the column as it is now. */
function modelUnits(ids: string[], column: Unit[], shaping: Shaping): Unit[] {
	const all = [...column, ...shaping.divisions.flatMap((d) => d.column)];
	return ids.map((id) => all.find((u) => u.id === id) ?? { id, name: id, color: UNKNOWN, contact: 'conformable' });
}

const recentPack = (projectId: string, hash: string) => recentShared(`${projectId} ${hash}`, () => resultBytes(db(), projectId, hash));

/**
 * A model as it was built last, and what is said of it.
 * @param model its id; the first one when none is said
 * @throws ProblemError `not-built`
 */
export async function storedModel(
	projectId: string,
	model?: string | null
): Promise<{ pack: Uint8Array; about: AboutModel; outOfDate: boolean; graph: readonly ObjectRow[] }> {
	const p = await findProject(db(), projectId);
	const graph = await loadModel(db(), projectId, model);
	const node = one(graph, 'model');
	if (node.missing) return fail('not-built', 'there is no model yet', 'Press Build model under Build.');
	const pack = await recentPack(projectId, node.contentHash);
	const info = packInfo(pack) as { units: string[]; faults: { id: string; name: string }[]; hasTerrain: boolean };
	const units = modelUnits(info.units, stateOf(one(graph, 'column'), 'column').units, stateOf(one(graph, 'shaping'), 'shaping'));
	return {
		pack,
		about: { units, faults: info.faults, hasTerrain: info.hasTerrain, lengthUnit: p.lengthUnit, crs: p.crs, projectName: p.name },
		outOfDate: node.outOfDate,
		graph
	};
}

/** What is said of a section of the last built model, for the thread that draws it. @throws ProblemError `not-built`, `not-found` */
export async function sectionMessage(
	projectId: string,
	id: string | null,
	model: string | null
): Promise<
	Pick<SectionMessage, 'pack' | 'about' | 'holes' | 'lumping' | 'trace' | 'corridor' | 'title' | 'name'> & { exaggeration: number }
> {
	const { pack, about, graph } = await storedModel(projectId, model);
	const sections = sectionsIn(graph);
	const section =
		sections.find((s) => id === null || s.id === id) ??
		fail('not-found', 'there is no such section', 'Choose one of those that the project has, or none for the main one.', 'section');
	const { trace, corridor, exaggeration } = stateOf(section, 'section');
	validateTrace(trace);
	const key = one(graph, 'holes').contentHash;
	if (!key) return fail('not-built', 'there are no hole paths yet', 'Press Build model under Build.');
	return {
		pack,
		about,
		holes: await recentPack(projectId, key),
		lumping: stateOf(one(graph, 'lumping'), 'lumping').codes,
		trace,
		corridor: corridor ?? stateOf(sections[0]!, 'section').corridor ?? 0,
		exaggeration: exaggeration ?? 1,
		title: `${about.projectName}: section ${sectionTitle(section.name)}`,
		name: section.name
	};
}
