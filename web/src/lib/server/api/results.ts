import * as yup from 'yup';
import { isRecord } from '#core/project/guards';
import { and, eq, inArray, sql } from 'drizzle-orm';
import { fail } from '#core/problem';
import { describeParameters } from '#core/recipes/parameters';
import { recipeOf, RECIPES } from '#core/recipes/register';
import { db } from '../db/client';
import { job, type BuildFailure, result } from '../db/schema';
import { loadGraph, type ObjectRow } from '../graph/graph';
import { objectBytes } from '../graph/inputs';
import { changeMade, duplicateMade, findMade, makeObject, needs, removeMade, suggestion } from '../graph/made';
import { onlyArrays } from '#core/formats/pack';
import { sendPack } from '../services/packs';
import { findProject } from '../store/projects';
import { OPEN_STATES } from '../jobs/plan';
import {
	accountAnswer,
	madeAnswer,
	needsAnswer,
	recipeListAnswer,
	resultAnswer,
	resultListAnswer,
	storeAnswer,
	suggestionAnswer
} from '$lib/api/answers/results';
import { nothing, type Answer } from '$lib/api/answers/shapes';
import { storeSizes } from '../store/store-sizes';
import { jsonSchemaOf } from './json-schema';
import { json, operation } from './operation';
import { pageOf, pageQuery } from './pages';
import { exportResult } from '../services/result-files';
import { accountOf } from '../services/account';
import { previewResult } from '../services/result-preview';
import { download } from './operation';

const name = yup.string().trim().min(1).max(200);
const chosen = yup
	.mixed<Record<string, string[]>>(
		(v): v is Record<string, string[]> =>
			isRecord(v) &&
			Object.values(v).every(
				(list) => Array.isArray(list) && list.length <= 100 && list.every((x) => typeof x === 'string' && x.length <= 40)
			)
	)
	.meta({ record: 'array' })
	.typeError('inputs must be lists of ids by the part that they play');
const parameters = yup.mixed<Record<string, unknown>>((v): v is Record<string, unknown> => isRecord(v)).meta({ record: true });

/** Objects that a job is about to build, or builds now. */
export async function building(projectId: string): Promise<Set<string>> {
	const rows = await db()
		.select({ id: job.objectId })
		.from(job)
		.where(and(eq(job.projectId, projectId), eq(job.kind, 'node'), inArray(job.state, [...OPEN_STATES])));
	return new Set(rows.flatMap((r) => r.id ?? []));
}

type BuildState = Answer<typeof resultAnswer>['state'];
/** The state of something derived, in words. */
export const buildStateOf = (o: ObjectRow, now: ReadonlySet<string>): BuildState =>
	now.has(o.id) ? 'building' : o.failure ? 'failed' : o.missing ? 'never built' : o.outOfDate ? 'out of date' : 'up to date';

const withoutKey = ({ key: _, ...failure }: BuildFailure) => failure;

async function told(projectId: string, graph: readonly ObjectRow[], rows: readonly ObjectRow[]) {
	const now = await building(projectId);
	const keys = rows.flatMap((o) => o.contentHash || []);
	const stored = keys.length
		? await db()
				.select({
					key: result.key,
					at: result.createdAt,
					seconds: result.seconds,
					report: result.report,
					bytes: sql<number>`octet_length(${result.bytes})`
				})
				.from(result)
				.where(and(eq(result.projectId, projectId), inArray(result.key, keys)))
		: [];
	const byKey = new Map(stored.map(({ key, ...s }) => [key, s]));
	const byId = new Map(graph.map((o) => [o.id, o]));
	const users = new Map<string, string[]>();
	for (const o of graph) if (!recipeOf(o.kind)?.step) for (const i of o.inputs) users.set(i, [...(users.get(i) ?? []), o.name]);
	return rows.map((o) => {
		const inputs: Record<string, string[]> = {};
		for (const e of o.edges) {
			// A part of a model is told as its model.
			(inputs[e.role] ??= []).push(byId.get(e.input)?.modelId ?? e.input);
		}
		return {
			id: o.id,
			recipe: o.kind,
			name: o.name,
			form: o.form,
			state: buildStateOf(o, now),
			failure: o.failure && withoutKey(o.failure),
			revision: o.revision,
			auto: o.auto,
			parameters: o.state,
			inputs,
			usedBy: users.get(o.id) ?? [],
			createdBy: o.createdBy,
			createdAt: o.createdAt,
			built: byKey.get(o.contentHash) ?? null
		};
	});
}

