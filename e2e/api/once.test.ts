import { randomUUID } from 'node:crypto';
import { request } from 'node:http';
import pg from 'pg';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { demoArchive } from '../demo-archive';
import { NOBODY, client, startServer, type TestServer } from '../server';

// Work happens once, results belong to their project, and what died is made up for.
let server: TestServer;
let api: ReturnType<typeof client>;
let database: pg.Client;
const COLLARS = 'hole,x,y,z,depth\nA,402000,4992000,10,50\nB,402100,4992000,10,50\n';
const project = async (name = 'Once') => (await api.call<{ id: string }>('POST', '/projects', { name, crs: 32628 })).body.id;
const upload = (p: string, content = COLLARS) => api.upload(p, 'c.csv', content);
const objects = async (p: string) =>
	(
		await api.call<{ objects: { id: string; name: string; kind: string; outOfDate: boolean; missing: boolean; contentHash: string }[] }>(
			'GET',
			`/projects/${p}`
		)
	).body.objects;
const until = async (what: () => Promise<boolean>) => {
	for (const end = Date.now() + 60_000; Date.now() < end; await new Promise((r) => setTimeout(r, 200))) if (await what()) return;
	throw new Error('it did not come about');
};

beforeAll(async () => {
	server = await startServer();
	api = client(server);
	database = new pg.Client({ connectionString: server.databaseUrl });
	await database.connect();
});
afterAll(async () => {
	await database?.end();
	await server?.stop();
});

