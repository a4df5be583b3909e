import { fail } from '#core/problem';
import { theOne, type Described, type Given, type ProjectFacts, type Recipe } from '#core/recipes/recipe';
import type { RowsFacts } from '#core/recipes/recipe';
import { rowsOfReport } from '#core/recipes/opened';
import { isBuilt, isByItself, recipeOf } from '#core/recipes/register';
import { isOfHoles } from '#core/tables/kinds';
import { withParts } from '#core/units/at-rank';
import type { Unit } from '#core/units/column';
import { db, type Executor } from '../db/client';
import { runTableTask } from '../threads/threads';
import { checkInputOf, tablesOf, today, type CheckInput } from './check-input';
import { seenByModel, one, type ObjectRow, type SeenProject } from './graph';
import { systemOf } from '../store/crs';
import type { ProjectRow } from '../store/projects';
import { builtReport, resultBytes } from '../store/results';
import { sourcePack } from './source-packs';
import { tableState } from '../threads/stored-table';
import { stateIfWhole, type StateOf } from './states';

export function projectFacts({ name, lengthUnit, crs, extent }: ProjectRow): ProjectFacts {
	const definition = crs ? systemOf(crs)?.definition : undefined;
	return { name, lengthUnit, crs, extent, ...(definition ? { definition } : {}) };
}

/** What is said of a model: its units as they are called now, those of divisions after those of the column. */
export function unitsOfObject(
	graph: readonly ObjectRow[],
	o: Pick<ObjectRow, 'name' | 'kind' | 'modelId' | 'state'>,
	report: Readonly<Record<string, unknown>>
): Unit[] {
	if (Array.isArray(report['units'])) return report['units'] as Unit[];
	const parts = o.kind === 'kept-model' ? stateIfWhole(o, 'kept-model')?.parts : undefined;
	// Those of a state that is damaged are not known; what is built of it says so.
	const state = <K extends 'column' | 'shaping'>(kind: K): StateOf<K> | null => {
		const own = parts ? parts[kind] : o.modelId ? one(seenByModel(graph, o.modelId), kind).state : undefined;
		return own ? stateIfWhole({ kind, name: o.name, state: own }, kind) : null;
	};
	return withParts(state('column')?.units ?? [], state('shaping')?.divisions ?? []);
}

/** The name that people know an object by: a step goes by that of its model. */
export const calledName = (graph: readonly ObjectRow[], o: ObjectRow): string =>
	(o.modelId && graph.find((m) => m.id === o.modelId)?.name) || o.name;

/**
 * The inputs of an object, before they are opened.
 * @throws ProblemError `input-missing` when one was taken out or changed its kind, `input-not-built`
 */
export async function describedInputs(
	on: Executor,
	seen: SeenProject,
	node: Pick<ObjectRow, 'edges'>,
	recipe: Pick<Recipe, 'roles'>,
	needBuilt = true
): Promise<Described[]> {
	const { project, graph } = seen;
	const out: Described[] = [];
	for (const [role, r] of Object.entries(recipe.roles)) {
		const edges = node.edges.filter((e) => e.role === role);
		if (edges.length < r.least || edges.length > r.most)
			fail(
				'input-missing',
				`it needs ${r.least === r.most ? r.least : `${r.least} to ${r.most}`} of "${r.title}"`,
				'Choose what it is made from.',
				role
			);
		for (const e of edges) {
			const o =
				graph.find((x) => x.id === e.input) ??
				fail('input-missing', `what it was made from as "${r.title}" is not in the project any more`, 'Choose another, or undo.', role);
			if (!plays(o, r)) fail('input-missing', `${o.name} can not be "${r.title}" any more`, 'Choose another.', role);
			if (needBuilt && isBuilt(o.kind) && o.missing)
				fail('input-not-built', `${calledName(graph, o)} is not built`, 'Build that first.', role);
			const isTable = o.kind === 'table';
			const report = o.contentHash && !isTable ? ((await builtReport(on, project.id, o.contentHash))?.report ?? {}) : {};
			const rows = isTable ? (await readingsOfTable(on, seen, o)).facts : rowsOfReport(report);
			out.push({
				id: o.id,
				role,
				...(rows ? { rows } : {}),
				kind: o.kind,
				name: calledName(graph, o),
				state: o.state,
				report,
				units: unitsOfObject(graph, o, report)
			});
		}
	}
	return out;
}

