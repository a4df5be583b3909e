import { canonicalJson, RECIPE_VERSION } from '#core/lineage/key';
import type { Errors } from '#core/model/ensemble';
import { fail } from '#core/problem';
import { readPack } from '#core/formats/pack';
import { db } from '../db/client';
import { terrainOf } from '../objects/terrain';
import { announce } from '../objects/events';
import { loadGraph, one } from '../objects/graph';
import { sha256 } from '../objects/hash';
import { hasResult, resultBytes, storeResult } from '../objects/results';
import type { JobContext } from './queue';
import { runTask } from './threads';

export interface DoubtOptions {
	members: number;
	spacing: number;
	seed: number;
	errors: Errors;
}

/** Many models from data moved within their errors. Equal data, errors and seed give the result that is there already. */
export async function runDoubt(c: JobContext): Promise<Record<string, unknown>> {
	const started = performance.now();
	const { members, spacing, seed, errors } = c.payload as unknown as DoubtOptions;
	const graph = await loadGraph(db(), c.projectId);
	const fields = one(graph, 'fields');
	if (!fields.contentHash || fields.outOfDate)
		return fail('not-built', 'the model is not up to date', 'Build it first: the doubt is about that model.');
	const options = { members, spacing, seed, errors };
	const key = sha256(canonicalJson({ kind: 'doubt', version: RECIPE_VERSION, fields: fields.contentHash, options }));
	if (!(await hasResult(db(), c.projectId, key))) {
		const bytes = await resultBytes(db(), c.projectId, fields.contentHash);
		const { pack, ...rest } = await runTask(
			'runEnsemble',
			{ fields: bytes, terrain: await terrainOf(db(), c.projectId, graph), ...options },
			{ signal: c.signal, progress: (w, s) => c.progress(w, s) }
		);
		c.signal.throwIfAborted();
		await storeResult(db(), {
			key,
			projectId: c.projectId,
			kind: 'doubt',
			report: { ...rest, ...options, fields: fields.contentHash },
			seconds: (performance.now() - started) / 1000,
			pack: readPack(pack)
		});
	}
	await announce(db(), { project: c.projectId, topic: 'objects' });
	return { key };
}
