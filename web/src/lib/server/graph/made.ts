import { freemem } from 'node:os';
import { canonicalJson } from '#core/lineage/key';
import { fail } from '#core/problem';
import { withFirstValues, withGridRenamed } from '#core/recipes/parameters';
import { recipeNamed, recipeOf } from '#core/recipes/register';
import type { Described, Recipe } from '#core/recipes/recipe';
import { ranksOf } from '#core/units/at-rank';
import { db, type Executor } from '../db/client';
import { object, objectInput } from '../db/schema';
import { actor } from '../store/actor';
import { changeWithin, doChange, lockObject, recordChange } from './changes';
import { loadGraph, seenProject, type SeenProject, type ObjectRow } from './graph';
import { describedInputs, edgesOf, projectFacts } from './inputs';
import { freeName, refuseTaken } from '../store/names';
import type { Step } from './steps';
import { readState } from './states';
import { inProject } from '../store/projects';

const MOST_MADE = 2000;

/** What is chosen for a result: ids of objects by the part that they play. */
type Chosen = Readonly<Record<string, readonly string[]>>;

/** A recipe that people make things by. @throws ProblemError `unknown-recipe` */
function freeRecipe(id: string): Recipe {
	const recipe = recipeNamed(id);
	return recipe && !recipe.step ? recipe : fail('unknown-recipe', `there is no recipe "${id}"`, 'GET /recipes lists them.', 'recipe');
}

/** A result that people made. @throws ProblemError `not-found` */
export function findMade(graph: readonly ObjectRow[], id: string): { node: ObjectRow; recipe: Recipe } {
	const node = graph.find((o) => o.id === id);
	const recipe = node && recipeOf(node.kind);
	return node && recipe && !recipe.step
		? { node, recipe }
		: fail('not-found', 'there is no such result in this project', 'It may have been taken out meanwhile.');
}

/** Parameters as a recipe takes them. @throws ValidationError, ProblemError from the recipe */
async function guarded(
	on: Executor,
	seen: SeenProject,
	recipe: Recipe,
	edges: readonly { role: string; input: string }[],
	parameters: Record<string, unknown>
): Promise<Record<string, unknown>> {
	const own = (await recipe.parameters.validate(withFirstValues(recipe.parameters, parameters), {
		abortEarly: false,
		strict: true
	})) as Record<string, unknown>;
	const inputs = await describedInputs(on, seen, { edges }, recipe, false);
	recipe.refuse?.(inputs, own);
	// What can never be made is refused at once, not when it is built.
	recipe.estimate?.(inputs, own, projectFacts(seen.project));
	return own;
}

/**
 * A name and first values of a recipe for some inputs.
 * @param given parameters that are known already
 * @throws ProblemError
 */
export async function suggestion(projectId: string, id: string, chosen: Chosen, given: Record<string, unknown>) {
	const recipe = freeRecipe(id);
	const seen = await seenProject(db(), projectId);
	const { graph } = seen;
	const facts = projectFacts(seen.project);
	const inputs = await describedInputs(db(), seen, { edges: edgesOf(graph, recipe, chosen) }, recipe, false);
	const parameters: Record<string, unknown> = { ...recipe.suggest?.(inputs, facts), ...given };
	return {
		name: freeName(graph, proposedName(recipe, inputs, parameters)),
		parameters,
		/** Choices of parameters that are columns of what plays a role. */
		columns: Object.fromEntries(
			Object.keys(recipe.roles).flatMap((role) => {
				const rows = inputs.find((g) => g.role === role)?.rows;
				return rows ? [[role, rows.columns.map((c) => ({ ...c }))]] : [];
			})
		),
		/** Choices of parameters that are ranks of the schemes that play a role. */
		ranks: Object.fromEntries(
			inputs.flatMap((g) =>
				g.kind === 'schemes'
					? [[g.role, ranksOf(readState('schemes', g.state, g.name).schemes).map(({ key, name }) => ({ id: key, name }))]]
					: []
			)
		),
		/** Choices of parameters that are units of what plays a role. */
		units: Object.fromEntries(
			Object.keys(recipe.roles).map((role) => [
				role,
				inputs.filter((g) => g.role === role).flatMap((g) => g.units.map(({ id: unit, name, color }) => ({ id: unit, name, color })))
			])
		)
	};
}

/** Memory that a recipe will need, and whether it is there. */
export async function needs(projectId: string, id: string, chosen: Chosen, parameters: Record<string, unknown>) {
	const recipe = freeRecipe(id);
	const seen = await seenProject(db(), projectId);
	const inputs = await describedInputs(db(), seen, { edges: edgesOf(seen.graph, recipe, chosen) }, recipe, false);
	const bytes = recipe.estimate?.(inputs, parameters, projectFacts(seen.project)).bytes ?? 0;
	return { bytes, free: freemem(), fits: bytes < freemem() * 0.9 };
}

