import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { zipSync } from 'fflate';
import { writeGeoTiff } from '#core/formats/geotiff';
import { writeXlsx } from '#core/formats/xlsx';
import { unpackDataSet } from '#core/datasets/transfer';
import { readPack } from '#core/formats/pack';
import { client, startServer, type TestServer } from '../server';

let server: TestServer;
let api: ReturnType<typeof client>;
let project: string;
const text = (s: string) => new TextEncoder().encode(s);

interface Upload {
	file: { id: string };
	as: string;
	kind: string;
	mapping: Record<string, string>;
	units: Record<string, string>;
	reading: Record<string, unknown>;
	parts: { name: string }[];
	remembered: boolean;
	type: string;
	title: string;
}
const upload = async (name: string, bytes: Uint8Array) =>
	(await api.call<Upload>('POST', `/projects/${project}/files?name=${name}`, bytes)).body;
const objects = async () =>
	(
		await api.call<{ objects: { id: string; kind: string; name: string; revision: number; state: Record<string, unknown> }[] }>(
			'GET',
			`/projects/${project}`
		)
	).body.objects;
const idOf = async (name: string) => (await objects()).find((o) => o.name === name)!.id;
const bring = (name: string, file: string, bytes: Uint8Array, extra: Record<string, unknown> = {}) =>
	api.bring(project, name, file, bytes, extra);
interface Row {
	n: number;
	cells: string[];
	originals: Record<string, string>;
	findings: { rule: string; proposal: string | null }[];
}
const rows = async (id: string, query = '') =>
	(await api.call<{ rows: Row[]; total: number }>('GET', `/projects/${project}/tables/${id}/rows?${query}`)).body;
const findings = () => api.findings<{ rule: string; table: string; n: number; seen: string | null; proposal: string | null }>(project);
const ofRule = async (rule: string) => (await findings()).findings.filter((f) => f.rule === rule);

beforeAll(async () => {
	server = await startServer();
	api = client(server);
	project = (await api.call<{ id: string }>('POST', '/projects', { name: 'Gather', crs: 32628 })).body.id;
});
afterAll(async () => server?.stop());

