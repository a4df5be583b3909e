import { keyOver } from '#core/lineage/key';
import { readPack } from '#core/formats/pack';
import { fail, ProblemError } from '#core/problem';
import type { Recipe } from '#core/recipes/recipe';
import { recipeOf } from '#core/recipes/register';
import { runTask } from '../threads/threads';
import { db } from '../db/client';
import type { ObjectRow, SeenProject } from './graph';
import { sha256 } from '../store/hash';
import { describedInputs, objectBytes, projectFacts } from './inputs';
import { builtReport, resultBytes, storeResult } from '../store/results';

/** Results that are being made now: who asks for one of them waits for it. */
const making = new Map<string, Promise<Record<string, unknown>>>();

/** Under which key a recipe stores what it makes of objects as they stand built. */
export function madeNowKey(
	kind: string,
	inputs: readonly { role: string; object: ObjectRow }[],
	parameters: Record<string, unknown> = {}
): { recipe: Recipe; key: string } {
	const recipe = recipeOf(kind) ?? fail('unknown-recipe', `there is no recipe "${kind}"`);
	const key = keyOver(
		{
			id: '',
			kind,
			contentHash: '',
			recipe: { version: recipe.version, parameters },
			inputs: inputs.map((i) => i.object.id),
			roles: inputs.map((i) => i.role)
		},
		inputs.map((i) => i.object.contentHash),
		sha256
	);
	return { recipe, key };
}

/**
 * What a quick recipe makes of objects as they stand built: the stored result, or made now and stored. An object made by the same
 * recipe of the same has it, too.
 * @returns the key of the result, with its report
 * @throws ProblemError `not-built`
 */
export async function madeNow(
	seen: SeenProject,
	kind: string,
	inputs: readonly { role: string; object: ObjectRow }[],
	parameters: Record<string, unknown> = {}
): Promise<{ key: string; report: Record<string, unknown> }> {
	const { recipe, key } = madeNowKey(kind, inputs, parameters);
	const projectId = seen.project.id;
	const known = await builtReport(db(), projectId, key);
	if (known) return { key, report: known.report };
	const name = `${projectId} ${key}`;
	const work = making.get(name) ?? make();
	making.set(name, work);
	return { key, report: await work.finally(() => making.delete(name)) };

	async function make(): Promise<Record<string, unknown>> {
		const started = performance.now();
		const edges = inputs.map((i) => ({ role: i.role, input: i.object.id }));
		const described = await describedInputs(db(), seen, { edges }, recipe);
		const given = [];
		for (const d of described)
			given.push({
				...d,
				bytes: await objectBytes(
					projectId,
					seen.graph.find((o) => o.id === d.id)!
				)
			});
		const project = projectFacts(seen.project);
		const { bytes, report } = await runTask('runRecipe', { recipe: kind, inputs: given, parameters, project, ground: null });
		await storeResult(db(), { key, projectId, kind, report, seconds: (performance.now() - started) / 1000, pack: readPack(bytes) });
		return report;
	}
}

/** The pack of what a quick recipe makes. Nothing refers to it, so a build that ends meanwhile may clear it away: then it is made once more. */
export async function packMadeNow(...of: Parameters<typeof madeNow>): Promise<{ key: string; bytes: Uint8Array }> {
	const read = async () => {
		const { key } = await madeNow(...of);
		return { key, bytes: await resultBytes(db(), of[0].project.id, key) };
	};
	try {
		return await read();
	} catch (error) {
		if (error instanceof ProblemError && error.problem.kind === 'not-built') return read();
		throw error;
	}
}
