import * as yup from 'yup';
import { isRecord } from '#core/project/guards';
import { routineAnswer } from '$lib/api/answers/results';
import { id, list, obj, text } from '$lib/api/answers/shapes';
import { db } from '../db/client';
import { proposeRoutine, runInProject } from '../graph/routines';
import { findProject } from '../store/projects';
import { json, operation } from './operation';

const name = yup.string().trim().min(1).max(200);

export const routineOperations = [
	operation({
		id: 'proposeRoutine',
		method: 'post',
		path: '/projects/{project}/routine-proposals',
		tag: 'Results',
		summary: 'The chain of recipes that leads to some results, as a routine: what was brought in becomes its open inputs',
		answer: routineAnswer,
		reply: 'The routine, as docs/grids.md describes it',
		body: yup
			.object({
				name: name.required(),
				objects: yup.array(yup.string().uuid().required()).min(1).max(100).required(),
				/** Parameters that are set when it is run. */
				open: yup
					.array(
						yup
							.object({ object: yup.string().uuid().required(), parameter: yup.string().max(100).required(), name })
							.noUnknown()
							.required()
					)
					.max(100)
					.default([])
			})
			.noUnknown(),
		run: async ({ params, body }) => {
			await findProject(db(), params['project']!);
			return { ...(await proposeRoutine(params['project']!, body.name, body.objects, body.open ?? [])) };
		}
	}),
	operation({
		id: 'runRoutine',
		created: true,
		method: 'post',
		path: '/projects/{project}/routine-runs',
		tag: 'Results',
		summary: 'Run a routine on objects of a project: its steps become results, in one change; they are built by POST …/build',
		answer: obj({ objects: list(obj({ id: id(), name: text() })) }),
		reply: 'The results that the routine is for',
		body: yup
			.object({
				routine: yup
					.mixed<Record<string, unknown>>((v): v is Record<string, unknown> => isRecord(v))
					.meta({ record: true })
					.required(),
				inputs: yup
					.mixed<Record<string, string>>(
						(v): v is Record<string, string> => isRecord(v) && Object.values(v).every((x) => typeof x === 'string' && x.length <= 40)
					)
					.meta({ record: true })
					.required(),
				values: yup
					.mixed<Record<string, string | number | null>>(
						(v): v is Record<string, string | number | null> =>
							isRecord(v) &&
							Object.values(v).every((x) => x === null || typeof x === 'number' || (typeof x === 'string' && x.length <= 2000))
					)
					.meta({ record: true })
					.default({}),
				/** One run for each value of a parameter. */
				repeat: yup
					.object({
						parameter: name.required(),
						values: yup
							.array(yup.mixed<string | number>((v): v is string | number => typeof v === 'string' || typeof v === 'number').required())
							.min(1)
							.max(100)
							.required()
					})
					.noUnknown()
					.default(undefined)
					.optional()
			})
			.noUnknown(),
		run: async ({ params, body }) => {
			await findProject(db(), params['project']!);
			return json(await runInProject(params['project']!, body), 201);
		}
	})
];
