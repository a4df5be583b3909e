import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { unpackDataSet } from '#core/datasets/transfer';
import type { HolePaths } from '#core/datasets/hole-paths';
import { readPack, unpackValue, writePack, type Pack } from '#core/formats/pack';
import { isDelta, withDelta } from '#core/formats/pack-delta';
import { plainStyle } from '#core/styles/style';
import { plainBench, type BenchState } from '../../web/src/lib/workbench/state';
import { demoTables } from '../../demo/generate';
import { demoServer } from '../demo-server';
import type { Api, TestServer } from '../server';

interface Problem {
	type: string;
	title: string;
	hint?: string;
}
interface Page {
	total: number;
	rows: { n: number; cells: string[] }[];
	calculated: { name: string; unit: string; cells: string[] }[];
	table: { revision: number };
}
let server: TestServer;
let api: Api;
let project: string;
const table: Record<string, string> = {};
const demo = demoTables();
const hole = demo.assays[1]![0]!;

beforeAll(async () => {
	({ server, api, project } = await demoServer({ spacing: 200 }));
	const { body: p } = await api.call<{ objects: { id: string; name: string }[] }>('GET', `/projects/${project}`);
	for (const o of p.objects) table[o.name] = o.id;
});
afterAll(async () => server?.stop());
const at = (rest: string) => `/projects/${project}${rest}`;
const placed = async (name: string) =>
	unpackDataSet(readPack((await api.call<Uint8Array>('GET', at(`/tables/${table[name]}/placed`))).body));

describe('data for the panes', () => {
	it('has the paths of all holes, before anything is built', async () => {
		const paths = unpackValue<HolePaths>(readPack((await api.call<Uint8Array>('GET', at('/paths'))).body));
		expect(paths.holes).toHaveLength(demo.collars.length - 1);
		expect(paths.start).toHaveLength(paths.holes.length + 1);
	});
	it('has every row of a table in use, with its hole and columns', async () => {
		const set = await placed('Assays');
		expect(set).toMatchObject({ name: 'Assays', place: 'interval', rowCount: demo.assays.length - 1 });
		expect(set.columns.flatMap((c) => (c.type === 'number' ? [[c.key, c.unit]] : []))).toEqual([
			['WO3_ppm', 'ppm'],
			['Sn_ppm', 'ppm'],
			['As_ppm', 'ppm']
		]);
		expect(set.columns[0]!.values[4]).toBeCloseTo(Number(demo.assays[5]![4]), 3);
		expect((await placed('Planes on hole walls')).columns.map((c) => c.key)).toEqual(
			expect.arrayContaining(['alpha', 'dip', 'dipAzimuth', 'feature'])
		);
		expect((await placed('Magnetics')).place).toBe('map');
	});
	it('is not sent again to who has it, and is anew after an edit', async () => {
		const url = `${server.url}/api/v1${at(`/tables/${table['Assays']}/placed`)}`;
		const first = await fetch(url);
		const etag = first.headers.get('etag')!;
		expect(first.headers.get('content-encoding')).toBe('gzip');
		expect((await fetch(url, { headers: { 'if-none-match': etag } })).status).toBe(304);
		const { body: page } = await api.call<Page>('GET', at(`/tables/${table['Assays']}/rows?limit=1`));
		await api.call('PATCH', at(`/tables/${table['Assays']}/rows/0`), { column: 'WO3_ppm', value: '4321', revision: page.table.revision });
		const again = await fetch(url, { headers: { 'if-none-match': etag } });
		expect(again.status).toBe(200);
		expect(unpackDataSet(readPack(new Uint8Array(await again.arrayBuffer()))).columns[0]!.values[0]).toBe(4321);
		await api.call('POST', at('/undo'));
	});
	it('of the next state is only what changed, for who knows the one before', async () => {
		const packed = async (name: string, since = '') =>
			readPack((await api.call<Uint8Array>('GET', at(`/tables/${table[name]}/placed?since=${encodeURIComponent(since)}`))).body);
		const first = await packed('Lithology');
		const other = await packed('Assays');
		expect(isDelta(first)).toBe(false);
		// A code that stood in the first row goes, and comes again in another: the numbers of the classes stay.
		const { body: page } = await api.call<Page>('GET', at(`/tables/${table['Lithology']}/rows?limit=1`));

		const edit = await api.call('PATCH', at(`/tables/${table['Lithology']}/rows/0`), {
			column: 'Lithology',
			value: 'CHERT',
			revision: page.table.revision
		});
		expect(edit.status).toBe(200);
		const delta = await packed('Lithology', String(first.info['key']));
		const whole = await packed('Lithology');
		expect(isDelta(delta)).toBe(true);
		expect(writePack(delta).length).toBeLessThan(0.3 * writePack(whole).length);
		const made = withDelta(first, delta);
		expect(made.arrays).toEqual(withDelta(first, delta).arrays);
		const codes = (p: Pack) => {
			const c = unpackDataSet(p).columns.find((x) => x.key === 'code')!;
			return c.type === 'category' ? Array.from(c.values, (v) => c.categories[v]) : [];
		};
		expect(codes(made)).toEqual(codes(whole));
		expect(codes(made)[0]).toBe('CHERT');
		// Of a table that did not change nothing is sent; of a state that nobody knows everything is.
		const nothing = await packed('Assays', String(other.info['key']));
		expect(nothing.arrays).toEqual({});
		expect(withDelta(other, nothing).arrays).toEqual(other.arrays);
		expect(isDelta(await packed('Assays', 'a-state-of-before'))).toBe(false);
		expect((await api.call('GET', at(`/tables/${table['Assays']}/placed?since=${'x'.repeat(300)}`))).status).toBe(422);
		await api.call('POST', at('/undo'));
	});
	it('comes whole to who takes no compressed answers', async () => {
		const { request } = await import('node:http');
		const bytes = await new Promise<Buffer>((resolve, reject) => {
			request(`${server.url}/api/v1${at('/paths')}`, { headers: { 'accept-encoding': 'identity' } }, (r) => {
				const parts: Buffer[] = [];
				r.on('data', (p: Buffer) => parts.push(p)).on('end', () => resolve(Buffer.concat(parts)));
			})
				.on('error', reject)
				.end();
		});
		expect(unpackValue<HolePaths>(readPack(new Uint8Array(bytes))).holes.length).toBe(demo.collars.length - 1);
	});
	it('tells everything of a hole, and names one that is none', async () => {
		const { body } = await api.call<{
			name: string;
			path: { measuredDepth: number; doglegSeverity: number }[];
			rows: { table: string; count: number }[];
			end: number[];
		}>('GET', at(`/holes/${hole}`));
		expect(body.name).toBe(hole);
		expect(body.path.length).toBeGreaterThan(1);
		expect(body.rows.find((r) => r.table === table['Assays'])!.count).toBe(demo.assays.filter((r) => r[0] === hole).length);
		expect((await api.call<Problem>('GET', at('/holes/nobody'))).body).toMatchObject({
			type: 'not-found',
			hint: expect.stringContaining('Check')
		});
	});
});