const one = async (projectId: string, id: string) => {
	await findProject(db(), projectId);
	const graph = await loadGraph(db(), projectId);
	return { graph, ...findMade(graph, id) };
};

export const resultOperations = [
	operation({
		id: 'listRecipes',
		method: 'get',
		path: '/recipes',
		tag: 'Results',
		summary: 'All recipes: what each is made of, its parameters with units and bounds, and the form of what comes out',
		answer: recipeListAnswer,
		reply: 'The recipes',
		run: async () => ({
			recipes: RECIPES.map((r) => ({
				id: r.id,
				title: r.title,
				about: r.about,
				version: r.version,
				form: r.form,
				step: r.step !== undefined,
				previews: r.previews === true,
				atOnce: r.atOnce === true,
				...(r.answers ? { answers: r.answers } : {}),
				roles: Object.entries(r.roles).map(([role, { title, forms = [], kinds = [], prefers = [], least, most }]) => ({
					role,
					title,
					forms,
					kinds,
					prefers,
					least,
					most
				})),
				parameters: describeParameters(r.parameters),
				schema: jsonSchemaOf(r.parameters)
			}))
		})
	}),
	operation({
		id: 'listResults',
		followed: true,
		method: 'get',
		path: '/projects/{project}/results',
		tag: 'Results',
		summary: 'Results that people made: recipe, parameters, inputs, state, time, size and what is said of each',
		answer: resultListAnswer,
		reply: 'The results, the first made first',
		query: yup.object(pageQuery(2000)).noUnknown(),
		run: async ({ params, query }) => {
			await findProject(db(), params['project']!);
			const graph = await loadGraph(db(), params['project']!);
			const made = graph.filter((o) => RECIPES.some((r) => r.id === o.kind && !r.step));
			return { total: made.length, results: await told(params['project']!, graph, pageOf(made, query)) };
		}
	}),
	operation({
		id: 'suggestResult',
		method: 'post',
		path: '/projects/{project}/suggestions',
		tag: 'Results',
		summary: 'A name and first parameters for a recipe and what it is to be made of',
		answer: suggestionAnswer,
		reply: 'The suggestion, with the units that can be chosen',
		body: yup.object({ recipe: name.required(), inputs: chosen.required(), parameters }).noUnknown(),
		run: async ({ params, body }) => {
			await findProject(db(), params['project']!);
			return suggestion(params['project']!, body.recipe, body.inputs, body.parameters ?? {});
		}
	}),
	operation({
		id: 'previewResult',
		method: 'post',
		path: '/projects/{project}/previews',
		tag: 'Results',
		summary: 'A first look at what a recipe would make; grids have a quarter of their cells or fewer. Nothing is stored',
		reply: 'A pack (see docs/api.md) by the form of the recipe; what is said of it stands in its info as `report`',
		media: 'application/octet-stream',
		body: yup.object({ recipe: name.required(), inputs: chosen.required(), parameters: parameters.required() }).noUnknown(),
		run: async ({ params, body, request }) => {
			await findProject(db(), params['project']!);
			const bytes = await previewResult(params['project']!, body.recipe, body.inputs, body.parameters, request.signal);
			return new Response(bytes as BodyInit, { headers: { 'content-type': 'application/octet-stream', 'cache-control': 'no-store' } });
		}
	}),
	operation({
		id: 'estimateResult',
		method: 'post',
		path: '/projects/{project}/needs',
		tag: 'Results',
		summary: 'Memory that a recipe will need',
		answer: needsAnswer,
		reply: 'Bytes, free bytes, and whether they fit',
		body: yup.object({ recipe: name.required(), inputs: chosen.required(), parameters: parameters.required() }).noUnknown(),
		run: async ({ params, body }) => needs(params['project']!, body.recipe, body.inputs, body.parameters)
	}),
	operation({
		id: 'makeResult',
		created: true,
		method: 'post',
		path: '/projects/{project}/results',
		tag: 'Results',
		summary: 'Make a named result by a recipe; it is built by POST …/build',
		answer: madeAnswer,
		reply: 'Its id',
		body: yup
			.object({ recipe: name.required(), name, inputs: chosen.required(), parameters: parameters.required(), auto: yup.boolean() })
			.noUnknown(),
		run: async ({ params, body }) => json({ id: await makeObject(params['project']!, body) }, 201)
	}),
	operation({
		id: 'getResult',
		method: 'get',
		path: '/projects/{project}/results/{object}',
		tag: 'Results',
		summary: 'One result with its report',
		answer: resultAnswer,
		reply: 'The result',
		run: async ({ params }) => {
			const { graph, node } = await one(params['project']!, params['object']!);
			return (await told(params['project']!, graph, [node]))[0]!;
		}
	}),
	operation({
		id: 'getAccount',
		method: 'get',
		path: '/projects/{project}/results/{object}/account',
		tag: 'Results',
		summary: 'How a result was made, from the files on, step by step, in words that can go into a report',
		answer: accountAnswer,
		reply: 'The steps, what was brought in first',
		run: async ({ params }) => {
			const { graph, node } = await one(params['project']!, params['object']!);
			return { steps: await accountOf(params['project']!, graph, node) };
		}
	}),
	operation({
		id: 'changeResult',
		method: 'patch',
		path: '/projects/{project}/results/{object}',
		tag: 'Results',
		summary: 'Change name, parameters, inputs of a result, or whether it is built by itself; what is left out stays',
		answer: resultAnswer,
		reply: 'The result',
		body: yup.object({ name, inputs: chosen, parameters, auto: yup.boolean(), revision: yup.number().integer().required() }).noUnknown(),
		run: async ({ params, body }) => {
			await findProject(db(), params['project']!);
			await changeMade(params['project']!, params['object']!, body);
			const { graph, node } = await one(params['project']!, params['object']!);
			return (await told(params['project']!, graph, [node]))[0]!;
		}
	}),
	operation({
		id: 'duplicateResult',
		created: true,
		method: 'post',
		path: '/projects/{project}/results/{object}/duplicate',
		tag: 'Results',
		summary: 'The same once more under another name',
		answer: madeAnswer,
		reply: 'Its id',
		run: async ({ params }) => {
			await findProject(db(), params['project']!);
			return json({ id: await duplicateMade(params['project']!, params['object']!) }, 201);
		}
	}),
	operation({
		id: 'removeResult',
		method: 'delete',
		path: '/projects/{project}/results/{object}',
		tag: 'Results',
		summary: 'Take a result out of the project; one that others are made of only with `used`. This can be undone',
		answer: nothing,
		reply: 'Nothing',
		query: yup.object({ used: yup.boolean().default(false) }).noUnknown(),
		run: async ({ params, query }) => {
			await findProject(db(), params['project']!);
			await removeMade(params['project']!, params['object']!, query.used);
		}
	}),
	operation({
		id: 'getResultPack',
		method: 'get',
		path: '/projects/{project}/results/{object}/pack',
		tag: 'Results',
		summary: 'What a result holds, as typed arrays by its form; all of them, or those that are named (`arrays`, with commas between them)',
		reply: 'A pack (see docs/api.md)',
		media: 'application/octet-stream',
		query: yup.object({ arrays: yup.string().max(500) }).noUnknown(),
		run: async ({ params, query, request }) => {
			const { node } = await one(params['project']!, params['object']!);
			if (node.missing) fail('not-built', `${node.name} is not built yet`, 'Build it first.');
			const wanted = query.arrays?.split(',') ?? null;
			return sendPack(`result ${node.contentHash}${wanted ? ` ${wanted.join()}` : ''}`, request, async () => {
				const bytes = (await objectBytes(params['project']!, node))!;
				return wanted ? onlyArrays(bytes, wanted) : bytes;
			});
		}
	}),
	operation({
		id: 'exportResult',
		method: 'get',
		path: '/projects/{project}/results/{object}/file.{format}',
		tag: 'Results',
		summary:
			'A result as a file, by its form: grids as tif or asc, faces as geojson, solids as obj, stl, glb, vtp, blocks as vti; what is said of any as json or csv',
		reply: 'A file',
		media: 'application/octet-stream',
		run: async ({ params }) => {
			const p = await findProject(db(), params['project']!);
			const { node } = await one(p.id, params['object']!);
			const f = await exportResult(p, node, params['format']!);
			return download(f.bytes, f.media, f.name);
		}
	}),
	operation({
		id: 'getStore',
		method: 'get',
		path: '/projects/{project}/store',
		tag: 'Results',
		summary: 'How much a project takes up in the store, and what of it nothing refers to any more',
		answer: storeAnswer,
		reply: 'Sizes in bytes',
		run: async ({ params }) => {
			await findProject(db(), params['project']!);
			return storeSizes(params['project']!);
		}
	})
];
