import { unzipSync } from 'fflate';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { readAsc } from '#core/formats/asc';
import { readMesh } from '#core/formats/mesh-readers';
import { readTabular } from '#core/formats/tabular';
import { readVectors } from '#core/formats/vectors';
import { readGeoTiff, writeGeoTiff } from '#core/formats/geotiff';
import { rowOf } from '#core/tables/raw-table';
import { client, startServer, type TestServer, type Uploaded } from '../server';

// What is saved from a project is read back to the same values: with its edits, in the system of the project.
let server: TestServer;
let api: ReturnType<typeof client>;
let project: string;
const text = (s: string) => new TextEncoder().encode(s);
const bring = (name: string, file: string, bytes: Uint8Array, extra: Record<string, unknown> = {}) =>
	api.bring(project, name, file, bytes, extra);
const idOf = async (name: string) =>
	(
		await api.call<{ objects: { id: string; name: string; state: Record<string, unknown> }[] }>('GET', `/projects/${project}`)
	).body.objects.find((o) => o.name === name)!;
const saved = async (name: string, format: string) => {
	const { status, body } = await api.call<Uint8Array>('GET', `/projects/${project}/sources/${(await idOf(name)).id}/file.${format}`);
	expect(status).toBe(200);
	return body;
};

beforeAll(async () => {
	server = await startServer();
	api = client(server);
	project = (await api.call<{ id: string }>('POST', '/projects', { name: 'Save', author: 'M. Okafor', crs: 32628 })).body.id;
	await bring('Collars', 'c.csv', text('hole,easting,northing,elevation,depth\nH1,402000.5,4992000,100,50\nH2,402100,4992100,110,60\n'));
	await bring('Gamma', 'g.csv', text('hole,depth,GR,note\nH1,1,50.25,"a, b"\nH1,2,,x\nH1,3,70,y\n'), {
		kind: 'readings',
		mapping: { hole: 'hole', depth: 'depth', GR: 'value', note: 'keep' }
	});
});
afterAll(async () => server?.stop());

describe('tables', () => {
	it('keep edits, leave excluded rows out, and say who edited what', async () => {
		const { id } = await idOf('Gamma');
		await api.call('PATCH', `/projects/${project}/tables/${id}/rows/0`, { column: 'GR', value: '51.5' });
		await api.call('PATCH', `/projects/${project}/tables/${id}/rows/1`, { excluded: true });
		const { body } = await api.call<{ rows: { originals: object; edited: Record<string, { by: string; at: string }> }[] }>(
			'GET',
			`/projects/${project}/tables/${id}/rows`
		);
		expect(body.rows[0]).toMatchObject({
			originals: { 2: '50.25' },
			edited: { 2: { by: 'local owner', at: expect.stringMatching(/^\d{4}-/) } }
		});
		for (const format of ['csv', 'xlsx']) {
			const t = await readTabular(await saved('Gamma', format), `g.${format}`);
			expect([rowOf(t, 0), rowOf(t, 1), t.rowCount]).toEqual([['H1', '1', '51.5', 'a, b'], ['H1', '3', '70', 'y'], 2]);
		}
		const las = await readTabular(await saved('Gamma', 'las'), 'g.las');
		expect([las.header, rowOf(las, 0)]).toEqual([
			['WELL', 'depth', 'GR'],
			['H1', '1', '51.5']
		]);
		expect(
			(await api.call<{ title: string }>('GET', `/projects/${project}/sources/${(await idOf('Collars')).id}/file.las`)).body.title
		).toContain('can not be saved as LAS');
	});

	it('lie where they are: holes as lines, readings as points, in every format of a layer and as columns', async () => {
		const [header, ...lines] = new TextDecoder()
			.decode(await saved('Gamma', 'placed'))
			.trim()
			.split('\n')
			.map((l) => l.split(','));
		expect(header).toEqual(['hole', 'depth', 'GR', 'note', 'x', 'y', 'z']);
		// The reading that was left out has no place; "a, b" is one cell.
		expect(lines.map((l) => l.slice(-3).map(Number))).toEqual([
			[402000.5, 4992000, 99],
			[402000.5, 4992000, 97]
		]);
		for (const format of ['gpkg', 'zip', 'dxf']) {
			const { features } = await readVectors(await saved('Collars', format), `c.${format}`);
			expect(features.map((f) => (f.geometry as { coordinates: number[][] }).coordinates)).toEqual([
				[
					[402000.5, 4992000, 100],
					[402000.5, 4992000, 50]
				],
				[
					[402100, 4992100, 110],
					[402100, 4992100, 50]
				]
			]);
		}
	});

	it('as AGS: the places of the holes; other kinds of tables say what they can be saved as', async () => {
		const ags = await readTabular(await saved('Collars', 'ags'), 'c.ags');
		expect([ags.header.slice(0, 5), rowOf(ags, 1).slice(0, 5)]).toEqual([
			['LOCA_ID', 'LOCA_NATE', 'LOCA_NATN', 'LOCA_GL', 'LOCA_FDEP'],
			['H2', '402100.00', '4992100.00', '110.00', '60.00']
		]);
		const { status, body } = await api.call<{ title: string }>('GET', `/projects/${project}/sources/${(await idOf('Gamma')).id}/file.ags`);
		expect([status, body.title]).toEqual([404, 'Gamma can not be saved as AGS']);
	});

	it('the same edit twice and back again leaves no trace', async () => {
		const { id } = await idOf('Gamma');
		const edit = (value: string) => api.call('PATCH', `/projects/${project}/tables/${id}/rows/2`, { column: 'GR', value });
		const hash = async () => ((await idOf('Gamma')) as unknown as { contentHash: string }).contentHash;
		const before = await hash();
		await edit('71');
		await edit('72');
		expect(await hash()).not.toBe(before);
		await edit('70');
		expect(await hash()).toBe(before);
	});
});

