import pg from 'pg';
import { describe, expect, it } from 'vitest';
import { unpackReadings } from '#core/datasets/readings';
import { readPack } from '#core/formats/pack';
import { pointOnTrace, traceLength } from '#core/sections/section';
import { builtDemo } from './built-demo';
import { NOBODY } from '../server';

interface Problem {
	type: string;
	title: string;
	hint?: string;
}
const { at, call, build, databaseUrl, finished, kindOf, make, models, result, results, spacing, undo } = builtDemo();

describe('sections', () => {
	const trace = [
		[401000, 4992000],
		[405000, 4992800]
	];
	type Told = { id: string; revision: number; name: string; trace: number[][]; set?: string; corridor?: number; exaggeration?: number };
	const beside = (north: number) => trace.map(([x, y]) => [x!, y! + north]);
	const list = async () => (await call<{ sections: Told[] }>('GET', at('/sections'))).body.sections;
	const add = (...sections: object[]) => call<Problem & { ids: string[] }>('POST', at('/sections'), { sections });
	const change = (...sections: object[]) => call<Problem & { sections: Told[] }>('PATCH', at('/sections'), { sections });
	const out = (...ids: string[]) => call<Problem>('POST', at('/sections/take-out'), { ids });
	const redo = () => call('POST', at('/redo'));
	const drawn = async () =>
		(
			await call<{ objects: { id: string; kind: string; name: string; inputs: string[]; outOfDate: boolean }[] }>('GET', at(''))
		).body.objects.filter((o) => o.kind === 'section');

	it('are objects: some are added as one change, called by the next letters, and made from what the main one is', async () => {
		expect((await call('PUT', at('/section'), { trace, corridor: 200 })).status).toBe(200);
		const { status, body } = await add(
			{ trace: beside(250), set: 'Fence 1' },
			{ name: 'Adit', trace: beside(500), corridor: 80, exaggeration: 2 }
		);
		expect(status).toBe(201);
		const [b, adit] = await list();
		expect([b!.id, adit!.id]).toEqual(body.ids);
		expect([b!.name, b!.set, b!.corridor, adit!.name, adit!.corridor, adit!.exaggeration]).toEqual([
			'B',
			'Fence 1',
			undefined,
			'Adit',
			80,
			2
		]);
		const all = await drawn();
		expect(all.map((o) => o.name)).toEqual(['A', 'B', 'Adit']);
		for (const o of all) expect(new Set(o.inputs)).toEqual(new Set(all[0]!.inputs));
		await undo();
		expect(await list()).toEqual([]);
		await redo();
		expect((await list()).map((s) => s.id)).toEqual(body.ids);
		await call('PUT', at('/section'), { trace, corridor: 150 });
		expect((await list())[0]!.corridor).toBeUndefined();
	});
	it('are changed together or not at all; null takes away what one has of its own', async () => {
		const [b, adit] = await list();
		const stale = await change(
			{ id: b!.id, revision: b!.revision, set: 'Roads' },
			{ id: adit!.id, revision: adit!.revision + 7, set: 'Roads' }
		);
		expect([stale.status, stale.body.type]).toEqual([409, 'edited-elsewhere']);
		expect((await list()).map((s) => s.set)).toEqual(['Fence 1', undefined]);
		const { body } = await change(
			{ id: b!.id, revision: b!.revision, set: 'Roads', name: 'West' },
			{ id: adit!.id, revision: adit!.revision, set: 'Roads', corridor: null }
		);
		expect(body.sections.map((s) => [s.name, s.set, s.corridor, s.exaggeration])).toEqual([
			['West', 'Roads', undefined, undefined],
			['Adit', 'Roads', undefined, 2]
		]);
		await undo();
		expect((await list()).map((s) => [s.name, s.set, s.corridor])).toEqual([
			['B', 'Fence 1', undefined],
			['Adit', undefined, 80]
		]);
		// A letter that a table has is free for a section.
		expect((await change({ id: b!.id, revision: (await list())[0]!.revision, name: 'Lithology' })).status).toBe(200);
		await undo();
	});
	it('that can not be are refused in words, and nothing is added or changed', async () => {
		const [b] = await list();
		const count = (await list()).length;
		const point = [1, 1];
		const refused = async (asked: Promise<{ status: number; body: Problem }>) => {
			const { status, body } = await asked;
			return [status, body.type];
		};
		const main = (await drawn())[0]!.id;
		expect(await refused(call<Problem>('PUT', at('/section'), { trace: [point, point], corridor: 1 }))).toEqual([422, 'section-trace']);
		expect(await refused(add({ trace: beside(0) }, { trace: [point, point] }))).toEqual([422, 'section-trace']);
		expect(await refused(add({ trace: beside(0), name: 'B' }))).toEqual([422, 'doubled-name']);
		expect(await refused(add({ trace: beside(0), name: 'Twice' }, { trace: beside(1), name: 'Twice' }))).toEqual([422, 'doubled-name']);
		expect(await refused(add())).toEqual([422, 'invalid-input']);
		expect(await refused(add({ trace: beside(0), corridor: -1 }))).toEqual([422, 'invalid-input']);
		expect(await refused(add(...Array.from({ length: 499 }, () => ({ trace: beside(0) }))))).toEqual([422, 'too-many-sections']);
		expect(await refused(change({ id: b!.id, revision: b!.revision, trace: [point, point] }))).toEqual([422, 'section-trace']);
		expect(await refused(change({ id: NOBODY, revision: 1, name: 'X' }))).toEqual([404, 'not-found']);
		expect(await refused(out(main))).toEqual([422, 'main-section']);
		expect(await refused(out('nonsense'))).toEqual([422, 'invalid-input']);
		expect(await refused(out(b!.id, main))).toEqual([422, 'main-section']);
		expect((await list()).length).toBe(count);
	});
	it('that are changed by several at once have a name each, and nobody waits for ever', async () => {
		const [b, adit] = await list();
		const ask = (...of: Told[]) => change(...of.map((s) => ({ id: s.id, revision: s.revision, set: 'At once' })));
		const both = await Promise.all(Array.from({ length: 8 }, (_, i) => (i % 2 ? ask(b!, adit!) : ask(adit!, b!))));
		expect(both.map((r) => r.status).sort()).toEqual([200, 409, 409, 409, 409, 409, 409, 409]);
		await undo();
		const [x, y] = await list();
		const named = await Promise.all([x!, y!].map((s) => change({ id: s.id, revision: s.revision, name: 'Same' })));
		expect(named.map((r) => r.status).sort()).toEqual([200, 422]);
		await undo();
		expect((await list()).map((s) => s.name)).toEqual(['B', 'Adit']);
	});
	it('of before that are called alike can be changed, and renamed', async () => {
		const [b, adit] = await list();
		const other = new pg.Client({ connectionString: databaseUrl() });
		await other.connect();
		await other.query(`update object set name = 'B' where id = $1`, [adit!.id]);
		await other.end();
		expect((await change({ id: b!.id, revision: b!.revision, corridor: 70 })).status).toBe(200);
		await undo();
		expect((await add({ trace: beside(700), name: 'New' })).status).toBe(201);
		await undo();
		expect((await change({ id: adit!.id, revision: adit!.revision, name: 'Adit' })).status).toBe(200);
		expect((await list()).map((s) => s.name)).toEqual(['B', 'Adit']);
	});
	it('are taken out together, and undo brings them back', async () => {
		const ids = (await list()).map((s) => s.id);
		expect((await out(...ids)).status).toBe(200);
		expect(await list()).toEqual([]);
		await undo();
		expect((await list()).map((s) => s.name)).toEqual(['B', 'Adit']);
	});
	it('go through an archive in their order, with what each has of its own', async () => {
		const { body } = await call<Uint8Array>('GET', at('/archive'));
		const copy = await call<{ project: string; jobs: string[] }>('POST', '/archives', body);
		for (const job of copy.body.jobs) await finished(job, copy.body.project);
		const there = (await call<{ sections: Told[] }>('GET', `/projects/${copy.body.project}/sections`)).body.sections;
		const own = (s: Told) => [s.name, s.trace, s.set, s.corridor, s.exaggeration];
		expect(there.map(own)).toEqual((await list()).map(own));
		expect(there).toHaveLength(2);
		await call('DELETE', `/projects/${copy.body.project}`);
	});
});