describe('rows of a table', () => {
	const rows = async (query: string) => await api.call<Page & Problem>('GET', at(`/tables/${table['Assays']}/rows?limit=5&${query}`));
	it('are sorted and filtered on the server, page by page', async () => {
		const { body } = await rows(`sort=WO3_ppm&descending=true&filter=${encodeURIComponent('Sn_ppm > 50')}`);
		const wanted = demo.assays.slice(1).filter((r) => Number(r[5]) > 50);
		expect(body.total).toBe(wanted.length);
		expect(body.rows.map((r) => r.cells[4])).toEqual(
			wanted
				.map((r) => r[4]!)
				.sort((a, b) => Number(b) - Number(a))
				.slice(0, 5)
		);
		const second = await rows(`sort=WO3_ppm&descending=true&offset=5`);
		expect(Number(second.body.rows[0]!.cells[4])).toBeLessThanOrEqual(
			Number((await rows('sort=WO3_ppm&descending=true')).body.rows[4]!.cells[4])
		);
		expect((await rows(`find=${hole}`)).body.rows.every((r) => r.cells[0] === hole)).toBe(true);
	});
	it('a filter that is wrong says what is', async () => {
		expect((await rows(`filter=${encodeURIComponent('Sn_ppm >')}`)).body).toMatchObject({ type: 'bad-expression' });
		expect((await rows(`filter=${encodeURIComponent('Gold > 1')}`)).body).toMatchObject({
			type: 'unknown-column',
			hint: expect.stringContaining('WO3_ppm')
		});
		expect((await rows('sort=Gold')).body.type).toBe('unknown-column');
	});
	it('have statistics, of all or of those that a filter chooses', async () => {
		const of = async (q: string) =>
			(
				await api.call<{ statistics: { rows: number; numbers: { count: number; greatest: number } } } & Problem>(
					'GET',
					at(`/tables/${table['Assays']}/statistics?${q}`)
				)
			).body;
		const all = await of('column=WO3_ppm');
		expect(all.statistics.rows).toBe(demo.assays.length - 1);
		expect((await of(`column=WO3_ppm&filter=${encodeURIComponent('WO3_ppm < 100')}`)).statistics.numbers.greatest).toBeLessThan(100);
		expect((await of('column=Gold')).type).toBe('unknown-column');
	});
});

