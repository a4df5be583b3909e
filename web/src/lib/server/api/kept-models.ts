import * as yup from 'yup';
import { canonicalJson } from '#core/lineage/key';
import type { ModelReport } from '#core/project/report';
import { fail } from '#core/problem';
import { db } from '../db/client';
import { object } from '../db/schema';
import { changeWithin, doChange, lockObject, recordChange } from '../graph/changes';
import { actor } from '../store/actor';
import type { Step } from '../graph/steps';
import { loadGraph, one, seenByModel, type ObjectRow } from '../graph/graph';
import { MODEL_PARTS } from '../graph/models';
import { refuseTaken } from '../store/names';
import { findProject, inProject } from '../store/projects';
import { builtReport } from '../store/results';
import { keptAnswer, keptListAnswer } from '$lib/api/answers/ground';
import { nothing } from '$lib/api/answers/shapes';
import { operation } from './operation';
import { stateOf } from '../graph/states';

const MOST_KEPT = 100;
/** Kind of the objects that kept models are. */
const KEPT = 'kept-model';

async function find(projectId: string, id: string): Promise<{ kept: ObjectRow; graph: readonly ObjectRow[] }> {
	await findProject(db(), projectId);
	const graph = await loadGraph(db(), projectId);
	const kept = graph.find((o) => o.id === id && o.kind === KEPT);
	return { kept: kept ?? fail('not-found', 'there is no such kept model', 'It may have been removed meanwhile.'), graph };
}

/** Interpretation and extent of a kept model, by part. */
const partsOf = (kept: ObjectRow) => stateOf(kept, 'kept-model').parts;

/** A model as it is built now. @throws ProblemError `not-built` */
function current(graph: readonly ObjectRow[], model: string | null): ObjectRow {
	const built = one(seenByModel(graph, model), 'model');
	return built.contentHash ? built : fail('not-built', 'there is no model yet', 'Press Build model under Build.');
}

export const keptModelOperations = [
	operation({
		id: 'listKeptModels',
		method: 'get',
		path: '/projects/{project}/kept-models',
		tag: 'Build',
		summary: 'Models that were kept, with the spacing and the volumes of each',
		answer: keptListAnswer,
		reply: 'The kept models, the first first',
		run: async ({ params }) => {
			const projectId = params['project']!;
			await findProject(db(), projectId);
			const models = [];
			for (const k of (await loadGraph(db(), projectId)).filter((o) => o.kind === KEPT)) {
				const report = (await builtReport(db(), projectId, k.contentHash))?.report as Partial<ModelReport> | undefined;
				models.push({
					id: k.id,
					name: k.name,
					createdBy: k.createdBy,
					createdAt: k.createdAt,
					spacing: Number(partsOf(k)['model']?.['spacing']),
					volumes: report?.volumes?.map((v) => ({ unit: v.unit, volume: v.volume })) ?? []
				});
			}
			return { models };
		}
	}),
	operation({
		id: 'keepModel',
		ofModel: true,
		method: 'post',
		path: '/projects/{project}/kept-models',
		tag: 'Build',
		summary: 'Keep the model as it is built now, with its interpretation, under a name',
		answer: keptAnswer,
		reply: 'The kept model',
		body: yup.object({ name: yup.string().trim().min(1).max(200).required() }).noUnknown(),
		run: async ({ params, model: which, body }) => {
			const projectId = params['project']!;
			await findProject(db(), projectId);
			return inProject(projectId, async (tx, p) => {
				const graph = await loadGraph(tx, projectId);
				const model = current(graph, which);
				if (model.outOfDate)
					fail('not-built', 'the model is out of date', 'Build it first: what is kept is a model together with what it was built from.');
				refuseTaken(graph, body.name);
				if (graph.filter((o) => o.kind === KEPT).length >= MOST_KEPT)
					fail('too-many-models', `a project keeps at most ${MOST_KEPT} models`, 'Remove some first.');
				const seen = seenByModel(graph, which);
				const parts: Record<string, Record<string, unknown>> = { extent: { ...p.extent } };
				for (const kind of MODEL_PARTS) parts[kind] = one(seen, kind).state;
				// What stood there is kept, whatever becomes of the model that they were of.
				parts['faults'] = { faults: stateOf(one(seen, 'faults'), 'faults').faults };
				const [row] = await tx
					.insert(object)
					.values({ projectId, kind: KEPT, name: body.name, contentHash: model.contentHash, state: { parts }, createdBy: actor().name })
					.returning({ id: object.id, name: object.name });
				await recordChange(tx, projectId, `Keep the model ${body.name}`, [{ kind: 'removed', what: 'object', id: row!.id, after: false }]);
				return row!;
			});
		}
	}),
	operation({
		id: 'takeUpModel',
		ofModel: true,
		method: 'post',
		path: '/projects/{project}/kept-models/{kept}/take-up',
		tag: 'Build',
		summary:
			'Go on from a kept model: column, codes, faults, shape, spacing and extent become what they were; one change that can be undone',
		answer: nothing,
		reply: 'Nothing',
		run: async ({ params, model }) => {
			const projectId = params['project']!;
			const { kept } = await find(projectId, params['kept']!);
			await doChange(projectId, `Take up the model ${kept.name}`, async (tx) => {
				// Read where it is written: what changed meanwhile is not overwritten unseen.
				const seen = seenByModel(await loadGraph(tx, projectId), model);
				const p = await findProject(tx, projectId);
				const steps: Step[] = [];
				for (const kind of MODEL_PARTS) {
					const { id, revision } = one(seen, kind);
					const after = partsOf(kept)[kind];
					const { state } = await lockObject(tx, projectId, id, revision);
					if (after && canonicalJson(after) !== canonicalJson(state)) steps.push({ kind: 'state', object: id, before: state, after });
				}
				const extent = partsOf(kept)['extent'];
				if (extent && canonicalJson(extent) !== canonicalJson({ ...p.extent }))
					steps.push({ kind: 'project', before: { extent: p.extent }, after: { extent } });
				return steps;
			});
		}
	}),
	operation({
		id: 'removeKeptModel',
		method: 'delete',
		path: '/projects/{project}/kept-models/{kept}',
		tag: 'Build',
		summary: 'Remove a kept model; this can be undone',
		answer: nothing,
		reply: 'Nothing',
		run: async ({ params }) => {
			const { kept } = await find(params['project']!, params['kept']!);
			await inProject(params['project']!, (tx) =>
				changeWithin(tx, params['project']!, `Remove the kept model ${kept.name}`, [
					{ kind: 'removed', what: 'object', id: kept.id, after: true }
				])
			);
		}
	})
];
