import { spawn, type ChildProcess } from 'node:child_process';
import { guardOf } from './answers';
import { copyOf } from './ready-databases';

/** An id that is nobody's: one made of another by chance is somebody's one time in so many. */
export const NOBODY = '00000000-0000-4000-8000-000000000000';

/** A server of its own on a database of its own, in the cluster at `MALACHITE_DATABASE_URL`. */
export interface TestServer {
	url: string;
	databaseUrl: string;
	process: ChildProcess;
	stop(): Promise<void>;
}

/** What a script of ours says of where it listens, once it does. It takes a port that is free by itself: one chosen before could be taken meanwhile. */
async function listening(script: string, environment: NodeJS.ProcessEnv): Promise<{ url: string; process: ChildProcess }> {
	const child = spawn('node', [script], { env: { ...process.env, ...environment }, stdio: ['ignore', 'pipe', 'pipe'] });
	let said = '';
	child.stderr.on('data', (d) => (said += d));
	const url = await new Promise<string>((resolve, reject) => {
		child.stdout.on('data', (d) => {
			said += d;
			const address = /http:\/\/127\.0\.0\.1:\d+/.exec(said);
			if (address) resolve(address[0]);
		});
		child.once('error', reject);
		child.once('exit', () => reject(new Error(`${script} did not start:\n${said}`)));
	});
	return { url, process: child };
}

/** The simulated regional catalogue. */
export const startCatalogue = () => listening('dist/catalogue.js', { MALACHITE_CATALOGUE_PORT: '0' });

/**
 * @param environment of it, over that of the tests
 * @param database its address; without it one of its own that has all tables and nothing in them
 */
export async function startServer(environment: Record<string, string> = {}, database?: string): Promise<TestServer> {
	const databaseUrl = database ?? (await copyOf({ kind: 'empty', fill: async (url) => (await startServer({}, url)).stop() }));
	const { url, process: child } = await listening('dist/serve.js', {
		PORT: '0',
		HOST: '127.0.0.1',
		MALACHITE_DATABASE_URL: databaseUrl,
		MALACHITE_MIGRATIONS: `${process.cwd()}/web/migrations`,
		...environment
	});
	// It listens, and answers once what runs behind it stands.
	while (!(await fetch(`${url}/api/v1/health`)).ok) await new Promise((r) => setTimeout(r, 150));
	return {
		url,
		databaseUrl,
		process: child,
		stop: () =>
			new Promise((resolve) => {
				if (child.exitCode !== null || child.signalCode !== null) return resolve();
				child.once('exit', () => resolve());
				child.kill('SIGTERM');
			})
	};
}

export interface Answer<T = Record<string, never>> {
	status: number;
	type: string;
	body: T;
}

export interface Uploaded {
	file: { id: string };
	card: string;
	as: string;
	kind: string;
	mapping: Record<string, string>;
	reading: Record<string, unknown>;
	units: Record<string, string>;
	notes: string[];
	written: Record<string, string>;
}

export interface Brought {
	state: string;
	outcome: Record<string, unknown> & { object?: string; problem?: { type: string; title: string } };
}

export type Api = ReturnType<typeof client>;

/** What the revision of a request is of: the project, an object by its id, or the one of a kind; null where none is asked for. */
function revisedBy(method: string, path: string): string | null {
	if (method === 'PATCH' && /^\/projects\/[^/]+$/.test(path)) return 'project';
	const table = /^\/projects\/[^/]+\/tables\/([^/]+)\/(rows\/[^/]+|cells|mends|mapping|calculated|reload|append)$/.exec(path);
	if (table) return method === 'GET' ? null : table[1]!;
	const part = /^\/projects\/[^/]+\/(column|lumping|faults|shaping|section|spacing|rules)$/.exec(path);
	return part && method === 'PUT' ? (part[1] === 'spacing' ? 'model' : part[1]!) : null;
}