describe('work', () => {
	it('of an archive comes in the order in which it was asked for, whichever is stored first, and is checked whole by the last', async () => {
		const p = await project();
		const short = await upload(p);
		const bring = { fileId: short.file.id, name: 'Short', as: 'table', kind: short.kind, mapping: short.mapping };
		await api.finished(p, (await api.call<{ job: string }>('POST', `/projects/${p}/imports`, bring)).body.job);
		await api.findings(p);
		const put = async (state: string, when: string, payload: object) =>
			(
				await database.query<{ id: string }>(
					`insert into job (project_id, kind, title, payload, state, created_at, heartbeat) values ($1, 'import', 'x', $2, $3, now() + $4::interval, now() + $4::interval) returning id`,
					[p, JSON.stringify(payload), state, when]
				)
			).rows[0]!.id;
		const long = await api.upload(p, 'long.csv', 'hole,from,to,au\nA,0,1,2\nNobody,0,1,2\n');
		const own = { fileId: long.file.id, name: 'Long', as: 'table', kind: long.kind, mapping: long.mapping, objectId: randomUUID() };
		// Another one is still to come when this one is read, and has come when it is stored.
		const other = await put('running', '1 hour', { ...own, name: 'Other', objectId: randomUUID() });
		await database.query('begin');
		await database.query('select 1 from project where id = $1 for no key update', [p]);
		const first = await (async () => {
			const beside = new pg.Client({ connectionString: server.databaseUrl });
			await beside.connect();
			const { rows } = await beside.query<{ id: string }>(
				`insert into job (project_id, kind, title, payload, created_at) values ($1, 'import', 'x', $2, now() - interval '1 minute') returning id`,
				[p, JSON.stringify(own)]
			);
			await until(async () => (await beside.query('select what from job where id = $1', [rows[0]!.id])).rows[0].what === 'storing rows');
			await beside.query(`update job set state = 'done', ended_at = now() where id = $1`, [other]);
			await beside.end();
			return rows[0]!.id;
		})();
		await database.query('commit');
		expect((await api.finished(p, first)).outcome).toMatchObject({ rows: 2 });
		expect((await objects(p)).filter((o) => o.kind === 'table').map((o) => o.name)).toEqual(['Long', 'Short']);
		// The last of them checks all, after it is done: no check that makes up for one that died, which would be due in some seconds, does it for it.
		await database.query(`update project set check_due = check_due + interval '1 hour' where id = $1`, [p]);
		const { findings } = await api.findings<{ message: string }>(p);
		expect(findings.map((f) => f.message)).toContainEqual(expect.stringContaining('Nobody'));
	});
	it('that is asked for again with the same key is not begun again', async () => {
		const p = await project();
		const u = await upload(p);
		const ask = () =>
			api.send<{ job: string }>(
				'POST',
				`/projects/${p}/imports`,
				{ fileId: u.file.id, name: 'Collars', as: 'table', kind: u.kind, mapping: u.mapping },
				{ 'idempotency-key': 'the-same-request' }
			);
		const first = await ask();
		await api.finished(p, first.body.job);
		const again = await api.send<{ job?: string; type?: string }>(
			'POST',
			`/projects/${p}/imports`,
			{ fileId: u.file.id, name: 'Collars 2', as: 'table', kind: u.kind, mapping: u.mapping },
			{ 'idempotency-key': 'the-same-request' }
		);
		expect(again.body.job).toBe(first.body.job);
		expect((await objects(p)).filter((o) => o.kind === 'table').map((o) => o.name)).toEqual(['Collars']);
		expect((await api.send<{ type: string }>('POST', `/projects/${p}/build`, undefined, { 'idempotency-key': '!' })).body.type).toBe(
			'invalid-input'
		);
	});
	it('of ten builds at once there is one', async () => {
		const p = await project();
		const u = await upload(p);
		await api.finished(
			p,
			(
				await api.call<{ job: string }>('POST', `/projects/${p}/imports`, {
					fileId: u.file.id,
					name: 'Collars',
					as: 'table',
					kind: u.kind,
					mapping: u.mapping
				})
			).body.job
		);
		await api.call('PATCH', `/projects/${p}`, {
			extent: { minX: 401000, minY: 4991000, minZ: -100, maxX: 404000, maxY: 4994000, maxZ: 300 }
		});
		const jobs = await Promise.all(Array.from({ length: 10 }, () => api.call<{ job: string }>('POST', `/projects/${p}/build`)));
		expect(new Set(jobs.map((j) => j.body.job)).size).toBe(1);
		await api.finished(p, jobs[0]!.body.job);
	});
	it('that was to stop when its worker died has stopped; that was tried three times has failed, with a reason; other work goes on', async () => {
		const p = await project();
		const put = async (state: string, attempt: number) =>
			(
				await database.query<{ id: string }>(
					`insert into job (project_id, kind, title, payload, state, attempt, heartbeat) values ($1, 'import', 'x', $4, $2, $3, now() - interval '1 minute') returning id`,
					[p, state, attempt, JSON.stringify({ fileId: NOBODY, name: 'x', as: 'table' })]
				)
			).rows[0]!.id;
		const [stopping, tired, lost] = [await put('cancelling', 1), await put('running', 3), await put('running', 1)];
		const of = async (id: string) =>
			(
				await api.call<{ state: string; endedAt: string | null; outcome: { message?: string; problem?: { title: string } } | null }>(
					'GET',
					`/projects/${p}/jobs/${id}`
				)
			).body;
		await until(async () => (await Promise.all([stopping, tired, lost].map(of))).every((j) => j.endedAt !== null));
		expect(await of(stopping)).toMatchObject({ state: 'cancelled', outcome: { message: expect.stringContaining('nothing') } });
		expect(await of(tired)).toMatchObject({ state: 'failed', outcome: { problem: { title: expect.stringContaining('3 times') } } });
		// It was begun again, and found that its file is not there.
		expect(await of(lost)).toMatchObject({ state: 'failed', outcome: { problem: { title: expect.stringContaining('no such file') } } });
	});
	it('of a worker that lives is not begun again, however long that says nothing, unless it hangs', async () => {
		const p = await project();
		const worker = new pg.Client({ connectionString: server.databaseUrl });
		await worker.connect();
		const put = async (silent: string) => {
			const id = randomUUID();
			await worker.query('select pg_advisory_lock(7310001, hashtext($1))', [id]);
			await database.query(
				`insert into job (id, project_id, kind, title, payload, state, attempt, heartbeat) values ($1, $2, 'import', 'x', $3, 'running', 3, now() - $4::interval)`,
				[id, p, JSON.stringify({ fileId: NOBODY, name: 'x', as: 'table' }), silent]
			);
			return id;
		};
		const state = async (id: string) => (await api.call<{ state: string }>('GET', `/projects/${p}/jobs/${id}`)).body.state;
		const [slow, hangs] = [await put('1 minute'), await put('11 minutes')];
		await until(async () => (await state(hangs)) === 'failed');
		expect(await state(slow)).toBe('running');
		// Its connection goes with it.
		await worker.end();
		await until(async () => (await state(slow)) === 'failed');
	});
	it('that waits without an entry in the queue, as after a kill, is begun all the same, and no entry stays for ever', async () => {
		const p = await project();
		const { rows } = await database.query<{ id: string }>(
			`insert into job (project_id, kind, title, payload) values ($1, 'import', 'x', '{"fileId":"${NOBODY}","name":"x","as":"table"}') returning id`,
			[p]
		);
		await database.query(
			`insert into queue.job (name, data, state, started_on) values ('work', $1, 'active', now() - interval '1 minute')`,
			[JSON.stringify({ id: rows[0]!.id })]
		);
		await until(async () => (await api.call<{ state: string }>('GET', `/projects/${p}/jobs/${rows[0]!.id}`)).body.state === 'failed');
		await until(
			async () =>
				Number(
					(
						await database.query(
							`select count(*) as n from queue.job where state = 'active' and started_on < now() - interval '20 seconds'`
						)
					).rows[0].n
				) === 0
		);
	});
});

