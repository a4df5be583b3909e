import * as yup from 'yup';
import { fail } from '#core/problem';
import type { Unit } from '#core/units/column';
import { db } from '../db/client';
import { changeWithin, lockObject } from '../graph/changes';
import { loadGraph, modelsIn, seenByModel } from '../graph/graph';
import { unitsOfObject } from '../graph/inputs';
import { addModel, orderModels, removeModel } from '../graph/models';
import { refuseTaken } from '../store/names';
import { findProject, inProject } from '../store/projects';
import { madeAnswer, modelsAnswer } from '$lib/api/answers/results';
import { nothing } from '$lib/api/answers/shapes';
import { json, operation } from './operation';
import { building, buildStateOf } from './results';
import type { Step } from '../graph/steps';
import { stateOf } from '../graph/states';

const name = yup.string().trim().min(1).max(200);

export const modelOperations = [
	operation({
		id: 'listModels',
		followed: true,
		method: 'get',
		path: '/projects/{project}/models',
		tag: 'Models',
		summary: 'The models of a project in their order, each with its units and state',
		answer: modelsAnswer,
		reply: 'The models',
		run: async ({ params }) => {
			await findProject(db(), params['project']!);
			const graph = await loadGraph(db(), params['project']!);
			const now = await building(params['project']!);
			return {
				models: modelsIn(graph).map((m) => {
					const parts = seenByModel(graph, m.id).filter((o) => o.modelId === m.id);
					const steps = new Set(parts.filter((o) => now.has(o.id)).map(() => m.id));
					return {
						id: m.id,
						name: m.name,
						revision: m.revision,
						state: buildStateOf({ ...m, failure: parts.find((o) => o.failure)?.failure ?? null }, steps),
						createdBy: m.createdBy,
						createdAt: m.createdAt,
						auto: m.auto,
						spacing: stateOf(m, 'model').spacing,
						units: unitsOfObject(graph, m, {}).map(({ id, name: called, color, contact }: Unit) => ({ id, name: called, color, contact })),
						key: m.missing ? '' : m.contentHash
					};
				})
			};
		}
	}),
	operation({
		id: 'addModel',
		created: true,
		method: 'post',
		path: '/projects/{project}/models',
		tag: 'Models',
		summary: 'Start another model: an empty one, or a copy of one with all that it is made of',
		answer: madeAnswer,
		reply: 'Its id',
		body: yup.object({ name, from: yup.string().uuid() }).noUnknown(),
		bodyOptional: true,
		run: async ({ params, body }) => {
			await findProject(db(), params['project']!);
			return json({ id: await addModel(params['project']!, body.name, body.from ?? null) }, 201);
		}
	}),
	operation({
		id: 'changeModel',
		method: 'patch',
		path: '/projects/{project}/models/{object}',
		tag: 'Models',
		summary: 'Change the name of a model, or whether it is built by itself whenever it is out of date; what is left out stays',
		answer: nothing,
		reply: 'Nothing',
		body: yup.object({ name, auto: yup.boolean(), revision: yup.number().integer().required() }).noUnknown(),
		run: async ({ params, body }) => {
			const projectId = params['project']!;
			await findProject(db(), projectId);
			await inProject(projectId, async (tx) => {
				const graph = await loadGraph(tx, projectId);
				if (!modelsIn(graph).some((m) => m.id === params['object'])) fail('not-found', 'there is no such model in this project');
				const row = await lockObject(tx, projectId, params['object']!, body.revision);
				const steps: Step[] = [];
				if (body.name !== undefined && body.name !== row.name) {
					refuseTaken(graph, body.name, row.id);
					steps.push({ kind: 'renamed', object: row.id, before: row.name, after: body.name });
				}
				if (body.auto !== undefined && body.auto !== row.auto)
					steps.push({ kind: 'auto', object: row.id, before: row.auto, after: body.auto });
				if (steps.length === 0) return;
				await changeWithin(tx, projectId, `${steps[0]!.kind === 'renamed' ? 'Rename' : 'Change'} the model ${row.name}`, steps);
			});
		}
	}),
	operation({
		id: 'orderModels',
		method: 'put',
		path: '/projects/{project}/models/order',
		tag: 'Models',
		summary: 'Put the models into an order; the first one is what is meant where no model is said',
		answer: nothing,
		reply: 'Nothing',
		body: yup.object({ models: yup.array(yup.string().uuid().required()).min(1).max(100).required() }).noUnknown(),
		run: async ({ params, body }) => {
			await findProject(db(), params['project']!);
			await orderModels(params['project']!, body.models);
		}
	}),
	operation({
		id: 'removeModel',
		method: 'delete',
		path: '/projects/{project}/models/{object}',
		tag: 'Models',
		summary: 'Take a model with all its parts out of the project; this can be undone',
		answer: nothing,
		reply: 'Nothing',
		run: async ({ params }) => {
			await findProject(db(), params['project']!);
			await removeModel(params['project']!, params['object']!);
		}
	})
];
