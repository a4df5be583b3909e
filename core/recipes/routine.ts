import * as yup from 'yup';
import { isRecord } from '../project/guards';
import { fail } from '../problem';
import { TABLE_KINDS, type TableKind } from '../tables/kinds';
import { withFirstValues } from './parameters';
import type { Form, Given, Product, Recipe, RecipeContext } from './recipe';
import { recipeOf } from './register';

/** What a routine is given, under a name of its own. */
interface RoutineInput {
	name: string;
	about?: string;
	form: 'table' | 'grid' | 'lines';
	/** Of a table: how its rows are placed. */
	kind?: TableKind;
	/** Columns that its steps ask for, by their keys. */
	columns?: string[];
}

/** A value that can be set when a routine is run. */
interface RoutineParameter {
	name: string;
	about?: string;
	/** What it is when nothing is said. */
	value: string | number | null;
}

/** One recipe of a chain. A parameter can be `{"parameter": NAME}`: then it is what is set when the routine is run. */
interface RoutineStep {
	name: string;
	recipe: string;
	/** Names of inputs or of steps before it, by the part that they play. */
	inputs: Record<string, string[]>;
	parameters: Record<string, unknown>;
}

/** A way of working: a chain of recipes with open inputs, as a text file. */
export interface Routine {
	malachite: 'routine';
	version: 1;
	name: string;
	about?: string;
	inputs: RoutineInput[];
	parameters: RoutineParameter[];
	steps: RoutineStep[];
	/** Steps whose results are wanted; all others are on the way. */
	results: string[];
}

const word = () => yup.string().trim().min(1).max(200).required();
const about = () => yup.string().max(2000);
const record = <T>() =>
	yup
		.mixed<Record<string, T>>((v): v is Record<string, T> => isRecord(v))
		.meta({ record: true })
		.required();

const routineSchema = yup
	.object({
		malachite: yup.string<'routine'>().oneOf(['routine']).required(),
		version: yup.number<1>().oneOf([1]).required(),
		name: word(),
		about: about(),
		inputs: yup
			.array(
				yup
					.object({
						name: word(),
						about: about(),
						form: yup.string<RoutineInput['form']>().oneOf(['table', 'grid', 'lines']).required(),
						kind: yup.string<TableKind>().oneOf(TABLE_KINDS.map((k) => k.kind)),
						columns: yup.array(word()).max(200)
					})
					.noUnknown()
					.required()
			)
			.max(50)
			.required(),
		parameters: yup
			.array(yup.object({ name: word(), about: about(), value: yup.mixed<string | number>().nullable().defined() }).noUnknown().required())
			.max(100)
			.default([])
			.required(),
		steps: yup
			.array(yup.object({ name: word(), recipe: word(), inputs: record<string[]>(), parameters: record<unknown>() }).noUnknown().required())
			.min(1)
			.max(200)
			.required(),
		results: yup.array(word()).min(1).max(200).required()
	})
	.noUnknown();

const isOpen = (v: unknown): v is { parameter: string } =>
	typeof v === 'object' && v !== null && typeof (v as { parameter?: unknown }).parameter === 'string';

/**
 * Reads a routine from JSON.
 * @throws ProblemError `bad-routine` that says which step and what is wrong
 */
export function readRoutine(json: unknown): Routine {
	let routine: Routine;
	try {
		routine = routineSchema.validateSync(json, { strict: true, abortEarly: true }) as Routine;
	} catch (error) {
		return fail('bad-routine', `this is no routine: ${(error as Error).message}`, 'See docs/grids.md for what one looks like.', 'routine');
	}
	const known = new Set<string>();
	const take = (name: string, what: string) => {
		if (known.has(name)) fail('bad-routine', `two things are called "${name}"`, 'Give each input and step a name of its own.', what);
		known.add(name);
	};
	for (const i of routine.inputs) take(i.name, 'inputs');
	const parameters = new Set(routine.parameters.map((p) => p.name));
	for (const s of routine.steps) {
		const recipe = recipeOf(s.recipe);
		if (!recipe || recipe.step)
			fail('bad-routine', `the step "${s.name}" has an unknown recipe "${s.recipe}"`, undefined, `steps: ${s.name}`);
		for (const [role, names] of Object.entries(s.inputs)) {
			if (!Object.hasOwn(recipe!.roles, role) || !Array.isArray(names))
				fail(
					'bad-routine',
					`"${role}" is no part in ${recipe!.title}`,
					`Its parts are ${Object.keys(recipe!.roles).join(', ')}.`,
					`steps: ${s.name}`
				);
			for (const name of names)
				if (!known.has(name))
					fail(
						'bad-routine',
						`the step "${s.name}" needs "${name}", which is no input and no step before it`,
						undefined,
						`steps: ${s.name}`
					);
		}
		for (const [key, v] of Object.entries(s.parameters))
			if (isOpen(v) && !parameters.has(v.parameter))
				fail(
					'bad-routine',
					`"${key}" of the step "${s.name}" is set by "${v.parameter}", which is no parameter`,
					undefined,
					`steps: ${s.name}`
				);
		take(s.name, 'steps');
	}
	for (const r of routine.results)
		if (!routine.steps.some((s) => s.name === r)) fail('bad-routine', `the result "${r}" is no step`, undefined, 'results');
	return routine;
}

