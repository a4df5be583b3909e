import { readPack, writePack } from '#core/formats/pack';
import { fail } from '#core/problem';
import { drafted } from '../graph/made';
import { madeNow, madeNowKey, packMadeNow } from '../graph/made-now';
import { sendPack } from './packs';

/**
 * What a recipe that asks for nothing makes of objects as they stand built, without a result of its own: stored as long as these are there.
 * @param chosen ids by role
 * @returns a pack of the form of the recipe; what is said of it stands in its `report`
 * @throws ProblemError `asks-parameters`, `input-missing`, `input-not-built`
 */
export async function sendDerived(
	projectId: string,
	id: string,
	chosen: Readonly<Record<string, readonly string[]>>,
	request: Request
): Promise<Response> {
	const { recipe, graph, edges } = await drafted(projectId, id, chosen, {});
	if (Object.keys(recipe.parameters.fields).length)
		fail('asks-parameters', `${recipe.title} asks for parameters`, 'Make a result by it (POST …/results), and build that.', 'recipe');
	const inputs = edges.map((e) => ({ role: e.role, object: graph.find((o) => o.id === e.input)! }));
	for (const { object, role } of inputs) if (object.missing) fail('not-built', `${object.name} is not built yet`, 'Build it first.', role);
	return sendPack(`derived ${madeNowKey(id, inputs).key}`, request, async () => {
		const { report } = await madeNow(projectId, graph, id, inputs);
		const { info, arrays } = readPack((await packMadeNow(projectId, graph, id, inputs)).bytes);
		return writePack({ info: { ...info, form: recipe.form, report }, arrays });
	});
}
