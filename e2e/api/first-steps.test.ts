import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { unzipSync } from 'fflate';
import type { FirstSteps } from '#core/project/first-steps';
import { ownGround } from '../own-ground';
import { readPack } from '../../core/formats/pack';
import { client, startServer, type TestServer } from '../server';

let server: TestServer;
let api: ReturnType<typeof client>;
let project: string;
interface Problem {
	type: string;
	title: string;
	hint?: string;
	fields?: { path: string; message: string }[];
}
interface Listed {
	id: string;
	name: string;
	lastWork: string;
}
const at = (path: string) => `/projects/${project}${path}`;
const steps = async () => (await api.call<FirstSteps>('GET', at('/first-steps'))).body;
const list = async (query = '') => (await api.call<{ projects: Listed[] }>('GET', `/projects${query}`)).body.projects;

beforeAll(async () => {
	server = await startServer();
	api = client(server);
	project = (await api.call<{ id: string }>('POST', '/projects', { name: 'Own ground' })).body.id;
});
afterAll(() => server?.stop());

describe('the first steps of a project', () => {
	it('say what to bring in while there is nothing', async () => {
		expect(await steps()).toMatchObject({
			units: null,
			extent: null,
			spacing: null,
			section: null,
			missing: [{ what: 'holes or a terrain' }]
		});
		expect((await api.call<{ taken: string[] }>('POST', at('/first-steps'), { take: ['units', 'extent'] })).body.taken).toEqual([]);
	});
	it('are proposed from the files, whatever order they came in, and a lost digit spoils none of them', async () => {
		for (const [name, text] of Object.entries(ownGround()).reverse())
			expect((await api.bring(project, name, name, text)).state).toBe('done');
		const s = await steps();
		expect(s.units!.column.map((u) => u.name)).toEqual(['Till', 'Shale', 'Limestone', 'Granite']);
		expect(s.units!.left).toEqual(['no core']);
		expect(s.extent!.minX).toBeGreaterThan(500_000);
		expect(s.spacing).toBeGreaterThan(0);
		expect(s.section!.holes).toBeGreaterThan(4);
	});
	it('are taken over as one change, which undo takes back', async () => {
		const take = ['units', 'extent', 'spacing', 'section'];
		expect((await api.call<{ taken: string[] }>('POST', at('/first-steps'), { take })).body.taken).toEqual(take);
		expect((await api.call<{ changes: { undo: { label: string } } }>('GET', at(''))).body.changes.undo.label).toBe(
			'Take over units and their order, the extent, the spacing and a first section'
		);
		expect((await steps()).units).toBeNull();
		await api.call('POST', at('/undo'));
		const { body } = await api.call<{ column: { units: object[] }; section: { trace: object[] } }>('GET', at('/interpretation'));
		expect([body.column.units, body.section.trace]).toEqual([[], []]);
		expect((await api.call<{ project: { extent: object | null } }>('GET', at(''))).body.project.extent).toBeNull();
		await api.call('POST', at('/redo'));
	});
	it('make a model that can be built at once', async () => {
		const job = await api.finished(project, (await api.call<{ job: string }>('POST', at('/build'))).body.job);
		expect(job.state).toBe('done');
		const { body } = await api.call<{ volumes: { name: string; volume: number }[] }>('GET', at('/model'));
		expect(body.volumes.map((v) => v.name)).toEqual(['Till', 'Shale', 'Limestone', 'Granite']);
		for (const v of body.volumes) expect(v.volume).toBeGreaterThan(0);
	});
	it.each([[{}], [{ take: [] }], [{ take: ['gold'] }], [{ take: 'units' }]])('refuse %j', async (body) => {
		expect((await api.call('POST', at('/first-steps'), body)).status).toBe(422);
	});
});

