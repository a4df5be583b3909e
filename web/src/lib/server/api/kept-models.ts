import { and, asc, eq, isNull } from 'drizzle-orm';
import * as yup from 'yup';
import { canonicalJson, RECIPE_VERSION } from '#core/lineage/key';
import type { Comparison } from '#core/model/compare';
import type { ModelReport } from '#core/project/report';
import { fail } from '#core/problem';
import { readPack } from '#core/formats/pack';
import { db } from '../db/client';
import { keptModel } from '../db/schema';
import { runTask } from '../jobs/threads';
import { changeWithin, doChange, recordChange } from '../objects/changes';
import { actor } from '../objects/actor';
import type { Step } from '../objects/steps';
import { loadGraph, one } from '../objects/graph';
import { sha256 } from '../objects/hash';
import { findProject } from '../objects/projects';
import { builtReport, resultBytes, storeResult } from '../objects/results';
import { comparisonAnswer, keptAnswer, keptListAnswer } from '$lib/api/answers/ground';
import { nothing } from '$lib/api/answers/shapes';
import { bytes, operation } from './operation';

/** What an interpretation is made of, besides the extent; taken up again with a kept model. */
const PARTS = ['column', 'lumping', 'faults', 'shaping', 'model'] as const;
const MOST_KEPT = 100;

async function find(projectId: string, id: string) {
	await findProject(db(), projectId);
	const [row] = await db()
		.select()
		.from(keptModel)
		.where(and(eq(keptModel.projectId, projectId), eq(keptModel.id, id), isNull(keptModel.removedAt)));
	return row ?? fail('not-found', 'there is no such kept model', 'It may have been removed meanwhile.');
}

/** The model as it is built now. @throws ProblemError `not-built` */
async function current(projectId: string) {
	const graph = await loadGraph(db(), projectId);
	const model = one(graph, 'model');
	if (!model.contentHash) return fail('not-built', 'there is no model yet', 'Press Build model under Build.');
	return { graph, model };
}

