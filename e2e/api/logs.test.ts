import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { client, startServer, type TestServer } from '../server';

// Logs of five holes by two people: depths in feet with decimal commas, many spellings, thin beds.
let server: TestServer;
let api: ReturnType<typeof client>;
let project: string;
let logged: string;
let version: string;

const COLLARS = [
	'Bore;Easting;Northing;Elevation;Depth',
	...[1, 2, 3, 4, 5].map((i) => `W${i};${5000 + 40 * i};${900 + 7 * i};${80 + i};120`)
].join('\n');
const LOG = [
	'Bore;Top (ft);Base (ft);Rock;Remarks',
	'W1;0;32,8084;Gravel;brown, loose',
	'W1;32,8084;33,4646;gravel ;one bed',
	'W1;33,4646;65,6168;Clay;stiff grey clay',
	'W1;65,6168;131,2336;Marl;hard',
	'W2;0;39,3701;GRAVEL;brown',
	'W2;39,3701;72,1785;clay;stiff',
	'W2;72,1785;131,2336;Marl;hard',
	'W3;0;29,5276;Gravel;',
	'W3;29,5276;131,2336;Marl;',
	'W4;0;49,2126;Gravel;',
	'W4;49,2126;50,8530;Claystone band;thin',
	'W4;50,8530;131,2336;Marl;',
	'W5;10;5;Gravel;wrong way round',
	'W5;0;131,2336;Marl;'
].join('\n');

interface ObjectOf {
	id: string;
	kind: string;
	name: string;
	revision: number;
	contentHash: string;
	state: Record<string, unknown>;
	inputs: string[];
	outOfDate: boolean;
}
const objects = async () => (await api.call<{ objects: ObjectOf[] }>('GET', `/projects/${project}`)).body.objects;
const object = async (id: string) => (await objects()).find((o) => o.id === id)!;
const named = async (name: string) => (await objects()).find((o) => o.name === name)!;
interface Row {
	n: number;
	cells: string[];
	excluded: boolean;
	originals: Record<string, string>;
}
const rows = async (id: string, query = '') =>
	(await api.call<{ rows: Row[]; table: { header: string[] } }>('GET', `/projects/${project}/tables/${id}/rows?limit=1000&${query}`)).body
		.rows;
/** Intervals in use of a hole, as cells. */
const logOf = async (id: string, hole: string) =>
	(await rows(id, `hole=${hole}`))
		.filter((r) => !r.excluded)
		.sort((a, b) => Number(a.cells[1]!.replace(',', '.')) - Number(b.cells[1]!.replace(',', '.')))
		.map((r) => r.cells.slice(1, 4).join(' '));
const relog = async (act: object, more: object = {}) =>
	api.call<{ changed: number; left: unknown[]; type?: string; title?: string; hint?: string }>(
		'POST',
		`/projects/${project}/logs/${version}/relog`,
		{
			act,
			revision: (await object(version)).revision,
			...more
		}
	);
const restore = async (what: object) =>
	api.call<{ changed: number; type?: string }>('POST', `/projects/${project}/logs/${version}/restore`, {
		revision: (await object(version)).revision,
		...what
	});
const undo = () => api.call('POST', `/projects/${project}/undo`);
const changes = async () =>
	(
		await api.call<{
			total: number;
			changes: { n: number; hole: string; what: string; before: Record<string, string>; note: string; by: string }[];
			unplaced: unknown[];
		}>('GET', `/projects/${project}/logs/${version}/changes`)
	).body;

beforeAll(async () => {
	server = await startServer();
	api = client(server);
	project = (await api.call<{ id: string }>('POST', '/projects', { name: 'Logs' })).body.id;
	await api.bring(project, 'Bores', 'bores.csv', COLLARS);
	expect((await api.bring(project, 'Rocks', 'rocks.csv', LOG)).state).toBe('done');
	logged = (await named('Rocks')).id;
});
afterAll(async () => server?.stop());

