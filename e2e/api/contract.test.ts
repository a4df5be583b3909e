import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { NOBODY, client, startServer, type TestServer } from '../server';

// Whatever comes in, every operation answers: with what it promises, or with a problem that says what to do. Never with a crash.
interface Schema {
	type?: string;
	properties?: Record<string, Schema>;
	required?: string[];
}
interface Described {
	parameters?: { name: string; in: string; schema: Schema }[];
	requestBody?: { required: boolean; content: Record<string, { schema: Schema }> };
}
interface Problem {
	type: string;
	title: string;
	status: number;
	hint?: string;
	fields?: { path: string; message: string }[];
}
let server: TestServer;
let api: ReturnType<typeof client>;
let project: string;
let table: string;
let operations: { method: string; path: string; described: Described }[];
const text = (s: string) => new TextEncoder().encode(s);

/** A path with its parameters filled in. */
const filled = (path: string, values: Record<string, string>) => path.replace(/\{(\w+)\}/g, (_, name: string) => values[name] ?? 'x');
const real = () => ({
	project,
	object: table,
	n: '0',
	hole: 'A',
	format: 'csv',
	what: 'volumes',
	code: '32628',
	record: 'terrain-30',
	job: NOBODY,
	file: NOBODY,
	viewpoint: NOBODY,
	card: NOBODY,
	kept: NOBODY
});
const send = async (method: string, path: string, body?: BodyInit, type = 'application/json') => {
	const response = await fetch(`${server.url}/api/v1${path}`, {
		method,
		...(body === undefined ? {} : { body, headers: { 'content-type': type } })
	});
	const said = response.headers.get('content-type') ?? '';
	return {
		status: response.status,
		type: said,
		body: (said.includes('json') ? await response.json() : await response.arrayBuffer()) as Problem
	};
};
/** Anything but success must be a problem in words; a server that is down elsewhere may say so. */
function isAnswer(a: { status: number; type: string; body: Problem }, what: string): void {
	if (a.status < 400) return;
	expect([what, a.type]).toEqual([what, 'application/problem+json']);
	expect([what, a.body.status, a.body.type]).not.toEqual([what, 500, 'internal']);
	expect(a.body.status).toBe(a.status);
	expect(a.body.title.length).toBeGreaterThan(5);
	if (a.status >= 500) expect(a.body.type).toMatch(/^catalogue-/);
}
const bodied = () => operations.filter((o) => o.described.requestBody?.content['application/json']);
const snapshot = async () => {
	const { body } = await api.call<{ project: { name: string; extent: unknown }; objects: { name: string; contentHash: string }[] }>(
		'GET',
		`/projects/${project}`
	);
	return {
		name: body.project.name,
		extent: body.project.extent,
		objects: body.objects.filter((o) => o.contentHash).map((o) => [o.name, o.contentHash])
	};
};

beforeAll(async () => {
	server = await startServer({ MALACHITE_CATALOGUE_URL: 'http://127.0.0.1:9' });
	api = client(server);
	project = (await api.call<{ id: string }>('POST', '/projects', { name: 'Contract', author: 'A. Nyberg', crs: 32628 })).body.id;
	await api.bring(project, 'Collars', 'c.csv', 'hole,x,y,z,depth\nA,402000,4992000,10,50\nB,402100,4992000,10,50\n');
	table = (await api.call<{ objects: { id: string; kind: string }[] }>('GET', `/projects/${project}`)).body.objects.find(
		(o) => o.kind === 'table'
	)!.id;
	const { body: page } = await api.call<{ paths: Record<string, Record<string, Described>> }>('GET', '/openapi.json');
	operations = Object.entries(page.paths).flatMap(([path, methods]) =>
		Object.entries(methods).map(([method, described]) => ({ method: method.toUpperCase(), path, described }))
	);
});
afterAll(async () => server?.stop());