/** What is put in and said of a result, before there is one. @throws ProblemError, ValidationError */
export async function drafted(projectId: string, id: string, chosen: Chosen, parameters: Record<string, unknown>) {
	const recipe = freeRecipe(id);
	const seen = await seenProject(db(), projectId);
	const edges = edgesOf(seen.graph, recipe, chosen);
	const own = await guarded(db(), seen, recipe, edges, parameters);
	return { recipe, seen, edges, parameters: own };
}

function proposedName(recipe: Recipe, inputs: readonly Described[], parameters: Record<string, unknown>): string {
	if (recipe.called) return recipe.called(inputs, parameters);
	const unit = inputs.flatMap((g) => g.units).find((u) => u.id === parameters['unit']);
	if (unit) return recipe.title.replace(/\ba unit\b/, unit.name);
	const names = inputs.map((g) => g.name);
	// Of very many the first are named.
	const told = names.length > MOST_NAMED ? [...names.slice(0, MOST_NAMED - 1), `${names.length - MOST_NAMED + 1} more`] : names;
	return (names.length ? `${recipe.title}: ${told.join(', ')}` : recipe.title).slice(0, MOST_NAME);
}

/** What a proposed name is made of names, and how long it may be. */
const MOST_NAMED = 5;
const MOST_NAME = 180;

export interface NewObject {
	recipe: string;
	name?: string | undefined;
	inputs: Chosen;
	parameters: Record<string, unknown>;
	auto?: boolean | undefined;
}

/** Makes a named result, which is not built yet. @returns its id */
export async function makeObject(projectId: string, o: NewObject): Promise<string> {
	const name = o.name ?? null;
	return [...(await makeObjects(projectId, name ? `Make ${name}` : null, [o])).values()][0]!;
}

/**
 * Makes named results as one change, in their order; none is built yet. An input `made:NAME` is one of those before it.
 * @param label of the change; the name of the first where none is said
 * @returns their ids by name
 */
export async function makeObjects(projectId: string, label: string | null, list: readonly NewObject[]): Promise<Map<string, string>> {
	return inProject(projectId, async (tx) => {
		const ids = new Map<string, string>();
		for (const o of list) {
			const recipe = freeRecipe(o.recipe);
			const seen = await seenProject(tx, projectId);
			const { graph } = seen;
			if (graph.filter((x) => recipeOf(x.kind) && !recipeOf(x.kind)!.step).length >= MOST_MADE)
				fail('too-many-results', `a project holds at most ${MOST_MADE} results`, 'Take some out first.');
			const inputs = Object.fromEntries(
				Object.entries(o.inputs).map(([role, own]) => [role, own.map((i) => (i.startsWith('made:') ? (ids.get(i.slice(5)) ?? i) : i))])
			);
			const edges = edgesOf(graph, recipe, inputs);
			// What is made of something that is made with it knows nothing of its columns yet: that is refused when it is built.
			const parameters = await guarded(tx, seen, recipe, edges, o.parameters);
			const name = o.name ?? freeName(graph, recipe.title);
			refuseTaken(graph, name);
			ids.set(name, await insertMade(tx, projectId, { kind: recipe.id, name, state: parameters, auto: o.auto ?? false }, edges));
		}
		await recordChange(
			tx,
			projectId,
			label ?? `Make ${[...ids.keys()][0]}`,
			[...ids.values()].map((id) => ({ kind: 'removed', what: 'object', id, after: false }))
		);
		return ids;
	});
}

async function insertMade(
	tx: Executor,
	projectId: string,
	values: Pick<ObjectRow, 'kind' | 'name' | 'state' | 'auto'> & { contentHash?: string },
	edges: readonly { role: string; input: string }[]
): Promise<string> {
	const [row] = await tx
		.insert(object)
		.values({ projectId, createdBy: actor().name, ...values })
		.returning({ id: object.id });
	if (edges.length) await tx.insert(objectInput).values(edges.map((e) => ({ objectId: row!.id, inputId: e.input, role: e.role })));
	return row!.id;
}

/** The same once more under another name, built as far as the first is. @returns its id */
export async function duplicateMade(projectId: string, id: string): Promise<string> {
	return inProject(projectId, async (tx) => {
		const graph = await loadGraph(tx, projectId);
		const { node } = findMade(graph, id);
		const name = freeName(graph, `${node.name} (copy)`);
		const { kind, state, auto, contentHash } = node;
		const copy = await insertMade(tx, projectId, { kind, name, state, auto, contentHash }, node.edges);
		await recordChange(tx, projectId, `Copy ${node.name}`, [{ kind: 'removed', what: 'object', id: copy, after: false }]);
		return copy;
	});
}