/** Whether an object, or the part of a model that a role asks for, can play it. */
export const plays = (o: Pick<ObjectRow, 'kind' | 'form'>, r: Recipe['roles'][string]): boolean =>
	(r.part !== undefined && o.kind === r.part) ||
	(r.kinds?.includes(o.kind) ?? false) ||
	// What every project has by itself is drawn by its form, and nothing is made of it.
	(o.form !== null && (r.forms?.includes(o.form) ?? false) && !isByItself(o.kind));

/**
 * What an input holds, as bytes; null where its state is all.
 * @throws ProblemError `not-built`
 */
export async function inputBytes(seen: SeenProject, d: Pick<Given, 'id'>): Promise<Uint8Array | null> {
	const o = seen.graph.find((x) => x.id === d.id)!;
	return o.kind === 'table' ? (await readingsOfTable(db(), seen, o)).bytes : objectBytes(seen.project.id, o);
}

/** What was last opened of tables, so that parameters can be turned without opening them again. */
const opened = new Map<string, Promise<{ bytes: Uint8Array; facts: RowsFacts }>>();
const MOST_OPENED = 6;

/** By what the tables of a project are opened, of graphs that were read: once for each, however many tables are wanted of it. */
const openedBy = new WeakMap<readonly ObjectRow[], Promise<CheckInput>>();

async function inputOf(on: Executor, seen: SeenProject): Promise<CheckInput> {
	const known = await openedBy.get(seen.graph)?.catch(() => null);
	// Whether a date lies in the future depends on the day.
	if (known && known.options.around?.today === today()) return known;
	const work = checkInputOf(on, seen);
	openedBy.set(seen.graph, work);
	return work;
}

/** The rows in use of a table with their places and columns, and what is told of them. @throws ProblemError `no-collars` */
async function readingsOfTable(on: Executor, seen: SeenProject, o: ObjectRow): Promise<{ bytes: Uint8Array; facts: RowsFacts }> {
	const input = await inputOf(on, seen);
	if (isOfHoles(tableState(o.state).kind) && !seen.graph.some((t) => t.kind === 'table' && t.state['kind'] === 'collars'))
		fail(
			'no-collars',
			`${o.name} holds rows of holes, and there is no collar table`,
			'Import the collars: without them nobody knows where the holes are.'
		);
	const key = `${o.id} ${o.contentHash} ${input.key}`;
	const known = opened.get(key);
	opened.delete(key);
	const work = known ?? tablesOf(input, on).then((tables) => runTableTask('readings', { ...tables, objectId: o.id }));
	opened.set(key, work);
	work.catch(() => opened.delete(key));
	for (const old of opened.keys()) if (opened.size > MOST_OPENED) opened.delete(old);
	return work;
}

/** What an object holds, by its form; null of settings and tables. @throws ProblemError `not-built` */
export async function objectBytes(projectId: string, o: ObjectRow): Promise<Uint8Array | null> {
	if ((o.form === null && !isBuilt(o.kind)) || recipeOf(o.kind)?.live) return null;
	if (o.form === 'table' && !isBuilt(o.kind)) return null;
	return isBuilt(o.kind) || o.kind === 'kept-model' ? resultBytes(db(), projectId, o.contentHash) : sourcePack(db(), projectId, o);
}

/** The edges of an object from what was chosen for its roles: of a model the part that a role asks for. @throws ProblemError `unknown-input` */
export function edgesOf(
	graph: readonly ObjectRow[],
	recipe: Recipe,
	chosen: Readonly<Record<string, readonly string[]>>
): { role: string; input: string }[] {
	const unknown = Object.keys(chosen).find((role) => !Object.hasOwn(recipe.roles, role));
	if (unknown)
		fail('unknown-role', `"${unknown}" is no part in ${recipe.title}`, `Its parts are ${Object.keys(recipe.roles).join(', ')}.`, unknown);
	return Object.entries(recipe.roles).flatMap(([role, r]) => {
		const ids = [...new Set(chosen[role] ?? [])];
		if (ids.length < r.least || ids.length > r.most)
			fail(
				'input-missing',
				`${recipe.title} needs ${r.least === r.most ? r.least : `${r.least} to ${r.most}`} as "${r.title}"`,
				undefined,
				role
			);
		return ids.map((id) => {
			const o = graph.find((x) => x.id === id);
			if (!o || !plays(o, r))
				return fail('unknown-input', `${o ? o.name : 'what was chosen'} can not be "${r.title}"`, 'Choose another.', role);
			const part =
				r.part && o.kind === 'model'
					? theOne(
							seenByModel(graph, o.id).map((x) => ({ ...x, role: x.kind })),
							r.part
						)
					: o;
			return { role, input: part.id };
		});
	});
}
