import type { ChildProcess } from 'node:child_process';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { client, startCatalogue, startServer, type Brought, type TestServer } from '../server';

let server: TestServer;
let api: ReturnType<typeof client>;
let project: string;
let catalogue: ChildProcess;
let catalogueUrl: string;
const objects = async () =>
	(await api.call<{ objects: { name: string; state: Record<string, unknown> }[] }>('GET', `/projects/${project}`)).body.objects;

beforeAll(async () => {
	({ url: catalogueUrl, process: catalogue } = await startCatalogue());
	server = await startServer({ MALACHITE_CATALOGUE_URL: catalogueUrl });
	api = client(server);
	project = (await api.call<{ id: string }>('POST', '/projects', { name: 'Catalogue', crs: 32628 })).body.id;
});
afterAll(async () => {
	catalogue?.kill();
	await server?.stop();
});

describe('the regional catalogue', () => {
	const simulate = (fault: string) => fetch(`${catalogueUrl}/simulation`, { method: 'PUT', body: JSON.stringify({ fault }) });
	const AREA = [-16.27, 45.06, -16.2, 45.1];
	const search = (q = '') =>
		api.call<{ records: { id: string }[]; type: string; title: string }>(
			'GET',
			`/projects/${project}/catalogue?bbox=${AREA.join(',')}&q=${q}`
		);
	const take = async (record: string, name: string) => {
		const { body } = await api.call<{ job: string }>('POST', `/projects/${project}/catalogue/${record}`, { box: AREA, every: 2, name });
		return (await api.finished(project, body.job)) as unknown as Brought;
	};

	it('is searched by area and words, and its records come in clipped and in the system of the project', async () => {
		expect((await search()).body.records.length).toBe(6);
		expect((await search('terrain 90')).body.records.map((r) => r.id)).toEqual(['terrain-90']);
		expect((await api.call<{ type: string }>('GET', `/projects/${project}/catalogue?bbox=1,2,0,3`)).body.type).toBe('bad-area');
		expect((await api.call('GET', '/catalogue/geology/picture')).type).toBe('image/png');
		for (const [record, name] of [
			['terrain-30', 'Regional terrain'],
			['gravity', 'Gravity'],
			['geology', 'Map'],
			['air-photo', 'Air']
		] as const)
			expect(await take(record, name)).toMatchObject({ state: 'done' });
		const terrain = (await objects()).find((o) => o.name === 'Regional terrain')!.state['shape'] as { dx: number; x0: number };
		expect(terrain.dx).toBe(60);
		expect(terrain.x0).toBeGreaterThan(399_900);
	});

	it('a connection that is cut is taken up where it was', async () => {
		await simulate('cut');
		expect(await take('magnetics', 'Magnetics')).toMatchObject({ state: 'done' });
		await simulate('none');
	});

	it('records that lie nowhere are no list of records', async () => {
		await simulate('odd');
		expect((await search()).body).toMatchObject({ type: 'catalogue-answer' });
		await simulate('none');
	});

	it('a refused sign-in and a service that is down are said in plain words, and nothing is stored', async () => {
		const before = (await objects()).length;
		await simulate('refused');
		expect((await search()).body).toMatchObject({ type: 'catalogue-refused' });
		expect((await take('magnetics', 'Again')).outcome.problem).toMatchObject({ type: 'catalogue-refused' });
		await simulate('none');
		catalogue.kill();
		await new Promise((r) => catalogue.once('exit', r));
		expect((await search()).body).toMatchObject({ type: 'catalogue-down', title: expect.stringContaining('does not answer') });
		expect((await objects()).length).toBe(before);
	});
});
