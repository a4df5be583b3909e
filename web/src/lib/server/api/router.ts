import { sql } from 'drizzle-orm';
import * as yup from 'yup';
import { SNAPSHOT_HEADER } from '$lib/api/snapshots';
import { fail, ProblemError } from '#core/problem';
import { db } from '../db/client';
import { actAs, actorOf } from '../store/actor';
import { json, type Operation } from './operation';
import { problemResponse } from '../problems';
import { OPERATIONS } from './register';

interface Route {
	operation: Operation;
	pattern: RegExp;
	names: string[];
}

const routes: Route[] = OPERATIONS.map((operation) => {
	const names = [...operation.path.matchAll(/\{(\w+)\}/g)].map((m) => m[1]!);
	return { operation, names, pattern: new RegExp(`^${operation.path.replaceAll('.', '\\.').replace(/\{\w+\}/g, '([^/]+)')}$`) };
});

/** Most bytes of a JSON body: it is read and guarded on the thread that answers everybody. */
const LARGEST_JSON = 4 * 1024 * 1024;
const DEEPEST_JSON = 40;
const MOST_VALUES = 400_000;
const UUID = /^[0-9a-f]{8}(-[0-9a-f]{4}){3}-[0-9a-f]{12}$/i;
const REQUEST_KEY = /^[\w-]{8,100}$/;

/** Finds the operation of a request, guards what comes in, runs it and makes a response of what comes out. */
export async function route(request: Request, path: string): Promise<Response> {
	try {
		return await actAs(actorOf(request), () => answer(request, path));
	} catch (error) {
		return problemResponse(error);
	}
}

async function answer(request: Request, path: string): Promise<Response> {
	const method = request.method === 'HEAD' ? 'get' : request.method.toLowerCase();
	const fitting = routes.map((r) => ({ r, m: r.pattern.exec(path) })).filter((x) => x.m);
	if (fitting.length === 0)
		fail('not-found', `there is nothing at /api/v1${path.slice(0, 200)}`, 'The API is described at /api/v1/openapi.json.');
	const found = fitting.find((x) => x.r.operation.method === method);
	if (!found)
		return refuseMethod(
			request.method,
			path,
			fitting.map((x) => x.r.operation.method.toUpperCase())
		);
	const { operation, names } = found.r;
	const params = Object.fromEntries(names.map((n, i) => [n, decoded(found.m![i + 1]!)]));
	refuseWhatIsNoText(params);
	for (const n of ['project', 'object', 'job', 'file', 'viewpoint', 'kept', 'card'])
		if (params[n] !== undefined && !UUID.test(params[n])) fail('not-found', `there is no such ${n}`);
	const url = new URL(request.url);
	const model = operation.ofModel ? takeModel(url) : null;
	const query = operation.query || operation.ofModel ? await readQuery(url, operation.query ?? NOTHING) : {};
	const body =
		operation.body === 'bytes'
			? (request.body ??
				fail('no-body', 'the request has no body', 'Send the file with a content-type, for example application/octet-stream.'))
			: operation.body
				? operation.bodyOptional && isEmpty(request)
					? await operation.body.validate({})
					: await readBody(request, operation.body, operation.largest ?? LARGEST_JSON)
				: undefined;
	const snapshot = operation.followed ? await snapshotNow() : null;
	const result = await operation.run({ params, query, model, body, request, requestKey: requestKey(request) });
	const response = result instanceof Response ? result : json(result ?? {});
	if (snapshot) response.headers.set(SNAPSHOT_HEADER, snapshot);
	return request.method === 'HEAD' ? new Response(null, { status: response.status, headers: response.headers }) : response;
}

const NOTHING = yup.object({}).noUnknown();

/** The model that a request names; it is no longer in its query then. */
function takeModel(url: URL): string | null {
	const model = url.searchParams.get('model');
	url.searchParams.delete('model');
	return model === null || UUID.test(model) ? model : fail('not-found', 'there is no such model in this project', undefined, 'model');
}

/** What had been changed for good before an operation began to read. */
async function snapshotNow(): Promise<string> {
	const { rows } = await db().execute<{ now: string }>(sql`select pg_current_snapshot()::text as now`);
	return rows[0]!.now;
}

/** Whether a request has no body at all. */
const isEmpty = (request: Request): boolean =>
	request.body === null ||
	request.headers.get('content-length') === '0' ||
	(!request.headers.has('content-length') && !request.headers.has('transfer-encoding'));