describe('what panes draw', () => {
	it('is a tenth of the model and compressed, and everything that is text is, too', async () => {
		const size = async (path: string, encoding: string) => {
			const r = await fetch(`${server.url}/api/v1${at(path)}`, { headers: { 'accept-encoding': encoding } });
			expect(r.status).toBe(200);
			return {
				encoding: r.headers.get('content-encoding'),
				bytes: (await r.arrayBuffer()).byteLength,
				length: Number(r.headers.get('content-length'))
			};
		};
		const [whole, drawn] = [await size('/mesh', 'identity'), await size('/mesh?drawn=true', 'identity')];
		expect(drawn.bytes).toBeLessThan(whole.bytes / 4);
		// A first look has few triangles, and says so; of a small model it is the whole.
		const look = async (most: number) => readPack((await api.call<Uint8Array>('GET', at(`/mesh?drawn=true&most=${most}`))).body).info;
		const all = (await look(1e6)) as { light: boolean; drawn: { triangles: number }; volumes: unknown };
		const few = (await look(1000)) as typeof all;
		expect([all.light, few.light, few.volumes]).toEqual([false, true, all.volumes]);
		expect([few.drawn.triangles <= 1000, few.drawn.triangles < all.drawn.triangles]).toEqual([true, true]);
		for (const most of ['0', '-5', 'x', '1.5']) expect((await api.call('GET', at(`/mesh?drawn=true&most=${most}`))).status).toBe(422);
		const { objects } = (await api.call<{ objects: { id: string; kind: string }[] }>('GET', at(''))).body;
		const model = objects.find((o) => o.kind === 'model')!.id;
		// Any solids are looked at so, those of other models too.
		const asObject = `/objects/${model}/pack?drawn=true&most=1000`;
		expect(readPack((await api.call<Uint8Array>('GET', at(asObject))).body).info).toMatchObject({ light: true, drawn: few.drawn });
		const part = (k: string, more = 'drawn=true') =>
			api.call<Uint8Array & { type: string; title: string; hint: string }>('GET', at(`/objects/${model}/pack?${more}&part=${k}`));
		expect(readPack((await part('0')).body).info).toMatchObject({ drawn: { ...all.drawn, part: 0, parts: 1 }, light: false });
		expect((await part('1')).body).toMatchObject({ type: 'not-found', title: 'there is no part 1', hint: 'Ask for one from 0 to 0.' });
		for (const k of ['-1', 'x', '0.5']) expect((await part(k)).status).toBe(422);
		expect((await part('0', 'drawn=false')).body).toMatchObject({ type: 'wrong-form', where: 'part' });
		expect((await api.call('GET', at('/mesh?part=0'))).status).toBe(422);
		const geology = `/derived/surface-geology?of=model:${model}`;
		for (const path of ['', '/interpretation', '/mesh?drawn=true', '/terrain?drawn=true', geology]) {
			expect((await size(path, 'gzip')).encoding, path).toBe('gzip');
			expect((await size(path, 'identity')).encoding, path).toBeNull();
		}
		// The line for events must not wait for a full block.
		const events = await fetch(`${server.url}/api/v1${at('/events')}`, { headers: { 'accept-encoding': 'gzip' } });
		expect(events.headers.get('content-encoding')).toBeNull();
		await events.body!.cancel();
	});
});