/** Steps with the parameters that they have for some values. @throws ProblemError `unknown-parameter` */
export function boundSteps(routine: Routine, values: Readonly<Record<string, string | number | null>>): RoutineStep[] {
	for (const name of Object.keys(values))
		if (!routine.parameters.some((p) => p.name === name))
			fail(
				'unknown-parameter',
				`${routine.name} has no parameter "${name}"`,
				`It has ${routine.parameters.map((p) => p.name).join(', ') || 'none'}.`,
				name
			);
	const of = new Map(routine.parameters.map((p) => [p.name, Object.hasOwn(values, p.name) ? values[p.name] : p.value]));
	return routine.steps.map((s) => ({
		...s,
		parameters: Object.fromEntries(Object.entries(s.parameters).map(([k, v]) => [k, isOpen(v) ? of.get(v.parameter) : v]))
	}));
}

/** What an input or a step holds while a routine runs. */
export interface RoutineThing extends Omit<Given, 'id' | 'role'> {
	form: Form;
}

/** Whether something can be given for an input. @throws ProblemError `wrong-input`, `unknown-column` */
export function requireFit(i: RoutineInput, t: Pick<RoutineThing, 'form' | 'name' | 'rows'>): void {
	const forms: Record<RoutineInput['form'], readonly Form[]> = { table: ['table', 'places'], grid: ['grid'], lines: ['lines', 'faces'] };
	if (!forms[i.form].includes(t.form))
		fail('wrong-input', `"${i.name}" needs ${i.form === 'lines' ? 'lines' : `a ${i.form}`}; ${t.name} is none`, undefined, i.name);
	const lacking = (i.columns ?? []).filter((c) => t.rows && !t.rows.columns.some((x) => x.key === c));
	if (lacking.length)
		fail(
			'unknown-column',
			`${t.name} lacks ${lacking.length === 1 ? 'the column' : 'the columns'} ${lacking.map((c) => `"${c}"`).join(', ')} that "${i.name}" needs`,
			`It has ${t.rows!.columns.map((c) => c.key).join(', ') || 'none'}.`,
			i.name
		);
}

/**
 * Runs a routine.
 * @param given what each input is
 * @returns what each step made, by its name
 * @throws ProblemError that names the step
 */
export async function runRoutine(
	routine: Routine,
	given: ReadonlyMap<string, RoutineThing>,
	values: Readonly<Record<string, string | number | null>>,
	context: RecipeContext
): Promise<Map<string, { recipe: Recipe; product: Product }>> {
	for (const i of routine.inputs) {
		const t = given.get(i.name);
		// Collars only place the rows of other tables: they need not be there when nothing asks for them.
		if (!t && routine.steps.some((s) => Object.values(s.inputs).some((names) => names.includes(i.name))))
			fail(
				'input-missing',
				`nothing is given for "${i.name}"`,
				i.about ?? `It needs ${i.form === 'lines' ? 'lines' : `a ${i.form}`}.`,
				i.name
			);
		if (t) requireFit(i, t);
	}
	const known = new Map(given);
	const made = new Map<string, { recipe: Recipe; product: Product }>();
	for (const s of boundSteps(routine, values)) {
		const recipe = recipeOf(s.recipe)!;
		context.progress(s.name, made.size / routine.steps.length);
		try {
			const inputs = Object.entries(s.inputs).flatMap(([role, names]) =>
				names.map((name): Given => {
					const t = known.get(name) ?? fail('input-missing', `nothing is given for "${name}"`, undefined, name);
					const r = recipe.roles[role]!;
					if (!(r.kinds?.includes(t.kind) || r.forms?.includes(t.form)))
						fail('wrong-input', `"${name}" can not be "${r.title}"`, undefined, name);
					// Its steps call things by the names of the routine.
					return { ...t, id: name, role, name };
				})
			);
			for (const [role, r] of Object.entries(recipe.roles)) {
				const n = inputs.filter((g) => g.role === role).length;
				if (n < r.least || n > r.most) fail('input-missing', `it needs ${r.least} to ${r.most} of "${r.title}"`, undefined, role);
			}
			const parameters = (await recipe.parameters.validate(withFirstValues(recipe.parameters, s.parameters), { strict: true })) as Record<
				string,
				unknown
			>;
			recipe.refuse?.(inputs, parameters);
			recipe.estimate?.(inputs, parameters, context.project);
			const product = await recipe.run(inputs, parameters, context);
			made.set(s.name, { recipe, product });
			const rows = product.report['table'] as RoutineThing['rows'] | undefined;
			known.set(s.name, {
				form: recipe.form!,
				kind: recipe.id,
				name: s.name,
				state: {},
				report: product.report,
				units: [],
				pack: product.pack,
				...(rows ? { rows } : {})
			});
		} catch (error) {
			const { problem } = error as { problem?: { kind: string; message: string; hint?: string; where?: string } };
			fail(problem?.kind ?? 'step-failed', `the step "${s.name}" failed: ${(error as Error).message}`, problem?.hint, s.name);
		}
	}
	return made;
}

