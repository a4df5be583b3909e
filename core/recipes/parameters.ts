import * as yup from 'yup';
import { renamedInExpression } from '../grids/grid-expression';

/** How a parameter is asked for; panels, API and docs read it from the schema. */
export interface Asked {
	label: string;
	/** What its number counts: length units of the project, degrees, or the word itself. */
	unit?: 'length' | 'degrees' | 'share' | 'members' | 'seconds' | 'days' | 'date' | 'percent' | 'density';
	/** Where its choices come from: the units of the input that plays this role. */
	unitsOf?: string;
	/** Its choices are the ranks of the schemes that play this role. */
	ranksOf?: string;
	/** Its choices are the columns of the input that plays this role, of these types. */
	columnsOf?: string;
	columnTypes?: readonly ('number' | 'date' | 'text')[];
	/** Words for the values of a choice. */
	words?: Readonly<Record<string, string>>;
	/** Asked for only where another parameter has one of these values. */
	when?: { parameter: string; is: readonly string[] };
	/** Asked for only where this role is played (`true`), or is not. */
	whenRole?: { role: string; played: boolean };
	/** One line that explains it. */
	help?: string;
	/** It may be left out. */
	optional?: boolean;
	/** An expression over the columns of what is put in, or over grids by their names. */
	expression?: 'columns' | 'grids';
}

/** What can be said of a parameter besides its label. */
type Words = Pick<Asked, 'when' | 'whenRole' | 'help'>;

const asked = (a: Asked) => ({ asked: a });
/** A choice that what is put in offers, as text. */
const chosen = (longest: number, a: Asked) => yup.string().trim().min(1).max(longest).required().meta(asked(a));

/** A unit of the model that plays a role. */
export const unitOf = (role: string, label = 'Unit') => chosen(100, { label, unitsOf: role });
/** A rank of the schemes that play a role: scheme and number, or its name. */
export const rankOf = (role: string, label = 'Rank') => chosen(200, { label, ranksOf: role });
/** A length above zero, in units of the project. */
export const lengthOf = (label: string, most = 1e6, words: Words = {}) =>
	yup
		.number()
		.positive()
		.max(most)
		.required()
		.meta(asked({ label, unit: 'length', ...words }));
/** One of some words. */
export const oneOfWords = <T extends string>(label: string, words: Readonly<Record<T, string>>, first: NoInfer<T>, more: Words = {}) =>
	yup
		.string<T>()
		.oneOf(Object.keys(words) as T[])
		.default(first as never)
		.required()
		.meta(asked({ label, words, ...more }));
/** A number between bounds. */
export const numberOf = (label: string, least: number, most: number, unit?: Asked['unit'], words: Words = {}) =>
	yup
		.number()
		.min(least)
		.max(most)
		.required()
		.meta(asked({ label, ...(unit ? { unit } : {}), ...words }));
export const wholeOf = (label: string, least: number, most: number, words: Words = {}) =>
	numberOf(label, least, most, undefined, words).integer();
/** A number between bounds with a first value, so that it can be left out. */
export const numberFrom = (label: string, first: number, least: number, most: number, words: Words & { unit?: Asked['unit'] } = {}) =>
	yup
		.number()
		.min(least)
		.max(most)
		.default(first)
		.required()
		.meta(asked({ label, ...words }));
export const wholeFrom = (label: string, first: number, least: number, most: number, words: Words = {}) =>
	numberFrom(label, first, least, most, words).integer();
/** A number that may be left out: then it is worked out from the data, or does not count. */
export const perhaps = (label: string, least: number, most: number, words: Words & { unit?: Asked['unit'] } = {}) =>
	yup
		.number()
		.min(least)
		.max(most)
		.nullable()
		.default(null)
		.meta(asked({ label, optional: true, ...words }));
/** A column of what plays a role. */
export const columnOf = (role: string, label: string, types: readonly ('number' | 'date' | 'text')[] = ['number'], words: Words = {}) =>
	chosen(200, { label, columnsOf: role, columnTypes: types, ...words });
/** A column that may be left out. */
export const columnPerhaps = (
	role: string,
	label: string,
	types: readonly ('number' | 'date' | 'text')[] = ['number'],
	words: Words = {}
) =>
	yup
		.string()
		.trim()
		.max(200)
		.default('')
		.meta(asked({ label, columnsOf: role, columnTypes: types, optional: true, ...words }));
/** Text that may be left out; `expression` where it is calculated with. */
export const textOf = (label: string, first = '', words: Words & Pick<Asked, 'expression'> = {}) =>
	yup
		.string()
		.trim()
		.max(2000)
		.default(first)
		.meta(asked({ label, optional: true, ...words }));

const DAY = /^\d{4}-\d{2}-\d{2}$/;
const isDay = (v: string): boolean => {
	const time = Date.parse(`${v}T00:00:00Z`);
	return DAY.test(v) && Number.isFinite(time) && new Date(time).toISOString().slice(0, 10) === v;
};
/** A day that may be left out, as year-month-day. */
export const dayPerhaps = (label: string, words: Words = {}) =>
	yup
		.string()
		.trim()
		.default('')
		.test('day', 'is a day as 2024-05-31', (v) => !v || isDay(v))
		.meta(asked({ label, unit: 'date', optional: true, ...words }));
/** Days since 1970-01-01 of such a day. */
export const dayNumber = (day: string): number => Date.parse(`${day}T00:00:00Z`) / 86_400_000;

/** A parameter as it is told to whoever asks for one. */
interface ParameterDescription extends Asked {
	name: string;
	type: 'number' | 'text' | 'choice';
	whole: boolean;
	least: number | null;
	most: number | null;
	/** What it is when nothing is said. */
	first: string | number | null;
}

interface Described {
	type: string;
	meta?: { asked?: Asked };
	oneOf?: unknown[];
	default?: unknown;
	tests?: { name?: string; params?: Record<string, unknown> }[];
}

/** Parameters with what they are when nothing is said. */
export const withFirstValues = (schema: yup.AnyObjectSchema, parameters: Readonly<Record<string, unknown>>): Record<string, unknown> => ({
	...Object.fromEntries(Object.entries((schema.getDefault() ?? {}) as Record<string, unknown>).filter(([, v]) => v !== undefined)),
	...parameters
});

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
				type: numeric
					? ('number' as const)
					: asked.words || asked.unitsOf || asked.ranksOf || asked.columnsOf
						? ('choice' as const)
						: ('text' as const),
				whole: d.tests?.some((t) => t.name === 'integer') ?? false,
				least: numeric ? bound('min', 'more') : null,
				most: numeric ? bound('max', 'less') : null,
				first: typeof d.default === 'string' || typeof d.default === 'number' ? d.default : null
			}
		];
	});
}

/** Parameters in which a grid that goes by its name goes by another one. */
export function withGridRenamed(
	schema: yup.AnySchema,
	parameters: Readonly<Record<string, unknown>>,
	from: string,
	to: string
): Record<string, unknown> {
	const own: Record<string, unknown> = { ...parameters };
	for (const p of describeParameters(schema))
		if (p.expression === 'grids' && typeof own[p.name] === 'string') own[p.name] = renamedInExpression(own[p.name] as string, from, to);
	return own;
}