describe('editing many cells', () => {
	const cells = (list: object[], revision?: number) =>
		api.call<Problem & { changed: number }>('POST', at(`/tables/${table['Assays']}/cells`), {
			cells: list,
			...(revision === undefined ? {} : { revision })
		});
	const cell = async (n: number, column: number) =>
		(await api.call<Page>('GET', at(`/tables/${table['Assays']}/rows?offset=${n}&limit=1`))).body.rows[0]!.cells[column];
	it('is one change, and one undo takes it back', async () => {
		const before = [await cell(3, 4), await cell(4, 5)];
		expect(
			(
				await cells([
					{ n: 3, column: 'WO3_ppm', value: '11' },
					{ n: 4, column: 'Sn_ppm', value: '12' },
					{ n: 4, column: 'Sn_ppm', value: '12' }
				])
			).status
		).toBe(200);
		expect([await cell(3, 4), await cell(4, 5)]).toEqual(['11', '12']);
		await api.call('POST', at('/undo'));
		expect([await cell(3, 4), await cell(4, 5)]).toEqual(before);
	});
	it('stores all or nothing', async () => {
		const before = await cell(3, 4);
		expect(
			(
				await cells([
					{ n: 3, column: 'WO3_ppm', value: '77' },
					{ n: 3, column: 'Gold', value: '1' }
				])
			).body.type
		).toBe('unknown-column');
		expect(
			(
				await cells([
					{ n: 3, column: 'WO3_ppm', value: '77' },
					{ n: 999_999, column: 'Sn_ppm', value: '1' }
				])
			).status
		).toBe(404);
		expect((await cells([{ n: 3, column: 'WO3_ppm', value: '77' }], 1_000_000)).body.type).toBe('edited-elsewhere');
		expect((await cells([])).status).toBe(422);
		expect(await cell(3, 4)).toBe(before);
		expect((await cells([{ n: 3, column: 'WO3_ppm', value: before! }])).body.changed).toBe(0);
	});
});

describe('calculated columns', () => {
	const path = () => at(`/tables/${table['Assays']}/calculated`);
	it('are tried first, then stored, shown, styled and sorted by, and undone', async () => {
		const columns = [
			{ name: 'W + Sn', expression: 'WO3_ppm + Sn_ppm' },
			{ name: 'rich', expression: '[W + Sn] > 200' }
		];
		expect((await api.call<{ preview: object }>('POST', `${path()}/preview`, { columns: columns.slice(0, 1) })).body.preview).toMatchObject(
			{ type: 'number', unit: 'ppm', missing: 0 }
		);
		expect((await api.call('PUT', path(), { columns })).status).toBe(200);
		const { body } = await api.call<Page>(
			'GET',
			at(`/tables/${table['Assays']}/rows?limit=3&sort=${encodeURIComponent('W + Sn')}&descending=true`)
		);
		expect(body.calculated.map((c) => [c.name, c.unit])).toEqual([
			['W + Sn', 'ppm'],
			['rich', '']
		]);
		expect(Number(body.calculated[0]!.cells[0])).toBeCloseTo(Number(body.rows[0]!.cells[4]) + Number(body.rows[0]!.cells[5]), 3);
		const set = await placed('Assays');
		expect(set.columns.find((c) => c.key === 'rich')).toMatchObject({
			type: 'category',
			categories: expect.arrayContaining(['yes', 'no'])
		});
		// An edit moves what follows from it.
		await api.call('PATCH', at(`/tables/${table['Assays']}/rows/0`), { column: 'WO3_ppm', value: '100000' });
		expect((await placed('Assays')).columns.find((c) => c.key === 'W + Sn')!.values[0]).toBeGreaterThan(100_000);
		await api.call('POST', at('/undo'));
		await api.call('POST', at('/undo'));
		expect((await placed('Assays')).columns.some((c) => c.key === 'rich')).toBe(false);
	});
	it('that are wrong store nothing', async () => {
		for (const [expression, type] of [
			['WO3_ppm +', 'bad-expression'],
			['Gold', 'unknown-column'],
			['WO3_ppm + From', 'units-differ']
		])
			expect((await api.call<Problem>('PUT', path(), { columns: [{ name: 'x', expression }] })).body.type).toBe(type);
		expect((await api.call<Problem>('PUT', path(), { columns: [{ name: 'Sn_ppm', expression: '1' }] })).body.type).toBe('name-taken');
		expect((await api.call<Page>('GET', at(`/tables/${table['Assays']}/rows?limit=1`))).body.calculated).toEqual([]);
	});
	it('go with the archive of the project', async () => {
		await api.call('PUT', path(), { columns: [{ name: 'sum', expression: 'WO3_ppm + Sn_ppm' }] });
		const { body } = await api.call<Uint8Array>('GET', at('/archive'));
		const { body: copy } = await api.call<{ project: string; jobs: string[] }>('POST', '/archives', new Uint8Array(body));
		for (const job of copy.jobs) expect((await api.finished(copy.project, job)).state).toBe('done');
		const { body: p } = await api.call<{ objects: { id: string; name: string; state: { calculated?: object[] } }[] }>(
			'GET',
			`/projects/${copy.project}`
		);
		expect(p.objects.find((o) => o.name === 'Assays')!.state.calculated).toEqual([{ name: 'sum', expression: 'WO3_ppm + Sn_ppm' }]);
		await api.call('DELETE', `/projects/${copy.project}`);
		await api.call('POST', at('/undo'));
	});
});

