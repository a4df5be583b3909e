import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { readPack } from '../../core/formats/pack';
import { demoTables } from '../../demo/generate';
import { demoArchive } from '../demo-archive';
import { demoServer } from '../demo-server';
import { client, startServer, type TestServer } from '../server';

let server: TestServer;
let api: ReturnType<typeof client>;
let doubt: string;
let project: string;
const text = (s: string) => new TextEncoder().encode(s);
const objects = async () =>
	(
		await api.call<{ objects: { id: string; kind: string; name: string; revision: number; outOfDate: boolean; contentHash: string }[] }>(
			'GET',
			`/projects/${project}`
		)
	).body.objects;
const object = async (kind: string) => (await objects()).find((o) => o.kind === kind)!;

async function build() {
	const { body } = await api.call<{ job: string }>('POST', `/projects/${project}/build`);
	const job = await api.finished(project, body.job);
	expect(job.state).toBe('done');
	return (job.outcome as unknown as { steps: { step: string; cached: boolean }[] }).steps;
}

beforeAll(async () => {
	server = await startServer();
	api = client(server);
	const { status, body } = await api.call<{ project: string; jobs: string[] }>('POST', '/archives', await demoArchive());
	expect(status).toBe(201);
	project = body.project;
	for (const job of body.jobs) expect((await api.finished(project, job)).state).toBe('done');
});
afterAll(async () => server?.stop());

describe('the server', () => {
	it('says how it is', async () => {
		expect((await api.call('GET', '/health')).body).toMatchObject({ server: 'up', database: 'up', queue: 'up' });
	});

	it('describes every operation as OpenAPI', async () => {
		const { body } = await api.call<{
			openapi: string;
			paths: Record<string, Record<string, { requestBody?: { content: Record<string, { schema: { required?: string[] } }> } }>>;
		}>('GET', '/openapi.json');
		expect(body.openapi).toBe('3.1.0');
		expect(body.paths['/projects']!['post']!.requestBody!.content['application/json']!.schema.required).toEqual(['name']);
		expect(Object.keys(body.paths).length).toBeGreaterThan(25);
	});

	it('answers what it does not know with a problem', async () => {
		const { status, type, body } = await api.call<{ title: string; hint: string }>('GET', '/nothing');
		expect(status).toBe(404);
		expect(type).toContain('application/problem+json');
		expect(body.hint).toContain('openapi.json');
		expect((await api.call('GET', '/projects/not-an-id')).status).toBe(404);
	});
});