describe('every operation', () => {
	it('of a project that does not exist says so', async () => {
		for (const { method, path, described } of operations) {
			if (!path.includes('{project}')) continue;
			const needed = (described.parameters ?? [])
				.filter((p) => p.in === 'query')
				.map((p) => `${p.name}=${p.name === 'from' ? 'terrain' : p.name === 'bbox' ? '-16,45,-15,46' : p.name === 'name' ? 'x.csv' : '1'}`);
			for (const id of [NOBODY, 'nonsense']) {
				const body = described.requestBody ? (described.requestBody.content['application/json'] ? '{}' : 'a,b\n1,2\n') : undefined;
				const a = await send(
					method,
					`${filled(path, { ...real(), project: id })}${needed.length ? `?${needed.join('&')}` : ''}`,
					body,
					described.requestBody?.content['application/json'] ? undefined : 'text/csv'
				);
				isAnswer(a, `${method} ${path}`);
				// A list of a project that is not there may be empty; nothing else may succeed.
				if (id === 'nonsense') expect([method, path, a.status]).toEqual([method, path, 404]);
				else if (method !== 'GET') expect([method, path, a.status >= 400]).toEqual([method, path, true]);
			}
		}
	});

	it('refuses a body that is no JSON, or is sent as something else', async () => {
		for (const { method, path, described } of bodied()) {
			for (const [content, type] of [
				['{"a":', 'application/json'],
				['name=x', 'application/x-www-form-urlencoded'],
				['', 'application/json']
			] as const) {
				// Nothing at all is a body that is left out, where it may be.
				if (content === '' && !described.requestBody!.required) continue;
				const a = await send(method, filled(path, real()), content, type);
				if (type !== 'application/json') expect([path, a.status, a.body.type]).toEqual([path, 415, 'unsupported-media-type']);
				else expect([path, a.status, a.body.type]).toEqual([path, 422, 'not-json']);
			}
		}
	});

	it('refuses bodies of another shape, naming what is wrong', async () => {
		const before = await snapshot();
		for (const { method, path } of bodied())
			for (const value of [[], 'text', 7, { surprise: 1 }]) {
				const a = await send(method, filled(path, real()), JSON.stringify(value));
				expect([path, value, a.status, a.body.type]).toEqual([path, value, 422, 'invalid-input']);
				expect(a.body.fields!.length).toBeGreaterThan(0);
			}
		expect(await snapshot()).toEqual(before);
	});

	it('survives odd values in every field', async () => {
		const odd: unknown[] = [
			null,
			-1,
			1e308,
			99_999_999_999,
			0.5,
			'',
			'\u0000',
			'\ud800',
			'x'.repeat(20_000),
			'<b>',
			"'; drop table object; --",
			[],
			[null],
			[[]],
			{},
			{ __proto__: null, constructor: 1 },
			true
		];
		for (const { method, path, described } of bodied()) {
			const { properties = {} } = described.requestBody!.content['application/json']!.schema;
			for (const field of Object.keys(properties))
				for (const value of odd) {
					const a = await send(method, filled(path, real()), JSON.stringify({ [field]: value }));
					isAnswer(a, `${method} ${path} ${field} ${JSON.stringify(value)?.slice(0, 60)}`);
				}
		}
		// All of it stands in one log of changes and can be undone, down to the table that was brought in first.
		const next = async () =>
			(await api.call<{ changes: { undo: { label: string } | null } }>('GET', `/projects/${project}`)).body.changes.undo?.label;
		for (let label = await next(); label !== 'Bring in Collars'; label = await next())
			expect([label, (await api.call('POST', `/projects/${project}/undo`)).status]).toEqual([label, 200]);
		expect((await snapshot()).objects.find(([name]) => name === 'Collars')).toBeDefined();
	}, 120_000);

	it('survives odd values in every part of its address and query', async () => {
		const odd = ['%00', '%E0%A4%A', '-1', '99999999999', '1e9', '..%2F..%2Fetc%2Fpasswd', '%F0%9F%92%8E', "'--", 'x'.repeat(500)];
		for (const { method, path, described } of operations) {
			if (method !== 'GET') continue;
			const names = [...path.matchAll(/\{(\w+)\}/g)].map((m) => m[1]!);
			for (const value of odd) {
				for (const name of names) {
					const a = await send(method, filled(path, { ...real(), [name]: value }));
					if (value === '%E0%A4%A') expect([path, name, a.status]).toEqual([path, name, 400]);
					else isAnswer(a, `${path} ${name} ${value}`);
				}
				for (const p of (described.parameters ?? []).filter((q) => q.in === 'query'))
					isAnswer(await send(method, `${filled(path, real())}?${p.name}=${value}`), `${path} ?${p.name}=${value}`);
			}
		}
	}, 120_000);

	it('refuses a query that it does not know', async () => {
		for (const { method, path, described } of operations) {
			if (method !== 'GET' || !(described.parameters ?? []).some((p) => p.in === 'query')) continue;
			const a = await send(method, `${filled(path, real())}?surprise=1`);
			expect([path, a.status]).toEqual([path, 422]);
		}
	});
});

