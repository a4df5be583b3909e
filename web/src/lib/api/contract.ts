import type { AnySchema, Schema } from 'yup';
import type { Contracts } from '$lib/server/api/register';
import type { ADDRESSES } from './addresses';
import type { Answer } from './answers/shapes';
import type { SentBy } from './bodies';

/** The contracts by the names of their operations. */
type ByName = { [C in Contracts as C['id']]: C };
export type OperationId = keyof ByName & keyof typeof ADDRESSES;

type Names<P> = P extends `${string}{${infer Name}}${infer Rest}` ? Name | Names<Rest> : never;
type InPath<I extends OperationId> = { [N in Names<ByName[I]['path']>]: string | number };
type InBody<I extends OperationId> = ByName[I]['body'] extends Schema
	? Record<never, never> extends SentBy<ByName[I]['body']>
		? { body?: SentBy<ByName[I]['body']> }
		: { body: SentBy<ByName[I]['body']> }
	: unknown;
type OfModel<I extends OperationId> = ByName[I]['ofModel'] extends true ? { model?: string | null } : unknown;

/** All that an operation is given: what stands in its path, its query, and its JSON in `body`. */
export type Given<I extends OperationId> = InPath<I> &
	OfModel<I> &
	(ByName[I]['query'] extends Schema ? SentBy<ByName[I]['query']> : unknown) &
	InBody<I>;

/** As a list of arguments: none where nothing must be given. */
export type GivenArguments<G> = Record<never, never> extends G ? [given?: G] : [given: G];

type WithAnswer = { [I in OperationId]: ByName[I]['answer'] extends AnySchema ? I : never }[OperationId];
/** Operations that answer JSON; all others answer files or packs. */
export type JsonId = WithAnswer;
export type BytesId = Exclude<OperationId, WithAnswer>;
export type AnswerOf<I extends OperationId> = ByName[I]['answer'] extends infer S ? (S extends AnySchema ? Answer<S> : never) : never;

/** Operations whose answers say what they have seen. */
export type FollowedId = { [I in JsonId]: ByName[I]['followed'] extends true ? I : never }[JsonId];
/** Operations that begin work in the background. */
export type WorkId = { [I in JsonId]: AnswerOf<I> extends { job: string } ? I : never }[JsonId];
/** Operations that take a file as it is. */
export type UploadId = { [I in JsonId]: ByName[I]['body'] extends 'bytes' ? I : never }[JsonId];