describe('the way from files to a model', () => {
	it('stores the clean demo without findings', async () => {
		expect((await api.findings(project)).findings).toEqual([]);
	});

	it('builds, and then builds nothing again', async () => {
		expect((await build()).map((s) => s.step)).toEqual(['hole paths', 'contacts', 'fields', 'model']);
		expect(await build()).toEqual([]);
		const { body } = await api.call<{
			volumeError: number;
			volumes: { volume: number }[];
			surfaces: { rms: number; max: number }[];
			findings: unknown[];
			spacing: number;
		}>('GET', `/projects/${project}/model`);
		expect(body.volumeError).toBeLessThan(1e-9);
		expect(body.volumes).toHaveLength(7);
		// Every contact is honoured within 2 % of the spacing, and nothing has to be said.
		for (const s of body.surfaces) expect(s.max).toBeLessThan(0.02 * body.spacing);
		expect(body.findings).toEqual([]);
	});

	it('names contacts that a narrower box leaves outside, and does not measure them', async () => {
		const { body: before } = await api.call<{ extent: Record<string, number> }>('GET', `/projects/${project}`);
		const extent = { minX: 400_000, minY: 4_990_000, minZ: -450, maxX: 404_500, maxY: 4_995_000, maxZ: 450 };
		await api.call('PATCH', `/projects/${project}`, { extent });
		await build();
		const { body } = await api.call<{
			spacing: number;
			surfaces: { contacts: number; measured: number; max: number }[];
			findings: { kind: string; message: string; hint: string }[];
		}>('GET', `/projects/${project}/model`);
		expect(body.findings.map((f) => f.kind)).toEqual(['contacts-beyond']);
		expect(body.findings[0]!.message).toMatch(/^\d+ contacts lie outside the extent: .* in TW-\d+/);
		expect(body.surfaces.some((s) => s.measured < s.contacts)).toBe(true);
		for (const s of body.surfaces) expect(s.max).toBeLessThan(0.02 * body.spacing);
		await api.call('POST', `/projects/${project}/undo`);
		expect((await api.call<{ extent: Record<string, number> }>('GET', `/projects/${project}`)).body.extent).toEqual(before.extent);
		expect((await build()).every((s) => s.cached)).toBe(true);
	});

	it('rebuilds only what a change can reach, and undo finds the old result again', async () => {
		const model = await object('model');
		await api.call('PUT', `/projects/${project}/spacing`, { spacing: 150, revision: model.revision });
		expect(
			(await objects())
				.filter((o) => o.outOfDate)
				.map((o) => o.kind)
				.sort()
		).toEqual(['model', 'section']);
		expect((await build()).map((s) => s.step)).toEqual(['model']);
		await api.call('POST', `/projects/${project}/undo`);
		expect(await build()).toMatchObject([{ step: 'model', cached: true }]);
	});

	it('tells how the logs agree with the model, and how far the contacts are offset along the fault', async () => {
		const { body } = await api.call<{
			agreement: { share: number; compared: number; units: { unit: string; logged: number; modelled: { length: number }[] }[] };
			offsets: { fault: string; mean: number }[];
		}>('GET', `/projects/${project}/model`);
		expect(body.agreement.share).toBeGreaterThan(0.98);
		for (const u of body.agreement.units) expect(u.modelled.reduce((s, m) => s + m.length, 0)).toBeCloseTo(u.logged, 3);
		expect(body.offsets.length).toBeGreaterThan(1);
		for (const o of body.offsets) expect(Math.abs(o.mean - 120)).toBeLessThan(25);
	});

	it('doubts the model: an ensemble in the background, the same for the same seed, cells as VTK', async () => {
		const errors = { contact: 3, orientation: 5, faultDip: 3, faultTrace: 10 };
		const parameters = { members: 3, spacing: 200, seed: 5, ...errors };
		const inputs = { fields: [(await object('model')).id], terrain: [(await object('terrain')).id] };
		const made = await api.call<{ id: string }>('POST', `/projects/${project}/results`, { recipe: 'doubt', inputs, parameters });
		doubt = made.body.id;
		expect((await api.call<{ type: string }>('GET', `/projects/${project}/results/${doubt}/file.vti`)).body.type).toBe('not-built');
		const run = async () => {
			const { body } = await api.call<{ job: string }>('POST', `/projects/${project}/build`, { objects: [doubt] });
			return api.finished(project, body.job);
		};
		expect((await run()).state).toBe('done');
		interface Doubt {
			state: string;
			built: { at: string; report: { members: number; volumes: { unit: string; p10: number; p50: number; p90: number }[] } };
			revision: number;
		}
		const told = async () => (await api.call<Doubt>('GET', `/projects/${project}/results/${doubt}`)).body;
		const first = await told();
		expect([first.built.report.members, first.state, first.built.report.volumes.length]).toEqual([3, 'up to date', 7]);
		for (const v of first.built.report.volumes) expect(v.p10 <= v.p50 && v.p50 <= v.p90).toBe(true);
		const change = async (more: object) =>
			api.call<{ type: string; fields?: { path: string }[] }>('PATCH', `/projects/${project}/results/${doubt}`, {
				parameters: { ...parameters, ...more },
				revision: (await told()).revision
			});
		// Other parameters and back: what was built before is found.
		expect((await change({ seed: 6 })).status).toBe(200);
		expect((await told()).state).not.toBe('up to date');
		expect((await change({})).status).toBe(200);
		await run();
		expect((await told()).built.at).toBe(first.built.at);
		const pack = readPack((await api.call<Uint8Array>('GET', `/projects/${project}/results/${doubt}/pack`)).body);
		expect(pack.arrays['probability']!.length).toBe(7 * pack.arrays['entropy']!.length);
		// What is drawn of it only: an eighth of the bytes.
		const part = async (names: string) =>
			api.call<Uint8Array & { type: string }>('GET', `/projects/${project}/results/${doubt}/pack?arrays=${names}`);
		const drawn = readPack((await part('entropy')).body);
		expect([Object.keys(drawn.arrays), drawn.info]).toEqual([['entropy'], pack.info]);
		expect(drawn.arrays['entropy']).toEqual(pack.arrays['entropy']);
		expect((await part('entropy,gold')).body.type).toBe('unknown-array');
		expect((await part('__proto__')).body.type).toBe('unknown-array');
		const vti = new TextDecoder('latin1').decode(
			(await api.call<Uint8Array>('GET', `/projects/${project}/results/${doubt}/file.vti`)).body
		);
		expect(vti).toContain('Name="entropy"');
		expect(vti).toContain('Name="slate"');
		const needs = await api.call<{ type: string }>('POST', `/projects/${project}/needs`, {
			recipe: 'doubt',
			inputs,
			parameters: { ...parameters, spacing: 1 }
		});
		expect(needs.body.type).toBe('too-fine');
		for (const wrong of [{ members: 1 }, { contact: -1 }]) expect((await change(wrong)).status).toBe(422);
	});

	it('takes a fault that ends on another or dies out, and refuses circles and tips without a size', async () => {
		const { body } = await api.call<{ faults: { revision: number; faults: { id: string; trace: number[][] }[] } }>(
			'GET',
			`/projects/${project}/interpretation`
		);
		const [sallow] = body.faults.faults;
		const branch = {
			...sallow!,
			id: 'branch',
			name: 'Branch',
			endsOn: 'sallow',
			trace: [
				[403600, 4992400],
				[405200, 4992900]
			]
		};
		const put = (faults: object[], revision: number) =>
			api.call<{ type: string }>('PUT', `/projects/${project}/faults`, { faults, revision });
		expect((await put([{ ...sallow!, endsOn: 'branch' }, branch], body.faults.revision)).body.type).toBe('fault-circle');
		expect(
			(await put([{ ...sallow!, tips: { elevation: 0, halfLength: 0, halfHeight: 0, reach: 10 } }], body.faults.revision)).body.type
		).toBe('invalid-input');
		expect(
			(await put([{ ...sallow!, tips: { elevation: -100, halfLength: 0, halfHeight: 300, reach: 500 } }, branch], body.faults.revision))
				.status
		).toBe(200);
		expect((await object('model')).outOfDate).toBe(true);
		expect((await api.call<{ state: string }>('GET', `/projects/${project}/results/${doubt}`)).body.state).toBe('out of date');
		await build();
		const model = (await api.call<{ volumeError: number; offsets: { fault: string }[] }>('GET', `/projects/${project}/model`)).body;
		expect(model.volumeError).toBeLessThan(1e-9);
		expect(model.offsets.some((o) => o.fault === 'sallow')).toBe(true);
		await api.call('POST', `/projects/${project}/undo`);
		await build();
		expect((await object('model')).outOfDate).toBe(false);
	});

	it('does not call the model out of date for an assay, but for a log', async () => {
		const list = await objects();
		const edit = (name: string, column: string, value: string) =>
			api.call('PATCH', `/projects/${project}/tables/${list.find((o) => o.name === name)!.id}/rows/3`, { column, value });
		expect((await edit('Assays', 'Sn_ppm', '12')).status).toBe(200);
		expect((await object('model')).outOfDate).toBe(false);
		expect((await edit('Lithology', 'To', 'deep')).body).toEqual({ held: 1, noted: expect.any(Number) });
		expect((await object('model')).outOfDate).toBe(true);
		const rows = await api.call<{ rows: { n: number; originals: Record<string, string>; findings: { rule: string }[] }[] }>(
			'GET',
			`/projects/${project}/tables/${list.find((o) => o.name === 'Lithology')!.id}/rows?only=found`
		);
		const row = rows.body.rows.find((r) => r.n === 3)!;
		expect(row.findings.map((f) => f.rule)).toContain('not-a-number');
		expect(Object.keys(row.originals)).toEqual(['2']);
		await api.call('POST', `/projects/${project}/undo`);
		expect((await object('model')).outOfDate).toBe(false);
		expect((await api.findings(project)).findings).toEqual([]);
	});

	it('excludes a row and takes it back', async () => {
		const id = (await objects()).find((o) => o.name === 'Lithology')!.id;
		await api.call('PATCH', `/projects/${project}/tables/${id}/rows/0`, { excluded: true });
		const { body } = await api.call<{ total: number }>('GET', `/projects/${project}/tables/${id}/rows?only=excluded`);
		expect(body.total).toBe(1);
		await api.call('POST', `/projects/${project}/undo`);
		expect((await object('model')).outOfDate).toBe(false);
	});

	it('refuses the second of two people who edit the same object', async () => {
		const column = await api.call<{ column: { revision: number; units: { name: string }[] } }>(
			'GET',
			`/projects/${project}/interpretation`
		);
		const { revision, units } = column.body.column;
		const rename = (name: string) =>
			api.call<{ type: string }>('PUT', `/projects/${project}/column`, {
				units: units.map((u, i) => (i === 0 ? { ...u, name } : u)),
				revision
			});
		expect((await rename('First')).status).toBe(200);
		const second = await rename('Second');
		expect(second.status).toBe(409);
		expect(second.body.type).toBe('edited-elsewhere');
		// A name changes no computation.
		expect((await object('model')).outOfDate).toBe(false);
		await api.call('POST', `/projects/${project}/undo`);
	});

	it('cancels a build and leaves nothing of it', async () => {
		const model = await object('model');
		await api.call('PUT', `/projects/${project}/spacing`, { spacing: 31, revision: model.revision });
		const { body } = await api.call<{ job: string }>('POST', `/projects/${project}/build`);
		for (;;) {
			const { body: j } = await api.call<{ state: string; what: string }>('GET', `/projects/${project}/jobs/${body.job}`);
			if (j.state === 'running') break;
			expect(j.state).toBe('waiting');
		}
		await api.call('POST', `/projects/${project}/jobs/${body.job}/cancel`);
		expect((await api.finished(project, body.job)).state).toBe('cancelled');
		expect((await object('model')).outOfDate).toBe(true);
		await api.call('POST', `/projects/${project}/undo`);
		expect((await object('model')).outOfDate).toBe(false);
	});
});