describe('the workbench', () => {
	it('is kept with the project, and is plain before', async () => {
		expect((await api.call<{ state: object }>('GET', at('/workbench'))).body).toEqual({ state: plainBench() });
		const state = {
			...plainBench(),
			exaggeration: 3,
			styles: { [table['Assays']!]: { ...plainStyle('WO3_ppm'), windows: { WO3_ppm: [1, 5] } } },
			panes: { examine: [{ view: 'log', settings: { log: { zoom: 2 } } }] }
		};
		expect((await api.call('PUT', at('/workbench'), { state })).status).toBe(200);
		expect((await api.call<{ state: object }>('GET', at('/workbench'))).body.state).toEqual(state);
	});
	it("is each browser's own, starts as the project has it, and one that changes one thing leaves all else as it is", async () => {
		const as = (browser: string) => ({
			state: async () =>
				(await api.send<{ state: BenchState }>('GET', at('/workbench'), undefined, { 'x-malachite-session': browser })).body.state,
			change: (changes: object) => api.send('PATCH', at('/workbench'), { changes }, { 'x-malachite-session': browser })
		});
		const [one, two, three] = [as('browser-one'), as('browser-two'), as('browser-three')];
		await api.call('PUT', at('/workbench'), { state: { ...plainBench(), exaggeration: 7 } });
		expect((await one.change({ panes: { gather: [{ view: 'map', settings: {} }] } })).status).toBe(200);
		expect(await one.state()).toMatchObject({ exaggeration: 7, panes: { gather: [{ view: 'map' }] } });
		await two.change({ panes: { gather: [{ view: 'log', settings: {} }] }, hidden: { terrain: true, holeNames: null } });
		expect((await two.state()).hidden).toEqual({ contours: true, graticule: true, terrain: true });
		expect((await one.state()).panes).toMatchObject({ gather: [{ view: 'map' }] });
		expect((await one.state()).hidden['terrain']).toBeUndefined();
		// A new one starts as somebody left it last; styles are everybody's.
		expect((await three.state()).panes).toMatchObject({ gather: [{ view: 'log' }] });
		await two.change({ styles: { [table['Assays']!]: plainStyle('WO3_ppm') } });
		expect(Object.keys((await one.state()).styles)).toContain(table['Assays']!);
		for (const bad of [{ exaggeration: 0 }, { panes: { gather: [] } }, { surprise: 1 }, []])
			expect((await two.change(bad)).status).toBe(422);
		// Set for all, it is so in every browser.
		await api.call('PUT', at('/workbench'), { state: { ...plainBench(), exaggeration: 3 } });
		expect([await one.state(), await two.state()]).toMatchObject([
			{ exaggeration: 3, panes: {} },
			{ exaggeration: 3, panes: {} }
		]);
	});
	it.each<[string, object]>([
		['panes of no view', { panes: { examine: [{ view: 'video', settings: {} }] } }],
		['five panes', { panes: { examine: Array.from({ length: 5 }, () => ({ view: 'map', settings: {} })) } }],
		['no exaggeration', { exaggeration: 0 }],
		['a style that is none', { styles: { a: { by: 1 } } }],
		['a slice without place', { slice: { kind: 'free', at: [1, 2], azimuth: 0, dip: 0, thickness: 0, flipped: false } }],
		['something else', { surprise: true }],
		['too much', { panes: { examine: [{ view: 'map', settings: { map: { text: 'x'.repeat(600_000) } } }] } }]
	])('refuses %s', async (_, change) => {
		expect((await api.call('PUT', at('/workbench'), { state: { ...plainBench(), ...change } })).status).toBe(422);
	});
	it('has viewpoints with a name each', async () => {
		const add = (name: string) =>
			api.call<Problem & { id: string; createdBy: string }>('POST', at('/viewpoints'), {
				name,
				stage: 'examine',
				state: { ...plainBench(), exaggeration: 7 }
			});
		const { body: one } = await add('From the south');
		expect(one.createdBy).toBe('local owner');
		expect((await add('From the south')).body.type).toBe('name-taken');
		const { body: two } = await add('Ore');
		expect((await api.call<{ state: { exaggeration: number } }>('GET', at(`/viewpoints/${one.id}`))).body.state.exaggeration).toBe(7);
		expect((await api.call<Problem>('PATCH', at(`/viewpoints/${two.id}`), { name: 'From the south' })).body.type).toBe('name-taken');
		expect((await api.call('PATCH', at(`/viewpoints/${two.id}`), { name: 'The ore' })).status).toBe(200);
		expect((await api.call<{ viewpoints: { name: string }[] }>('GET', at('/viewpoints'))).body.viewpoints.map((v) => v.name)).toEqual([
			'From the south',
			'The ore'
		]);
		expect((await api.call('DELETE', at(`/viewpoints/${two.id}`))).status).toBe(200);
		expect((await api.call('GET', at(`/viewpoints/${two.id}`))).status).toBe(404);
		expect((await api.call('GET', at('/viewpoints/nonsense'))).status).toBe(404);
	});
});

