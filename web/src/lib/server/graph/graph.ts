import { fail } from '#core/problem';
import { thingsNamedBy } from '#core/project/shaping';
import { canonicalJson, keyOver, lasting, nodeKeys, type GraphNode } from '#core/lineage/key';
import { isBuilt, recipeOf } from '#core/recipes/register';
import { formOfSource, type Form } from '#core/recipes/recipe';
import type { Executor } from '../db/client';
import type { BuildFailure } from '../db/schema';
import { isOfHoles, isTableKind } from '#core/tables/kinds';
import type { Unit } from '#core/units/column';
import { sha256 } from '../store/hash';
import { stateIfWhole } from './states';
import { inUse, type ProjectRow } from '../store/projects';
import { storedRows, type StoredRows } from './stored-rows';
import { followedBy, withFollowedFaults } from './followed';

export interface ObjectRow {
	id: string;
	kind: string;
	name: string;
	revision: number;
	contentHash: string;
	state: Record<string, unknown>;
	fileId: string | null;
	/** The model that it is a part of; null for what all models share. */
	modelId: string | null;
	auto: boolean;
	/** Its place among objects of its kind, where they have an order. */
	position: number;
	createdBy: string;
	createdAt: Date;
	/** Of a table: which of its stored versions counts. */
	version: number;
	updatedAt: Date;
	/** What its result looks like, or what was brought in; null for settings. */
	form: Form | null;
	inputs: readonly string[];
	/** What is put in, with the part that it plays; also what is not in the project any more. */
	edges: readonly { role: string; input: string }[];
	/** The key it would have if it and all upstream of it were built now. */
	key: string;
	/** The key it would have if it were built of its inputs as they stand built. */
	keyAsIs: string;
	outOfDate: boolean;
	/** Never built. */
	missing: boolean;
	/** A result of its inputs as they stand built is stored, whether it is taken for it already or not. */
	known: boolean;
	/** Why it could not be built as it is now; null when it was not tried, or went well. */
	failure: BuildFailure | null;
}

/** A project as it was read at one time: itself, and its graph. Neither changes any more. */
export interface SeenProject {
	project: ProjectRow;
	graph: readonly ObjectRow[];
	/** That of another look differs whenever anything was written meanwhile that this was read from. */
	stamp: string;
}

/** @throws ProblemError `not-found`, also of one that lies in the bin */
export async function seenProject(on: Executor, projectId: string): Promise<SeenProject> {
	const rows = await storedRows(on, projectId);
	return { project: inUse(rows.project), graph: graphOf(rows), stamp: rows.stamp };
}

/** The whole build graph of a project with keys: what all models share, and the parts of every model. It does not change any more. */
export const loadGraph = async (on: Executor, projectId: string): Promise<readonly ObjectRow[]> => graphOf(await storedRows(on, projectId));

const graphs = new WeakMap<StoredRows, readonly ObjectRow[]>();

/** The graph of what was read; made once of the same. */
function graphOf(stored: StoredRows): readonly ObjectRow[] {
	const known = graphs.get(stored) ?? Object.freeze(makeGraph(stored).map((o) => Object.freeze(o)));
	graphs.set(stored, known);
	return known;
}