describe('writing', () => {
	const edit = (n: number | string, body: unknown) => api.call<Problem>('PATCH', `/projects/${project}/tables/${table}/rows/${n}`, body);
	const row = async (n: number) =>
		(
			await api.call<{ rows: { cells: string[]; excluded: boolean }[] }>(
				'GET',
				`/projects/${project}/tables/${table}/rows?offset=${n}&limit=1`
			)
		).body.rows[0]!;

	it('an edit that started from an older state is refused and stores nothing', async () => {
		const { body } = await api.call<{ table: { revision: number } }>('GET', `/projects/${project}/tables/${table}/rows`);
		expect((await edit(0, { column: 'depth', value: '51', revision: body.table.revision })).status).toBe(200);
		const late = await edit(0, { column: 'depth', value: '52', revision: body.table.revision });
		expect([late.status, late.body.type]).toEqual([409, 'edited-elsewhere']);
		expect((await row(0)).cells[4]).toBe('51');
	});

	it('of many edits that start from one state at once one is taken, and undo leads back to the first', async () => {
		const before = (await row(1)).cells[4]!;
		const revision = await api.revisionOf(project, table);
		const answers = await Promise.all(Array.from({ length: 12 }, (_, i) => edit(1, { column: 'depth', value: String(60 + i), revision })));
		expect(answers.filter((a) => a.status === 200)).toHaveLength(1);
		expect(answers.filter((a) => a.status === 409 && a.body.type === 'edited-elsewhere')).toHaveLength(11);
		for (let i = 1; i < 12; i++) expect((await edit(1, { column: 'depth', value: String(80 + i) })).status).toBe(200);
		for (let i = 0; i < 12; i++) await api.call('POST', `/projects/${project}/undo`);
		expect((await row(1)).cells[4]).toBe(before);
		for (let i = 0; i < 12; i++) expect((await api.call('POST', `/projects/${project}/redo`)).status).toBe(200);
		expect((await api.call<Problem>('POST', `/projects/${project}/redo`)).body.type).toBe('nothing-to-undo');
	});

	it('a change that does not say from which state it starts is refused', async () => {
		expect(
			(await api.send<Problem>('PATCH', `/projects/${project}/tables/${table}/rows/0`, { column: 'depth', value: '52' })).body
		).toMatchObject({ type: 'invalid-input', fields: [{ path: 'revision' }] });
		expect((await api.send('PATCH', `/projects/${project}`, { name: 'Blind' })).status).toBe(422);
	});

	it('an edit of nothing, of two things, or of what is not there is refused', async () => {
		expect((await edit(0, {})).status).toBe(422);
		expect((await edit(0, { column: 'depth', value: '1', excluded: true })).status).toBe(422);
		expect((await edit(0, { column: 'width', value: '1' })).body).toMatchObject({
			type: 'unknown-column',
			hint: expect.stringContaining('depth')
		});
		for (const n of ['2', '-1', '0.5', 'x', '99999999999']) expect((await edit(n, { column: 'depth', value: '1' })).status).toBe(404);
	});

	it('text is kept as it is written, markup and formulas and all', async () => {
		for (const value of ['<img src=x onerror=alert(1)>', '=HYPERLINK("http://x")', "Robert'); drop table object;--", 'Ünïcode 💎']) {
			await edit(0, { column: 'hole', value });
			expect((await row(0)).cells[0]).toBe(value);
		}
		const csv = new TextDecoder().decode((await api.call<Uint8Array>('GET', `/projects/${project}/sources/${table}/file.csv`)).body);
		expect(csv).toContain('Ünïcode 💎');
		await edit(0, { column: 'hole', value: '=1+1' });
		expect(new TextDecoder().decode((await api.call<Uint8Array>('GET', `/projects/${project}/sources/${table}/file.csv`)).body)).toContain(
			"'=1+1"
		);
		await edit(0, { column: 'hole', value: 'A' });
	});

	it('what another project owns can not be read or changed through this one', async () => {
		const other = (await api.call<{ id: string }>('POST', '/projects', { name: 'Other' })).body.id;
		expect((await api.call('GET', `/projects/${other}/tables/${table}/rows`)).status).toBe(404);
		expect((await api.call('PATCH', `/projects/${other}/tables/${table}/rows/0`, { excluded: true })).status).toBe(404);
		expect((await api.call('DELETE', `/projects/${other}/sources/${table}`)).status).toBe(404);
		const { body: u } = await api.call<{ file: { id: string }; mapping: object }>(
			'POST',
			`/projects/${other}/files?name=o.csv`,
			text('hole,x,y,z,depth\nZ,1,2,3,4\n')
		);
		expect((await api.call('POST', `/projects/${project}/files/${u.file.id}/preview`, {})).status).toBe(404);
		expect(
			(
				await api.call('POST', `/projects/${project}/imports`, {
					fileId: u.file.id,
					name: 'Stolen',
					as: 'table',
					kind: 'collars',
					mapping: u.mapping
				})
			).status
		).toBe(404);
		expect((await api.call('POST', `/projects/${project}/tables/${table}/reload`, { fileId: u.file.id })).status).toBe(404);
		await api.call('DELETE', `/projects/${other}`);
		expect((await api.call('GET', `/projects/${other}`)).status).toBe(404);
	});
});