describe('a version of a log', () => {
	it('is made of a log, with codes taken for others; what was logged stays as it is', async () => {
		const made = await api.call<{ id: string; name: string }>('POST', `/projects/${project}/logs`, {
			of: logged,
			recode: { 'gravel ': 'Gravel', gravel: 'Gravel', GRAVEL: 'Gravel', clay: 'Clay' }
		});
		expect(made.status).toBe(201);
		expect(made.body.name).toBe('Rocks, relogged');
		version = made.body.id;
		const o = await object(version);
		expect(o).toMatchObject({ kind: 'table', inputs: [logged] });
		expect(o.state).toMatchObject({ kind: 'intervals', versionOf: logged, rowCount: 14 });
		expect((await rows(version)).map((r) => r.cells[3])).toContain('Gravel');
		expect((await rows(version)).some((r) => r.cells[3] === 'GRAVEL')).toBe(false);
		expect((await rows(logged)).some((r) => r.cells[3] === 'GRAVEL')).toBe(true);
	});

	it('has its codes told with metres, holes and words; rows that are held back do not count', async () => {
		const { body } = await api.call<{ codes: { code: string; count: number; holes: number; length: number; words: string }[] }>(
			'GET',
			`/projects/${project}/logs/${version}/codes`
		);
		const gravel = body.codes.find((c) => c.code === 'Gravel')!;
		expect(gravel).toMatchObject({ count: 5, holes: 4 });
		expect(gravel.length).toBeCloseTo(10 + 0.2 + 12 + 9 + 15, 2);
		expect(body.codes.find((c) => c.code === 'Clay')!.words).toMatch(/^stiff/);
	});

	it('gives intervals another code, in one step that undo takes back', async () => {
		const before = await object(version);
		const thin = (
			await api.call<{ rows: number[]; picked: { rows: number; holes: number; length: number } }>(
				'POST',
				`/projects/${project}/logs/${version}/pick`,
				{
					rule: { by: 'thin', thinner: 0.6 }
				}
			)
		).body;
		expect(thin.picked).toMatchObject({ rows: 2, holes: 2 });
		const { body } = await relog({ do: 'give', rows: thin.rows, code: 'Marl' }, { note: 'too thin to be told apart' });
		expect(body.changed).toBe(4);
		expect((await changes()).changes).toMatchObject([
			{ hole: 'W1', what: 'relogged', before: { Rock: 'Gravel' }, note: 'too thin to be told apart' },
			{ hole: 'W4', what: 'relogged', before: { Rock: 'Claystone band' } }
		]);
		await undo();
		expect((await object(version)).contentHash).toBe(before.contentHash);
		expect((await changes()).total).toBe(0);
	});

	it('picks what lies within a body, and says what has no inside', async () => {
		const ring = [
			[5060, 890],
			[5140, 890],
			[5140, 930],
			[5060, 930],
			[5060, 890]
		];
		await api.bring(project, 'Field', 'field.geojson', JSON.stringify({ type: 'Polygon', coordinates: [ring] }));
		await api.bring(project, 'Way', 'way.geojson', JSON.stringify({ type: 'LineString', coordinates: ring.slice(0, 3) }));
		await api.bring(project, 'Roof', 'roof.obj', 'v 5000 900 5\nv 5100 900 5\nv 5000 1000 9\nf 1 2 3\n');
		const pick = async (object: string, unit?: string) =>
			api.call<{ rows: number[]; picked: { holes: number; codes: { code: string }[] }; type: string }>(
				'POST',
				`/projects/${project}/logs/${version}/pick`,
				{ rule: { by: 'within', object, ...(unit ? { unit } : {}) } }
			);
		const field = (await pick((await named('Field')).id)).body;
		expect([field.picked.holes, field.rows.length]).toEqual([2, 5]);
		const type = async (name: string) => (await pick((await named(name)).id)).body.type;
		expect([await type('Way'), await type('Roof'), await type('Bores')]).toEqual(['no-face', 'not-closed', 'not-a-body']);
		const model = (await objects()).find((o) => o.kind === 'model')!;
		expect((await pick(model.id, 'nothing')).body.type).toBe('not-built');
		expect((await pick(project)).status).toBe(404);
		expect((await api.call('POST', `/projects/${project}/logs/${version}/pick`, { rule: { by: 'within' } })).status).toBe(422);
	});

	it('moves a boundary in the unit and with the decimal mark of its file', async () => {
		expect((await relog({ do: 'move', hole: 'W2', from: 12, to: 15 })).status).toBe(200);
		expect(await logOf(version, 'W2')).toEqual(['0 49,212598 Gravel', '49,212598 72,1785 Clay', '72,1785 131,2336 Marl']);
		expect((await logOf(logged, 'W2'))[0]).toBe('0 39,3701 GRAVEL');
		const refused = await relog({ do: 'move', hole: 'W2', from: 15, to: 99 });
		expect(refused.body).toMatchObject({ type: expect.stringContaining('boundary-too-far'), hint: expect.stringContaining('dissolve') });
		// Either of the two takes the boundary back, for both.
		const { n } = (await changes()).changes[0]!;
		expect((await restore({ rows: [n] })).body.changed).toBe(2);
		expect(await logOf(version, 'W2')).toEqual(['0 39,3701 Gravel', '39,3701 72,1785 Clay', '72,1785 131,2336 Marl']);
	});

	it('splits, paints stretches and dissolves; each is taken back by itself', async () => {
		await relog({ do: 'stretch', stretches: [{ hole: 'W3', from: 20, to: 30 }], code: 'Clay' });
		expect((await logOf(version, 'W3')).map((r) => r.split(' ')[2])).toEqual(['Gravel', 'Marl', 'Clay', 'Marl']);
		const w4 = (await rows(version, 'hole=W4')).find((r) => r.cells[3] === 'Claystone band')!;
		await relog({ do: 'dissolve', rows: [w4.n], into: 'below' });
		expect(await logOf(version, 'W4')).toEqual(['0 49,2126 Gravel', '49,2126 131,2336 Marl']);
		expect((await changes()).changes.map((c) => `${c.hole} ${c.what}`)).toEqual([
			'W3 relogged',
			'W3 cut off',
			'W3 cut off',
			'W4 left out',
			'W4 relogged'
		]);
		await restore({ rows: [w4.n] });
		expect(await logOf(version, 'W4')).toEqual(['0 49,2126 Gravel', '49,2126 50,8530 Claystone band', '50,8530 131,2336 Marl']);
		expect((await restore({ all: true })).body.changed).toBeGreaterThan(0);
		expect(await logOf(version, 'W3')).toEqual(await logOf(logged, 'W3'));
	});

	it('is compared with what was logged, by unit or by code', async () => {
		await relog({ do: 'stretch', stretches: [{ hole: 'W1', from: 20, to: 40 }], code: 'Clay' });
		const { body } = await api.call<{ total: number; length: number; differences: unknown[] }>(
			'GET',
			`/projects/${project}/logs/${version}/differences?with=${logged}&by=code`
		);
		expect(body.differences).toContainEqual({ hole: 'W1', from: expect.closeTo(20, 2), to: expect.closeTo(40, 2), a: 'Clay', b: 'Marl' });
		await undo();
	});
});

