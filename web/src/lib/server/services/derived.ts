import { readPack, writePack } from '#core/formats/pack';
import { fail } from '#core/problem';
import { drafted, suggestion } from '../graph/made';
import { madeNow, madeNowKey, packMadeNow } from '../graph/made-now';
import { resultFile, type Source } from './result-files';
import type { SourceFile } from './source-files';
import { sendPack } from './packs';

/** What is wanted of a recipe that is quick enough to wait for: inputs by role, and parameters as far as they are said. */
export interface Wanted {
	recipe: string;
	inputs: Readonly<Record<string, readonly string[]>>;
	parameters: Record<string, unknown>;
}

/** @throws ProblemError `not-at-once`, `input-missing`, `not-built`, or what is wrong with the parameters */
async function draftOf(projectId: string, { recipe: id, inputs: chosen, parameters: given }: Wanted) {
	const first = await suggestion(projectId, id, chosen, given);
	const { recipe, seen, edges, parameters } = await drafted(projectId, id, chosen, first.parameters);
	if (!recipe.atOnce)
		fail(
			'not-at-once',
			`${recipe.title} may take longer than one waits`,
			'Make a result by it (POST …/results), and build that.',
			'recipe'
		);
	const inputs = edges.map((e) => ({ role: e.role, object: seen.graph.find((o) => o.id === e.input)! }));
	for (const { object, role } of inputs) if (object.missing) fail('not-built', `${object.name} is not built yet`, 'Build it first.', role);
	return { recipe, seen, inputs, parameters, name: first.name };
}

/**
 * What a recipe makes of objects as they stand built, without a result of its own: stored as long as these are there.
 * @returns a pack of the form of the recipe; what is said of it stands in its `report`
 * @throws ProblemError as `draftOf`
 */
export async function sendDerived(projectId: string, wanted: Wanted, request: Request): Promise<Response> {
	const { recipe, seen, inputs, parameters } = await draftOf(projectId, wanted);
	return sendPack(`derived ${madeNowKey(recipe.id, inputs, parameters).key}`, request, async () => {
		const { report } = await madeNow(seen, recipe.id, inputs, parameters);
		const { info, arrays } = readPack((await packMadeNow(seen, recipe.id, inputs, parameters)).bytes);
		return writePack({ info: { ...info, form: recipe.form, report }, arrays });
	});
}

/** The same as a file of an open format. @throws ProblemError `unknown-format`, or as `draftOf` */
export async function exportDerived(project: Source['project'], wanted: Wanted, format: string): Promise<SourceFile> {
	const { recipe, seen, inputs, parameters, name } = await draftOf(project.id, wanted);
	const report = await madeNow(seen, recipe.id, inputs, parameters);
	const { bytes } = await packMadeNow(seen, recipe.id, inputs, parameters);
	const node = { name, form: recipe.form, kind: recipe.id, modelId: null, state: {} };
	return resultFile({ project, node, bytes, report: report.report }, format);
}