describe('files', () => {
	const upload = (name: string, content: Uint8Array) =>
		api.call<Problem & { file: { id: string; name: string } }>(
			'POST',
			`/projects/${project}/files?name=${encodeURIComponent(name)}`,
			content
		);
	it('a name can not lead out of its folder, and keeps what people write', async () => {
		expect((await upload('../../etc/pass wd.csv', text('a,b\n1,2\n'))).body.file.name).toBe('.._.._etc_pass wd.csv');
		expect((await upload('Größe – 1.csv', text('a,b\n1,2\n'))).body.file.name).toBe('Größe – 1.csv');
	});
	it.each<[string, string, Uint8Array, string]>([
		['empty', 'a.csv', new Uint8Array(0), ''],
		['a picture called a table', 'a.csv', Uint8Array.from([0x89, 0x50, 0x4e, 0x47, 0, 0, 0, 0]), 'damaged-file'],
		['one column', 'a.csv', text('a\n1\n2\n'), 'not-a-table'],
		['a terrain that is none', 'a.tif', text('hello there'), 'not-a-geotiff'],
		['a ZIP of nothing', 'a.zip', Uint8Array.from([0x50, 0x4b, 5, 6, ...new Array<number>(18).fill(0)]), ''],
		['a ZIP that is cut', 'a.xlsx', Uint8Array.from([0x50, 0x4b, 3, 4, 20, 0, 0, 0]), 'not-a-zip']
	])('%s is refused with a reason and not kept', async (_, name, content, type) => {
		const a = await upload(name, content);
		expect(a.status).toBe(422);
		if (type) expect(a.body.type).toBe(type);
		expect(a.body.title).not.toBe('');
		expect(a.body.hint ?? '').not.toBe('');
	});
	it('a column called like what every object has can be brought in', async () => {
		const { body: u } = await upload('odd.csv', text('hole,from,to,constructor,__proto__,toString,Cu\nA,0,1,x,5,7,3\n'));
		const { mapping, kind } = u as unknown as { mapping: Record<string, string>; kind: string };
		expect(kind).toBe('assays');
		const { body } = await api.call<{ job: string }>('POST', `/projects/${project}/imports`, {
			fileId: u.file.id,
			name: 'Odd',
			as: 'table',
			kind,
			mapping
		});
		expect((await api.finished(project, body.job)).state).toBe('done');
	});
	it('a name that is taken is refused', async () => {
		const { body: u } = await upload('c.csv', text('hole,x,y,z,depth\nA,1,2,3,4\n'));
		const { mapping } = u as unknown as { mapping: object };
		expect(
			(
				await api.call<Problem>('POST', `/projects/${project}/imports`, {
					fileId: u.file.id,
					name: 'Collars',
					as: 'table',
					kind: 'collars',
					mapping
				})
			).body
		).toMatchObject({ status: 409, type: 'name-taken' });
	});
});
