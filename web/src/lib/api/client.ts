import { fieldInWords } from '#core/project/wording';
import { ADDRESSES } from './addresses';
import type { AnswerOf, BytesId, FollowedId, Given, GivenArguments, JsonId, OperationId, UploadId, WorkId } from './contract';
import { SNAPSHOT_HEADER } from './snapshots';

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

/** What went wrong, as one text for a message line. */
export function problemText(error: unknown): string {
	if (error instanceof ApiProblem) return error.text;
	return error instanceof Error ? error.message : String(error);
}

/** Whether it was the line, and the same may succeed later. */
export const lineBroke = (error: unknown): boolean => error instanceof ApiProblem && error.status === 0;

/** Tells this browser from others: what was done elsewhere is not undone here unasked. */
const session = (() => {
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

type Values = Record<string, unknown>;

/** Where an operation is, with what is given for its path and its query. */
export function addressOf<I extends OperationId>(id: I, ...[given = {} as Given<I>]: GivenArguments<Given<I>>): string {
	const { body: _, ...rest } = given as Values;
	const path = ADDRESSES[id].path.replace(/\{(\w+)\}/g, (_all, name: string) => {
		const value = rest[name];
		delete rest[name];
		return encodeURIComponent(String(value));
	});
	const query = Object.entries(rest).flatMap(([name, value]) => (value === undefined || value === null ? [] : [[name, String(value)]]));
	return `/api/v1${path}${query.length ? `?${new URLSearchParams(query)}` : ''}`;
}

/** The request of an operation: what is not said in its JSON is left to it. */
function requestOf(id: OperationId, given: Values): { address: string; init: RequestInit } {
	const { method, ...o } = ADDRESSES[id];
	const json = 'json' in o ? { headers: { 'content-type': 'application/json' }, body: JSON.stringify(given['body'] ?? {}) } : {};
	return { address: (addressOf as (id: OperationId, given: Values) => string)(id, given), init: { method, ...json } };
}

/** Of an answer, whole or not at all: what was cut on its way is said as what it is. */
async function arrived<T>(coming: Promise<T>, signal?: AbortSignal | null): Promise<T> {
	try {
		return await coming;
	} catch (error) {
		if (signal?.aborted) throw error;
		throw new ApiProblem(0, {
			type: 'offline',
			title: 'the line was cut while the answer came',
			hint: 'Load the page again to see what was stored'
		});
	}
}

const jsonOf = async <T>(response: Response): Promise<T> => arrived(response.json() as Promise<T>);

async function send(address: string, init: RequestInit = {}): Promise<Response> {
	let response: Response;
	try {
		response = await fetch(address, {
			...init,
			headers: { ...(init.headers as Record<string, string>), 'x-malachite-session': session }
		});
	} catch (error) {
		if (init.signal?.aborted) throw error;
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
export async function startWork<I extends WorkId>(id: I, ...[given = {} as Given<I>]: GivenArguments<Given<I>>): Promise<string> {
	const { address, init } = requestOf(id, given as Values);
	const keyed = { ...init, headers: { ...(init.headers as Record<string, string>), 'idempotency-key': requestKey() } };
	const begun = () => send(address, keyed).then((response) => jsonOf<{ job: string }>(response));
	const { job } = await begun().catch((error: unknown) =>
		lineBroke(error) ? new Promise((r) => setTimeout(r, 800)).then(begun) : Promise.reject(error)
	);
	return job;
}

/** Changes of this page that the server has not answered yet. */
const changing = new Set<Promise<unknown>>();

/** Waits for the changes of this page that are under way: who made one reads what came of it. */
export async function changesAnswered(): Promise<void> {
	while (changing.size) await Promise.allSettled([...changing]);
}

/** Asks an operation; its answer is typed by its contract. @throws ApiProblem */
export async function ask<I extends JsonId>(id: I, ...[given = {} as Given<I>]: GivenArguments<Given<I>>): Promise<AnswerOf<I>> {
	const { address, init } = requestOf(id, given as Values);
	const sent = send(address, init).then((response) => jsonOf<AnswerOf<I>>(response));
	if (init.method === 'GET') return sent;
	changing.add(sent);
	try {
		return await sent;
	} finally {
		changing.delete(sent);
	}
}

/** JSON with what it has seen: see `hasSeen`. */
export async function askFollowed<I extends FollowedId>(
	id: I,
	...[given = {} as Given<I>]: GivenArguments<Given<I>>
): Promise<{ body: AnswerOf<I>; snapshot: string | null }> {
	const response = await send(addressOf(id, ...([given] as unknown as GivenArguments<Given<I>>)));
	return { body: await jsonOf<AnswerOf<I>>(response), snapshot: response.headers.get(SNAPSHOT_HEADER) };
}

const bytesOf = async (response: Response, signal?: AbortSignal): Promise<Uint8Array> =>
	new Uint8Array(await arrived(response.arrayBuffer(), signal));

/** Bytes of a pack or a file. @param signal gives it up @throws ApiProblem */
export async function askBytes<I extends BytesId>(id: I, given: Given<I>, signal?: AbortSignal): Promise<Uint8Array> {
	const { address, init } = requestOf(id, given as Values);
	return bytesOf(await send(address, { ...init, ...(signal ? { signal } : {}) }), signal);
}

/** Bytes of a pack, by its address. @throws ApiProblem */
export const getBytes = async (address: string): Promise<Uint8Array> => bytesOf(await send(address));

/** Sends a change while the page goes away: the browser brings it on its way, and nobody waits for the answer. */
export function sendLeaving<I extends JsonId>(id: I, given: Given<I>): void {
	const { address, init } = requestOf(id, given as Values);
	// More than the browser takes on is sent all the same, and may not arrive.
	void send(address, { ...init, keepalive: String(init.body).length < 60_000 }).catch(() => {});
}

/** Sends a file as it is, with the share that has been sent. */
export function upload<I extends UploadId>(id: I, given: Given<I>, file: Blob, progress: (share: number) => void): Promise<AnswerOf<I>> {
	const done = new Promise<AnswerOf<I>>((resolve, reject) => {
		const request = new XMLHttpRequest();
		request.open('POST', (addressOf as (id: OperationId, given: Values) => string)(id, given as Values));
		request.setRequestHeader('content-type', 'application/octet-stream');
		request.setRequestHeader('x-malachite-session', session);
		request.responseType = 'json';
		request.upload.onprogress = (e) => progress(e.total ? e.loaded / e.total : 0);
		request.onload = () =>
			request.status < 300
				? resolve(request.response as AnswerOf<I>)
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
