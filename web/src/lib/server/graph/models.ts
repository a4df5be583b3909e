import { and, eq, isNull, max } from 'drizzle-orm';
import { fail } from '#core/problem';
import { MAIN_SECTION } from '#core/project/project-file';
import { plainShaping } from '#core/project/shaping';
import { recipeOf, RECIPES } from '#core/recipes/register';
import type { Recipe, Step as ChainStep } from '#core/recipes/recipe';
import type { Executor } from '../db/client';
import { object, objectInput } from '../db/schema';
import { actor } from '../store/actor';
import { changeWithin, doChange, lockObject, recordChange } from './changes';
import { loadGraph, modelsIn, sourceHash, type ObjectRow } from './graph';
import { freeName, refuseTaken } from '../store/names';
import { stateIfWhole, stateOf, type StoredKind } from './states';
import type { Step } from './steps';
import { tableState } from '../threads/stored-table';
import { inProject } from '../store/projects';

/** Settings of a model, with what they begin with. */
const MODEL_SETTINGS: Readonly<Record<string, { name: string; state: () => object }>> = {
	column: { name: 'Stratigraphic column', state: () => ({ units: [] }) },
	lumping: { name: 'Codes to units', state: () => ({ codes: {} }) },
	faults: { name: 'Faults', state: () => ({ faults: [] }) },
	shaping: { name: 'Shape of the ground', state: plainShaping }
};
/** Settings of all models. */
const SHARED_SETTINGS: typeof MODEL_SETTINGS = {
	rules: { name: 'Rules of the checks', state: () => ({ rules: {} }) },
	schemes: { name: 'Schemes', state: () => ({ schemes: [] }) },
	ties: { name: 'Ties', state: () => ({ ties: [] }) },
	absences: { name: 'Absences set by hand', state: () => ({ absences: [] }) }
};

/** Sources that hold only their state. */
export const SETTINGS: readonly string[] = [...Object.keys(MODEL_SETTINGS), ...Object.keys(SHARED_SETTINGS)];
/** What a model is made of besides the steps in between: what a kept model keeps, and a copy copies. */
export const MODEL_PARTS: readonly string[] = [...Object.keys(MODEL_SETTINGS), 'model'];

const FIRST_STATES: Readonly<Record<string, object>> = { model: { spacing: 50 }, section: { trace: [], corridor: 100 } };
/** What an object of settings, or of a step, begins with. */
export const firstState = (kind: string): object => ({
	...(MODEL_SETTINGS[kind] ?? SHARED_SETTINGS[kind])?.state(),
	...FIRST_STATES[kind]
});
/** What is stored of an object, to be changed in part: of what is damaged nothing is taken over. */
export const wholeState = (o: Pick<ObjectRow, 'name' | 'state'>, kind: StoredKind): Record<string, unknown> =>
	stateIfWhole({ ...o, kind }, kind) ? o.state : { ...firstState(kind) };
const NAMES: Readonly<Record<string, string>> = { section: MAIN_SECTION };
const MOST_MODELS = 50;

type StepRecipe = Recipe & { step: ChainStep };
const steps = (shared: boolean): StepRecipe[] => RECIPES.filter((r): r is StepRecipe => r.step !== undefined && !r.step.shared === !shared);

/** Kind of a source as recipes know it: of a table, or of what else was brought in. */
const feedKind = (o: { kind: string; state: Record<string, unknown> }): string => (o.kind === 'table' ? tableState(o.state).kind : o.kind);

interface Part {
	kind: string;
	name: string;
	state: object;
	contentHash?: string;
}

async function insert(tx: Executor, projectId: string, part: Part, modelId: string | null): Promise<string> {
	const setting = SETTINGS.includes(part.kind);
	const [row] = await tx
		.insert(object)
		.values({
			projectId,
			kind: part.kind,
			name: part.name,
			state: { ...part.state },
			modelId,
			createdBy: actor().name,
			contentHash: setting ? sourceHash(part.kind, { ...part.state }) : (part.contentHash ?? '')
		})
		.returning({ id: object.id });
	return row!.id;
}

const tie = async (tx: Executor, objectId: string, inputs: Iterable<string>): Promise<void> => {
	const values = [...new Set(inputs)].map((inputId) => ({ objectId, inputId }));
	if (values.length) await tx.insert(objectInput).values(values).onConflictDoNothing();
};

/** The objects that a new project begins with: what all models share, and the first model. */
export async function insertFirstObjects(tx: Executor, projectId: string): Promise<void> {
	const ids = new Map<string, string>();
	for (const [kind, { name, state }] of Object.entries(SHARED_SETTINGS))
		ids.set(kind, await insert(tx, projectId, { kind, name, state: state() }, null));
	for (const r of steps(true)) {
		const id = await insert(tx, projectId, { kind: r.id, name: NAMES[r.id] ?? r.title, state: FIRST_STATES[r.id] ?? {} }, null);
		ids.set(r.id, id);
		await tie(
			tx,
			id,
			r.step.inputs.flatMap((k) => ids.get(k) ?? [])
		);
	}
	await insertModel(tx, projectId, 'Model', {});
}

/**
 * Puts a model with all its parts into a project, and ties it to what feeds it.
 * @param states of its parts by kind; what is left out begins as it does in a new project
 * @param more keys that its steps are built under already, by kind, and its place among the models
 * @returns ids of its parts by kind
 */
