import * as yup from 'yup';

/** How a parameter is asked for; panels, API and docs read it from the schema. */
export interface Asked {
	label: string;
	/** What its number counts: length units of the project, degrees, or the word itself. */
	unit?: 'length' | 'degrees' | 'share' | 'members';
	/** Where its choices come from: the units of the input that plays this role. */
	unitsOf?: string;
	/** Words for the values of a choice. */
	words?: Readonly<Record<string, string>>;
}

const asked = (a: Asked) => ({ asked: a });

/** A unit of the model that plays a role. */
export const unitOf = (role: string, label = 'Unit') =>
	yup
		.string()
		.trim()
		.min(1)
		.max(100)
		.required()
		.meta(asked({ label, unitsOf: role }));
/** A length above zero, in units of the project. */
export const lengthOf = (label: string, most = 1e6) =>
	yup
		.number()
		.positive()
		.max(most)
		.required()
		.meta(asked({ label, unit: 'length' }));
/** One of some words. */
export const oneOfWords = <T extends string>(label: string, words: Readonly<Record<T, string>>, first: NoInfer<T>) =>
	yup
		.string<T>()
		.oneOf(Object.keys(words) as T[])
		.default(first as never)
		.required()
		.meta(asked({ label, words }));
/** A number between bounds. */
export const numberOf = (label: string, least: number, most: number, unit?: Asked['unit']) =>
	yup
		.number()
		.min(least)
		.max(most)
		.required()
		.meta(asked({ label, ...(unit ? { unit } : {}) }));
export const wholeOf = (label: string, least: number, most: number) => numberOf(label, least, most).integer();

/** A parameter as it is told to whoever asks for one. */
interface ParameterDescription extends Asked {
	name: string;
	type: 'number' | 'text' | 'choice';
	whole: boolean;
	least: number | null;
	most: number | null;
}

interface Described {
	type: string;
	meta?: { asked?: Asked };
	oneOf?: unknown[];
	tests?: { name?: string; params?: Record<string, unknown> }[];
}

/** The parameters of a schema that can be asked for, in their order. */
export function describeParameters(schema: yup.AnySchema): ParameterDescription[] {
	const { fields } = schema.describe() as unknown as { fields: Record<string, Described> };
	return Object.entries(fields).flatMap(([name, d]) => {
		const asked = d.meta?.asked;
		if (!asked) return [];
		const bound = (test: 'min' | 'max', also: 'more' | 'less') => {
			const params = d.tests?.find((t) => t.name === test)?.params;
			const value = params?.[test] ?? params?.[also];
			return typeof value === 'number' ? value : null;
		};
		const numeric = d.type === 'number';
		return [
			{
				name,
				...asked,
				type: numeric ? ('number' as const) : asked.words || asked.unitsOf ? ('choice' as const) : ('text' as const),
				whole: d.tests?.some((t) => t.name === 'integer') ?? false,
				least: numeric ? bound('min', 'more') : null,
				most: numeric ? bound('max', 'less') : null
			}
		];
	});
}