it('findings that were due when a server died are made up for, unasked', async () => {
	const p = await project();
	const u = await upload(p, COLLARS.replace('B,402100', 'A,402100'));
	await api.finished(
		p,
		(
			await api.call<{ job: string }>('POST', `/projects/${p}/imports`, {
				fileId: u.file.id,
				name: 'Collars',
				as: 'table',
				kind: u.kind,
				mapping: u.mapping
			})
		).body.job
	);
	const list = async () => (await api.send<{ checked: boolean; findings: { rule: string }[] }>('GET', `/projects/${p}/findings`)).body;
	const before = await api.findings(p);
	expect(before.findings.map((f) => f.rule)).toContain('duplicate-collar');
	// A change was stored, and the server ended before it had checked.
	await database.query(`delete from finding where project_id = $1`, [p]);
	await database.query(`update project set checked_key = '', check_due = now() - interval '1 minute' where id = $1`, [p]);
	await until(async () => (await list()).findings.length === before.findings.length);
	expect((await list()).checked).toBe(true);
});

describe('results', () => {
	it('belong to their project: what two projects of the same data have built outlives either of them; what is lost is built anew', async () => {
		const archive = await demoArchive(160);
		const open = async () => {
			const { status, body } = await api.call<{ project: string; jobs: string[] }>('POST', '/archives', archive);
			expect(status).toBe(201);
			for (const job of body.jobs) await api.finished(body.project, job);
			await api.finished(body.project, (await api.call<{ job: string }>('POST', `/projects/${body.project}/build`)).body.job);
			return body.project;
		};
		const [a, b] = [await open(), await open()];
		const model = async (p: string) =>
			(await api.call<{ misfits: { table: string }[]; volumes: { unit: string; volume: number }[] }>('GET', `/projects/${p}/model`)).body;
		const volumes = (await model(b)).volumes;
		expect((await model(a)).volumes).toEqual(volumes);
		// The misfits of each name its own tables.
		const own = new Set((await objects(b)).map((o) => o.id));
		expect((await model(b)).misfits.every((m) => own.has(m.table))).toBe(true);
		expect((await api.call('DELETE', `/projects/${a}?forever=true`)).status).toBe(200);
		expect((await api.call<Uint8Array>('GET', `/projects/${b}/mesh`)).body.length).toBeGreaterThan(10_000);
		expect((await objects(b)).find((o) => o.kind === 'model')).toMatchObject({ outOfDate: false, missing: false });
		// Somebody emptied the store by hand: that is seen, and nothing is taken for nothing.
		await database.query(`delete from result where project_id = $1 and kind <> 'summary'`, [b]);
		expect((await objects(b)).find((o) => o.kind === 'model')).toMatchObject({ outOfDate: true, missing: true });
		expect((await api.call<{ type: string }>('GET', `/projects/${b}/mesh`)).body.type).toBe('not-built');
		const job = await api.finished(b, (await api.call<{ job: string }>('POST', `/projects/${b}/build`)).body.job);
		expect((job.outcome as unknown as { steps: object[] }).steps).toHaveLength(4);
		// The terrain was read again from its file: the model is the same, not one without a terrain.
		expect((await model(b)).volumes).toEqual(volumes);
	}, 240_000);
});