describe('files as people bring them', () => {
	it('a workbook: the sheet that is wanted, with feet turned into metres', async () => {
		const book = await writeXlsx([
			{ name: 'Notes', header: ['made up', 'for tests'], rows: [['x', 'y']] },
			{
				name: 'Holes',
				header: ['hole', 'easting', 'northing', 'elevation', 'depth (ft)'],
				rows: Array.from({ length: 8 }, (_, i) => [`H${i + 1}`, 402000 + 100 * i, 4992000 + 50 * i, 100, 328.084])
			}
		]);
		const u = await upload('book.xlsx', book);
		expect(u.parts.map((p) => p.name)).toEqual(['Notes', 'Holes']);
		const again = (await api.call<Upload>('POST', `/projects/${project}/files/${u.file.id}/preview`, { reading: { part: 'Holes' } })).body;
		expect(again).toMatchObject({ kind: 'collars', units: { 'depth (ft)': 'ft' } });
		const { body } = await api.call<{ job: string }>('POST', `/projects/${project}/imports`, {
			fileId: u.file.id,
			name: 'Collars',
			as: 'table',
			kind: again.kind,
			mapping: again.mapping,
			reading: again.reading,
			units: again.units
		});
		expect(await api.finished(project, body.job)).toMatchObject({ state: 'done', outcome: { rows: 8, held: 0 } });
		// A depth of 99 m fits into a hole of 328 feet, one of 101 m does not.
		expect(
			(
				await bring(
					'Lithology',
					'log.csv',
					text(
						`hole;from;to;lith\n${Array.from({ length: 8 }, (_, i) => `H${i + 1};0;40,5;SST\nH${i + 1};40,5;${i === 7 ? '101' : '99'};LST`).join('\n')}\n`
					)
				)
			).outcome
		).toMatchObject({ rows: 16, held: 1 });
		expect((await ofRule('deeper-than-hole')).length).toBe(1);
	});

	it('a second file of the same shape is read like the first', async () => {
		const u = await upload('more.csv', text('hole;from;to;lith\nH1;0;1,5;SST\n'));
		expect(u).toMatchObject({ remembered: true, kind: 'intervals' });
	});

	it('LAS and AGS become tables', async () => {
		const las = '~V\n VERS. 2.0 :\n WRAP. NO :\n~W\n NULL. -999.25 :\n WELL. H1 :\n~C\n DEPT.M :\n GR.API :\n~A\n1 50\n2 -999.25\n3 70\n';
		expect(await bring('Gamma', 'h1.las', text(las))).toMatchObject({ state: 'done', outcome: { rows: 3, held: 0 } });
		expect((await objects()).find((o) => o.name === 'Gamma')!.state['kind']).toBe('readings');
	});

	it('coordinates in another system, on a site grid, and with a vertical shift, come into the system of the project', async () => {
		const geographic = await bring(
			'Springs',
			'springs.csv',
			text('easting,northing,elevation,flow\n-16.2,45.08,10,3\n-16.21,45.081,11,4\n'),
			{ kind: 'places', fromEpsg: 4326, verticalShift: 2 }
		);
		expect(geographic.state).toBe('done');
		const site = await bring('Site', 'site.csv', text('easting,northing,dip,dipaz\n1000,1000,30,90\n1100,1000,30,90\n'), {
			sitePoints: [
				[1000, 1000, 402000, 4992000],
				[1500, 1000, 402000, 4992500]
			]
		});
		expect(site).toMatchObject({ state: 'done', outcome: { residuals: [0, 0] } });
		const { id } = (await objects()).find((o) => o.name === 'Site')!;
		const { body } = await api.call<Uint8Array>('GET', `/projects/${project}/tables/${id}/placed`);
		const { xyz } = unpackDataSet(readPack(body));
		expect([xyz[0], xyz[1], xyz[3], xyz[4]].map((v) => Math.round(v!))).toEqual([402000, 4992000, 402000, 4992100]);
		expect((await bring('No', 'no.csv', text('easting,northing,dip,dipaz\n1,1,30,90\n'), { fromEpsg: 999998 })).outcome.problem!.type).toBe(
			'unknown-system'
		);
		expect(
			(
				await bring('No', 'no.csv', text('easting,northing,dip,dipaz\n1,1,30,90\n'), {
					sitePoints: [
						[0, 0, 0, 0],
						[100, 0, 50, 50],
						[0, 100, 100, 0]
					]
				})
			).outcome.problem!.type
		).toBe('site-points');
	});

	it('rasters are reprojected, coarsened and clipped; one in another system asks first', async () => {
		const values = Float32Array.from({ length: 100 * 100 }, (_, i) => i % 100);
		const tiff = await writeGeoTiff({ x0: -16.25, y0: 45.06, dx: 0.0005, dy: 0.0005, nx: 100, ny: 100, values }, 4326);
		expect((await bring('Grid', 'grid.tif', tiff, { as: 'grid' })).outcome.problem!.type).toBe('other-system');
		const done = await bring('Grid', 'grid.tif', tiff, { as: 'grid', fromEpsg: 4326, every: 2, clip: [402000, 4991500, 404000, 4993500] });
		expect(done.state).toBe('done');
		expect((await objects()).find((o) => o.name === 'Grid')!.state).toMatchObject({ shape: { x0: expect.closeTo(402000, -3) } });
		expect(
			(
				await bring(
					'Asc',
					'g.asc',
					text('ncols 2\nnrows 2\nxllcorner 402000\nyllcorner 4992000\ncellsize 10\nNODATA_value -9\n1 2\n3 -9\n'),
					{ as: 'grid' }
				)
			).outcome
		).toMatchObject({ cells: 4, missing: 1, min: 1, max: 3 });
	});

	it('layers, surfaces and pictures keep their place', async () => {
		expect(
			(await bring('River', 'r.geojson', text('{"type":"LineString","coordinates":[[-16.2,45.08],[-16.21,45.09]]}'), { fromEpsg: 4326 }))
				.outcome
		).toMatchObject({ said: '0 points, 1 lines, 0 polygons' });
		const { body } = await api.call<Uint8Array>('GET', `/projects/${project}/objects/${await idOf('River')}/pack`);
		const [feature] = readPack(body).info['features'] as { geometry: { coordinates: number[][] } }[];
		expect(Math.abs(feature!.geometry.coordinates[0]![0]! - 405_500)).toBeLessThan(1500);
		expect(
			(await bring('Roof', 'roof.obj', text('v 402000 4992000 5\nv 402100 4992000 5\nv 402000 4992100 9\nf 1 2 3\n'))).outcome
		).toMatchObject({ said: '1 triangles, 3 vertices' });
		// Faces of a drawing, as surfaces come from surveyors: a quadrangle and a triangle, which has its third corner twice.
		const face = (...corners: number[][]) =>
			`0\n3DFACE\n8\nTIN\n${corners.map((c, i) => c.map((v, k) => `${10 * (k + 1) + i}\n${v}`).join('\n')).join('\n')}\n`;
		const [a, b, c, d] = [
			[402000, 4992000, 5],
			[402100, 4992000, 6],
			[402100, 4992100, 7],
			[402000, 4992100, 8]
		] as const;
		const tin = `0\nSECTION\n2\nENTITIES\n${face([...a], [...b], [...c], [...d])}${face([...a], [...c], [...d], [...d])}0\nENDSEC\n0\nEOF\n`;
		expect((await bring('Faces', 'tin.dxf', text(tin))).outcome).toMatchObject({ said: '0 points, 0 lines, 2 polygons' });
		const png = new Uint8Array(40);
		png.set([0x89, 0x50, 0x4e, 0x47, 13, 10, 26, 10, 0, 0, 0, 13, 0x49, 0x48, 0x44, 0x52, 0, 0, 0, 9, 0, 0, 0, 7]);
		expect(
			(await bring('Photo', 'p.zip', zipSync({ 'p.png': png, 'p.pgw': text('1\n0\n0\n-1\n402000\n4992000\n') }))).outcome
		).toMatchObject({ said: '9 × 7 pixels' });
		expect((await bring('Lost', 'p.png', png)).outcome.problem!.type).toBe('no-placement');
		expect((await api.call('GET', `/projects/${project}/objects/${await idOf('Photo')}/picture`)).type).toBe('image/png');
	});
});

