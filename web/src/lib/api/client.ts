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
		const fields = this.body.fields?.map((f) => `${f.path}: ${f.message}`).join('; ');
		return [this.body.title, fields, this.body.hint].filter(Boolean).join('. ').replaceAll('..', '.');
	}
}

async function send(path: string, init?: RequestInit): Promise<Response> {
	let response: Response;
	try {
		response = await fetch(`/api/v1${path}`, init);
	} catch {
		throw new ApiProblem(0, { type: 'offline', title: 'the server does not answer', hint: 'Check that it runs; what you did last was not stored' });
	}
	if (response.ok) return response;
	const body = await response.json().catch(() => ({ type: 'internal', title: `the server answered ${response.status}` }));
	throw new ApiProblem(response.status, body);
}

/** JSON in, JSON out. @throws ApiProblem */
export async function call<T>(method: string, path: string, body?: unknown): Promise<T> {
	const response = await send(path, { method, ...(body === undefined ? {} : { headers: { 'content-type': 'application/json' }, body: JSON.stringify(body) }) });
	return (await response.json()) as T;
}

export const get = <T>(path: string): Promise<T> => call<T>('GET', path);

/** Bytes of a pack. */
export async function getBytes(path: string): Promise<Uint8Array> {
	return new Uint8Array(await (await send(path)).arrayBuffer());
}

/** Sends a file as it is, with the share that has been sent. */
export function upload<T>(path: string, file: Blob, progress: (share: number) => void): Promise<T> {
	return new Promise((resolve, reject) => {
		const request = new XMLHttpRequest();
		request.open('POST', `/api/v1${path}`);
		request.setRequestHeader('content-type', 'application/octet-stream');
		request.responseType = 'json';
		request.upload.onprogress = (e) => progress(e.total ? e.loaded / e.total : 0);
		request.onload = () => (request.status < 300 ? resolve(request.response as T) : reject(new ApiProblem(request.status, request.response ?? { type: 'internal', title: `the server answered ${request.status}` })));
		request.onerror = () => reject(new ApiProblem(0, { type: 'offline', title: 'the connection was lost while the file was sent', hint: 'Nothing was stored; try again' }));
		request.send(file);
	});
}