function makeGraph({ project: p, objects, edges, keys: keysStored }: StoredRows): ObjectRow[] {
	const rows = withFollowedFaults(objects, sourceHash);
	const there = new Map(rows.map((r) => [r.id, r]));
	const inputs = new Map<string, StoredRows['edges'][number][]>();
	for (const e of edges) {
		if (!there.has(e.inputId) && !e.role) continue;
		const own = inputs.get(e.objectId);
		if (own) own.push(e);
		else inputs.set(e.objectId, [e]);
	}
	const tables = new Set(rows.filter((r) => r.kind === 'table').map((r) => r.id));
	const placers = placing(rows);
	/** The same as contents, for the key of a result. */
	const placedBy = (own: readonly string[]): { placed?: string[] } => {
		const by = placers(own);
		return by.length ? { placed: by.map((r) => `${r.kind} ${r.contentHash}`).sort() } : {};
	};
	const namedBy = new Map<string | null, typeof rows>();
	const namedOf = (model: string | null) => {
		const known = namedBy.get(model) ?? namedRows(rows, model);
		namedBy.set(model, known);
		return known;
	};
	const nodes: GraphNode[] = rows.map((r) => {
		const own = inputs.get(r.id) ?? [];
		const recipe = recipeOf(r.kind);
		return {
			id: r.id,
			kind: r.kind,
			contentHash: r.contentHash,
			inputs: own.map((e) => e.inputId),
			recipe: !recipe
				? null
				: recipe.step
					? recipe.step.depends({
							lengthUnit: p!.lengthUnit,
							extent: p!.extent,
							state: r.state,
							named: namedOf(r.modelId)
								.map((x) => `${x.name} ${x.contentHash}`)
								.sort(),
							tables: own.flatMap((e) => (tables.has(e.inputId) ? [e.inputId] : [])).sort()
						})
					: ownRecipe(r, recipe.version, placedBy(own.map((e) => e.inputId))),
			...(recipe && !recipe.step ? { roles: own.map((e) => e.role) } : {}),
			...(recipe?.live ? { taken: sha256(canonicalJson(recipe.live.takes(r.state))) } : {})
		};
	});
	const keys = nodeKeys(nodes, sha256);
	// A result that is not stored any more is as good as never built.
	const lost = (r: (typeof rows)[number]) => isBuilt(r.kind) && !keysStored.has(r.contentHash);
	const stale = new Map(rows.map((r, i) => [r.id, nodes[i]!.recipe !== null && (keys.get(r.id) !== r.contentHash || lost(r))]));
	const taken = new Map(nodes.flatMap((n) => (n.taken ? [[n.id, n.taken]] : [])));
	const asBuilt = (id: string) => taken.get(id) ?? there.get(id)?.contentHash ?? 'missing';
	const asNow = (id: string) => taken.get(id) ?? keys.get(id) ?? 'missing';
	return rows.map((r, i) => {
		const node = nodes[i]!;
		const keyAsIs =
			node.recipe === null
				? r.contentHash
				: node.inputs.every((id) => asBuilt(id) === asNow(id))
					? keys.get(r.id)!
					: keyOver(node, node.inputs.map(asBuilt), sha256);
		return {
			...r,
			form: recipeOf(r.kind)?.form ?? formOfSource(r.kind),
			inputs: [
				...new Set([
					...node.inputs.filter((id) => there.has(id)),
					...(followedBy(rows, r) ? [followedBy(rows, r)!.id] : []),
					...(recipeOf(r.kind)?.step?.names ? namedOf(r.modelId).map((x) => x.id) : []),
					...(recipeOf(r.kind) && !recipeOf(r.kind)!.step ? placers(node.inputs).map((x) => x.id) : [])
				])
			],
			edges: (inputs.get(r.id) ?? []).map((e) => ({ role: e.role || (there.get(e.inputId)?.kind ?? ''), input: e.inputId })),
			key: keys.get(r.id)!,
			keyAsIs,
			outOfDate: recipeOf(r.kind)?.live ? node.inputs.some((id) => stale.get(id)) : stale.get(r.id)!,
			missing: isBuilt(r.kind) && lost(r),
			known: keysStored.has(keyAsIs),
			failure: r.failure && r.failure.key === keyAsIs ? r.failure : null
		};
	});
}

const ownRecipes = new WeakMap<object, { of: string; recipe: object }>();

/** What a result is made by, besides its inputs; the same one as long as the row is. */
function ownRecipe(row: { state: object }, version: number, placed: { placed?: string[] }): object {
	const of = `${version} ${placed.placed?.join() ?? ''}`;
	const known = ownRecipes.get(row);
	if (known?.of === of) return known.recipe;
	const recipe = lasting({ version, parameters: row.state, ...placed });
	ownRecipes.set(row, { of, recipe });
	return recipe;
}

/** The models of a graph, in their order. */
export const modelsIn = <T extends { kind: string }>(graph: readonly T[]): T[] => graph.filter((o) => o.kind === 'model');