describe('what a version hears and says', () => {
	it('findings of what was changed in it, not again those of the log; rows that are out there are out here', async () => {
		const found = (await api.findings<{ rule: string; table: string; n: number }>(project)).findings;
		expect(found.some((f) => f.table === logged && f.rule === 'from-not-above-to')).toBe(true);
		expect(found.some((f) => f.table === version)).toBe(false);
		// A cell that is typed over in the table may be wrong.
		const w2 = (await rows(version, 'hole=W2'))[1]!;
		await api.call('POST', `/projects/${project}/tables/${version}/cells`, {
			cells: [{ n: w2.n, column: 'Top (ft)', value: '20' }],
			revision: (await object(version)).revision
		});
		const now = (await api.findings<{ rule: string; table: string; n: number }>(project)).findings.filter((f) => f.table === version);
		expect(now.map((f) => f.rule)).toContain('overlap');
		await undo();
		expect((await api.findings<{ table: string }>(project)).findings.some((f) => f.table === version)).toBe(false);
	});

	it('follows the log when that is edited, and says where it was relogged from something else', async () => {
		const w3 = (await rows(version, 'hole=W3'))[0]!;
		await relog({ do: 'give', rows: [w3.n], code: 'Till' });
		await api.call('PATCH', `/projects/${project}/tables/${logged}/rows/${w3.n}`, { column: 'Rock', value: 'Sand' });
		expect((await rows(version, 'hole=W3'))[0]!.cells[3]).toBe('Till');
		const found = (await api.findings<{ rule: string; table: string; message: string }>(project)).findings.find(
			(f) => f.rule === 'outdated-relogging'
		)!;
		expect(found).toMatchObject({ table: version, message: 'relogged when the log said "Gravel"; it says "Sand" now' });
		await undo();
		await undo();
		expect((await rows(version, 'hole=W3'))[0]!.cells[3]).toBe('Gravel');
	});

	it('keeps its relogging when the log is read from another file; what has no interval any more is listed, and undo brings all back', async () => {
		const w1 = (await rows(version, 'hole=W1'))[3]!;
		const w4 = (await rows(version, 'hole=W4'))[1]!;
		await relog({ do: 'give', rows: [w1.n, w4.n], code: 'Till' }, { note: 'as in the quarry' });
		await relog({ do: 'split', row: w1.n, depth: 30 });
		const before = await changes();
		const shorter = LOG.split('\n')
			.filter((l) => !l.startsWith('W4'))
			.join('\n')
			.replace('W1;0;', 'W0;0;9;Peat;new\nW1;0;');
		const file = await api.upload(project, 'rocks.csv', shorter);
		const job = await api.call<{ job: string; title: string }>('POST', `/projects/${project}/tables/${logged}/reload`, {
			fileId: file.file.id,
			conflicts: 'edits',
			dropLost: true,
			revision: (await object(logged)).revision
		});
		expect(await api.finished(project, job.body.job)).toMatchObject({ state: 'done' });
		const after = await changes();
		expect(after.changes.map((c) => `${c.hole} ${c.what}`)).toEqual(['W1 relogged', 'W1 cut off']);
		expect(after.unplaced).toMatchObject([
			{ hole: 'W4', column: 'Rock', value: 'Till' },
			{ hole: 'W4', value: 'as in the quarry' }
		]);
		expect((await api.findings(project)).findings.filter((f) => f.rule === 'unplaced-relogging')).toHaveLength(2);
		expect((await logOf(version, 'W1')).map((r) => r.split(' ')[2])).toEqual(['Gravel', 'Gravel', 'Clay', 'Till', 'Till']);
		await undo();
		expect(await changes()).toEqual(before);
		await api.call('POST', `/projects/${project}/redo`);
		expect((await changes()).unplaced).toHaveLength(2);
		expect((await restore({ unplaced: true })).body.changed).toBe(2);
		expect((await changes()).unplaced).toHaveLength(0);
		for (let i = 0; i < 4; i++) await undo();
		expect((await changes()).total).toBe(0);
	});

	it('is what a model is made from; a version of a version, too', async () => {
		const units = [
			{ id: 'cover', name: 'Cover', color: '#C9B27B', contact: 'erosional' },
			{ id: 'rock', name: 'Rock', color: '#666B85', contact: 'conformable' }
		];
		await api.call('PUT', `/projects/${project}/column`, { units });
		const lumped = await api.call('PUT', `/projects/${project}/lumping`, {
			codes: { Gravel: 'cover', gravel: 'cover', GRAVEL: 'cover', Clay: 'rock', clay: 'rock', 'Claystone band': 'rock', Marl: 'rock' }
		});
		expect(lumped.body).toMatchObject({ state: {} });
		await api.call('PATCH', `/projects/${project}`, { extent: { minX: 5000, minY: 880, minZ: 20, maxX: 5240, maxY: 960, maxZ: 100 } });
		await api.call('PUT', `/projects/${project}/spacing`, { spacing: 20 });
		const second = (await api.call<{ id: string }>('POST', `/projects/${project}/logs`, { of: version, name: 'Coarse' })).body.id;
		await api.call('PUT', `/projects/${project}/shaping`, { log: { table: 'Coarse', column: '' } });
		const build = async () => {
			const { body } = await api.call<{ job: string }>('POST', `/projects/${project}/build`);
			return api.finished(project, body.job);
		};
		expect(await build()).toMatchObject({ state: 'done' });
		const depth = async () =>
			(await api.call<{ surfaces: { unit: string; contacts: number }[] }>('GET', `/projects/${project}/model`)).body.surfaces.find(
				(s) => s.unit === 'cover'
			)!.contacts;
		expect(await depth()).toBe(4);
		// A relogging two versions up puts the model out of date; a unit's own id is a code of it.
		const w5 = (await rows(version, 'hole=W5')).find((r) => r.cells[3] === 'Marl')!;
		await relog({ do: 'split', row: w5.n, depth: 11 });
		expect((await objects()).find((o) => o.kind === 'model')!.outOfDate).toBe(true);
		await relog({ do: 'stretch', stretches: [{ hole: 'W5', from: 0, to: 11 }], code: 'cover' });
		expect(await build()).toMatchObject({ state: 'done' });
		expect(await depth()).toBe(5);
		expect((await object(second)).inputs).toEqual([version]);
		// Under another name it is the same: the model hears of it, and undo takes both back.
		await api.call('PATCH', `/projects/${project}/sources/${second}`, { name: 'Coarser' });
		const named = async () =>
			(await api.call<{ shaping: { log: { table: string } } }>('GET', `/projects/${project}/interpretation`)).body.shaping.log.table;
		expect(await named()).toBe('Coarser');
		expect(await build()).toMatchObject({ state: 'done' });
		await undo();
		expect(await named()).toBe('Coarse');
	});

	it('goes into the archive and comes out of it', async () => {
		const archive = await api.call<Uint8Array>('GET', `/projects/${project}/archive`);
		const { body } = await api.call<{ project: string; jobs: string[] }>('POST', '/archives', archive.body as unknown as Uint8Array);
		for (const j of body.jobs) expect(await api.finished(body.project, j)).toMatchObject({ state: 'done' });
		const own = project;
		const wanted = [await logOf(version, 'W5'), (await changes()).changes.map(({ n: _, ...c }) => c)];
		project = body.project;
		const there = await named('Rocks, relogged');
		version = there.id;
		expect([await logOf(version, 'W5'), (await changes()).changes.map(({ n: _, ...c }) => c)]).toEqual(wanted);
		expect((await named('Coarse')).inputs).toEqual([version]);
		project = own;
		version = (await named('Rocks, relogged')).id;
	});

	it('is taken out with the log that it goes out from, and comes back with it', async () => {
		await api.call('DELETE', `/projects/${project}/sources/${logged}`);
		expect((await objects()).filter((o) => o.kind === 'table').map((o) => o.name)).toEqual(['Bores']);
		await undo();
		expect((await objects()).filter((o) => o.kind === 'table')).toHaveLength(4);
	});
});

