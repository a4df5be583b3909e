import { execFileSync } from 'node:child_process';
import { readFileSync } from 'node:fs';
import { gunzipSync } from 'node:zlib';
import pg from 'pg';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { readPack } from '#core/formats/pack';
import { client, startServer, type TestServer } from '../server';

// A database as an earlier version left it: the demo ground with a built and kept model, an ensemble, a calculated column, an excluded
// row, a viewpoint and a set of sections. What was there must be there, unchanged and without being built again.
const DUMP = 'e2e/databases/one-chain.sql.gz';
interface Sections {
	section: { corridor: number };
	sections: { name: string; trace: number[][] }[];
}
let server: TestServer;
let api: ReturnType<typeof client>;
let project: string;
const at = (path: string) => `/projects/${project}${path}`;

beforeAll(async () => {
	const admin = process.env['MALACHITE_DATABASE_URL']!;
	const name = `older_${Date.now()}_${Math.floor(Math.random() * 1e6)}`;
	const maker = new pg.Client({ connectionString: admin });
	await maker.connect();
	await maker.query(`create database ${name}`);
	await maker.end();
	const url = admin.replace(/\/\w+$/, `/${name}`);
	execFileSync('psql', ['--quiet', '--set', 'ON_ERROR_STOP=1', '--dbname', url], {
		input: gunzipSync(readFileSync(DUMP)),
		stdio: ['pipe', 'ignore', 'inherit'],
		maxBuffer: 1 << 28
	});
	server = await startServer({}, url);
	api = client(server);
	const { body } = await api.call<{ projects: { id: string; name: string }[] }>('GET', '/projects');
	expect(body.projects.map((p) => p.name)).toEqual(['Isle of Tarrow']);
	project = body.projects[0]!.id;
}, 120_000);
afterAll(() => server?.stop());

describe('a database of an earlier version', () => {
	it('has all its objects, and what was built is as up to date as it was', async () => {
		const { body } = await api.call<{ objects: { kind: string; name: string; missing: boolean; contentHash: string }[] }>('GET', at(''));
		expect(body.objects.filter((o) => o.kind === 'table').map((o) => o.name)).toContain('Lithology');
		for (const kind of ['holes', 'contacts', 'fields', 'model']) {
			const own = body.objects.find((o) => o.kind === kind)!;
			expect([kind, own.missing, own.contentHash !== '']).toEqual([kind, false, true]);
		}
	});

	it('shows its model without building it again', async () => {
		const { status, body } = await api.call<{ volumes: { name: string; volume: number }[] }>('GET', at('/model'));
		expect(status).toBe(200);
		expect(body.volumes.find((v) => v.name === 'Skerra Slate')!.volume).toBeGreaterThan(1e9);
		expect((await api.send('GET', at('/mesh?drawn=true'))).status).toBe(200);
		const { objects } = (await api.call<{ objects: { id: string; kind: string }[] }>('GET', at(''))).body;
		const of = `model:${objects.find((o) => o.kind === 'model')!.id}`;
		const geology = readPack((await api.call<Uint8Array>('GET', at(`/derived/surface-geology?of=${of}`))).body);
		expect((geology.info['features'] as object[]).length).toBeGreaterThan(4);
	});

	it('has its kept model, its ensemble, its sections, its viewpoint and its calculated column', async () => {
		const kept = (await api.call<{ models: { id: string; name: string }[] }>('GET', at('/kept-models'))).body.models;
		expect(kept.map((k) => k.name)).toEqual(['As first built']);
		const { results } = (
			await api.call<{ results: { recipe: string; built: { report: { members: number } } | null }[] }>('GET', at('/results'))
		).body;
		expect(results.find((r) => r.recipe === 'doubt')!.built!.report.members).toBe(4);
		// Its line of a set is a section of its own now.
		const { body } = await api.call<Sections>('GET', at('/interpretation'));
		expect([body.section.corridor, body.sections.map((l) => [l.name, l.trace.length])]).toEqual([200, [['B', 2]]]);
		const views = (await api.call<{ viewpoints: { id: string; name: string }[] }>('GET', at('/viewpoints'))).body.viewpoints;
		expect(views.map((v) => v.name)).toEqual(['From the south']);
		expect((await api.call('GET', at(`/viewpoints/${views[0]!.id}`))).status).toBe(200);
		const objects = (await api.call<{ objects: { id: string; name: string }[] }>('GET', at(''))).body.objects;
		const table = (name: string) => objects.find((o) => o.name === name)!.id;
		const rows = await api.call<{ calculated: { name: string }[] }>('GET', at(`/tables/${table('Assays')}/rows?limit=1`));
		expect(rows.body.calculated.map((c) => c.name)).toEqual(['W + Sn']);
		const log = await api.call<{ rows: { n: number; excluded: boolean }[] }>('GET', at(`/tables/${table('Lithology')}/rows?only=excluded`));
		expect(log.body.rows.map((r) => r.n)).toContain(3);
	});

	it('takes back what was changed in it, and can be built, kept and archived', async () => {
		const undo = await api.call<{ label: string }>('POST', at('/undo'), { others: true });
		expect([undo.status, undo.body.label]).toEqual([200, 'Change the sections']);
		// It had added a line to the set; done again, that is there again.
		const names = async () => (await api.call<Sections>('GET', at('/interpretation'))).body.sections.map((l) => l.name);
		expect(await names()).toEqual([]);
		expect((await api.call('POST', at('/redo'), { others: true })).status).toBe(200);
		expect(await names()).toEqual(['B']);
		const job = await api.finished(project, (await api.call<{ job: string }>('POST', at('/build'))).body.job);
		expect(job.state).toBe('done');
		expect((await api.call<{ outOfDate: boolean }>('GET', at('/model'))).body.outOfDate).toBe(false);
		expect((await api.send('GET', at('/archive'))).status).toBe(200);
	});
});