/**
 * A graph as one model sees it: what all share, and its own parts.
 * @param model its id; the first one when none is said
 * @throws ProblemError `not-found`
 */
export function seenByModel<T extends { id: string; kind: string; modelId: string | null }>(
	graph: readonly T[],
	model?: string | null
): T[] {
	const models = modelsIn(graph);
	const id = model ?? models[0]?.id;
	if (!models.some((m) => m.id === id)) return fail('not-found', 'there is no such model in this project', undefined, 'model');
	return graph.filter((o) => o.modelId === null || o.modelId === id);
}

/** The graph as one model sees it. @throws ProblemError `not-found` */
export const loadModel = async (on: Executor, projectId: string, model?: string | null): Promise<readonly ObjectRow[]> => {
	const graph = await loadGraph(on, projectId);
	return graph.length === 0 ? fail('not-found', 'there is no such project') : seenByModel(graph, model);
};

interface PlacedRow {
	id: string;
	kind: string;
	contentHash: string;
	state: Record<string, unknown>;
}

/** What places the rows of tables that are among some inputs: collars and surveys of holes, the terrain, and the rules that hold rows back. */
function placing<T extends PlacedRow>(rows: readonly T[]): (inputs: readonly string[]) => T[] {
	const tables = new Map(rows.flatMap((r) => (r.kind === 'table' ? [[r.id, r]] : [])));
	const ofHoles = (id: string) => {
		const kind = tables.get(id)?.state['kind'];
		return isTableKind(kind) && isOfHoles(kind);
	};
	const terrain = rows.find((r) => r.kind === 'terrain');
	const always = (r: T) => r === terrain || r.kind === 'rules';
	const placesHoles = ({ state: { kind } }: T) => kind === 'collars' || kind === 'surveys';
	const all = rows.filter((r) => always(r) || (r.kind === 'table' && placesHoles(r)));
	return (inputs) => {
		if (!inputs.some((id) => tables.has(id))) return [];
		const holes = inputs.some(ofHoles);
		return all.filter((r) => !inputs.includes(r.id) && (holes || always(r)));
	};
}

/** The tables, layers, grids and surfaces that the shaping of a model names. */
function namedRows<T extends { kind: string; name: string; modelId: string | null; state: Record<string, unknown> }>(
	rows: readonly T[],
	model: string | null
): T[] {
	const row = rows.find((r) => r.kind === 'shaping' && r.modelId === model);
	const shaping = row && stateIfWhole(row, 'shaping');
	if (!shaping) return [];
	const names = thingsNamedBy(shaping);
	return rows.filter((r) => ['table', 'grid', 'layer', 'surface'].includes(r.kind) && names.has(r.name));
}

/** Hash of a source that holds only its state. Names and colours of units do not change any computation. */
export function sourceHash(kind: string, state: Record<string, unknown>): string {
	// What is damaged is another source than what it was, whatever stands in it.
	const isWhole = (kind === 'shaping' || kind === 'column') && stateIfWhole({ kind, name: kind, state }, kind) !== null;
	if (isWhole && kind === 'shaping')
		state = {
			...state,
			divisions: (state['divisions'] as { column: object[] }[]).map((d) => ({
				...d,
				name: '',
				column: d.column.map((u) => ({ ...u, name: '', color: '' }))
			}))
		};
	if (isWhole && kind === 'column')
		return sha256(
			JSON.stringify(
				(state['units'] as Unit[]).map(({ id, contact, form, name: _name, color: _color, ...more }) => [
					id,
					contact,
					...(form ? [form] : []),
					// Whatever else a unit says shapes the model; a new word of it can not be forgotten here.
					...(Object.keys(more).length ? [canonicalJson(more)] : [])
				])
			)
		);
	return sha256(canonicalJson(state));
}

/** The one object of a kind that every model has, in a graph as that model sees it. @throws ProblemError `not-found` when there is no such project */
export const one = <T extends { kind: string }>(graph: readonly T[], kind: string): T =>
	graph.find((o) => o.kind === kind) ?? fail('not-found', 'there is no such project');