describe('rasters, layers and surfaces', () => {
	it('a grid as GeoTIFF and ASCII grid', async () => {
		const values = Float32Array.from({ length: 30 }, (_, i) => (i === 4 ? NaN : i * 1.5));
		await bring('Grid', 'g.tif', await writeGeoTiff({ x0: 402000, y0: 4992000, dx: 10, dy: 10, nx: 6, ny: 5, values }, 32628), {
			as: 'grid'
		});
		const tif = await readGeoTiff(await saved('Grid', 'tif'), 'g.tif');
		expect(tif.epsg).toBe(32628);
		expect([...tif.raster.values]).toEqual([...values]);
		expect([...readAsc(await saved('Grid', 'asc'), 'g.asc').values]).toEqual([...values]);
	});

	it('a layer as GeoPackage, GeoJSON, shapefiles and DXF', async () => {
		const line = [
			[402000.125, 4992000.5, 10],
			[402100, 4992100, 20]
		];
		await bring(
			'Fault',
			'f.geojson',
			text(
				JSON.stringify({
					type: 'FeatureCollection',
					crs: { type: 'name', properties: { name: 'urn:ogc:def:crs:EPSG::32628' } },
					features: [{ type: 'Feature', properties: { name: 'Sallow' }, geometry: { type: 'LineString', coordinates: line } }]
				})
			)
		);
		for (const format of ['gpkg', 'zip', 'dxf']) {
			const layer = await readVectors(await saved('Fault', format), `f.${format}`);
			expect((layer.features[0]!.geometry as unknown as { coordinates: number[][] }).coordinates.map((c) => c.slice(0, 3))).toEqual(line);
		}
		expect(Object.keys(unzipSync(await saved('Fault', 'zip')))).toContain('Fault_lines.prj');
		const json = (await saved('Fault', 'geojson')) as unknown as { features: { geometry: { coordinates: number[][] } }[] };
		const [lon, lat] = json.features[0]!.geometry.coordinates[0]! as [number, number];
		expect([Math.abs(lon + 16.24), Math.abs(lat - 45.07)].every((d) => d < 0.02)).toBe(true);
	});

	it.each(['obj', 'stl', 'ply', 'glb'])('a surface as %s', async (format) => {
		if (format === 'obj') await bring('Roof', 'r.obj', text('v 402000 4992000 5\nv 402100 4992000 5\nv 402000 4992100 9\nf 1 2 3\n'));
		const m = await readMesh(await saved('Roof', format), `r.${format}`);
		expect([...m.positions].map((v) => Number(v.toFixed(2)))).toEqual([402000, 4992000, 5, 402100, 4992000, 5, 402000, 4992100, 9]);
		expect((await api.call('GET', `/projects/${project}/sources/${(await idOf('Roof')).id}/file.csv`)).status).toBe(404);
	});
});