describe('bad input', () => {
	const upload = (name: string, body: Uint8Array) =>
		api.call<{ type: string; title: string; hint?: string; file: { id: string } }>(
			'POST',
			`/projects/${project}/files?name=${encodeURIComponent(name)}`,
			body
		);

	it.each([
		['an empty table', 'a.csv', 'hole,x\n', 'empty-file'],
		['a picture called CSV', 'a.csv', '\u0089PNG\r\n\0\0\0', 'not-text'],
		['one line without end', 'a.csv', 'x'.repeat(3_000_000), 'line-too-long'],
		['text called TIFF', 'a.tif', 'hole,x\nA,1\n', 'not-a-geotiff']
	])('%s is refused and not kept', async (_, name, content, type) => {
		const { status, body } = await upload(name, text(content));
		expect(status).toBe(422);
		expect(body.type).toBe(type);
	});

	it('columns that are not mapped are named before anything is read', async () => {
		const { body } = await upload('log.csv', text('hole,from,to,code\nA,0,1,S\n'));
		const answer = await api.call<{ type: string; title: string }>('POST', `/projects/${project}/imports`, {
			fileId: body.file.id,
			name: 'More logs',
			as: 'table',
			kind: 'intervals',
			mapping: { hole: 'hole' }
		});
		expect(answer.body).toMatchObject({ type: 'unmapped-columns', title: 'no column is mapped to Code; From and To, or To, or Thickness' });
	});

	it('a name that is taken, a missing fault vertex, a flat extent and a spacing too fine are refused', async () => {
		const { body } = await upload(
			'collars.csv',
			text(
				demoTables()
					.collars.map((r) => r.join(','))
					.join('\n')
			)
		);
		expect(
			(
				await api.call<{ type: string }>('POST', `/projects/${project}/imports`, {
					fileId: body.file.id,
					name: 'Collars',
					as: 'table',
					kind: 'collars',
					mapping: {}
				})
			).body.type
		).toBe('name-taken');
		const fault = { id: 'x', name: 'X', trace: [[1, 1]], dip: 60, dipAzimuth: 90, youngestCut: 'slate', halfWidth: 5, on: true };
		expect((await api.call<{ title: string }>('PUT', `/projects/${project}/faults`, { faults: [fault] })).body.title).toContain(
			'one vertex'
		);
		const flat = await api.call<{ fields: { path: string; message: string }[] }>('PATCH', `/projects/${project}`, {
			extent: { minX: 0, minY: 0, minZ: 5, maxX: 1, maxY: 1, maxZ: 5 }
		});
		expect(flat.body.fields[0]).toMatchObject({ path: 'extent', message: expect.stringContaining('no volume') });
		expect((await api.call<{ type: string; hint: string }>('GET', `/projects/${project}/estimate?spacing=1`)).body).toMatchObject({
			type: 'too-fine',
			hint: expect.stringContaining('spacing of')
		});
	});

	it('a project without holes and without an extent is not built', async () => {
		const { body } = await api.call<{ id: string }>('POST', '/projects', { name: 'Empty' });
		expect((await api.call<{ type: string }>('POST', `/projects/${body.id}/build`)).body.type).toBe('no-extent');
		expect((await api.call<{ fields: { path: string }[] }>('POST', '/projects', { nme: 1 })).body.fields.map((f) => f.path)).toContain(
			'name'
		);
	});
});

describe('a killed server', () => {
	it('loses nothing that was confirmed, and the next one finishes its jobs', async () => {
		const { server: own, api: first, project: whose } = await demoServer({ spacing: 120 });
		const { body: started } = await first.call<{ job: string }>('POST', `/projects/${whose}/build`);
		const jobs = async (of: typeof first) =>
			(await of.call<{ jobs: { kind: string; state: string; attempt: number }[] }>('GET', `/projects/${whose}/jobs`)).body.jobs;
		while (!(await jobs(first)).some((j) => j.kind === 'node' && j.state === 'running'));
		own.process.kill('SIGKILL');
		const second = await startServer({}, own.databaseUrl);
		const again = client(second);
		const job = await again.finished(whose, started.job);
		expect(job.state).toBe('done');
		// What was at work when the server was killed was begun again; the rest was not.
		expect(
			(await jobs(again))
				.filter((j) => j.kind === 'node')
				.map((j) => j.attempt)
				.sort()
		).toEqual([1, 1, 1, 2]);
		await second.stop();
	});
});
