import { readPack, writePack } from '#core/formats/pack';
import { fail } from '#core/problem';
import { db } from '../db/client';
import { describedInputs, inputBytes, projectFacts } from '../graph/inputs';
import { drafted } from '../graph/made';
import type { GivenBytes } from '../threads/tasks';
import { runTask } from '../threads/threads';

/** A preview that takes longer is not waited for. */
const PATIENCE_MS = 15_000;

/**
 * What a recipe would make, at a first look: a grid has a quarter of its cells or fewer. Nothing is stored.
 * @param asked ends the work when nobody waits for it any more
 * @returns a pack of the form of the recipe; what is said of it stands in its `report`
 * @throws ProblemError `no-preview`, `too-slow`, and what the recipe says of its inputs and parameters
 */
export async function previewResult(
	projectId: string,
	id: string,
	chosen: Readonly<Record<string, readonly string[]>>,
	parameters: Record<string, unknown>,
	asked: AbortSignal
): Promise<Uint8Array> {
	const draft = await drafted(projectId, id, chosen, parameters);
	if (!draft.recipe.previews) fail('no-preview', `${draft.recipe.title} has no preview`, 'Make it and build it.');
	const described = await describedInputs(db(), draft.seen, { edges: draft.edges }, draft.recipe);
	const inputs: GivenBytes[] = [];
	for (const d of described) inputs.push({ ...d, bytes: await inputBytes(draft.seen, d) });
	const patience = AbortSignal.timeout(PATIENCE_MS);
	const message = {
		recipe: id,
		inputs,
		parameters: draft.parameters,
		project: projectFacts(draft.seen.project),
		ground: null,
		preview: true
	};
	try {
		const { bytes, report } = await runTask('runRecipe', message, { signal: AbortSignal.any([asked, patience]) });
		const { info, arrays } = readPack(bytes);
		return writePack({ info: { ...info, form: draft.recipe.form, report }, arrays });
	} catch (error) {
		if (patience.aborted) fail('too-slow', 'a preview of this takes too long', 'Make it and build it: that goes on in the background.');
		throw error;
	}
}