describe('projects', () => {
	it('have a picture of holes and geology, and one without anything, too', async () => {
		const r = await fetch(`${server.url}/api/v1${at('/picture')}`);
		expect(r.headers.get('content-type')).toBe('image/svg+xml');
		const svg = await r.text();
		expect(svg.match(/h0/g)!.length).toBeGreaterThan(30);
		// The geology fills most of the extent.
		const [outer] = [...svg.matchAll(/fill-rule="evenodd" d="M([^Z]+)Z/g)].map((m) =>
			m[1]!.split('L').map((p) => p.split(' ').map(Number))
		);
		const area = outer!.reduce(
			(a, [x, y], i) => a + (x! * outer![(i + 1) % outer!.length]![1]! - y! * outer![(i + 1) % outer!.length]![0]!) / 2,
			0
		);
		expect(Math.abs(area)).toBeGreaterThan(5000);
		const empty = (await api.call<{ id: string }>('POST', '/projects', { name: 'Empty' })).body.id;
		expect((await fetch(`${server.url}/api/v1/projects/${empty}/picture`)).status).toBe(200);
	});
	it('stand in the order of the last work, a build or a file among it', async () => {
		expect((await list())[0]!.name).toBe('Empty');
		await api.finished(project, (await api.call<{ job: string }>('POST', at('/build'))).body.job);
		expect((await list())[0]!.name).toBe('Own ground');
	});
	it('go into the bin and come back; for good only when that is said', async () => {
		const { id } = (await list()).find((p) => p.name === 'Empty')!;
		expect((await api.call('DELETE', `/projects/${id}`)).status).toBe(200);
		expect((await list()).map((p) => p.name)).not.toContain('Empty');
		expect((await list('?bin=true')).map((p) => p.name)).toEqual(['Empty']);
		const { status, body } = await api.call<Problem>('GET', `/projects/${id}`);
		expect([status, body.title]).toEqual([404, 'the project Empty lies in the bin']);
		expect((await fetch(`${server.url}/${id}/gather`)).status).toBe(404);
		expect((await api.call('DELETE', `/projects/${id}`)).status).toBe(404);
		expect((await api.call('POST', `/projects/${id}/restore`)).status).toBe(200);
		expect((await api.call('POST', `/projects/${id}/restore`)).status).toBe(404);
		expect((await api.call('GET', `/projects/${id}`)).status).toBe(200);
		await api.call('DELETE', `/projects/${id}?forever=true`);
		expect(await list('?bin=true')).toEqual([]);
		expect((await api.call('DELETE', `/projects/${id}?forever=true`)).status).toBe(404);
	});
	it('are duplicated with all they hold, under a name of their own', async () => {
		const names = [];
		for (let i = 0; i < 2; i++) {
			const { body } = await api.call<{ project: string; jobs: string[] }>('POST', at('/duplicate'));
			for (const job of body.jobs) expect((await api.finished(body.project, job)).state).toBe('done');
			const copy = await api.call<{ project: { name: string }; objects: { kind: string }[] }>('GET', `/projects/${body.project}`);
			names.push(copy.body.project.name);
			expect(copy.body.objects.filter((o) => o.kind === 'table')).toHaveLength(3);
		}
		expect(names).toEqual(['Own ground (copy)', 'Own ground (copy 2)']);
	});
	it('are refused in degrees and in systems that nobody knows, with what to do', async () => {
		const make = async (crs: number) => (await api.call<Problem>('POST', '/projects', { name: 'x', crs })).body;
		expect(await make(4326)).toMatchObject({ type: 'system-in-degrees' });
		expect(await make(999_999)).toMatchObject({ type: 'unknown-system' });
		const { body } = await api.call<{ project: { revision: number } }>('GET', at(''));
		expect((await api.call<Problem>('PATCH', at(''), { crs: 4258, revision: body.project.revision })).body.type).toBe('system-in-degrees');
		// What stays as it is is not asked about again.
		expect((await api.call('PATCH', at(''), { name: 'Own ground', crs: 0, revision: body.project.revision })).status).toBe(200);
	});
	it('start from the sample, whose files can be had, too', async () => {
		const { body } = await api.call<{ project: string; jobs: string[] }>('POST', '/sample');
		for (const job of body.jobs) expect((await api.finished(body.project, job)).state).toBe('done');
		const files = unzipSync(new Uint8Array(await (await fetch(`${server.url}/api/v1/sample`)).arrayBuffer()));
		expect(Object.keys(files)).toEqual(expect.arrayContaining(['collars.csv', 'lithology.csv', 'terrain.tif']));
		expect(files['project.json']).toBeUndefined();
	});
});

describe('coordinate systems', () => {
	const found = async (search: string) =>
		(await api.call<{ systems: { epsg: number; name: string }[] }>('GET', `/crs?search=${encodeURIComponent(search)}`)).body.systems;
	it('are found by code, name and country', async () => {
		expect((await found('32628'))[0]!.epsg).toBe(32628);
		expect((await found('EPSG:32628'))[0]!.epsg).toBe(32628);
		expect((await found('utm 28n'))[0]!.name).toBe('WGS 84 / UTM zone 28N');
		expect((await found('iceland')).length).toBeGreaterThan(3);
		expect(await found('no such place at all')).toEqual([]);
		expect((await found('%')).length).toBe(0);
	});
});

describe('what guards say to who types', () => {
	it('is in plain words', async () => {
		const { body } = await api.call<{ column: { revision: number } }>('GET', at('/interpretation'));
		const put = async (units: object[]) =>
			(await api.call<Problem>('PUT', at('/column'), { units, revision: body.column.revision })).body.fields!;
		expect(await put([{ id: 'a', name: '', color: '#112233', contact: 'conformable' }])).toEqual([
			{ path: 'units[0].name', message: 'must be given' }
		]);
		expect(await put([{ id: 'a', name: 'A', color: '#112233', contact: 'folded' }])).toEqual([
			{ path: 'units[0].contact', message: 'must be one of conformable, erosional, onlapping, intrusive' }
		]);
	});
});