describe('nonsense', () => {
	const type = async (method: string, path: string, body?: object) => {
		const a = await api.send<{ type: string; status: number }>(method, `/projects/${project}${path}`, body);
		return `${a.status} ${a.body.type?.split('/').pop() ?? ''}`;
	};
	it('is refused with what is wrong, and changes nothing', async () => {
		const bores = (await named('Bores')).id;
		const { revision, contentHash } = await object(version);
		expect(await type('POST', '/logs', { of: bores })).toBe('422 not-a-log');
		expect(await type('POST', '/logs', { of: logged, column: 'Top (ft)' })).toBe('422 not-a-log');
		expect(await type('POST', '/logs', { of: logged, name: 'Bores' })).toMatch(/doubled-name/);
		expect(await type('POST', '/logs', { of: project })).toMatch(/^404/);
		expect(await type('POST', `/logs/${logged}/relog`, { act: { do: 'give', rows: [1], code: 'x' }, revision })).toBe('422 not-a-version');
		const act = (a: object) => type('POST', `/logs/${version}/relog`, { act: a, revision });
		expect(await act({ do: 'give', rows: [1] })).toMatch(/^4/);
		expect(await act({ do: 'give', rows: [], code: 'x' })).toMatch(/^4/);
		expect(await act({ do: 'give', rows: [-1], code: 'x' })).toMatch(/^4/);
		expect(await act({ do: 'melt', rows: [1] })).toMatch(/^4/);
		expect(await act({ do: 'split', row: 999, depth: 3 })).toBe('422 no-interval');
		expect(await act({ do: 'stretch', stretches: [{ hole: 'W1', from: 9, to: 3 }], code: 'x' })).toBe('422 no-interval');
		expect(await type('POST', `/logs/${version}/relog`, { act: { do: 'give', rows: [1], code: 'x' }, revision: 1 })).toMatch(
			/edited-elsewhere/
		);
		expect(await type('POST', `/logs/${version}/pick`, { rule: { by: 'filter', filter: 'nothing(' } })).toMatch(/^4/);
		expect(await type('POST', `/logs/${version}/pick`, { rule: { by: 'thin' } })).toMatch(/^4/);
		expect(await type('POST', `/tables/${version}/reload`, { fileId: version, revision })).toBe('422 is-a-version');
		expect((await object(version)).contentHash).toBe(contentHash);
		// A rule may pick everything, or nothing.
		const all = await api.call<{ rows: number[] }>('POST', `/projects/${project}/logs/${version}/pick`, {
			rule: { by: 'filter', filter: "Rock != 'nothing'" }
		});
		expect(all.body.rows.length).toBeGreaterThan(10);
		const none = await api.call<{ rows: number[]; picked: object }>('POST', `/projects/${project}/logs/${version}/pick`, {
			rule: { by: 'codes', codes: ['nobody'] }
		});
		expect(none.body).toMatchObject({ rows: [], picked: { rows: 0, length: 0 } });
	});
});

