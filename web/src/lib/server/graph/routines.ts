import { fail } from '#core/problem';
import { withGridRenamed } from '#core/recipes/parameters';
import { boundSteps, readRoutine, requireFit, routineOf, type Routine, type RoutineThing } from '#core/recipes/routine';
import { recipeOf } from '#core/recipes/register';
import { db } from '../db/client';
import { freeName } from '../store/names';
import { loadGraph, seenProject, type ObjectRow, type SeenProject } from './graph';
import { describedInputs } from './inputs';
import { makeObjects, type NewObject } from './made';

/** The chain of recipes that leads to some results, as a routine. @throws ProblemError `no-results`, `of-a-model` */
export async function proposeRoutine(
	projectId: string,
	name: string,
	wanted: readonly string[],
	open: readonly { object: string; parameter: string; name?: string | undefined }[]
): Promise<Routine> {
	const graph = await loadGraph(db(), projectId);
	const unknown = wanted.find((id) => !graph.some((o) => o.id === id));
	if (unknown) fail('not-found', 'one of the results is not in the project any more', 'Choose others.', 'objects');
	return routineOf(
		name,
		graph,
		wanted,
		open.map(({ name: called, ...o }) => ({ ...o, ...(called ? { name: called } : {}) }))
	);
}

interface RunRequest {
	routine: unknown;
	/** Ids of objects by the name of the input. */
	inputs: Readonly<Record<string, string>>;
	values: Readonly<Record<string, string | number | null>>;
	/** One run for each value of a parameter. */
	repeat?: { parameter: string; values: readonly (string | number)[] } | undefined;
}

const MOST_RUNS = 100;

/**
 * Makes the results of a routine in a project, in one change; they are not built yet.
 * @returns ids of those that the routine is for, by the value they were made for
 * @throws ProblemError `bad-routine`, `input-missing`, `wrong-input`, `unknown-column` …
 */
export async function runInProject(projectId: string, r: RunRequest): Promise<{ objects: { id: string; name: string }[] }> {
	const routine = readRoutine(r.routine);
	const seen = await seenProject(db(), projectId);
	const { graph } = seen;
	for (const name of Object.keys(r.inputs))
		if (!routine.inputs.some((i) => i.name === name))
			fail(
				'unknown-input',
				`${routine.name} has no input "${name}"`,
				`Its inputs are ${routine.inputs.map((i) => i.name).join(', ') || 'none'}.`,
				name
			);
	for (const i of routine.inputs) {
		const o = graph.find((x) => x.id === r.inputs[i.name]) ?? fail('input-missing', `nothing is given for "${i.name}"`, i.about, i.name);
		requireFit(i, await told(seen, o));
	}
	if (r.repeat && r.repeat.values.length > MOST_RUNS)
		fail('too-many', `${r.repeat.values.length} runs at once are more than ${MOST_RUNS}`, 'Run it in parts.', 'repeat');
	const runs = r.repeat ? r.repeat.values.map((v) => ({ key: ` ${v}`, set: { [r.repeat!.parameter]: v } })) : [{ key: '', set: {} }];
	const nameOf = (input: string) => graph.find((o) => o.id === r.inputs[input])?.name ?? input;
	const taken = [...graph];
	const list: (NewObject & { key: string; wanted: boolean })[] = [];
	for (const { key, set } of runs) {
		const names = new Map<string, string>();
		for (const s of boundSteps(routine, { ...r.values, ...set })) {
			const name = freeName(taken, `${s.name}${key}`);
			taken.push({ name } as (typeof graph)[number]);
			names.set(s.name, name);
			list.push({
				recipe: s.recipe,
				name,
				key: name,
				wanted: routine.results.includes(s.name),
				// What is made in the same change is named, and gets its id as it is made.
				inputs: Object.fromEntries(
					Object.entries(s.inputs).map(([role, own]) => [
						role,
						own.map((n) => (names.has(n) && n !== s.name ? `made:${names.get(n)}` : r.inputs[n]!))
					])
				),
				parameters: Object.entries(s.inputs)
					.flatMap(([, own]) => own)
					.reduce((p, n) => withGridRenamed(recipeOf(s.recipe)!.parameters, p, n, names.get(n) ?? nameOf(n)), s.parameters)
			});
		}
	}
	const ids = await makeObjects(projectId, `Run ${routine.name}`, list);
	return { objects: list.flatMap((o) => (o.wanted ? [{ id: ids.get(o.name!)!, name: o.name! }] : [])) };
}

const READINGS = 'readings';
/** Any rows at all: what there is in their columns is wanted. */
const ANY_ROWS = { roles: { [READINGS]: { title: 'Readings', forms: ['table', 'places'] as const, least: 1, most: 1 } } };

/** What is known of an object that is given for an input. */
async function told(seen: SeenProject, o: ObjectRow): Promise<Pick<RoutineThing, 'form' | 'name' | 'rows'>> {
	const form = o.form ?? fail('wrong-input', `${o.name} can not be given to a routine`, 'Choose a table, a grid or lines.');
	if (form !== 'table' && form !== 'places') return { form, name: o.name };
	const [known] = await describedInputs(db(), seen, { edges: [{ role: READINGS, input: o.id }] }, ANY_ROWS, false);
	return { form, name: o.name, ...(known?.rows ? { rows: known.rows } : {}) };
}