describe('a newer version of a file', () => {
	it('is compared first; edits stay where the source did not change, conflicts are decided', async () => {
		await bring('Assays', 'a.csv', text('hole,from,to,Cu\nH1,0,1,5\nH1,1,2,6\nH2,0,1,7\n'));
		const id = await idOf('Assays');
		const edit = (n: number, value: string) => api.call('PATCH', `/projects/${project}/tables/${id}/rows/${n}`, { column: 'Cu', value });
		await edit(0, '55');
		await edit(1, '66');
		await api.call('PATCH', `/projects/${project}/tables/${id}/rows/2`, { excluded: true });
		const fresh = await upload('a2.csv', text('hole,from,to,Cu\nH2,0,1,7\nH1,0,1,5\nH1,1,2,9\nH3,0,1,8\n'));
		const { body: c } = await api.call<Record<string, unknown>>('POST', `/projects/${project}/tables/${id}/reload/preview`, {
			fileId: fresh.file.id
		});
		expect(c).toMatchObject({
			added: 1,
			gone: 0,
			changed: 1,
			same: 2,
			kept: 1,
			conflicts: [{ row: 'H1, line 4', column: 'Cu', edited: '66', source: '9' }]
		});
		const { body } = await api.call<{ job: string }>('POST', `/projects/${project}/tables/${id}/reload`, {
			fileId: fresh.file.id,
			conflicts: 'source'
		});
		expect((await api.finished(project, body.job)).state).toBe('done');
		const now = (await rows(id)).rows as (Row & { excluded: boolean })[];
		expect(now.map((r) => r.cells[3])).toEqual(['7', '55', '9', '8']);
		expect(now.map((r) => r.excluded)).toEqual([true, false, false, false]);
		expect(now[1]!.originals).toEqual({ 3: '5' });
	});

	it('can be added behind; one with other columns is refused and nothing changes', async () => {
		const id = await idOf('Assays');
		const more = await upload('b.csv', text('Cu,hole,to,from\n3,H4,1,0\n'));
		const { body } = await api.call<{ job: string }>('POST', `/projects/${project}/tables/${id}/append`, { fileId: more.file.id });
		expect((await api.finished(project, body.job)).state).toBe('done');
		expect((await rows(id)).rows.at(-1)!.cells).toEqual(['H4', '0', '1', '3']);
		const other = await upload('c.csv', text('hole,from,to,Zn\nH1,0,1,5\n'));
		expect(
			(await api.call<{ type: string }>('POST', `/projects/${project}/tables/${id}/reload/preview`, { fileId: other.file.id })).body.type
		).toBe('other-columns');
		expect((await rows(id)).total).toBe(5);
	});
});

