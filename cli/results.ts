import { packOfRaster } from '#core/formats/raster-pack';
import { fileName } from '#core/formats/meshes';
import { packValue, type Pack } from '#core/formats/pack';
import { buildModel, type BuiltModel } from '#core/model/build';
import { inTasks, type Run } from '#core/model/compute';
import type { Ground } from '#core/model/fit-ground';
import { unitsOf, withTerrain } from '#core/model/whole';
import { groundInput, type CheckedHoles } from '#core/project/pipeline';
import { ValidationError } from 'yup';
import { fieldProblems, MAIN_SECTION, SECTION_INPUT, type ProjectFile } from '#core/project/project-file';
import { fail, ProblemError } from '#core/problem';
import { misfits } from '#core/mesh/misfit';
import { packOfModel } from '#core/recipes/model';
import { describeReadings, packReadings, readingsOf } from '#core/datasets/readings';
import { rowsOfReport } from '#core/recipes/opened';
import { withFirstValues } from '#core/recipes/parameters';
import type { Form, Given, Recipe, Role } from '#core/recipes/recipe';
import { recipeOf } from '#core/recipes/register';
import { allContacts } from '#core/model/whole';
import type { Box } from '#core/geometry/box';
import type { Unit } from '#core/units/column';
import type { LoadedProject } from './files';
import { resultFiles } from './result-files';

type Spec = NonNullable<ProjectFile['recipes']>[number];
type Thing = Pick<Given, 'kind' | 'name' | 'report' | 'units' | 'pack' | 'rows'> & {
	/** Null of settings. */
	form: Form | null;
	state?: Given['state'];
};

/** What results are made of and from: the project, its first model as it was built, and threads. */
interface ResultsInput {
	loaded: LoadedProject;
	project: ProjectFile & { extent: Box };
	holes: CheckedHoles;
	first: { ground: Ground; built: BuiltModel };
	run: Run;
}

/**
 * Makes the results that a project file lists, each after what it is made of. Further models are built when one needs them.
 * @param put writes a file
 * @returns what could not be made, and why
 */
