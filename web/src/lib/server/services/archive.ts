import { eq, sql } from 'drizzle-orm';
import { fileName } from '#core/formats/meshes';
import { MAIN_SECTION, SECTION_INPUT } from '#core/project/project-file';
import { type BenchState } from '$lib/workbench/state';
import { db } from '../db/client';
import { viewpoint, workbench } from '../db/schema';
import { runTask } from '../threads/threads';
import { fileBytes, fileRow } from '../store/files';
import { loadGraph, modelsIn, one, seenByModel, type ObjectRow } from '../graph/graph';
import { calledName } from '../graph/inputs';
import { upstreamOf } from '../graph/made';
import { MADE_KINDS } from '#core/recipes/register';
import { findProject } from '../store/projects';
import { hasResult, resultBytes, builtReport } from '../store/results';
import { tableMarks } from '../store/tables';
import { sectionsIn } from '../graph/sections';
import { broughtState, stateOf, type StateOf, type StoredKind } from '../graph/states';
import { tableState } from '../threads/stored-table';

/** What an archive holds besides the project file: how the screens look, viewpoints and kept models. */
export interface Surroundings {
	workbench: Partial<BenchState> | null;
	viewpoints: { name: string; stage: string; state: Partial<BenchState>; createdBy: string; createdAt: string }[];
	keptModels: {
		name: string;
		file: string;
		resultKey: string;
		report: Record<string, unknown>;
		seconds: number;
		parts: Record<string, Record<string, unknown>>;
		createdBy: string;
		createdAt: string;
	}[];
	/** Ids of the sections, the main one first, in the order of the project file. */
	sections?: string[];
	/** Ids of the sources in the archive, by name: what looks and kept models name them by. */
	ids: Record<string, string>;
}

/** Raw files of a project on their way into an archive, each once. */
class RawFiles {
	readonly files: Record<string, Uint8Array> = {};
	private readonly known = new Map<string, string>();

	constructor(private readonly projectId: string) {}

	/** The name under which a raw file stands in the archive. */
	async put(fileId: string): Promise<string> {
		const known = this.known.get(fileId);
		if (known) return known;
		const row = await fileRow(this.projectId, fileId);
		const ending = /\.[A-Za-z0-9]{1,8}$/.exec(row.name)?.[0] ?? '';
		const base = fileName(row.name.slice(0, row.name.length - ending.length));
		let name = `files/${base}${ending}`;
		for (let n = 2; this.files[name]; n++) name = `files/${base}-${n}${ending}`;
		this.files[name] = await fileBytes(fileId);
		this.known.set(fileId, name);
		return name;
	}
}

const placed = (o: ObjectRow) => {
	const { coordinates, how } = broughtState(o);
	return { ...(coordinates && Object.keys(coordinates).length ? { coordinates } : {}), ...(how && Object.keys(how).length ? { how } : {}) };
};

/**
 * A project as one ZIP archive that the command line and another server can read: the project file, every raw file as it came, what
 * people have done to each table, viewpoints, looks and kept models.
 */