function refuseMethod(method: string, path: string, allowed: readonly string[]): Response {
	const body = {
		type: 'method-not-allowed',
		title: `${method} is not possible at /api/v1${path.slice(0, 200)}`,
		status: 405,
		hint: `It takes ${allowed.join(', ')}. The API is described at /api/v1/openapi.json.`
	};
	return new Response(JSON.stringify(body), {
		status: 405,
		headers: { 'content-type': 'application/problem+json', allow: allowed.join(', ') }
	});
}

function decoded(part: string): string {
	try {
		return decodeURIComponent(part);
	} catch {
		return fail(
			'bad-address',
			'the address is not written as addresses are',
			'Write other characters than letters and digits as %XX in UTF-8.'
		);
	}
}

function requestKey(request: Request): string | null {
	const key = request.headers.get('idempotency-key');
	if (key !== null && !REQUEST_KEY.test(key))
		fail('invalid-input', 'idempotency-key must be 8 to 100 letters, digits or hyphens', 'A random UUID does.', 'idempotency-key');
	return key;
}

async function readQuery(url: URL, schema: yup.ObjectSchema<Record<string, unknown>>): Promise<Record<string, unknown>> {
	const given = Object.fromEntries(url.searchParams);
	const unknown = Object.keys(given).find((k) => !Object.hasOwn(schema.fields, k));
	if (unknown !== undefined)
		fail(
			'invalid-input',
			`the query has "${unknown.slice(0, 100)}", which is not known here`,
			`It may have: ${Object.keys(schema.fields).join(', ') || 'nothing'}.`,
			unknown.slice(0, 100)
		);
	refuseWhatIsNoText(given);
	return schema.validate(given, { abortEarly: false });
}

/** The database keeps every character but NUL and halves of surrogate pairs. What nests without end, or has no end of values, is no input. */
function refuseWhatIsNoText(value: unknown): void {
	let values = 0;
	const look = (v: unknown, depth: number): void => {
		if (++values > MOST_VALUES)
			fail('invalid-input', `the body holds more than ${MOST_VALUES.toLocaleString('en')} values`, 'Send it in parts.');
		if (depth > DEEPEST_JSON)
			fail('invalid-input', `the body nests deeper than ${DEEPEST_JSON} levels`, 'The API is described at /api/v1/openapi.json.');
		if (typeof v === 'string') {
			if (v.includes('\0') || !v.isWellFormed())
				fail('invalid-input', 'a text holds characters that are none', 'Leave out NUL and halves of surrogate pairs.');
		} else if (Array.isArray(v)) for (const x of v) look(x, depth + 1);
		else if (typeof v === 'object' && v !== null)
			for (const k of Object.keys(v)) {
				look(k, depth);
				look((v as Record<string, unknown>)[k], depth + 1);
			}
	};
	look(value, 0);
}

/** The text of a body, refused as soon as it is too long; what still comes is read and thrown away, so that the sender hears why. */
async function readText(request: Request, most: number): Promise<string> {
	const tooLarge = () => fail('file-too-large', `the body is larger than ${(most / 1048576).toFixed(0)} MiB`, 'Send it in parts.');
	const reader = request.body?.getReader();
	if (!reader) return '';
	const parts: Uint8Array[] = [];
	let size = 0;
	for (;;) {
		const { done, value } = await reader.read();
		if (done) break;
		size += value.length;
		if (size > 16 * most) break;
		if (size <= most) parts.push(value);
	}
	if (size > most) tooLarge();
	return new TextDecoder().decode(Buffer.concat(parts));
}

async function readBody(request: Request, schema: yup.Schema, most: number): Promise<unknown> {
	if (!/^application\/json\s*(;|$)/i.test(request.headers.get('content-type') ?? ''))
		throw new ProblemError({
			kind: 'unsupported-media-type',
			message: 'the body must be JSON',
			hint: 'Send it with content-type application/json.'
		});
	const text = await readText(request, most);
	let value: unknown;
	try {
		value = JSON.parse(text);
	} catch (error) {
		return fail('not-json', `the body is not JSON: ${(error as Error).message.slice(0, 200)}`);
	}
	refuseWhatIsNoText(value);
	// A long list of mistakes is not made: the first of them are enough to mend the rest.
	return schema.validate(value, { abortEarly: text.length > 100_000, strict: true });
}