describe('mending', () => {
	it('extends a hole to its data, with a preview first, and undo', async () => {
		const id = await idOf('Lithology');
		const path = `/projects/${project}/tables/${id}/mends`;
		const { body: p } = await api.call<{ changed: number; cells: { before: string; after: string }[] }>('POST', `${path}/preview`, {
			rule: 'deeper-than-hole',
			mend: 'deepen-hole'
		});
		expect(p).toMatchObject({ changed: 1, cells: [{ before: '328.084', after: '331.364829' }] });
		expect((await api.call<{ title: string }>('POST', path, { rule: 'gap', mend: 'swap' })).body.title).toContain(
			'can not be mended that way'
		);
	});

	it('swaps, takes proposals, sets and excludes for all of a kind at once', async () => {
		await bring('More logs', 'm.csv', text('hole,from,to,lith\nh1,0,10,SST\nH2,9,5,LST\nH3,30,20,LST\nH9,0,5,S\n'));
		const id = await idOf('More logs');
		const mend = (rule: string, kind: string, extra = {}) =>
			api.call<{ changed: number; type: string }>('POST', `/projects/${project}/tables/${id}/mends`, { rule, mend: kind, ...extra });
		expect((await mend('from-not-above-to', 'swap')).body).toMatchObject({ changed: 4 });
		expect((await rows(id)).rows.slice(1, 3).map((r) => r.cells.slice(1, 3))).toEqual([
			['5', '9'],
			['20', '30']
		]);
		expect((await ofRule('unknown-hole')).filter((f) => f.table === id).map((f) => f.proposal)).toEqual(['H1', null]);
		expect((await mend('unknown-hole', 'propose')).body).toMatchObject({ changed: 1 });
		expect((await mend('unknown-hole', 'exclude')).body).toMatchObject({ changed: 1 });
		expect((await ofRule('unknown-hole')).filter((f) => f.table === id)).toEqual([]);
		expect((await mend('unknown-hole', 'exclude')).body.type).toBe('nothing-to-mend');
		await api.call('POST', `/projects/${project}/undo`);
		expect((await ofRule('unknown-hole')).filter((f) => f.table === id).length).toBe(1);
	});

	it('writes what it proposes as the file writes numbers', async () => {
		await bring(
			'Surveys',
			'survey.csv',
			text('hole;depth;azimuth;dip\nH1;0;10,5;-60,5\nH1;20;10,5;60,25\nH1;40;10,5;-60,5\nH2;0;10,5;-61,5\n')
		);
		const id = await idOf('Surveys');
		expect((await ofRule('mixed-dip-signs')).map((f) => [f.n, f.proposal])).toEqual([[1, '-60.25']]);
		const { body } = await api.call<{ changed: number }>('POST', `/projects/${project}/tables/${id}/mends`, {
			rule: 'mixed-dip-signs',
			mend: 'propose'
		});
		expect(body.changed).toBe(1);
		expect((await rows(id)).rows[1]!.cells[3]).toBe('-60,25');
		expect(await ofRule('mixed-dip-signs')).toEqual([]);
	});

	it('leaves a finding with a reason, which the exported list repeats', async () => {
		const id = await idOf('More logs');
		const path = `/projects/${project}/findings/seen`;
		expect((await api.call<{ type: string }>('POST', path, { table: id, rule: 'unknown-hole', seen: true })).body.type).toBe('no-reason');
		await api.findings(project);
		const before = (await api.call<{ findings: { held: number } }>('GET', `/projects/${project}`)).body.findings.held;
		expect(
			(
				await api.call<{ held: number }>('POST', path, {
					table: id,
					rule: 'unknown-hole',
					seen: true,
					reason: 'the collar comes next week'
				})
			).body.held
		).toBe(before - 1);
		const csv = new TextDecoder().decode((await api.call<Uint8Array>('GET', `/projects/${project}/exports/findings.csv`)).body);
		expect(csv).toMatch(/More logs,m\.csv,5,1,H9,hole,unknown-hole,held back,.*the collar comes next week/);
		expect((await api.call('GET', `/projects/${project}/exports/findings.xlsx`)).type).toContain('spreadsheetml');
		await api.call('POST', path, { table: id, rule: 'unknown-hole', seen: false });
	});

	it('leaves a hole out of all tables and takes it back', async () => {
		const { body } = await api.call<{ changed: number }>('POST', `/projects/${project}/holes/H2/exclude`, { excluded: true });
		expect(body.changed).toBeGreaterThan(3);
		expect(
			(await api.call<{ changed: number }>('POST', `/projects/${project}/holes/H2/exclude`, { excluded: false })).body.changed
		).toBeGreaterThanOrEqual(body.changed);
		expect((await api.call('POST', `/projects/${project}/holes/nobody/exclude`, { excluded: true })).status).toBe(404);
	});
});