describe('logs on paper', () => {
	const spec = (more: object = {}) => ({
		holes: [hole],
		tracks: [
			{ kind: 'axis', width: 12, series: [], log: false, range: [null, null], fill: 'none' },
			{
				kind: 'classes',
				width: 25,
				series: [{ table: table['Lithology'], column: 'unit', color: '#000000' }],
				log: false,
				range: [null, null],
				fill: 'none'
			},
			{
				kind: 'text',
				width: 40,
				series: [{ table: table['Lithology'], column: 'description', color: '#000000' }],
				log: false,
				range: [null, null],
				fill: 'none'
			},
			{ kind: 'findings', width: 8, series: [], log: false, range: [null, null], fill: 'none' }
		],
		axis: 'depth',
		scale: 200,
		align: null,
		...more
	});
	it('are a PDF of as many pages as the scale needs', async () => {
		const { status, type, body } = await api.call<Uint8Array>('POST', at('/exports/log.pdf'), { spec: spec() });
		expect([status, type]).toEqual([200, 'application/pdf']);
		const text = Buffer.from(body).toString('latin1');
		expect(text.slice(0, 5)).toBe('%PDF-');
		const depth = Number(demo.collars.find((r) => r[0] === hole)![4]);
		// 297 mm less margins and heads leave 247 mm of log on a page.
		expect([...text.matchAll(/\/Type \/Page\b(?!s)/g)]).toHaveLength(Math.ceil((depth * 5) / 247));
		// A4 in points.
		expect(text).toMatch(/MediaBox \[0 0 595\.2\d* 841\.8\d*\]/);
		expect(text).toContain('Plex');
	});
	it('are a drawing in mm as SVG, in the units and words of the hole', async () => {
		const { body } = await api.call<Uint8Array>('POST', at('/exports/log.svg'), { spec: spec({ scale: 1000 }) });
		const svg = new TextDecoder().decode(body);
		expect(svg).toContain('width="210mm"');
		expect(svg).toContain('1 : 1\u2009000');
		expect(svg).toContain('Skerra Slate');
	});
	it('of holes that are none, or to other formats, say so', async () => {
		expect((await api.call<Problem>('POST', at('/exports/log.pdf'), { spec: spec({ holes: ['nobody'] }) })).body).toMatchObject({
			type: 'not-found',
			title: expect.stringContaining('nobody')
		});
		expect((await api.call('POST', at('/exports/log.docx'), { spec: spec() })).status).toBe(404);
		expect((await api.call('POST', at('/exports/log.pdf'), { spec: spec({ scale: -1 }) })).status).toBe(422);
	});
});