export async function exportArchive(projectId: string): Promise<{ name: string; bytes: Uint8Array }> {
	const p = await findProject(db(), projectId);
	const graph = await loadGraph(db(), projectId);
	const raw = new RawFiles(projectId);
	const lists: Record<'tables' | 'layers' | 'grids' | 'surfaces' | 'pictures', object[]> = {
		tables: [],
		layers: [],
		grids: [],
		surfaces: [],
		pictures: []
	};
	let terrain: object | null = null;
	const logs: object[] = [];
	for (const o of graph) {
		if (o.kind === 'table' && o.state['versionOf']) logs.push(await logSpec(o, graph));
		if (!o.fileId) continue;
		const file = await raw.put(o.fileId);
		if (o.kind === 'table') lists.tables.push(await tableSpec(o, file, raw));
		else if (o.kind === 'terrain' && !terrain) terrain = { file, name: o.name, ...placed(o) };
		else if (o.kind === 'picture') lists.pictures.push({ file, name: o.name, state: o.state });
		else if (o.kind === 'layer' || o.kind === 'grid' || o.kind === 'terrain' || o.kind === 'surface')
			lists[o.kind === 'layer' ? 'layers' : o.kind === 'surface' ? 'surfaces' : 'grids'].push({ file, name: o.name, ...placed(o) });
	}
	const first = seenByModel(graph);
	const state = <K extends StoredKind>(kind: K) => stateOf(one(first, kind), kind);
	const sets = { ...state('schemes'), ...state('ties'), ...state('absences') };
	const listed = Object.fromEntries(Object.entries(sets).filter(([, list]) => list.length));
	const { trace, corridor = 0 } = state('section');
	const mainName = sectionsIn(graph)[0]!.name;
	const lines = sectionsIn(graph)
		.slice(1)
		.map((s) => ({ name: s.name, ...stateOf(s, 'section') }));
	const { spacing, leastPart = 0, finer } = state('model');
	const { tables, ...things } = lists;
	const document = {
		malachite: 1,
		name: p.name,
		author: p.author,
		description: p.description,
		crs: p.crs,
		lengthUnit: p.lengthUnit,
		decimal: p.decimal,
		extent: p.extent,
		spacing,
		leastPart,
		...(finer ? { finer } : {}),
		tables,
		...(logs.length ? { logs } : {}),
		...(terrain ? { terrain } : {}),
		...Object.fromEntries(Object.entries(things).filter(([, list]) => list.length)),
		column: state('column').units,
		lumping: state('lumping').codes,
		rules: state('rules').rules,
		...listed,
		...faultsSpec(graph, state('faults')),
		shaping: state('shaping'),
		model: one(first, 'model').name,
		...(one(first, 'model').auto ? { auto: true } : {}),
		...furtherModels(graph),
		...madeResults(graph),
		...(trace.length > 1 || lines.length
			? { section: { ...(mainName === MAIN_SECTION ? {} : { name: mainName }), trace, corridor, ...(lines.length ? { lines } : {}) } }
			: {})
	};
	const text = (value: unknown) => new TextEncoder().encode(JSON.stringify(value, null, '\t'));
	const files: Record<string, Uint8Array> = { ...raw.files, 'project.json': text(document) };
	files['surroundings.json'] = text(await surroundingsOf(projectId, graph, files));
	return { name: `${fileName(p.name)}.zip`, bytes: await runTask('zip', { files }) };
}

/** Faults of a model, with the name of the model that they follow. */
function faultsSpec(graph: readonly ObjectRow[], { faults, follows }: StateOf<'faults'>): { faults: object[]; faultsOf?: string } {
	const other = modelsIn(graph).find((m) => m.id === follows);
	return { faults, ...(other ? { faultsOf: other.name } : {}) };
}

/** Models besides the first one. */
function furtherModels(graph: readonly ObjectRow[]): { models?: object[] } {
	const models = modelsIn(graph)
		.slice(1)
		.map((m) => {
			const own = seenByModel(graph, m.id);
			const state = <K extends StoredKind>(kind: K) => stateOf(one(own, kind), kind);
			const { spacing, leastPart = 0, finer } = stateOf(m, 'model');
			return {
				name: m.name,
				spacing,
				leastPart,
				...(finer ? { finer } : {}),
				...(m.auto ? { auto: true } : {}),
				column: state('column').units,
				lumping: state('lumping').codes,
				...faultsSpec(graph, state('faults')),
				shaping: state('shaping')
			};
		});
	return models.length ? { models } : {};
}

