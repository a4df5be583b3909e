import { readPack, type Pack } from '#core/formats/pack';
import type { SectionDrawing } from '#core/formats/section-drawing';
import type { Shaping } from '#core/project/shaping';
import { FAULT, LIMIT, TERRAIN, type SolidMesh } from '#core/mesh/cut-lattice';
import { cutSection, validateTrace, type Trace } from '#core/sections/section';
import { holeLines, holesOnSection, type HoleScene } from '#core/sections/hole-lines';
import { unitOfCode, type Lumping, type Unit } from '#core/units/column';
import { fail } from '#core/problem';
import type { ContactPoint } from '#core/units/contacts';
import { db } from '../db/client';
import { loadGraph, one, type ObjectRow } from './graph';
import { findProject } from './projects';
import { builtKey, resultBytes } from './results';

/** The last built model with what is needed to present it. */
export interface LoadedModel {
	mesh: SolidMesh;
	units: Unit[];
	faults: { id: string; name: string }[];
	hasTerrain: boolean;
	misfits: (ContactPoint & { distance: number | null })[];
	outOfDate: boolean;
	lengthUnit: string;
	crs: number;
	projectName: string;
	graph: ObjectRow[];
}

/** The units of a model as it was built, in its order, with the names and colours of the column as it is now. */
function modelUnits(ids: string[], column: Unit[], shaping: Shaping): Unit[] {
	const all = [...column, ...shaping.divisions.flatMap((d) => d.column)];
	return ids.map((id) => all.find((u) => u.id === id) ?? { id, name: id, color: '#888888', contact: 'conformable' });
}

/** The packs that were asked for last: a section is looked at many times, and a pack never changes under its key. */
const recent = new Map<string, Promise<Pack | null>>();
const MOST_RECENT = 3;

function recentPack(key: string): Promise<Pack | null> {
	const known = recent.get(key);
	recent.delete(key);
	const pack = known ?? resultBytes(db(), key).then((bytes) => (bytes ? readPack(bytes) : null));
	recent.set(key, pack);
	pack.catch(() => recent.delete(key));
	for (const old of recent.keys()) if (recent.size > MOST_RECENT) recent.delete(old);
	return pack;
}

/** @throws ProblemError `not-built` */
export async function loadModel(projectId: string): Promise<LoadedModel> {
	const p = await findProject(db(), projectId);
	const graph = await loadGraph(db(), projectId);
	const node = one(graph, 'model');
	const pack = node.contentHash ? await recentPack(node.contentHash) : null;
	if (!pack) return fail('not-built', 'there is no model yet', 'Press Build model under Build.');
	const { info, arrays } = pack;
	const i = info as { units: string[]; faults: { id: string; name: string }[]; hasTerrain: boolean; volumes: [number, number][]; misfits: LoadedModel['misfits'] };
	return {
		mesh: { ...(arrays as unknown as Omit<SolidMesh, 'volumes'>), volumes: new Map(i.volumes) },
		units: modelUnits(i.units, one(graph, 'column').state['units'] as Unit[], one(graph, 'shaping').state as unknown as Shaping),
		faults: i.faults,
		hasTerrain: i.hasTerrain,
		misfits: i.misfits,
		outOfDate: node.outOfDate,
		lengthUnit: p.lengthUnit,
		crs: p.crs,
		projectName: p.name,
		graph
	};
}

/** The holes as they were last built. */
async function loadHoles(projectId: string): Promise<HoleScene> {
	const key = await builtKey(db(), projectId, 'holes');
	const pack = key ? await recentPack(key) : null;
	if (!pack) return fail('not-built', 'there are no hole paths yet', 'Press Build model under Build.');
	const { info, arrays } = pack;
	return { ...info, ...arrays } as unknown as HoleScene;
}

/** Name and kind of a surface number. */
export function surfaceName(m: Pick<LoadedModel, 'units' | 'faults'>, s: number): { name: string; kind: 'contact' | 'fault' | 'terrain' } {
	if (s === TERRAIN) return { name: 'Terrain', kind: 'terrain' };
	if (s === LIMIT) return { name: 'Limit of the model', kind: 'terrain' };
	if (s >= FAULT) return { name: m.faults[s - FAULT]?.name ?? 'Fault', kind: 'fault' };
	const u = m.units[s]!;
	return { name: `${u.contact === 'intrusive' ? 'Boundary' : 'Base'} of ${u.name}`, kind: 'contact' };
}

/** The section of a project as a drawing: the model cut along the trace and the holes within the corridor. */
export async function sectionDrawing(projectId: string, options: { exaggeration: number; filled: boolean; line: number }): Promise<SectionDrawing> {
	const m = await loadModel(projectId);
	const state = one(m.graph, 'section').state as { trace: Trace; corridor: number; lines?: { name: string; trace: Trace }[] };
	const line = options.line === 0 ? null : (state.lines?.[options.line - 1] ?? fail('not-found', `there is no section line number ${options.line}`, `There are ${state.lines?.length ?? 0} beside the main one.`, 'line'));
	const trace = line?.trace ?? state.trace;
	validateTrace(trace);
	const picture = cutSection(m.mesh, trace);
	const p = m.mesh.positions;
	let minZ = Infinity;
	let maxZ = -Infinity;
	for (let i = 2; i < p.length; i += 3) {
		if (p[i]! < minZ) minZ = p[i]!;
		if (p[i]! > maxZ) maxZ = p[i]!;
	}
	const scene = await loadHoles(projectId);
	const lumping = one(m.graph, 'lumping').state['codes'] as Lumping;
	const index = new Map(m.units.map((u, i) => [u.id, i]));
	const lines = holeLines(scene, (code) => index.get(unitOfCode(lumping, code) ?? '') ?? -1);
	return {
		title: `${m.projectName}: section ${line?.name ?? 'A–A′'}`,
		picture,
		units: m.units,
		surfaces: new Map([...picture.lines.keys()].sort((a, b) => a - b).map((s) => [s, surfaceName(m, s)])),
		holes: holesOnSection(scene, lines, trace, state.corridor),
		minZ,
		maxZ,
		lengthUnit: m.lengthUnit,
		exaggeration: options.exaggeration,
		ends: ['A', 'A′'],
		filled: options.filled
	};
}