describe('units of codes', () => {
	it('makes a unit of some codes as one change', async () => {
		const before = (
			await api.call<{ column: { units: { id: string }[] }; lumping: { codes: Record<string, string>; revision: number } }>(
				'GET',
				`/projects/${project}/interpretation`
			)
		).body;
		const add = [{ id: 'till', name: 'Till', color: '#ccbb88', contact: 'erosional' }];
		expect(
			(await api.call('PUT', `/projects/${project}/lumping`, { codes: { ...before.lumping.codes, Gravel: 'till' }, add })).status
		).toBe(200);
		type Now = { column: { units: { id: string }[] }; lumping: { codes: Record<string, string> } };
		const now = async () => (await api.call<Now>('GET', `/projects/${project}/interpretation`)).body;
		expect((await now()).column.units.map((u) => u.id)).toEqual(['cover', 'till', 'rock']);
		await undo();
		expect((await now()).column.units.map((u) => u.id)).toEqual(['cover', 'rock']);
		expect((await now()).lumping.codes['Gravel']).toBe('cover');
		// An id that is taken is refused, and nothing is half done.
		expect((await api.call('PUT', `/projects/${project}/lumping`, { codes: {}, add: [{ ...add[0], id: 'rock' }] })).status).toBe(422);
		expect((await now()).lumping.codes['Gravel']).toBe('cover');
	});

	it('proposes units for codes without one, with what says so; one that is said to be none is not asked about again', async () => {
		const lumping = async (codes: Record<string, string>) =>
			expect((await api.call('PUT', `/projects/${project}/lumping`, { codes })).status).toBe(200);
		type Groups = { groups: { codes: string[]; unit: string; why: string; evidence: string }[] };
		const groups = async () => (await api.call<Groups>('GET', `/projects/${project}/logs/${logged}/groups`)).body.groups;
		await lumping({ Gravel: 'cover', Marl: 'rock', Clay: 'rock' });
		const found = await groups();
		expect(found).toContainEqual({
			codes: expect.arrayContaining(['gravel', 'GRAVEL']),
			unit: 'cover',
			why: 'spelling',
			evidence: 'spelled like Gravel'
		});
		expect(found.some((g) => g.codes.includes('clay') && g.unit === 'rock')).toBe(true);
		await lumping({ Gravel: 'cover', Marl: 'rock', Clay: 'rock', clay: '', gravel: '', GRAVEL: '', 'Claystone band': '' });
		expect(await groups()).toEqual([]);
		await undo();
		await undo();
	});
});
