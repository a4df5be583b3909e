import * as yup from 'yup';

/** Words that answers of the API are described with; what is described is there unless it is said to be optional. */
export const text = () => yup.string().defined();
export const word = <T extends string>(...words: T[]) => yup.string<T>().oneOf(words).defined();
export const id = () => yup.string().uuid().defined();
/** ISO 8601, UTC. */
export const time = () => yup.string().meta({ format: 'date-time' }).defined();
export const num = () => yup.number().defined();
/** A number, null where it is none (JSON has no other word for it). */
export const numOrNone = () => yup.number().nullable().defined();
export const int = () => yup.number().integer().defined();
export const flag = () => yup.boolean().defined();
export const obj = <S extends yup.ObjectShape>(shape: S) => yup.object(shape).noUnknown().default(undefined).defined();
export const list = <S extends yup.AnySchema>(of: S) =>
	yup
		.array(of as unknown as yup.ISchema<yup.InferType<S>>)
		.default(undefined)
		.defined();
/** Numbers of a fixed count. */
export const numbers = <T extends number[]>(count: T['length']) =>
	yup.array(yup.number().defined()).length(count).defined() as unknown as yup.Schema<T>;
/** An object with any names, all of one kind. */
export const record = <S extends yup.AnySchema>(of: S) => yup.mixed<Record<string, yup.InferType<S>>>().meta({ values: of }).defined();
export const maybe = <S extends yup.AnySchema>(s: S) => s.nullable() as unknown as yup.Schema<yup.InferType<S> | null>;
export const opt = <S extends yup.AnySchema>(s: S) => s.optional() as unknown as yup.Schema<yup.InferType<S> | undefined>;
/** JSON of any kind: what depends on what the thing is. */
export const any = () => yup.mixed().nullable().optional() as unknown as yup.Schema<unknown>;
export const anyRecord = () => yup.mixed<Record<string, unknown>>().meta({ record: true }).defined();
/** An object whose shape depends on what it tells of, as far as it is known. */
export const recordOf = <T extends object>() => yup.mixed<T>().meta({ record: true }).defined();
/** What is described by a schema and known by a narrower type of core. */
export const typed = <T extends Wide, Wide = unknown>(schema: yup.Schema<Wide>) => schema as unknown as yup.Schema<T>;
export const nothing = obj({});

/** An answer as it is sent and read: what may be missing is optional. */
export type Answer<S extends yup.AnySchema> = Plain<yup.InferType<S>>;
type Plain<T> = T extends readonly unknown[]
	? { [K in keyof T]: Plain<T[K]> }
	: T extends object
		? { [K in keyof T as undefined extends T[K] ? never : K]: Plain<T[K]> } & {
				[K in keyof T as undefined extends T[K] ? K : never]?: Plain<T[K]>;
			}
		: T;
