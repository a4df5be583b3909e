import { strFromU8, unzipSync } from 'fflate';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { demoServer } from '../demo-server';
import { NOBODY, type Api, type TestServer } from '../server';

let server: TestServer;
let api: Api;
let project: string;

beforeAll(async () => void ({ server, api, project } = await demoServer({ spacing: 120, build: true })));
afterAll(() => server?.stop());

/** Values of an ASCII grid, without those that stand for none. */
const valuesOf = (lines: readonly string[]): number[] =>
	lines
		.slice(6)
		.join(' ')
		.trim()
		.split(/\s+/)
		.map(Number)
		.filter((v) => v > -9000);

describe('what goes out', () => {
	it.each([
		'section.svg',
		'section.png',
		'section.dxf',
		'volumes.obj',
		'volumes.stl',
		'volumes.glb',
		'surfaces.vtp',
		'volumes.csv',
		'geology.geojson'
	])('%s', async (file) => {
		const response = await fetch(`${server.url}/api/v1/projects/${project}/exports/${file}`);
		expect(response.status).toBe(200);
		expect((await response.arrayBuffer()).byteLength).toBeGreaterThan(200);
		expect(response.headers.get('content-disposition')).toContain('attachment');
	});

	it('a section as it is: with its name, its corridor and its exaggeration', async () => {
		const { section } = (await api.call<{ section: { trace: number[][]; corridor: number } }>('GET', `/projects/${project}/interpretation`))
			.body;
		const { body } = await api.call<{ ids: string[] }>('POST', `/projects/${project}/sections`, {
			sections: [
				{ trace: section.trace, exaggeration: 3, corridor: 0 },
				{ name: 'Adit', trace: section.trace }
			]
		});
		const sheet = async (query: string) => {
			const response = await fetch(`${server.url}/api/v1/projects/${project}/exports/section.svg${query}`);
			return { status: response.status, text: await response.text() };
		};
		const tall = (await sheet(`?section=${body.ids[0]}`)).text;
		expect(tall).toContain('B–B′');
		// No hole is beside a corridor of no width; asked for another exaggeration, it has that.
		expect(tall).not.toContain('TW-');
		expect(tall).not.toBe((await sheet(`?section=${body.ids[0]}&exaggeration=1`)).text);
		// What it has not of its own is that of the main one, of which it is the same but for the name.
		const adit = (await sheet(`?section=${body.ids[1]}`)).text;
		expect(adit).toContain('section Adit');
		expect(adit).toContain('TW-');
		expect(adit.replaceAll('section Adit', 'section A–A′').replaceAll('>Adit', '>A')).toBe((await sheet('')).text);
		expect((await sheet(`?section=${NOBODY}`)).status).toBe(404);
		expect((await sheet('?section=1')).status).toBe(422);
		// A metre of section and half a kilometre of ground, a hundred times as high: no sheet has room for it, a drawing to scale has.
		const [x, y] = section.trace[0]!;
		const short = {
			trace: [
				[x, y],
				[x! + 1, y]
			],
			exaggeration: 100
		};
		const { ids } = (await api.call<{ ids: string[] }>('POST', `/projects/${project}/sections`, { sections: [short] })).body;
		const high = await api.call<{ type: string }>('GET', `/projects/${project}/exports/section.png?section=${ids[0]}&width=8000`);
		expect([high.status, high.body.type]).toEqual([422, 'picture-too-large']);
		expect((await sheet(`?section=${ids[0]}`)).status).toBe(422);
		expect((await api.send('GET', `/projects/${project}/exports/section.dxf?section=${ids[0]}`)).status).toBe(200);
		await api.call('POST', `/projects/${project}/undo`);
		await api.call('POST', `/projects/${project}/undo`);
	});

	it('grids of a unit: its thickness adds up to its volume, and its base lies below the terrain', async () => {
		const objects = (await api.call<{ objects: { id: string; kind: string }[] }>('GET', `/projects/${project}`)).body.objects;
		const id = (kind: string) => objects.find((o) => o.kind === kind)!.id;
		const grid = async (recipe: string, parameters: object, more = '') => {
			const query = new URLSearchParams({ of: `model:${id('model')}${more}`, parameters: JSON.stringify(parameters) });
			const response = await fetch(`${server.url}/api/v1/projects/${project}/derived/${recipe}/file.asc?${query}`);
			return { status: response.status, lines: (await response.text()).split('\n') };
		};
		const { lines } = await grid('thickness', { unit: 'marrick', cell: 100 });
		const cell = Number(/cellsize\s+([\d.]+)/i.exec(lines.join('\n'))![1]);
		const numbers = valuesOf(lines);
		const { body } = await api.call<{ volumes: { unit: string; volume: number }[] }>('GET', `/projects/${project}/model`);
		expect(
			Math.abs((numbers.reduce((a, b) => a + b, 0) * cell * cell) / body.volumes.find((v) => v.unit === 'marrick')!.volume - 1)
		).toBeLessThan(0.03);
		const depth = valuesOf((await grid('depth-to-unit', { unit: 'marrick', side: 'base' }, `,terrain:${id('terrain')}`)).lines);
		expect(depth.length).toBeGreaterThan(1000);
		expect(Math.min(...depth)).toBeGreaterThan(-1);
		const across = new URLSearchParams({ of: `model:${id('model')}`, parameters: '{"unit":"marrick","measured":"across"}' });
		expect((await fetch(`${server.url}/api/v1/projects/${project}/derived/thickness/file.tif?${across}`)).headers.get('content-type')).toBe(
			'image/tiff'
		);
		const bad = async (recipe: string, parameters: string, of = `model:${id('model')}`, format = 'asc') => {
			const query = new URLSearchParams({ of, parameters });
			const { status, body } = await api.call<{ type: string }>('GET', `/projects/${project}/derived/${recipe}/file.${format}?${query}`);
			return [status, body.type];
		};
		expect(await bad('thickness', '{"unit":"nobody"}')).toEqual([422, expect.any(String)]);
		expect(await bad('colour', '{}')).toEqual([404, 'unknown-recipe']);
		expect(await bad('thickness', '{"unit":')).toEqual([422, 'bad-parameters']);
		expect(await bad('thickness', '[1]')).toEqual([422, 'bad-parameters']);
		expect(await bad('thickness', '{"unit":"marrick","cell":-1}')).toEqual([422, expect.any(String)]);
		expect(await bad('thickness', '{"unit":"marrick","colour":1}')).toEqual([422, expect.any(String)]);
		expect(await bad('thickness', '{"unit":"marrick"}', 'model:'.padEnd(42, '0'))).toEqual([422, expect.any(String)]);
		expect(await bad('thickness', '{"unit":"marrick"}', undefined, 'obj')).toEqual([404, expect.any(String)]);
		expect(await bad('contours', '{}', `grid:${id('terrain')}`)).toEqual([422, 'not-at-once']);
	});

	it('an archive from which the same project comes back', async () => {
		const { body } = await api.call<Uint8Array>('GET', `/projects/${project}/archive`);
		const files = unzipSync(body);
		const document = JSON.parse(strFromU8(files['project.json']!)) as { tables: { name: string }[] };
		expect(document.tables.map((t) => t.name)).toEqual([
			'Collars',
			'Deviation surveys',
			'Lithology',
			'Assays',
			'Orientations',
			'Water levels',
			'Gamma logs',
			'Planes on hole walls',
			'Slate in detail',
			'Magnetics'
		]);
		const again = await api.call<{ project: string; jobs: string[] }>('POST', '/archives', body);
		for (const job of again.body.jobs) expect((await api.finished(again.body.project, job)).state).toBe('done');
		expect((await api.call('DELETE', `/projects/${again.body.project}`)).status).toBe(200);
		expect((await api.call('GET', `/projects/${again.body.project}`)).status).toBe(404);
	});
});
