import { fieldProblems, SECTION_INPUT } from '#core/project/project-file';
import { fail, ProblemError } from '#core/problem';
import { and, eq, inArray } from 'drizzle-orm';
import { ValidationError } from 'yup';
import { db } from '../db/client';
import { object } from '../db/schema';
import { loadGraph } from '../graph/graph';
import { sectionsIn } from '../graph/sections';
import { makeObject } from '../graph/made';
import { announce } from '../store/events';
import type { JobContext } from './job-context';
import { payloadOf } from './payloads';
import { inProject } from '../store/projects';

/**
 * Brings in the results of a project file, when what they are made of has been read. One that can not be made is left out and named; the
 * others come.
 */
export async function runResults(c: JobContext): Promise<Record<string, unknown>> {
	const left: { name: string; why: string }[] = [];
	const { recipes, auto = [] } = payloadOf(c, 'results');
	for (const [i, r] of recipes.entries()) {
		c.signal.throwIfAborted();
		c.progress(r.name, i / recipes.length);
		const graph = await loadGraph(db(), c.projectId);
		// A job that is begun again goes on where it was.
		if (graph.some((o) => o.name === r.name && o.kind === r.recipe)) continue;
		try {
			const idOf = (name: string) =>
				(name.startsWith(SECTION_INPUT)
					? sectionsIn(graph).find((o) => o.name === name.slice(SECTION_INPUT.length))
					: graph.find((o) => o.name === name && o.kind !== 'section' && (o.modelId === null || o.kind === 'model'))
				)?.id ?? fail('unknown-input', `"${name}" is not in the project`, 'It may not have been read.');
			const inputs = Object.fromEntries(Object.entries(r.inputs).map(([role, names]) => [role, names.map(idOf)]));
			await makeObject(c.projectId, { recipe: r.recipe, name: r.name, inputs, parameters: r.parameters, auto: r.auto });
		} catch (error) {
			if (!(error instanceof ProblemError) && !(error instanceof ValidationError)) throw error;
			const why =
				error instanceof ValidationError
					? fieldProblems(error)
							.map((p) => `${p.path} ${p.message}`)
							.join('; ')
					: error.message;
			left.push({ name: r.name, why });
		}
	}
	// Until now it would have been built of half of what is read.
	if (auto.length)
		await inProject(c.projectId, async (tx) => {
			const named = and(eq(object.projectId, c.projectId), eq(object.kind, 'model'), inArray(object.name, auto));
			await tx.update(object).set({ auto: true }).where(named);
			await announce(tx, { project: c.projectId, topic: 'objects' });
		});
	return {
		made: recipes.length - left.length,
		left,
		...(left.length ? { message: `${left.map((l) => `${l.name}: ${l.why}`).join('; ')}. These were left out.` } : {})
	};
}