describe('doors', () => {
	const raw = (options: { path: string; method?: string; headers?: Record<string, string>; body?: string }) =>
		new Promise<{ status: number; headers: Record<string, unknown>; body: string }>((resolve, reject) => {
			const { port } = new URL(server.url);
			const r = request({ host: '127.0.0.1', port, ...options }, (response) => {
				let body = '';
				response.on('data', (d) => (body += d));
				response.on('end', () => resolve({ status: response.statusCode!, headers: response.headers, body }));
			});
			r.on('error', reject);
			r.end(options.body);
		});
	it('stay shut to other names and other pages, for static files and events too', async () => {
		const p = await project();
		for (const path of ['/', '/mark.svg', '/api/v1/projects', `/api/v1/projects/${p}/events`])
			expect([path, (await raw({ path, headers: { host: 'rebound.example' } })).status]).toEqual([path, 421]);
		expect(
			(await raw({ path: `/api/v1/projects/${p}/undo`, method: 'POST', headers: { origin: 'http://elsewhere.example' } })).status
		).toBe(403);
		expect((await raw({ path: `/api/v1/projects/${p}/build`, method: 'POST', headers: { 'sec-fetch-site': 'cross-site' } })).status).toBe(
			403
		);
	});
	it('carry their guards on every answer', async () => {
		for (const path of ['/', '/mark.svg', '/api/v1/health', '/api-docs', '/nothing-here']) {
			const { headers } = await raw({ path });
			expect([path, headers['x-frame-options'], headers['x-content-type-options']]).toEqual([path, 'DENY', 'nosniff']);
			const policy = String(headers['content-security-policy']);
			expect(policy).toContain("frame-ancestors 'none'");
			expect(policy).not.toMatch(/script-src[^;]*unsafe-inline/);
		}
	});
	it('answer what is odd with a problem that says what to do', async () => {
		const json = { 'content-type': 'application/json' };
		const cases: [Parameters<typeof raw>[0], number][] = [
			[{ path: '/api/v1/projects', method: 'POST', headers: json, body: `${'['.repeat(50_000)}${']'.repeat(50_000)}` }, 422],
			[{ path: '/api/v1/projects', method: 'POST', headers: json, body: `{"name":"${'x'.repeat(5_000_000)}"}` }, 413],
			[{ path: '/api/v1/projects', method: 'POST', headers: { 'content-type': 'text/xml' }, body: '<a/>' }, 415],
			[{ path: '/api/v1/health', method: 'PUT' }, 405],
			[{ path: '/api/v1/projects/%E0%A4%A' }, 400],
			[{ path: '/api/v1/nothing' }, 404]
		];
		for (const [what, status] of cases) {
			const a = await raw(what);
			expect([what.path, what.method, a.status, a.headers['content-type']]).toEqual([
				what.path,
				what.method,
				status,
				'application/problem+json'
			]);
			expect(JSON.parse(a.body)).toMatchObject({ status });
			expect(a.body).not.toMatch(/node_modules|\/dist\/|at \w+ \(/);
		}
		expect((await raw({ path: '/api/v1/health', method: 'HEAD' })).status).toBe(200);
		expect((await raw({ path: '/api-docs' })).status).toBe(200);
	});
});