export async function insertModel(
	tx: Executor,
	projectId: string,
	name: string,
	states: Readonly<Record<string, object>>,
	{ built = {}, position = 0 }: { built?: Readonly<Record<string, string>>; position?: number } = {}
): Promise<Map<string, string>> {
	const there = await tx
		.select({ id: object.id, kind: object.kind, state: object.state, modelId: object.modelId })
		.from(object)
		.where(and(eq(object.projectId, projectId), isNull(object.removedAt)));
	const ids = new Map<string, string>();
	for (const [kind, part] of Object.entries(MODEL_SETTINGS))
		ids.set(kind, await insert(tx, projectId, { kind, name: part.name, state: states[kind] ?? part.state() }, null));
	const shared = new Map(there.filter((o) => o.modelId === null).map((o) => [o.kind, o.id]));
	for (const r of steps(false)) {
		const state = states[r.id] ?? FIRST_STATES[r.id] ?? {};
		const id = await insert(
			tx,
			projectId,
			{ kind: r.id, name: r.id === 'model' ? name : r.title, state, contentHash: built[r.id] ?? '' },
			null
		);
		ids.set(r.id, id);
		await tie(tx, id, [
			...r.step.inputs.flatMap((k) => ids.get(k) ?? shared.get(k) ?? []),
			...there.filter((o) => r.step.fedBy.includes(feedKind(o))).map((o) => o.id)
		]);
	}
	const modelId = ids.get('model')!;
	await tx.update(object).set({ position }).where(eq(object.id, modelId));
	for (const id of ids.values()) await tx.update(object).set({ modelId }).where(eq(object.id, id));
	// What all models share and is made from a model is made from each.
	for (const r of steps(true))
		if (r.step.inputs.includes('model')) for (const o of there) if (o.kind === r.id) await tie(tx, o.id, [modelId]);
	return ids;
}

/** Ties a new source to all that it feeds. */
export async function tieSource(
	tx: Executor,
	projectId: string,
	source: { id: string; kind: string; state: Record<string, unknown> }
): Promise<void> {
	const kind = feedKind(source);
	const derived = await tx.select({ id: object.id, kind: object.kind }).from(object).where(eq(object.projectId, projectId));
	const fed = derived.filter((o) => recipeOf(o.kind)?.step?.fedBy.includes(kind));
	if (fed.length) await tx.insert(objectInput).values(fed.map((o) => ({ objectId: o.id, inputId: source.id })));
}

const find = (graph: readonly ObjectRow[], id: string): ObjectRow =>
	modelsIn(graph).find((o) => o.id === id) ??
	fail('not-found', 'there is no such model in this project', 'It may have been taken out meanwhile.');

/** Starts another model: an empty one, or a copy of one, which is built as far as that is. @returns its id */
export async function addModel(projectId: string, name: string | undefined, from: string | null): Promise<string> {
	return inProject(projectId, async (tx) => {
		const graph = await loadGraph(tx, projectId);
		if (graph.length === 0) return fail('not-found', 'there is no such project');
		if (modelsIn(graph).length >= MOST_MODELS)
			fail('too-many-models', `a project holds at most ${MOST_MODELS} models`, 'Take some out first.');
		const original = from ? find(graph, from) : null;
		const own = name ?? freeName(graph, original ? `${original.name} (copy)` : 'Model');
		refuseTaken(graph, own);
		const parts = original ? graph.filter((o) => o.modelId === original.id) : [];
		const [last] = await tx
			.select({ position: max(object.position) })
			.from(object)
			.where(and(eq(object.projectId, projectId), eq(object.kind, 'model')));
		const ids = await insertModel(tx, projectId, own, Object.fromEntries(parts.map((o) => [o.kind, o.state])), {
			built: Object.fromEntries(parts.map((o) => [o.kind, o.contentHash])),
			position: (last?.position ?? 0) + 1
		});
		const id = ids.get('model')!;
		await recordChange(
			tx,
			projectId,
			original ? `Copy the model ${original.name}` : `Start the model ${own}`,
			[...ids.values()].map((part) => ({ kind: 'removed', what: 'object', id: part, after: false }))
		);
		return id;
	});
}

/** What follows the faults of a model keeps them as its own. */
async function letGoOf(tx: Executor, projectId: string, graph: readonly ObjectRow[], model: string): Promise<Step[]> {
	const steps: Step[] = [];
	for (const o of graph)
		if (o.kind === 'faults' && o.state['follows'] === model) {
			const { state } = await lockObject(tx, projectId, o.id, o.revision);
			steps.push({ kind: 'state', object: o.id, before: state, after: { faults: stateOf(o, 'faults').faults } });
		}
	return steps;
}

/** Takes a model with all its parts out of the project. @throws ProblemError `last-model` */
export async function removeModel(projectId: string, id: string): Promise<void> {
	await inProject(projectId, async (tx) => {
		const graph = await loadGraph(tx, projectId);
		const model = find(graph, id);
		if (modelsIn(graph).length === 1)
			fail('last-model', 'this is the only model of the project', 'Start another one first, or empty its column.');
		await changeWithin(tx, projectId, `Take out the model ${model.name}`, [
			...(await letGoOf(tx, projectId, graph, id)),
			...graph.filter((o) => o.modelId === id).map((o): Step => ({ kind: 'removed', what: 'object', id: o.id, after: true }))
		]);
	});
}

/** Puts the models of a project into an order. @param ids of all of them, in it */
export async function orderModels(projectId: string, ids: readonly string[]): Promise<void> {
	await doChange(projectId, 'Order the models', async (tx) => {
		const models = modelsIn(await loadGraph(tx, projectId));
		if (models.length !== ids.length || !models.every((m) => ids.includes(m.id)))
			fail('edited-elsewhere', 'models came or went meanwhile', 'Look at the list and order it again; nothing was changed.', 'models');
		const rows = await tx.select({ id: object.id, position: object.position }).from(object).where(eq(object.projectId, projectId));
		return ids.flatMap((id, i): Step[] => {
			const before = rows.find((r) => r.id === id)!.position;
			return before === i ? [] : [{ kind: 'position', object: id, before, after: i }];
		});
	});
}