describe('pictures', () => {
	const png = new Uint8Array(40);
	png.set([0x89, 0x50, 0x4e, 0x47, 13, 10, 26, 10, 0, 0, 0, 13, 0x49, 0x48, 0x44, 0x52, 0, 0, 0, 9, 0, 0, 0, 7]);
	it('are placed by points, or hung on a section', async () => {
		expect(
			(
				await bring('Air', 'a.png', png, {
					points: [
						[0, 0, 402000, 4992600],
						[9, 0, 402900, 4992600]
					]
				})
			).state
		).toBe('done');
		expect((await idOf('Air')).state['placement']).toMatchObject({ a: 100, e: -100, c: 402000, f: 4992600 });
		const hung = {
			trace: [
				[402000, 4992000],
				[403000, 4992000]
			],
			left: 0,
			right: 1000,
			top: 200,
			bottom: -100
		};
		expect((await bring('Old section', 's.png', png, { hung })).state).toBe('done');
		expect((await idOf('Old section')).state['hung']).toEqual(hung);
		expect((await bring('Flat', 't.png', png, { hung: { ...hung, bottom: 200 } })).outcome.problem!.type).toBe('hung-picture');
		const core = { hole: 'H1', from: 2, to: 6.5 };
		expect((await bring('Tray 1', 'H1 2-6.5.png', png, { core })).state).toBe('done');
		expect((await idOf('Tray 1')).state['core']).toEqual(core);
		expect((await bring('Tray 2', 'v.png', png, { core: { ...core, to: 2 } })).outcome.problem!.type).toBe('core-picture');
		expect((await bring('One', 'u.png', png, { points: [[0, 0, 1, 1]] })).outcome.problem!.type).toBe('control-points');
	});
});

describe('an archive', () => {
	it('carries how tables are read, what odd values stand for, and the rules', async () => {
		await api.call('PATCH', `/projects/${project}`, {
			extent: { minX: 401000, minY: 4991000, minZ: -100, maxX: 404000, maxY: 4994000, maxZ: 300 }
		});
		const { id } = await idOf('Gamma');
		await api.call('PUT', `/projects/${project}/tables/${id}/mapping`, { values: { GR: { acts: { zero: { act: 'leave' } } } } });
		await api.call('PUT', `/projects/${project}/rules`, { rules: { gap: { bounds: { least: 2 } } } });
		const archive = (await api.call<Uint8Array>('GET', `/projects/${project}/archive`)).body;
		const document = JSON.parse(new TextDecoder().decode(unzipSync(archive)['project.json'])) as {
			rules: object;
			pictures: object[];
			tables: { name: string; values?: object; marks?: object }[];
		};
		expect(document.rules).toEqual({ gap: { bounds: { least: 2 } } });
		expect(document.tables.find((t) => t.name === 'Gamma')).toMatchObject({
			values: { GR: { acts: { zero: { act: 'leave' } } } },
			marks: { excluded: [{ row: 1, by: 'local owner' }], edits: [{ row: 0, column: 'GR', original: '50.25', value: '51.5' }] }
		});
		expect(document.pictures).toContainEqual(
			expect.objectContaining({ name: 'Tray 1', state: expect.objectContaining({ core: { hole: 'H1', from: 2, to: 6.5 } }) })
		);
		const { body } = await api.call<{ project: string; jobs: string[] }>('POST', '/archives', archive);
		for (const job of body.jobs) expect((await api.finished(body.project, job)).state).toBe('done');
		const rules = (await api.call<{ rules: { id: string; setting: object }[] }>('GET', `/projects/${body.project}/rules`)).body.rules;
		expect(rules.find((r) => r.id === 'gap')!.setting).toEqual({ bounds: { least: 2 } });
	});
});

describe('two who work at once', () => {
	it('a newer version is not taken when the table was edited after the comparison', async () => {
		const { id } = await idOf('Gamma');
		const { body: u } = await api.call<Uploaded>('POST', `/projects/${project}/files?name=g2.csv`, text('hole,depth,GR,note\nH1,1,1,a\n'));
		const revision = await api.revisionOf(project, id);
		const job = api.call<{ job: string }>('POST', `/projects/${project}/tables/${id}/reload`, { fileId: u.file.id, revision });
		const edit = api.call('PATCH', `/projects/${project}/tables/${id}/rows/2`, { column: 'GR', value: '99', revision });
		await edit;
		const done = await api.finished(project, (await job).body.job);
		// Either the edit came first and the version is refused, or the version came first and the edit has no row any more.
		const { body } = await api.call<{ total: number; rows: { cells: string[] }[] }>('GET', `/projects/${project}/tables/${id}/rows`);
		if (done.state === 'failed') expect([body.total, body.rows[2]!.cells[2]]).toEqual([3, '99']);
		else expect(body.total).toBe(1);
	});
});
