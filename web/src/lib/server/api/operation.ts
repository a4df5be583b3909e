import type { Answer } from '$lib/api/answers/shapes';
import type { TakenBy } from '$lib/api/bodies';
import type { AnySchema, ObjectSchema, Schema } from 'yup';

type Method = 'get' | 'post' | 'put' | 'patch' | 'delete';

/** One act of the API: what it takes, as Yup schemas, and what it does. The router, the OpenAPI page and the tests all read this. */
export interface Operation {
	id: string;
	method: Method;
	/** Below /api/v1, parameters in braces. */
	path: string;
	tag: string;
	summary: string;
	/** Query parameters. */
	query?: ObjectSchema<Record<string, unknown>>;
	/** It is about one model of the project: its id in `model` of the query, the first one when it is left out. */
	ofModel?: true;
	/** JSON body; `bytes` for a raw file. */
	body?: Schema | 'bytes';
	/** The body may be left out; then it is an empty object. */
	bodyOptional?: boolean;
	/** Most bytes of a JSON body; `LARGEST_JSON` when nothing is said. */
	largest?: number;
	/** What comes back, in words. */
	reply: string;
	/** What comes back as JSON, which the tests hold every answer against; files have a media type instead. */
	answer?: AnySchema;
	/** The answer says in a header which transactions it has seen. */
	followed?: true;
	/** The answer comes with status 201. */
	created?: boolean;
	/** Media type of the reply when it is not JSON. */
	media?: string;
	run(input: Input<unknown, Record<string, unknown>>): Promise<unknown>;
}

export interface Input<B, Q> {
	params: Record<string, string>;
	query: Q;
	/** The model that an operation is about (see `ofModel`); null is the first one. */
	model: string | null;
	body: B;
	request: Request;
	/** Sent in `idempotency-key`: what was asked for with the same key is not done again. */
	requestKey: string | null;
}

type BodyOf<S> = S extends Schema ? TakenBy<S> : S extends 'bytes' ? ReadableStream<Uint8Array> : undefined;
type QueryOf<S> = S extends ObjectSchema<infer T> ? T : Record<string, never>;

/** What an operation tells those who ask it, in types alone: its name, its address, and the schemas of what it takes and answers. */
interface Contract<I, P, B, Q, A, M, F> {
	id: I;
	path: P;
	body: B;
	query: Q;
	answer: A;
	ofModel: M;
	followed: F;
}

/** An operation with its contract, which the screens are typed by. */
interface Declared<C> extends Operation {
	/** Never there: a place for the types. */
	readonly contract?: C;
}

type Reply<A> = A extends AnySchema ? Loose<Answer<A>> | Response : Response;
type Loose<T> = T extends string | number | boolean | null | undefined
	? T | (string extends T ? Date : never)
	: T extends readonly unknown[]
		? { readonly [K in keyof T]: Loose<T[K]> }
		: Record<never, never> extends T
			? T | void
			: { readonly [K in keyof T]: Loose<T[K]> };

/** Declares an operation; the handler gets what the schemas let through, typed, and so does who asks it. */
export function operation<
	const I extends string,
	const P extends string,
	B extends Schema | 'bytes' | undefined = undefined,
	Q extends ObjectSchema<never> | ObjectSchema<Record<string, unknown>> | undefined = undefined,
	A extends AnySchema | undefined = undefined,
	M extends true | undefined = undefined,
	F extends true | undefined = undefined
>(
	o: Omit<Operation, 'id' | 'path' | 'body' | 'query' | 'answer' | 'ofModel' | 'followed' | 'run'> & {
		id: I;
		path: P;
		body?: B;
		query?: Q;
		answer?: A;
		ofModel?: M;
		followed?: F;
		run(input: Input<BodyOf<B>, QueryOf<Q>>): Promise<Reply<A>>;
	}
): Declared<Contract<I, P, B, Q, A, M, F>> {
	return o as unknown as Declared<Contract<I, P, B, Q, A, M, F>>;
}

export const json = (value: unknown, status = 200): Response =>
	new Response(JSON.stringify(value), { status, headers: { 'content-type': 'application/json', 'cache-control': 'no-store' } });

/** A file to be saved. */
export const download = (content: string | Uint8Array, media: string, name: string): Response =>
	new Response(content as BodyInit, {
		headers: { 'content-type': media, 'content-disposition': disposition(name), 'cache-control': 'no-store' }
	});

/** RFC 6266: the name in plain letters, and in full for those who can read it. */
const disposition = (name: string): string =>
	`attachment; filename="${name.replace(/[^\w.() -]/g, '_')}"; filename*=UTF-8''${encodeURIComponent(name).replace(/['()*]/g, (c) => `%${c.charCodeAt(0).toString(16).toUpperCase()}`)}`;

/** Bytes for the panes. */
export const bytes = (content: Uint8Array, etag?: string): Response =>
	new Response(content as BodyInit, {
		headers: { 'content-type': 'application/octet-stream', 'cache-control': 'private, no-cache', ...(etag ? { etag: `"${etag}"` } : {}) }
	});
