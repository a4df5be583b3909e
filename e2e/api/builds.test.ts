import { spawn } from 'node:child_process';
import pg from 'pg';
import { describe, expect, it } from 'vitest';
import { builtDemo, type Model, type Result } from './built-demo';

const { at, call, objects, models, build, databaseUrl, finished, results, result, make, spacing } = builtDemo();

/** Jobs that are held by workers. */
async function held(): Promise<number> {
	const client = new pg.Client({ connectionString: databaseUrl() });
	await client.connect();
	const { rows } = await client.query<{ n: number }>(
		`select count(*)::int as n from pg_locks l join pg_database d on d.oid = l.database where d.datname = current_database() and l.locktype = 'advisory' and l.classid = 7310001`
	);
	await client.end();
	return rows[0]!.n;
}

describe('builds', () => {
	it('asked for twice at once are one, and what both need is built once', async () => {
		const [model] = await models();
		await spacing(170, model!);
		const unit = model!.units[0]!.id;
		const thick = (await make('thickness', { model: [model!.id] }, { unit, measured: 'vertical', cell: 60 })).body.id;
		const started = await Promise.all([1, 2, 3].map(() => call<{ job: string }>('POST', at('/build'), {})));
		expect(new Set(started.map((s) => s.body.job)).size).toBe(1);
		const further = await call<{ job: string }>('POST', at('/build'), { objects: [thick] });
		expect(further.body.job).not.toBe(started[0]!.body.job);
		expect((await finished(further.body.job)).state).toBe('done');
		const { jobs } = (
			await call<{ jobs: { kind: string; objectId: string | null; createdAt: string; state: string }[] }>('GET', at('/jobs'))
		).body;
		const newest = jobs.filter((j) => j.kind === 'node' && j.objectId === model!.id);
		expect(newest[0]!.state).toBe('done');
		expect(jobs.slice(0, 4).filter((j) => j.objectId === model!.id)).toHaveLength(1);
		await call('DELETE', at(`/results/${thick}`));
	});

	it('are cancelled with all that waits for them, and begin again', async () => {
		const [model] = await models();
		await spacing(35, model!);
		const thick = (await make('thickness', { model: [model!.id] }, { unit: model!.units[0]!.id, measured: 'vertical', cell: 60 })).body.id;
		const { body } = await call<{ job: string }>('POST', at('/build'), { objects: [thick] });
		await call('POST', at(`/jobs/${body.job}/cancel`));
		expect((await finished(body.job)).state).toBe('cancelled');
		expect((await result(thick)).state).toBe('never built');
		await spacing(180, model!);
		expect(await build({ objects: [thick] })).toMatchObject({ state: 'done' });
		await call('DELETE', at(`/results/${thick}`));
	});

	it('that take long hold up nothing short', async () => {
		const [model] = await models();
		await spacing(18, model!);
		const { body: long } = await call<{ job: string }>('POST', at('/build'), {});
		const atWork = async () =>
			(await call<{ jobs: { objectId: string | null; kind: string; state: string }[] }>('GET', at('/jobs'))).body.jobs.some(
				(j) => j.kind === 'node' && j.objectId === model!.id && j.state === 'running'
			);
		while (!(await atWork())) await new Promise((r) => setTimeout(r, 50));
		// Its worker holds it: as long as it does, nobody else begins it, however busy the machine is.
		await expect.poll(held, { timeout: 30_000 }).toBeGreaterThan(0);
		const log = (await objects()).find((o) => o.kind === 'table' && o.name === 'Lithology')!.id;
		const short = (await make('order-of-codes', { log: [log] }, { codes: 'code' })).body.id;
		expect(await build({ objects: [short] })).toMatchObject({ state: 'done' });
		expect(await atWork()).toBe(true);
		await call('POST', at(`/jobs/${long.job}/cancel`));
		expect((await finished(long.job)).state).toBe('cancelled');
		await expect.poll(held, { timeout: 30_000 }).toBe(0);
		await call('DELETE', at(`/results/${short}`));
		await spacing(180, (await models())[0]!);
		await build();
	});

	it('that share what they build are cancelled one by one: the other goes on', async () => {
		const [model] = await models();
		await spacing(60, model!);
		const unit = model!.units[0]!.id;
		const ids = [];
		for (const cell of [55, 56])
			ids.push((await make('thickness', { model: [model!.id] }, { unit, measured: 'vertical', cell }, { name: `Cell ${cell}` })).body.id);
		const jobs = [];
		for (const id of ids) jobs.push((await call<{ job: string }>('POST', at('/build'), { objects: [id] })).body.job);
		await call('POST', at(`/jobs/${jobs[1]}/cancel`));
		expect((await finished(jobs[1]!)).state).toBe('cancelled');
		expect((await finished(jobs[0]!)).state).toBe('done');
		expect([(await result(ids[0]!)).state, (await result(ids[1]!)).state]).toEqual(['up to date', 'never built']);
		for (const id of ids) await call('DELETE', at(`/results/${id}`));
		await spacing(180, (await models())[0]!);
		await build();
	});

	it('leave no more behind than what is used and the last three of a kind, however often they run', async () => {
		const stored = async () =>
			(await call<{ kinds: { kind: string; count: number }[] }>('GET', at('/store'))).body.kinds.find((k) => k.kind === 'model')!.count;
		const [first] = await models();
		// Models that were taken out and can come back have theirs still.
		const most = (await stored()) + 3;
		for (let k = 0; k < 6; k++) {
			await spacing(300 + k, first!);
			expect(await build({}, `?model=${first!.id}`)).toMatchObject({ state: 'done' });
		}
		for (let turn = 0; (await stored()) > most && turn < 50; turn++) await new Promise((r) => setTimeout(r, 100));
		expect(await stored()).toBeLessThanOrEqual(most);
		await spacing(first!.spacing, first!);
		expect(await build({}, `?model=${first!.id}`)).toMatchObject({ state: 'done' });
	});

	it('make anew what is damaged in the store', async () => {
		const [model] = await models();
		const thick = (await make('thickness', { model: [model!.id] }, { unit: model!.units[0]!.id, measured: 'vertical', cell: 70 })).body.id;
		await build({ objects: [thick] });
		const db = new pg.Client({ connectionString: databaseUrl() });
		await db.connect();
		await db.query(
			`update result set bytes = set_byte(bytes, length(bytes) - 1, (get_byte(bytes, length(bytes) - 1) + 1) % 256) where key = $1`,
			[model!.key]
		);
		await db.end();
		// Another result must be made of it: it is found to be damaged, and built anew first.
		const other = (await make('thickness', { model: [model!.id] }, { unit: model!.units[1]!.id, measured: 'vertical', cell: 70 })).body.id;
		expect(await build({ objects: [other] })).toMatchObject({ state: 'done' });
		expect(await result(other)).toMatchObject({ state: 'up to date' });
		expect((await models())[0]).toMatchObject({ state: 'up to date', key: model!.key });
		for (const id of [thick, other]) await call('DELETE', at(`/results/${id}`));
	});

	it('go on when the worker is another one', async () => {
		const other = spawn(process.execPath, ['dist/worker.js'], {
			env: { ...process.env, MALACHITE_DATABASE_URL: databaseUrl() },
			stdio: 'ignore'
		});
		try {
			const [model] = await models();
			const ids = [];
			for (const u of model!.units.slice(0, 4))
				ids.push((await make('thickness', { model: [model!.id] }, { unit: u.id, measured: 'across', cell: 75 })).body.id);
			const job = await build({ objects: ids });
			expect(job.state).toBe('done');
			expect((await results()).every((r) => r.state === 'up to date')).toBe(true);
			for (const id of ids) await call('DELETE', at(`/results/${id}`));
		} finally {
			other.kill('SIGTERM');
		}
	});

	it('of what is set to be built by itself begin when it is out of date, and not again and again when it can not be built', async () => {
		const [model] = await models();
		const made = await make(
			'thickness',
			{ model: [model!.id] },
			{ unit: model!.units[0]!.id, measured: 'vertical', cell: 65 },
			{ auto: true }
		);
		const id = made.body.id;
		const until = async (state: string) => {
			for (let i = 0; i < 100 && (await result(id)).state !== state; i++) await new Promise((r) => setTimeout(r, 100));
			expect((await result(id)).state).toBe(state);
		};
		await until('up to date');
		await spacing(190, (await models())[0]!);
		// The model is built with it.
		await until('up to date');
		expect((await models())[0]!.state).toBe('up to date');
		const copy = (await call<{ id: string }>('POST', at('/models'), { from: model!.id })).body.id;
		const of = async (input: string) =>
			call('PATCH', at(`/results/${id}`), { inputs: { model: [input] }, revision: (await result(id)).revision });
		await of(copy);
		await call('DELETE', at(`/models/${copy}`));
		await until('failed');
		const count = async () => (await call<{ total: number }>('GET', at('/jobs'))).body.total;
		const before = await count();
		await new Promise((r) => setTimeout(r, 3000));
		expect(await count()).toBe(before);
		await call('DELETE', at(`/results/${id}`));
	});

	it('of a model that is set so begin by themselves after each change, undo takes the setting back', async () => {
		const first = async () => (await models())[0]!;
		const set = async (body: object) =>
			call<{ type: string }>('PATCH', at(`/models/${(await first()).id}`), { revision: (await first()).revision, ...body });
		expect((await first()).auto).toBe(false);
		expect((await set({ auto: true })).status).toBe(200);
		expect((await set({ auto: true, revision: 0 })).status).toBe(409);
		expect((await set({ auto: 'always' })).status).toBe(422);
		await spacing(185, (await models())[0]!);
		for (let i = 0; i < 200 && (await first()).state !== 'up to date'; i++) await new Promise((r) => setTimeout(r, 100));
		expect(await first()).toMatchObject({ auto: true, state: 'up to date' });
		await set({ auto: false });
		await call('POST', at('/undo'));
		expect((await first()).auto).toBe(true);
		await set({ auto: false });
		await spacing(190, (await models())[0]!);
		await new Promise((r) => setTimeout(r, 1500));
		expect((await first()).state).toBe('out of date');
	});

	it('go through an archive with their models and results, also through one that names what is not there', async () => {
		const [model] = await models();
		const copy = (await call<{ id: string }>('POST', at('/models'), { from: model!.id, name: 'Another' })).body.id;
		const unit = model!.units[1]!.id;
		const top = (await make('unit-elevation', { model: [copy] }, { unit, side: 'top', cell: 90 }, { name: 'Top of it' })).body.id;
		await make(
			'depth-to-unit',
			{ model: [model!.id], terrain: [top] },
			{ unit, side: 'base', cell: 90 },
			{ name: 'Below its top', auto: true }
		);
		const archive = (await call<Uint8Array>('GET', at('/archive'))).body as unknown as Uint8Array;
		const copied = await call<{ project: string; jobs: string[] }>('POST', '/archives', archive);
		const jobs = [];
		for (const job of copied.body.jobs) jobs.push(await finished(job, copied.body.project));
		expect(jobs.at(-1)).toMatchObject({ kind: 'results', outcome: { made: 2, left: [] } });
		const there = (await call<{ results: Result[] }>('GET', `/projects/${copied.body.project}/results`)).body.results;
		expect(there.map((r) => [r.name, r.auto])).toEqual([
			['Top of it', false],
			['Below its top', true]
		]);
		expect(there[1]!.inputs['terrain']).toEqual([there[0]!.id]);
		const copies = (await call<{ models: Model[] }>('GET', `/projects/${copied.body.project}/models`)).body.models;
		expect(copies.map((m) => m.name)).toEqual([model!.name, 'Another']);
		expect(there[0]!.inputs['model']).toEqual([copies[1]!.id]);
		const { unzipSync, zipSync } = await import('fflate');
		const files = unzipSync(archive);
		const file = JSON.parse(new TextDecoder().decode(files['project.json'])) as { recipes: { inputs: object; recipe: string }[] };
		file.recipes[0]!.inputs = { model: ['Nowhere'] };
		file.recipes.push({ ...file.recipes[0]!, recipe: 'from-a-later-version' });
		files['project.json'] = new TextEncoder().encode(JSON.stringify(file));
		const damaged = await call<{ project: string; jobs: string[] }>('POST', '/archives', zipSync(files));
		expect(damaged.status).toBe(201);
		const last = [];
		for (const job of damaged.body.jobs) last.push(await finished(job, damaged.body.project));
		expect(last.at(-1)!.outcome).toMatchObject({
			made: 0,
			left: [{ name: 'Top of it' }, { name: 'Below its top' }, { name: 'Top of it' }]
		});
		await call('DELETE', at(`/models/${copy}`));
	}, 60_000);
});