export async function buildResults(
	{ loaded, project, holes, first, run }: ResultsInput,
	put: (name: string, content: string | Uint8Array) => void
): Promise<{ name: string; why: string }[]> {
	const left: { name: string; why: string }[] = [];
	const tasks = inTasks(run);
	const known = new Map<string, Thing>();
	const grounds = new Map<string, Ground>();
	const plain = (form: Form, kind: string, name: string, pack: Pack): Thing => ({ form, kind, name, report: {}, units: [], pack });
	if (loaded.terrain) known.set(project.terrain?.name ?? 'Terrain', plain('grid', 'terrain', 'Terrain', packOfRaster(loaded.terrain)));
	for (const [name, raster] of loaded.things.grids) known.set(name, plain('grid', 'grid', name, packOfRaster(raster)));

	const { schemes } = project;
	if (schemes?.length)
		known.set('Schemes', { form: null, kind: 'schemes', name: 'Schemes', report: {}, units: [], pack: null, state: { schemes } });
	for (const table of loaded.tables) {
		const readings = readingsOf(table, holes.checked, holes.holes, loaded.terrain, project.lengthUnit);
		known.set(table.name, { ...plain('table', 'table', table.name, packReadings(readings)), rows: describeReadings(readings) });
	}
	const putModel = (name: string, ground: Ground, built: BuiltModel): void => {
		grounds.set(name, ground);
		const pack = packOfModel(ground, built, misfits(built.mesh, allContacts(ground)));
		known.set(name, { form: 'solids', kind: 'model', name, report: {}, units: unitsOf(ground), pack });
	};
	putModel(project.model ?? 'Model', first.ground, first.built);
	for (const { name, trace } of project.section
		? [{ ...project.section, name: project.section.name ?? MAIN_SECTION }, ...(project.section.lines ?? [])]
		: [])
		known.set(SECTION_INPUT + name, { form: 'drawing', kind: 'section', name, report: {}, units: [], pack: null, state: { trace } });
	/** A thing by its name; a further model is built when it is first asked for. */
	const thing = async (name: string): Promise<Thing> => {
		const own = known.get(name);
		if (own) return own;
		const further = project.models?.find((m) => m.name === name);
		if (!further) return fail('unknown-input', `"${name}" is not in the project file, or comes after what is made of it`);
		const { input } = groundInput(loaded.tables, holes, {
			extent: project.extent,
			column: further.column,
			lumping: further.lumping,
			faults: further.faults,
			shaping: further.shaping,
			terrain: loaded.terrain,
			things: loaded.things
		});
		const ground = await tasks.fit(input);
		const { spacing, leastPart, finer } = further;
		putModel(name, ground, await buildModel(ground, { spacing, leastPart, finer, ...tasks }));
		return known.get(name)!;
	};
	const given = async (role: string, r: Role, name: string): Promise<Given> => {
		const t = await thing(name);
		if (!(r.kinds?.includes(t.kind) || (t.form && r.forms?.includes(t.form)))) fail('unknown-input', `"${name}" can not be "${r.title}"`);
		// The parts of a model that a recipe can ask for besides its solids: its fields, and which code is which unit.
		const pack = r.part === 'fields' ? packValue(withTerrain(grounds.get(name)!, null)) : t.pack;
		const codes = project.models?.find((m) => m.name === name)?.lumping ?? project.lumping;
		const state = r.part === 'lumping' ? { codes } : (t.state ?? {});
		const rows = t.rows ?? rowsOfReport(t.report);
		return {
			id: name,
			role,
			kind: r.part ?? t.kind,
			name: t.kind === 'section' ? t.name : name,
			state,
			report: t.report,
			units: t.units,
			pack,
			...(rows ? { rows } : {})
		};
	};
	const make = async (spec: Spec, recipe: Recipe): Promise<void> => {
		const inputs: Given[] = [];
		for (const [role, r] of Object.entries(recipe.roles)) {
			const names = spec.inputs[role] ?? [];
			if (names.length < r.least || names.length > r.most) fail('input-missing', `it needs ${r.least} to ${r.most} of "${r.title}"`);
			for (const name of names) inputs.push(await given(role, r, name));
		}
		const parameters = (await recipe.parameters.validate(withFirstValues(recipe.parameters, spec.parameters), { strict: true })) as Record<
			string,
			unknown
		>;
		recipe.refuse?.(inputs, parameters);
		const { name, lengthUnit, crs, extent } = project;
		const { pack, report } = await recipe.run(inputs, parameters, {
			project: { name, lengthUnit, crs, extent },
			ground: null,
			progress: () => {},
			tasks
		});
		const units = (report['units'] ?? inputs[0]?.units ?? []) as Unit[];
		if (recipe.form) known.set(spec.name, { form: recipe.form, kind: recipe.id, name: spec.name, report, units, pack });
		const base = `results/${fileName(spec.name)}`;
		put(`${base}.json`, `${JSON.stringify(report, null, '\t')}\n`);
		const written = await resultFiles(recipe.form, pack, spec.name, crs, units);
		if (written) put(`${base}.${written[0]}`, written[1]);
	};
	for (const spec of project.recipes ?? []) {
		const recipe = recipeOf(spec.recipe);
		try {
			if (!recipe || recipe.step) fail('unknown-recipe', `there is no recipe "${spec.recipe}"`);
			await make(spec, recipe!);
		} catch (error) {
			if (!(error instanceof ProblemError) && !(error instanceof ValidationError)) throw error;
			left.push({ name: spec.name, why: whyNot(error as Error) });
		}
	}
	return left;
}

const whyNot = (error: Error): string =>
	error instanceof ValidationError
		? fieldProblems(error)
				.map((p) => `${p.path} ${p.message}`)
				.join('; ')
		: error.message;