/** Calls of the API, with JSON in and out. */
export function client(server: TestServer) {
	/** One request, just as it is given. */
	const send = async <T = Record<string, never>>(
		method: string,
		path: string,
		body?: unknown,
		headers: Record<string, string> = {}
	): Promise<Answer<T>> => {
		const raw = body instanceof Uint8Array;
		const response = await fetch(`${server.url}/api/v1${path}`, {
			method,
			headers: { ...(body === undefined ? {} : { 'content-type': raw ? 'application/octet-stream' : 'application/json' }), ...headers },
			...(body === undefined ? {} : { body: (raw ? body : JSON.stringify(body)) as BodyInit })
		});
		const type = response.headers.get('content-type') ?? '';
		const answer = (type.includes('json') ? await response.json() : new Uint8Array(await response.arrayBuffer())) as T;
		if (/^application\/(problem\+)?json/.test(type)) (await guardOf(server.url))(method, path, response.status, answer);
		return { status: response.status, type, body: answer };
	};
	/** A change names the revision that it starts from; where a test does not say it, that is the one that stands now. */
	const call = async <T = Record<string, never>>(method: string, path: string, body?: unknown): Promise<Answer<T>> => {
		// A file that came in is checked after its job is done: a list read in between is that of before, and a test of it passes or fails by chance.
		if (method === 'GET' && /^\/projects\/[^/]+\/findings($|\?)/.test(path))
			throw new Error('findings are read with api.findings, once all is checked');
		const kind = revisedBy(method, path);
		if (!kind || typeof body !== 'object' || body === null || 'revision' in body || body instanceof Uint8Array)
			return send<T>(method, path, body);
		const [, project] = path.split('/projects/');
		// Of changes that are on their way together one would start from what another has made, or not, by chance: they name their revision.
		const of = `${project!.split('/')[0]} ${kind}`;
		if (onTheWay.has(of))
			throw new Error(`another change of the same is on its way: ${method} ${path} has to name the revision that it starts from`);
		onTheWay.add(of);
		try {
			return await send<T>(method, path, { ...body, revision: await revisionOf(project!.split('/')[0]!, kind) });
		} finally {
			onTheWay.delete(of);
		}
	};
	const onTheWay = new Set<string>();
	/** @param kind an object by its id, the one of a kind, or `project` */
	const revisionOf = async (project: string, kind: string): Promise<number> => {
		const found = await send<{ project: { revision: number }; objects: { id: string; kind: string; revision: number }[] }>(
			'GET',
			`/projects/${project}`
		);
		const own = found.body.objects?.find((o) => o.id === kind || o.kind === kind);
		return (kind === 'project' ? found.body.project?.revision : own?.revision) ?? 1;
	};
	const finished = async (project: string, id: string) => {
		for (;;) {
			const { body } = await call<{ state: string; outcome: Record<string, never>; attempt: number }>(
				'GET',
				`/projects/${project}/jobs/${id}`
			);
			if (['done', 'failed', 'cancelled'].includes(body.state)) return body;
			await new Promise((r) => setTimeout(r, 100));
		}
	};
	/** A file that was uploaded, with what it was taken for. */
	const upload = async (project: string, file: string, content: string | Uint8Array): Promise<Uploaded> =>
		(
			await call<Uploaded>(
				'POST',
				`/projects/${project}/files?name=${file}`,
				typeof content === 'string' ? new TextEncoder().encode(content) : content
			)
		).body;
	/** Uploads a file and brings it in as it was taken, or as is said; the outcome, also of what was refused. */
	const bring = async (
		project: string,
		name: string,
		file: string,
		content: string | Uint8Array,
		more: Record<string, unknown> = {}
	): Promise<Brought> => {
		const u = await upload(project, file, content);
		const table = u.as === 'table' ? { kind: u.kind, mapping: u.mapping, reading: u.reading, units: u.units } : {};
		const { body, status } = await call<{ job: string; type: string; title: string }>('POST', `/projects/${project}/imports`, {
			fileId: u.file.id,
			incomingId: u.card,
			name,
			as: u.as,
			...table,
			...more
		});
		if (status !== 200) return { state: 'refused', outcome: { problem: { type: body.type, title: body.title } } };
		return (await finished(project, body.job)) as unknown as Brought;
	};
	/** What the checks found, once they looked at what stands now. */
	const findings = async <T = { rule: string }>(project: string): Promise<{ checked: boolean; findings: T[] }> => {
		for (;;) {
			const { body } = await send<{ checked: boolean; findings: T[] }>('GET', `/projects/${project}/findings`);
			if (body.checked) return body;
			await new Promise((r) => setTimeout(r, 50));
		}
	};
	return { revisionOf, send, call, finished, upload, bring, findings };
}