/** What can be changed of a result; what is left out stays. */
interface MadeChange {
	name?: string | undefined;
	inputs?: Chosen | undefined;
	parameters?: Record<string, unknown> | undefined;
	auto?: boolean | undefined;
	/** The revision that the change started from. */
	revision?: number | undefined;
}

/** Changes a result as one step. @throws ProblemError `circle` when it would be made of itself */
export async function changeMade(projectId: string, id: string, change: MadeChange): Promise<void> {
	await doChange(projectId, 'Change a result', async (tx) => {
		const seen = await seenProject(tx, projectId);
		const { graph } = seen;
		const { node, recipe } = findMade(graph, id);
		await lockObject(tx, projectId, id, change.revision ?? node.revision);
		const steps: Step[] = [];
		const edges = change.inputs ? edgesOf(graph, recipe, change.inputs) : node.edges;
		if (edges.some((e) => upstreamOf(graph, e.input).has(id)))
			fail('circle', `${node.name} would be made of itself`, 'Choose something that is not made from it.', 'inputs');
		if (change.parameters || change.inputs) {
			const after = await guarded(tx, seen, recipe, edges, change.parameters ?? node.state);
			if (canonicalJson(after) !== canonicalJson(node.state)) steps.push({ kind: 'state', object: id, before: node.state, after });
		}
		const same = (list: readonly { role: string; input: string }[]) => canonicalJson(list.map((e) => `${e.role} ${e.input}`).sort());
		if (same(edges) !== same(node.edges)) steps.push({ kind: 'inputs', object: id, before: node.edges, after: edges });
		if (change.name !== undefined && change.name !== node.name) {
			refuseTaken(graph, change.name, id);
			steps.push(
				{ kind: 'renamed', object: id, before: node.name, after: change.name },
				...expressionSteps(graph, id, node.name, change.name)
			);
		}
		if (change.auto !== undefined && change.auto !== node.auto)
			steps.push({ kind: 'auto', object: id, before: node.auto, after: change.auto });
		return steps;
	});
}

/** Results whose expressions call an object by its name hear of another one in the same change. */
export const expressionSteps = (graph: readonly ObjectRow[], id: string, from: string, to: string): Step[] =>
	graph.flatMap((o): Step[] => {
		const recipe = recipeOf(o.kind);
		if (!recipe || recipe.step || !o.edges.some((e) => e.input === id)) return [];
		const after = withGridRenamed(recipe.parameters, o.state, from, to);
		return canonicalJson(after) === canonicalJson(o.state) ? [] : [{ kind: 'state', object: o.id, before: o.state, after }];
	});

/** All that an object is made of, with itself; of what is drawn live, what it is drawn from is not. */
export function upstreamOf(graph: readonly ObjectRow[], id: string): Set<string> {
	const byId = new Map(graph.map((o) => [o.id, o]));
	const found = new Set<string>();
	const open = [id];
	for (let at = open.pop(); at !== undefined; at = open.pop()) {
		if (found.has(at)) continue;
		found.add(at);
		if (at === id || !recipeOf(byId.get(at)?.kind ?? '')?.live) open.push(...(byId.get(at)?.inputs ?? []));
	}
	return found;
}

/** Refuses to take things out of which results are made, unless that was said. @throws ProblemError `in-use`, which names them */
export function refuseUsed(graph: readonly ObjectRow[], out: readonly ObjectRow[], used: boolean): void {
	if (used) return;
	for (const { id, name } of out) {
		const users = graph.filter((o) => o.inputs.includes(id) && !recipeOf(o.kind)?.step);
		if (users.length)
			fail(
				'in-use',
				`${name} is what ${users.map((u) => u.name).join(', ')} ${users.length === 1 ? 'is' : 'are'} made of`,
				'Say that it is to go all the same (used): what is made of it stays as it is built, and can not be built again.',
				'used'
			);
	}
}

/**
 * Takes a result out of the project.
 * @param used also when others are made of it
 * @throws ProblemError `in-use`, which names them
 */
export async function removeMade(projectId: string, id: string, used: boolean): Promise<void> {
	await inProject(projectId, async (tx) => {
		const graph = await loadGraph(tx, projectId);
		const { node } = findMade(graph, id);
		refuseUsed(graph, [node], used);
		await changeWithin(tx, projectId, `Take out ${node.name}`, [{ kind: 'removed', what: 'object', id, after: true }]);
	});
}