describe('what is made of sections', () => {
	const trace: [number, number][] = [
		[401200, 4992000],
		[403000, 4992400],
		[404600, 4992400]
	];
	const section = async (name: string, line: number[][] = trace) =>
		(await call<{ ids: string[] }>('POST', at('/sections'), { sections: [{ name, trace: line }] })).body.ids[0]!;
	const told = async (id: string) =>
		(await call<{ sections: { id: string; revision: number }[] }>('GET', at('/sections'))).body.sections.find((s) => s.id === id)!;
	const move = async (id: string, line: number[][]) =>
		call('PATCH', at('/sections'), { sections: [{ id, revision: (await told(id)).revision, trace: line }] });
	const pack = async (id: string) => readPack(new Uint8Array((await call<Uint8Array>('GET', at(`/results/${id}/pack`))).body));

	it('is a profile of grids along it, which its line makes out of date, and nothing that is drawn on it', async () => {
		const id = await section('Gallery');
		const terrain = (await kindOf('terrain')).id;
		const made = await make('grid-profile', { lines: [id], grids: [terrain] }, { step: 100 }, { name: 'Heights' });
		expect(made.status).toBe(201);
		const model = (await models())[0]!;
		await spacing(130, model);
		// The model is out of date; the profile needs it not, nor is it built with it.
		const job = await build({ objects: [made.body.id] });
		expect((job.outcome as unknown as { steps: { step: string }[] }).steps.map((s) => s.step)).toEqual(['profile along lines']);
		await undo();
		const rows = unpackReadings(await pack(made.body.id));
		expect(rows.rowCount).toBe(Math.floor(traceLength(trace) / 100) + 1);
		for (const i of [0, 7, rows.rowCount - 1])
			expect(Math.hypot(rows.x[i]! - pointOnTrace(trace, 100 * i)[0], rows.y[i]! - pointOnTrace(trace, 100 * i)[1])).toBeLessThan(1e-6);
		expect((rows.columns[0] as { values: string[] }).values[0]).toBe('Gallery');
		const state = async () => (await result(made.body.id)).state;
		expect(await state()).toBe('up to date');
		await call('PATCH', at('/sections'), { sections: [{ id, revision: (await told(id)).revision, exaggeration: 3, corridor: 10 }] });
		expect(await state()).toBe('up to date');
		await move(id, trace.slice(0, 2));
		expect(await state()).toBe('out of date');
		await undo();
		expect(await state()).toBe('up to date');
	});

	it('is the lines and areas of a model on them, which the model makes out of date', async () => {
		const [first, second] = [
			await section('North'),
			await section(
				'South',
				trace.map(([x, y]) => [x, y - 400])
			)
		];
		const model = (await models())[0]!;
		const made = await make('lines-on-sections', { model: [model.id], sections: [first, second] }, {}, { name: 'Cuts' });
		await build({ objects: [made.body.id] });
		const { report } = (await result(made.body.id)).built!;
		const areas = report['areas'] as { section: string; unit: string; area: number }[];
		expect([...new Set(areas.map((a) => a.section))]).toEqual(['North', 'South']);
		const features = (await pack(made.body.id)).info['features'] as {
			properties: Record<string, string>;
			geometry: { coordinates: number[][] };
		}[];
		expect(new Set(features.map((f) => f.properties['kind']))).toContain('contact');
		expect(features.map((f) => f.properties['name'])).toContain('Base of Tolven Siltstone');
		for (const f of features) expect(f.geometry.coordinates.every((c) => c.length === 3 && c.every(Number.isFinite))).toBe(true);
		expect((await call('GET', at(`/results/${made.body.id}/file.geojson`))).status).toBe(200);
		await spacing(130, model);
		expect((await result(made.body.id)).state).toBe('out of date');
		await undo();
		expect((await result(made.body.id)).state).toBe('up to date');
	});

	it('has a name that can be taken, of however many it is to be', async () => {
		const lines = Array.from({ length: 60 }, (_, i) => ({
			name: `Line ${i} across the long valley`,
			trace: trace.map(([x, y]) => [x, y - 10 * i])
		}));
		const { ids } = (await call<{ ids: string[] }>('POST', at('/sections'), { sections: lines })).body;
		const [model] = await models();
		const inputs = { model: [model!.id], sections: ids };
		const { name } = (await call<{ name: string }>('POST', at('/suggestions'), { recipe: 'lines-on-sections', inputs })).body;
		expect(name).toContain('Line 0 across the long valley');
		expect(name).toMatch(/57 more$/);
		const made = await make('lines-on-sections', inputs, {}, { name });
		expect(made.status).toBe(201);
		await undo();
		await undo();
	});

	it('names what a section is used for before it goes; taken out, it is missed in words, and undo brings it back', async () => {
		const north = (await results()).find((r) => r.name === 'Cuts')!.inputs['sections']![0]!;
		const out = (more: object = {}) => call<Problem>('POST', at('/sections/take-out'), { ids: [north], ...more });
		const asked = await out();
		expect([asked.status, asked.body.type]).toEqual([409, 'in-use']);
		expect(asked.body.title).toContain('North is what Cuts is made of');
		expect((await out({ used: true })).status).toBe(200);
		const { id } = (await results()).find((r) => r.name === 'Cuts')!;
		expect((await build({ objects: [id] })).outcome).toMatchObject({ problem: { type: 'input-missing' } });
		await undo();
		expect((await result(id)).state).toBe('up to date');
	});

	it('is refused of one without a line, of what is no section, and of nothing', async () => {
		const [model] = await models();
		const main = (await kindOf('section')).id;
		const terrain = (await kindOf('terrain')).id;
		const { body } = await call<{ section: { trace: number[][] } }>('GET', at('/interpretation'));
		const database = new pg.Client({ connectionString: databaseUrl() });
		await database.connect();
		const setMain = (line: number[][]) =>
			database.query(`update object set state = jsonb_set(state, '{trace}', $2::jsonb) where id = $1`, [main, JSON.stringify(line)]);
		await setMain([]);
		const undrawn = [
			await make('grid-profile', { lines: [main], grids: [terrain] }),
			await make('lines-on-sections', { model: [model!.id], sections: [main] })
		];
		await setMain(body.section.trace);
		await database.end();
		expect(undrawn.map((r) => [r.status, r.body.type])).toEqual([
			[422, 'section-trace'],
			[422, 'section-trace']
		]);
		const others = [
			await make('lines-on-sections', { model: [model!.id], sections: [terrain] }),
			await make('lines-on-sections', { model: [model!.id], sections: [] }),
			await make('lines-on-sections', { model: [main], sections: [main] })
		];
		expect(others.map((r) => r.body.type)).toEqual(['unknown-input', 'input-missing', 'unknown-input']);
	});

	it('goes through an archive, whatever else has the name of a section, and whatever the main one is called', async () => {
		const main = await kindOf('section');
		const revision = (await call<{ section: { revision: number } }>('GET', at('/interpretation'))).body.section.revision;
		expect((await call('PATCH', at('/sections'), { sections: [{ id: main.id, revision, name: 'Long' }] })).status).toBe(200);
		const terrain = (await kindOf('terrain')).id;
		const of = { lines: [main.id], grids: [terrain] };
		// A result that is called as a section is.
		expect((await make('grid-profile', of, { step: 200 }, { name: 'Gallery' })).status).toBe(201);
		const before = await results();
		const { body } = await call<Uint8Array>('GET', at('/archive'));
		const copy = await call<{ project: string; jobs: string[] }>('POST', '/archives', body);
		for (const job of copy.body.jobs) expect((await finished(job, copy.body.project)).state).toBe('done');
		const there = `/projects/${copy.body.project}`;
		const after = (await call<{ results: { id: string; name: string; inputs: Record<string, string[]> }[] }>('GET', `${there}/results`))
			.body.results;
		const kinds = (await call<{ objects: { id: string; kind: string; name: string }[] }>('GET', there)).body.objects;
		const named = (list: readonly string[] = []) => list.map((i) => kinds.find((o) => o.id === i)).map((o) => [o?.kind, o?.name]);
		expect(after.map((r) => r.name).sort()).toEqual(before.map((r) => r.name).sort());
		expect(named(after.find((r) => r.name === 'Heights')!.inputs['lines'])).toEqual([['section', 'Gallery']]);
		expect(named(after.find((r) => r.name === 'Gallery')!.inputs['lines'])).toEqual([['section', 'Long']]);
		expect(named(after.find((r) => r.name === 'Cuts')!.inputs['sections'])).toEqual([
			['section', 'North'],
			['section', 'South']
		]);
		await call('DELETE', there);
	});
});