/** An object of a project, as far as a routine is made of it. */
interface ChainObject {
	id: string;
	kind: string;
	name: string;
	form: Form | null;
	state: Readonly<Record<string, unknown>>;
	edges: readonly { role: string; input: string }[];
}

/**
 * The chain of recipes that leads to some results, with what was brought in as its open inputs.
 * @param open parameters that are to be set when it is run, by id of the result and key
 * @throws ProblemError `no-results`, `of-a-model`
 */
export function routineOf(
	name: string,
	objects: readonly ChainObject[],
	wanted: readonly string[],
	open: readonly { object: string; parameter: string; name?: string }[] = []
): Routine {
	const byId = new Map(objects.map((o) => [o.id, o]));
	const order: ChainObject[] = [];
	const sources: ChainObject[] = [];
	const visit = (id: string): void => {
		const o = byId.get(id);
		if (!o || order.includes(o) || sources.includes(o)) return;
		const recipe = recipeOf(o.kind);
		if (recipe?.step || o.kind === 'model' || o.kind === 'kept-model' || o.kind === 'lumping')
			return fail(
				'of-a-model',
				`${o.name} is a part of a model: a routine goes out from tables, grids and lines`,
				'Choose results that are made of those.'
			);
		if (!recipe) return void sources.push(o);
		for (const e of o.edges) visit(e.input);
		order.push(o);
	};
	wanted.forEach(visit);
	if (!order.some((o) => wanted.includes(o.id)))
		return fail('no-results', 'a routine is made of results', 'Choose grids, levels, contours that were made here.', 'objects');
	const formOf = (o: ChainObject): RoutineInput['form'] => (o.kind === 'table' ? 'table' : o.form === 'grid' ? 'grid' : 'lines');
	const parameters: RoutineParameter[] = [];
	const steps = order.map((o): RoutineStep => {
		const inputs: Record<string, string[]> = {};
		for (const e of o.edges) (inputs[e.role] ??= []).push(byId.get(e.input)?.name ?? e.input);
		const own: Record<string, unknown> = { ...o.state };
		for (const p of open.filter((q) => q.object === o.id && Object.hasOwn(own, q.parameter))) {
			const free = p.name ?? p.parameter;
			if (!parameters.some((q) => q.name === free)) parameters.push({ name: free, value: own[p.parameter] as string | number | null });
			own[p.parameter] = { parameter: free };
		}
		return { name: o.name, recipe: o.kind, inputs, parameters: own };
	});
	const columnsOf = (source: ChainObject): string[] => {
		const found = new Set<string>();
		for (const o of order)
			for (const e of o.edges) {
				if (e.input !== source.id) continue;
				const { fields } = recipeOf(o.kind)!.parameters.describe() as unknown as {
					fields: Record<string, { meta?: { asked?: { columnsOf?: string } } }>;
				};
				for (const [key, d] of Object.entries(fields))
					if (d.meta?.asked?.columnsOf === e.role && typeof o.state[key] === 'string' && o.state[key]) found.add(String(o.state[key]));
			}
		return [...found];
	};
	const inputs = sources.map((o): RoutineInput => {
		const form = formOf(o);
		const columns = form === 'table' ? columnsOf(o) : [];
		return {
			name: o.name,
			form,
			...(form === 'table' ? { kind: o.state['kind'] as TableKind } : {}),
			...(columns.length ? { columns } : {})
		};
	});
	return {
		malachite: 'routine',
		version: 1,
		name,
		inputs,
		parameters,
		steps,
		results: order.filter((o) => wanted.includes(o.id)).map((o) => o.name)
	};
}
