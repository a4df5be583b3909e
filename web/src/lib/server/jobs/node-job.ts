import { freemem } from 'node:os';
import { and, eq, inArray, ne } from 'drizzle-orm';
import { readPack } from '#core/formats/pack';
import { RECIPE_VERSION } from '#core/lineage/key';
import { fail, ProblemError } from '#core/problem';
import type { Described, Recipe } from '#core/recipes/recipe';
import { recipeOf } from '#core/recipes/register';
import { db, unheld } from '../db/client';
import { job, object } from '../db/schema';
import { announce } from '../store/events';
import { isWrittenSince } from '../graph/stored-rows';
import { loadGraph, seenProject, type ObjectRow, type SeenProject } from '../graph/graph';
import { describedInputs, inputBytes, projectFacts } from '../graph/inputs';
import { builtReport, storeResult } from '../store/results';
import { checkedTables, interpretation } from './ground-input';
import type { GivenBytes } from '../threads/tasks';
import { runTask } from '../threads/threads';
import type { JobContext } from './job-context';

/** Says which version of a recipe a job was asked for with. */
export const recipeStamp = (r: Recipe): number => RECIPE_VERSION * 1000 + r.version;

/** A job that can not be done here and now, but may be later or elsewhere: it waits again. */
export class Postponed extends Error {}

/** Inputs that were built are not stored any more: they must be built first. */
export class InputsLost extends Error {
	constructor(readonly objects: readonly string[]) {
		super('inputs are not stored any more');
	}
}

/** How often inputs that change while they are gathered are gathered again. */
const MOST_LOOKS = 5;

/**
 * Builds one object of the graph of its inputs as they stand built, and stores what comes out under the key of just these. What is
 * stored under that key already is taken.
 */
export async function runNode(c: JobContext): Promise<Record<string, unknown>> {
	const started = performance.now();
	const id = String(c.payload['object']);
	const seen = await seenProject(db(), c.projectId);
	let node = find(seen.graph, id);
	const recipe = recipeOf(node.kind);
	if (!recipe || Number(c.payload['stamp'] ?? 0) > recipeStamp(recipe)) throw new Postponed('another version of the program asked for it');
	const before = node.contentHash;
	let made: Made | null = null;
	try {
		if (!node.known) {
			const message = await gathered(c, id, recipe, seen);
			node = message.node;
			if (!node.known) made = await make(c, recipe, message, before);
		}
	} catch (error) {
		const lost = error instanceof ProblemError && LOST.includes(error.problem.kind) ? await lostInputs(c.projectId, id) : [];
		if (lost.length && c.attempt < MOST_LOOKS) throw new InputsLost(lost);
		if (error instanceof ProblemError && !c.signal.aborted) await markFailed(c.projectId, node, error);
		throw error;
	} finally {
		spoken.delete(c.id);
	}
	const seconds = (performance.now() - started) / 1000;
	await unheld(async (tx) => {
		if (made) await storeResult(tx, made);
		await tx
			.update(object)
			.set({ contentHash: node.keyAsIs, failure: null, updatedAt: new Date() })
			.where(and(eq(object.id, id), eq(object.projectId, c.projectId)));
		await c.done(tx, { step: recipe.title.toLowerCase(), object: id, seconds, cached: !made }, { project: c.projectId, topic: 'objects' });
	});
	return {};
}

/** Kinds of problem that say that an input is not there. */
const LOST: readonly string[] = ['not-built', 'input-not-built'];

/** Inputs of a node that could be built, and are not stored. */
async function lostInputs(projectId: string, id: string): Promise<string[]> {
	const graph = await loadGraph(db(), projectId);
	const inputs = graph.find((o) => o.id === id)?.inputs ?? [];
	return graph.filter((o) => inputs.includes(o.id) && o.missing).map((o) => o.id);
}

const find = (graph: readonly ObjectRow[], id: string): ObjectRow =>
	graph.find((o) => o.id === id) ?? fail('not-found', 'it was taken out of the project meanwhile', 'Undo brings it back.');

