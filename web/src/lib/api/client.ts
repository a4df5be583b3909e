import { SNAPSHOT_HEADER } from './snapshots';
import { fieldInWords } from '#core/project/wording';

/** An answer of the server that says what went wrong and what can be done. */
export class ApiProblem extends Error {
	constructor(
		readonly status: number,
		readonly body: { type: string; title: string; hint?: string; where?: string; fields?: { path: string; message: string }[] }
	) {
		super(body.title);
	}

	/** One text for a message line. */
	get text(): string {
		const fields = this.body.fields?.map((f) => [fieldInWords(f.path), f.message].filter(Boolean).join(' ')).join('; ');
		return [this.body.title, fields, this.body.hint].filter(Boolean).join('. ').replaceAll('..', '.');
	}
}

/** Tells this browser from others: what was done elsewhere is not undone here unasked. */
export const session = (() => {
	const made = () => Array.from(crypto.getRandomValues(new Uint8Array(16)), (b) => b.toString(16).padStart(2, '0')).join('');
	try {
		const known = localStorage.getItem('malachite.session');
		if (known && /^[\w-]{8,64}$/.test(known)) return known;
		const own = made();
		localStorage.setItem('malachite.session', own);
		return own;
	} catch {
		return made();
	}
})();

/** A key for work that must begin only once, however often its request is sent. */
export const requestKey = (): string =>
	Array.from(crypto.getRandomValues(new Uint8Array(16)), (b) => b.toString(16).padStart(2, '0')).join('');

async function send(path: string, init: RequestInit = {}): Promise<Response> {
	let response: Response;
	try {
		response = await fetch(`/api/v1${path}`, {
			...init,
			headers: { ...(init.headers as Record<string, string>), 'x-malachite-session': session }
		});
	} catch {
		throw new ApiProblem(0, {
			type: 'offline',
			title: 'the server does not answer',
			hint: 'Check that it runs; what you did last was not stored'
		});
	}
	if (response.ok) return response;
	const body = await response.json().catch(() => ({ type: 'internal', title: `the server answered ${response.status}` }));
	throw new ApiProblem(response.status, body);
}

/** Starts work in the background. When the answer is lost, it is asked for once more with the same key, and begins only once. @throws ApiProblem */
export async function startWork(path: string, body?: unknown): Promise<string> {
	const headers = { 'idempotency-key': requestKey(), ...(body === undefined ? {} : { 'content-type': 'application/json' }) };
	const init = { method: 'POST', headers, ...(body === undefined ? {} : { body: JSON.stringify(body) }) };
	const response = await send(path, init).catch((error: unknown) =>
		error instanceof ApiProblem && error.status === 0
			? new Promise((r) => setTimeout(r, 800)).then(() => send(path, init))
			: Promise.reject(error)
	);
	return ((await response.json()) as { job: string }).job;
}

/** Changes of this page that the server has not answered yet. */
const changing = new Set<Promise<unknown>>();

/** Waits for the changes of this page that are under way: who made one reads what came of it. */
export async function changesAnswered(): Promise<void> {
	while (changing.size) await Promise.allSettled([...changing]);
}

/** JSON in, JSON out. @throws ApiProblem */
export async function call<T>(method: string, path: string, body?: unknown): Promise<T> {
	const sent = send(path, {
		method,
		...(body === undefined ? {} : { headers: { 'content-type': 'application/json' }, body: JSON.stringify(body) })
	}).then((response) => response.json() as Promise<T>);
	if (method === 'GET') return sent;
	changing.add(sent);
	try {
		return await sent;
	} finally {
		changing.delete(sent);
	}
}

/** JSON with what it has seen: see `hasSeen`. */
export async function getFollowed<T>(path: string): Promise<{ body: T; snapshot: string | null }> {
	const response = await send(path);
	return { body: (await response.json()) as T, snapshot: response.headers.get(SNAPSHOT_HEADER) };
}

export const get = <T>(path: string): Promise<T> => call<T>('GET', path);

/** JSON in, bytes out. @param signal gives it up @throws ApiProblem */
export async function callBytes(method: string, path: string, body: unknown, signal: AbortSignal): Promise<Uint8Array> {
	const init = { method, headers: { 'content-type': 'application/json' }, body: JSON.stringify(body), signal };
	return new Uint8Array(await (await send(path, init)).arrayBuffer());
}

/** Bytes of a pack. */
export async function getBytes(path: string): Promise<Uint8Array> {
	return new Uint8Array(await (await send(path)).arrayBuffer());
}

/** Sends a file as it is, with the share that has been sent. */
export function upload<T>(path: string, file: Blob, progress: (share: number) => void): Promise<T> {
	const done = new Promise<T>((resolve, reject) => {
		const request = new XMLHttpRequest();
		request.open('POST', `/api/v1${path}`);
		request.setRequestHeader('content-type', 'application/octet-stream');
		request.setRequestHeader('x-malachite-session', session);
		request.responseType = 'json';
		request.upload.onprogress = (e) => progress(e.total ? e.loaded / e.total : 0);
		request.onload = () =>
			request.status < 300
				? resolve(request.response as T)
				: reject(new ApiProblem(request.status, request.response ?? { type: 'internal', title: `the server answered ${request.status}` }));
		request.onerror = () =>
			reject(
				new ApiProblem(0, {
					type: 'offline',
					title: 'the connection was lost while the file was sent',
					hint: 'Nothing was stored; try again'
				})
			);
		request.send(file);
	});
	// Who leaves now would lose it.
	sending++;
	if (sending === 1) globalThis.addEventListener?.('beforeunload', stay);
	return done.finally(() => {
		sending--;
		if (sending === 0) globalThis.removeEventListener?.('beforeunload', stay);
	});
}

let sending = 0;
const stay = (event: BeforeUnloadEvent) => event.preventDefault();