/** Results that people made, each after what it is made of; things go by their names. */
function madeResults(graph: readonly ObjectRow[]): { recipes?: object[] } {
	const byId = new Map(graph.map((o) => [o.id, o]));
	const made = graph.filter((o) => MADE_KINDS.includes(o.kind));
	const depth = new Map(made.map((o) => [o.id, upstreamOf(graph, o.id).size]));
	const recipes = [...made]
		.sort((a, b) => depth.get(a.id)! - depth.get(b.id)!)
		.map((o) => {
			const inputs: Record<string, string[]> = {};
			for (const e of o.edges) {
				const at = byId.get(e.input);
				if (at) (inputs[e.role] ??= []).push(`${at.kind === 'section' ? SECTION_INPUT : ''}${calledName(graph, at)}`);
			}
			return { name: o.name, recipe: o.kind, inputs, parameters: o.state, auto: o.auto };
		});
	return recipes.length ? { recipes } : {};
}

async function tableSpec(o: ObjectRow, file: string, raw: RawFiles): Promise<object> {
	const state = tableState(o.state);
	const marks = await tableMarks(db(), o.id, o.version, state.header);
	const some = marks.edits.length + marks.excluded.length + marks.seen.length > 0;
	const appended: string[] = [];
	for (const id of state.appended ?? []) appended.push(await raw.put(id));
	return {
		file,
		name: o.name,
		kind: state.kind,
		columns: state.mapping,
		reading: state.reading,
		// Written even when they are empty: what is not said would be guessed anew.
		units: state.units,
		written: state.written ?? {},
		...(Object.keys(state.values).length ? { values: state.values } : {}),
		...(state.calculated?.length ? { calculated: state.calculated } : {}),
		...(appended.length ? { appended } : {}),
		...(Object.keys(state.coordinates).length ? { coordinates: state.coordinates } : {}),
		...(some ? { marks } : {})
	};
}

/** A version of a log, by what it goes out from and what it changes. Versions are older than those that go out from them, so they stand in order. */
async function logSpec(o: ObjectRow, graph: readonly ObjectRow[]): Promise<object> {
	const { versionOf, logColumn, recode = {}, added = [], unplaced = [], header } = tableState(o.state);
	const marks = await tableMarks(db(), o.id, o.version, header);
	return {
		name: o.name,
		of: graph.find((x) => x.id === versionOf)?.name ?? '',
		...(logColumn ? { column: logColumn } : {}),
		recode,
		...(added.length ? { added } : {}),
		...(unplaced.length ? { unplaced } : {}),
		marks
	};
}

/** Looks, viewpoints and kept models; the packs of these go into the archive, too. */
async function surroundingsOf(projectId: string, graph: readonly ObjectRow[], files: Record<string, Uint8Array>): Promise<Surroundings> {
	const there = sql`removed_at is null`;
	const [bench] = await db().select().from(workbench).where(eq(workbench.projectId, projectId));
	const views = await db()
		.select()
		.from(viewpoint)
		.where(sql`${eq(viewpoint.projectId, projectId)} and ${there}`)
		.orderBy(viewpoint.createdAt);
	const keptModels: Surroundings['keptModels'] = [];
	for (const k of graph.filter((o) => o.kind === 'kept-model')) {
		if (!(await hasResult(db(), projectId, k.contentHash))) continue;
		const file = `kept/${keptModels.length + 1}.pack`;
		files[file] = await resultBytes(db(), projectId, k.contentHash);
		const { report, seconds } = (await builtReport(db(), projectId, k.contentHash))!;
		keptModels.push({
			name: k.name,
			file,
			resultKey: k.contentHash,
			report,
			seconds,
			parts: stateOf(k, 'kept-model').parts,
			createdBy: k.createdBy,
			createdAt: k.createdAt.toISOString()
		});
	}
	return {
		workbench: bench?.state ?? null,
		viewpoints: views.map((v) => ({
			name: v.name,
			stage: v.stage,
			state: v.state,
			createdBy: v.createdBy,
			createdAt: v.createdAt.toISOString()
		})),
		keptModels,
		sections: sectionsIn(graph).map((s) => s.id),
		ids: Object.fromEntries(graph.filter((o) => o.fileId || o.kind === 'table').map((o) => [o.name, o.id]))
	};
}