async function markFailed(projectId: string, node: ObjectRow, error: ProblemError): Promise<void> {
	const { kind, message, hint } = error.problem;
	await db()
		.update(object)
		.set({ failure: { key: node.keyAsIs, type: kind, title: message, hint } })
		.where(and(eq(object.id, node.id), eq(object.projectId, projectId)));
	await announce(db(), { project: projectId, topic: 'objects' });
}

type Gathered = { node: ObjectRow; described: Described[] } & Omit<Parameters<typeof runTask<'runRecipe'>>[1], 'recipe'>;

/** All that a node is made of, read at one time: what changes while it is read is read again. @param seen the project as it was just read */
async function gathered(c: JobContext, id: string, recipe: Recipe, seen: SeenProject): Promise<Gathered> {
	for (let looks = 1; ; looks++) {
		c.signal.throwIfAborted();
		const node = find(seen.graph, id);
		const described = await describedInputs(db(), seen, node, recipe);
		const parameters = (await recipe.parameters.validate(node.state, { stripUnknown: true })) as Record<string, unknown>;
		const project = projectFacts(seen.project);
		recipe.refuse?.(described, parameters);
		const needed = recipe.estimate?.(described, parameters, project).bytes ?? 0;
		await requireRoom(c, needed);
		const ground = !recipe.step
			? null
			: await (recipe.step.shared ? checkedTables : interpretation)(seen, node.modelId, recipe.step.tables);
		const inputs: GivenBytes[] = [];
		for (const d of described) inputs.push({ ...d, bytes: await inputBytes(seen, d) });
		const all = { node, described, inputs, parameters, project, ground };
		if (!(await isWrittenSince(db(), c.projectId, seen.stamp))) return all;
		const later = await seenProject(db(), c.projectId);
		if (find(later.graph, id).keyAsIs === node.keyAsIs) return all;
		if (looks >= MOST_LOOKS)
			return fail('changed-meanwhile', 'what it is made of keeps changing', 'Build again when the changes are made; nothing was stored.');
		seen = later;
	}
}

type Made = Parameters<typeof storeResult>[1];

async function make(c: JobContext, recipe: Recipe, { node, described: _, ...message }: Gathered, before: string): Promise<Made> {
	const started = performance.now();
	const { bytes, report } = await runTask('runRecipe', { recipe: recipe.id, ...message }, { signal: c.signal, progress: c.progress });
	c.signal.throwIfAborted();
	const old = recipe.follow && before ? (await builtReport(db(), c.projectId, before))?.report : undefined;
	return {
		key: node.keyAsIs,
		projectId: c.projectId,
		kind: node.kind,
		report: recipe.follow ? recipe.follow(report, old ?? {}) : report,
		seconds: (performance.now() - started) / 1000,
		pack: readPack(bytes)
	};
}

/** What needs less, bytes, is begun whatever else is at work. */
const LITTLE = 100e6;

/** Memory that nodes need which this process has at work, by job; they may not have taken it yet. */
const spoken = new Map<string, number>();

/** Heavy work waits as long as other work has the memory that it needs. @param needed bytes @throws Postponed, ProblemError `not-enough-memory` */
async function requireRoom(c: JobContext, needed: number): Promise<void> {
	spoken.delete(c.id);
	if (needed < LITTLE) return;
	const free = 0.9 * freemem() - [...spoken.values()].reduce((sum, bytes) => sum + bytes, 0);
	if (needed >= free) {
		const others = await db().$count(job, and(inArray(job.state, ['running', 'cancelling']), eq(job.kind, 'node'), ne(job.id, c.id)));
		if (others > 0) throw new Postponed('other work has the memory');
		fail(
			'not-enough-memory',
			`it needs about ${(needed / 1e9).toFixed(1)} GB; ${(freemem() / 1e9).toFixed(1)} GB are free`,
			'Use a wider spacing or a smaller extent.'
		);
	}
	spoken.set(c.id, needed);
}
