import * as yup from 'yup';
import { fail, ProblemError } from '#core/problem';
import { json, type Operation } from './operation';
import { problemResponse } from './problems';
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

const LARGEST_JSON = 32 * 1024 * 1024;
const UUID = /^[0-9a-f]{8}(-[0-9a-f]{4}){3}-[0-9a-f]{12}$/i;

/** Finds the operation of a request, guards what comes in, runs it and makes a response of what comes out. */
export async function route(request: Request, path: string): Promise<Response> {
	try {
		const method = request.method.toLowerCase();
		const fitting = routes.map((r) => ({ r, m: r.pattern.exec(path) })).filter((x) => x.m);
		if (fitting.length === 0) fail('not-found', `there is nothing at /api/v1${path}`, 'The API is described at /api/v1/openapi.json.');
		const found = fitting.find((x) => x.r.operation.method === method);
		if (!found) throw new ProblemError({ kind: 'not-found', message: `${request.method} is not possible at /api/v1${path}`, hint: 'The API is described at /api/v1/openapi.json.' });
		const { operation, names } = found.r;
		const params = Object.fromEntries(names.map((n, i) => [n, decodeURIComponent(found.m![i + 1]!)]));
		refuseWhatIsNoText(params);
		for (const n of ['project', 'object', 'job', 'file', 'viewpoint']) if (params[n] !== undefined && !UUID.test(params[n])) fail('not-found', `there is no such ${n}`);
		const query = operation.query ? await readQuery(new URL(request.url), operation.query) : {};
		const body = operation.body === 'bytes' ? (request.body ?? fail('no-body', 'the request has no body', 'Send the file with a content-type, for example application/octet-stream.')) : operation.body ? await readBody(request, operation.body) : undefined;
		const result = await operation.run({ params, query, body, request });
		return result instanceof Response ? result : json(result ?? {});
	} catch (error) {
		return problemResponse(error);
	}
}

async function readQuery(url: URL, schema: yup.ObjectSchema<Record<string, unknown>>): Promise<Record<string, unknown>> {
	const given = Object.fromEntries(url.searchParams);
	const unknown = Object.keys(given).find((k) => !Object.hasOwn(schema.fields, k));
	if (unknown !== undefined) fail('invalid-input', `the query has "${unknown.slice(0, 100)}", which is not known here`, `It may have: ${Object.keys(schema.fields).join(', ')}.`, unknown.slice(0, 100));
	refuseWhatIsNoText(given);
	return schema.validate(given, { abortEarly: false });
}

/** The database keeps every character but NUL and halves of surrogate pairs. */
function refuseWhatIsNoText(value: unknown): void {
	if (typeof value === 'string') {
		if (value.includes('\0') || !value.isWellFormed()) fail('invalid-input', 'a text holds characters that are none', 'Leave out NUL and halves of surrogate pairs.');
	} else if (typeof value === 'object' && value !== null)
		for (const [k, v] of Object.entries(value)) {
			refuseWhatIsNoText(k);
			refuseWhatIsNoText(v);
		}
}

async function readBody(request: Request, schema: yup.Schema): Promise<unknown> {
	if (!(request.headers.get('content-type') ?? '').startsWith('application/json')) fail('not-json', 'the body must be JSON', 'Send it with content-type application/json.');
	const text = await request.text();
	if (text.length > LARGEST_JSON) fail('file-too-large', 'the body is too large');
	let value: unknown;
	try {
		value = JSON.parse(text);
	} catch (error) {
		return fail('not-json', `the body is not JSON: ${(error as Error).message}`);
	}
	refuseWhatIsNoText(value);
	return schema.validate(value, { abortEarly: false, strict: true });
}