/** What is different between a kept model and the one that is built now; worked out once for each pair. */
async function comparison(projectId: string, id: string): Promise<{ key: string; report: Omit<Comparison, 'moved'> }> {
	const kept = await find(projectId, id);
	const { model } = await current(projectId);
	const key = sha256(canonicalJson({ kind: 'comparison', version: RECIPE_VERSION, before: kept.resultKey, after: model.contentHash }));
	const known = await builtReport(db(), projectId, key);
	if (known) return { key, report: known.report as unknown as Omit<Comparison, 'moved'> };
	const started = performance.now();
	const [before, after] = await Promise.all([
		resultBytes(db(), projectId, kept.resultKey),
		resultBytes(db(), projectId, model.contentHash)
	]);
	const { pack, report } = await runTask('compareBuilt', { before, after });
	await storeResult(db(), {
		key,
		projectId,
		kind: 'comparison',
		report: { ...report },
		seconds: (performance.now() - started) / 1000,
		pack: readPack(pack)
	});
	return { key, report };
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
			await findProject(db(), params['project']!);
			const rows = await db()
				.select()
				.from(keptModel)
				.where(and(eq(keptModel.projectId, params['project']!), isNull(keptModel.removedAt)))
				.orderBy(asc(keptModel.createdAt));
			const models = [];
			for (const { id, name, createdBy, createdAt, resultKey, parts } of rows) {
				const report = (await builtReport(db(), params['project']!, resultKey))?.report as unknown as ModelReport | undefined;
				models.push({
					id,
					name,
					createdBy,
					createdAt,
					spacing: Number(parts['model']?.['spacing']),
					volumes: report?.volumes.map((v) => ({ unit: v.unit, volume: v.volume })) ?? []
				});
			}
			return { models };
		}
	}),
	operation({
		id: 'keepModel',
		method: 'post',
		path: '/projects/{project}/kept-models',
		tag: 'Build',
		summary: 'Keep the model as it is built now, with its interpretation, under a name',
		answer: keptAnswer,
		reply: 'The kept model',
		body: yup.object({ name: yup.string().trim().min(1).max(200).required() }).noUnknown(),
		run: async ({ params, body }) => {
			const projectId = params['project']!;
			const p = await findProject(db(), projectId);
			const { graph, model } = await current(projectId);
			if (model.outOfDate)
				fail('not-built', 'the model is out of date', 'Build it first: what is kept is a model together with what it was built from.');
			return db().transaction(async (tx) => {
				const known = await tx
					.select({ name: keptModel.name })
					.from(keptModel)
					.where(and(eq(keptModel.projectId, projectId), isNull(keptModel.removedAt)));
				if (known.some((k) => k.name === body.name))
					fail('doubled-name', `a model is kept as "${body.name}" already`, 'Choose another name, or remove that one first.', 'name');
				if (known.length >= MOST_KEPT) fail('too-many-models', `a project keeps at most ${MOST_KEPT} models`, 'Remove some first.');
				const parts: Record<string, Record<string, unknown>> = { extent: { ...p.extent } };
				for (const kind of PARTS) parts[kind] = one(graph, kind).state;
				const [row] = await tx
					.insert(keptModel)
					.values({ projectId, name: body.name, resultKey: model.contentHash, parts, createdBy: actor().name })
					.returning({ id: keptModel.id, name: keptModel.name });
				await recordChange(tx, projectId, `Keep the model ${body.name}`, [
					{ kind: 'removed', what: 'keptModel', id: row!.id, after: false }
				]);
				return row!;
			});
		}
	}),
	operation({
		id: 'takeUpModel',
		method: 'post',
		path: '/projects/{project}/kept-models/{kept}/take-up',
		tag: 'Build',
		summary:
			'Go on from a kept model: column, codes, faults, shape, spacing and extent become what they were; one change that can be undone',
		answer: nothing,
		reply: 'Nothing',
		run: async ({ params }) => {
			const projectId = params['project']!;
			const kept = await find(projectId, params['kept']!);
			await doChange(projectId, `Take up the model ${kept.name}`, async (tx) => {
				// Read where it is written: what changed meanwhile is not overwritten unseen.
				const graph = await loadGraph(tx, projectId);
				const p = await findProject(tx, projectId);
				const steps: Step[] = PARTS.flatMap((kind) => {
					const { id, state } = one(graph, kind);
					const after = kept.parts[kind];
					return after && canonicalJson(after) !== canonicalJson(state)
						? [{ kind: 'state' as const, object: id, before: state, after }]
						: [];
				});
				const extent = kept.parts['extent'];
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
			const row = await find(params['project']!, params['kept']!);
			await db().transaction((tx) =>
				changeWithin(tx, params['project']!, `Remove the kept model ${row.name}`, [
					{ kind: 'removed', what: 'keptModel', id: row.id, after: true }
				])
			);
		}
	}),
	operation({
		id: 'compareModels',
		method: 'get',
		path: '/projects/{project}/kept-models/{kept}/comparison',
		tag: 'Build',
		summary: 'What is different between a kept model and the one built now: volumes, how far surfaces moved, changed contacts',
		answer: comparisonAnswer,
		reply: 'The comparison',
		run: async ({ params }) => (await comparison(params['project']!, params['kept']!)).report
	}),
	operation({
		id: 'getMovement',
		method: 'get',
		path: '/projects/{project}/kept-models/{kept}/movement',
		tag: 'Build',
		summary: 'By vertex of the model built now: distance of its surface from that of the kept model, up is positive',
		reply: 'A pack',
		media: 'application/octet-stream',
		run: async ({ params }) => {
			const { key } = await comparison(params['project']!, params['kept']!);
			return bytes(await resultBytes(db(), params['project']!, key), key);
		}
	})
];