describe('rules and values', () => {
	it('a rule is silenced only with a reason; severity and bounds change what is held back', async () => {
		const put = (rules: object, accept = false) =>
			api.call<{ type: string }>('PUT', `/projects/${project}/rules`, { rules, ...(accept ? { accept } : {}) });
		expect((await put({ gap: { silenced: true } })).body.type).toBe('no-reason');
		expect((await put({ gap: { bounds: { nonsense: 1 } } })).body.type).toBe('unknown-bound');
		expect((await put({ 'unit-order': { severity: 'held' } })).body.type).toBe('not-holding');
		expect((await ofRule('late-start')).length).toBeGreaterThan(0);
		expect((await put({ 'late-start': { bounds: { least: 500 } }, 'missing-rows': { severity: 'held' } }, true)).status).toBe(200);
		expect(await ofRule('late-start')).toEqual([]);
		await api.call('POST', `/projects/${project}/undo`);
		expect((await ofRule('late-start')).length).toBeGreaterThan(0);
	});

	it('value rules say what odd cells stand for, and count as looked at only when somebody says so', async () => {
		await bring(
			'Gold',
			'g.csv',
			text(
				`hole,from,to,Au\n${Array.from({ length: 9 }, (_, i) => `H5,${i},${i + 1},${['<0.5', '2', '0', '', '>100', '3', '4', '5', '6'][i]}`).join('\n')}\n`
			)
		);
		const id = await idOf('Gold');
		const summary = async () =>
			(
				await api.call<{
					summary: { rows: number; numbers: { column: string; count: number; min: number }[] };
					values: { column: string; counts: Record<string, number> }[];
					acts: Record<string, { reviewed?: string[] }>;
				}>('GET', `/projects/${project}/tables/${id}/summary`)
			).body;
		expect((await summary()).values).toEqual([{ column: 'Au', counts: { missing: 1, below: 1, above: 1, text: 0, zero: 1, negative: 0 } }]);
		expect((await ofRule('not-a-number')).filter((f) => f.table === id).length).toBe(2);
		const values = { Au: { acts: { below: { act: 'share', share: 0.5 }, above: { act: 'keep' } }, reviewed: ['below'] } };
		expect((await api.call('PUT', `/projects/${project}/tables/${id}/mapping`, { values })).status).toBe(200);
		expect((await ofRule('not-a-number')).filter((f) => f.table === id)).toEqual([]);
		const s = await summary();
		expect(s.summary.numbers.find((n) => n.column === 'Au')).toMatchObject({ count: 8, min: 0 });
		expect(s.acts['Au']!.reviewed).toEqual(['below']);
		expect(
			(await api.call('PUT', `/projects/${project}/tables/${id}/mapping`, { values: { Au: { acts: { below: { act: 'guess' } } } } })).status
		).toBe(422);
	});
});

describe('a large file', () => {
	const large = () =>
		text(
			`hole,from,to,lith\n${Array.from({ length: 300_000 }, (_, i) => `H${(i % 8) + 1},${(i >> 3) / 500},${((i >> 3) + 1) / 500},SST`).join('\n')}\n`
		);
	it('that is cancelled leaves nothing', async () => {
		const before = (await objects()).length;
		const u = await upload('large.csv', large());
		const { body } = await api.call<{ job: string }>('POST', `/projects/${project}/imports`, {
			fileId: u.file.id,
			name: 'Large',
			as: 'table',
			kind: u.kind,
			mapping: u.mapping
		});
		for (;;) {
			const { body: j } = await api.call<{ state: string }>('GET', `/projects/${project}/jobs/${body.job}`);
			if (j.state !== 'waiting') break;
		}
		await api.call('POST', `/projects/${project}/jobs/${body.job}/cancel`);
		expect((await api.finished(project, body.job)).state).toBe('cancelled');
		expect((await objects()).length).toBe(before);
	});

	it('one edit in it is checked by part, and gives what a whole check gives', async () => {
		await bring('Large', 'large.csv', large());
		const id = await idOf('Large');
		await api.call('PATCH', `/projects/${project}/tables/${id}/rows/5`, { column: 'from', value: 'x' });
		await api.call('PATCH', `/projects/${project}/tables/${id}/rows/9`, { excluded: true });
		await api.call('PATCH', `/projects/${project}/tables/${id}/rows/7`, { column: 'hole', value: 'H77' });
		const plain = (list: { rule: string; n: number }[]) => list.map((f) => `${f.rule} ${f.n}`).sort();
		const part = plain((await findings()).findings.filter((f) => f.table === id));
		// Another key makes the next check a whole one.
		await api.call('PUT', `/projects/${project}/rules`, { rules: { gap: { bounds: { least: 0.0011 } } } });
		expect(plain((await findings()).findings.filter((f) => f.table === id))).toEqual(part);
		expect(part).toContain('not-a-number 5');
		expect(part).toContain('unknown-hole 7');
	});
});
