import { readPack } from '../../core/formats/pack';
import { describe, expect, it } from 'vitest';
import { builtDemo, type Result } from './built-demo';
import { NOBODY } from '../server';

const { at, bring, call, objects, models, build, url, results, result, make, kindOf, undo, spacing } = builtDemo();

describe('what a recipe makes of objects as they stand', () => {
	const derived = (recipe: string, of: string, known = '') =>
		fetch(`${url()}/api/v1${at(`/derived/${recipe}?of=${of}`)}`, known ? { headers: { 'if-none-match': known } } : {});
	it('is there without a result of its own, with what is said of it, and is not sent twice', async () => {
		const model = (await kindOf('model')).id;
		const response = await derived('surface-geology', `model:${model}`);
		const { info } = readPack(new Uint8Array(await response.arrayBuffer()));
		const areas = (info['report'] as { areas: { unit: string; area: number }[] }).areas;
		expect([info['form'], areas.length > 3, areas.every((a) => a.area > 0)]).toEqual(['faces', true, true]);
		expect(await results()).toEqual([]);
		// By what it is asked for it is the same, stored once.
		expect((await derived('units-at-surface', `model:${model}`)).headers.get('etag')).toBe(response.headers.get('etag'));
		const again = await derived('surface-geology', `model:${model}`, response.headers.get('etag')!);
		expect(again.status).toBe(304);
		// A model against itself: nothing moved.
		const same = readPack(new Uint8Array(await (await derived('comparison', `before:${model},after:${model}`)).arrayBuffer()));
		expect((same.arrays['moved'] as Float32Array).every((d) => !(Math.abs(d) > 1e-9))).toBe(true);
	});
	it.each([
		['surface-geology', 'model', 422, 'invalid-input'],
		['surface-geology', '', 422, 'invalid-input'],
		['surface-geology', 'ground:MODEL', 422, 'unknown-role'],
		['surface-geology', '__proto__:MODEL', 422, 'invalid-input'],
		['surface-geology', `model:${NOBODY}`, 422, 'unknown-input'],
		['comparison', 'before:MODEL', 422, 'input-missing'],
		['thickness', 'ground:MODEL', 422, 'unknown-role'],
		['gold', 'model:MODEL', 404, 'unknown-recipe'],
		['fields', 'model:MODEL', 404, 'unknown-recipe']
	])('%s of %s is refused', async (recipe, of, status, type) => {
		const response = await derived(recipe, of.replaceAll('MODEL', (await kindOf('model')).id));
		const body = (await response.json()) as { type: string };
		expect([body.type, response.status]).toEqual([type, status]);
	});
});

describe('recipes', () => {
	it('are listed with what they need', async () => {
		const { body } = await call<{
			recipes: { id: string; step: boolean; form: string; parameters: { name: string; unit?: string }[] }[];
		}>('GET', '/recipes');
		expect(body.recipes.filter((r) => r.step).map((r) => r.id)).toEqual(['holes', 'contacts', 'fields', 'model', 'section']);
		expect(body.recipes.find((r) => r.id === 'thickness')).toMatchObject({
			form: 'grid',
			parameters: [{ name: 'unit' }, { name: 'measured' }, { name: 'cell', unit: 'length' }]
		});
	});

	it('make results of every kind from first values, all of which are built, told and saved', async () => {
		const [model] = await models();
		const terrain = (await kindOf('terrain')).id;
		const copy = (await call<{ id: string }>('POST', at('/models'), { from: model!.id })).body.id;
		const chosen: Record<string, Record<string, string[]>> = {
			'surface-geology': { model: [model!.id] },
			thickness: { model: [model!.id] },
			'unit-elevation': { model: [model!.id] },
			'depth-to-unit': { model: [model!.id], terrain: [terrain] },
			'crossed-models': { first: [model!.id], second: [copy], terrain: [terrain] },
			comparison: { before: [model!.id], after: [copy] },
			doubt: { fields: [model!.id], terrain: [terrain] }
		};
		const files: Record<string, string> = { grid: 'tif', faces: 'geojson', solids: 'glb', blocks: 'vti', figure: 'csv' };
		const ids = [];
		for (const [recipe, inputs] of Object.entries(chosen)) {
			const { body } = await call<{ name: string; parameters: Record<string, unknown> }>('POST', at('/suggestions'), {
				recipe,
				inputs
			});
			const quick = recipe === 'doubt' ? { members: 2, spacing: 400 } : recipe === 'crossed-models' ? { spacing: 120 } : {};
			const made = await make(recipe, inputs, { ...body.parameters, ...quick }, { name: body.name });
			expect([recipe, made.status]).toEqual([recipe, 201]);
			ids.push(made.body.id);
			expect((await result(made.body.id)).state).toBe('never built');
		}
		const job = await build({ objects: ids });
		expect(job.outcome).toMatchObject({ steps: expect.any(Array) });
		for (const r of await results()) {
			expect([r.name, r.state, r.failure]).toEqual([r.name, 'up to date', null]);
			expect(r.built!.bytes).toBeGreaterThan(0);
			const pack = await call<Uint8Array>('GET', at(`/results/${r.id}/pack`));
			expect(Object.keys(readPack(pack.body as unknown as Uint8Array))).toEqual(['info', 'arrays']);
			for (const format of [files[r.form]!, 'csv']) expect((await call('GET', at(`/results/${r.id}/file.${format}`))).status).toBe(200);
			expect((await call<{ type: string }>('GET', at(`/results/${r.id}/file.exe`))).body.type).toBe('not-found');
		}
		// A copy is the same model: crossed with it, each unit meets only itself.
		const crossed = (await results()).find((r) => r.form === 'solids')!.built!.report as { volumes: { first: string; second: string }[] };
		for (const v of crossed.volumes) expect(v.first).toBe(v.second);
		await call('DELETE', at(`/models/${copy}`));
		expect((await results()).find((r) => r.form === 'solids')!.state).toBe('out of date');
		const failed = await build({ objects: [ids[4]!] });
		expect([failed.state, (failed.outcome as unknown as { problem: { type: string } }).problem.type]).toEqual(['failed', 'input-missing']);
		expect((await result(ids[4]!)).failure!.type).toBe('input-missing');
		await undo();
		expect((await result(ids[4]!)).state).toBe('up to date');
		for (const id of ids) await call('DELETE', at(`/results/${id}?used=true`));
		await call('DELETE', at(`/models/${copy}`));
		expect(await results()).toEqual([]);
	});

	it('are refused with what they can not be made of, or by', async () => {
		const [model] = await models();
		const terrain = (await kindOf('terrain')).id;
		const good = { unit: model!.units[0]!.id, measured: 'vertical', cell: 50 };
		const refused = async (...of: Parameters<typeof make>) => {
			const { status, body } = await make(...of);
			return [status, body.type];
		};
		expect(await refused('model', {})).toEqual([404, 'unknown-recipe']);
		expect(await refused('nonsense', {})).toEqual([404, 'unknown-recipe']);
		expect(await refused('thickness', {}, good)).toEqual([422, 'input-missing']);
		expect(await refused('thickness', { model: [model!.id], more: [] }, good)).toEqual([422, 'unknown-role']);
		expect(await refused('thickness', { model: [terrain] }, good)).toEqual([422, 'unknown-input']);
		expect(await refused('thickness', { model: [crypto.randomUUID()] }, good)).toEqual([422, 'unknown-input']);
		expect(await refused('thickness', { model: [model!.id] }, { ...good, cell: -1 })).toEqual([422, 'invalid-input']);
		expect(await refused('thickness', { model: [model!.id] }, { ...good, cell: '50' })).toEqual([422, 'invalid-input']);
		expect(await refused('thickness', { model: [model!.id] }, { ...good, colour: 'red' })).toEqual([422, 'invalid-input']);
		expect(await refused('thickness', { model: [model!.id] }, { ...good, unit: 'nowhere' })).toEqual([422, 'unknown-unit']);
		const errors = { contact: 1, orientation: 1, faultDip: 1, faultTrace: 1 };
		expect(await refused('doubt', { fields: [model!.id] }, { members: 2, spacing: 0.5, seed: 1, ...errors })).toEqual([422, 'too-fine']);
		expect(await refused('crossed-models', { first: [model!.id], second: [model!.id] }, { spacing: 0.01 })).toEqual([422, 'too-fine']);
		expect((await call<{ type: string }>('POST', at('/results'), { recipe: 'thickness', inputs: [], parameters: good })).status).toBe(422);
		expect(await results()).toEqual([]);
	});

	it('keep names apart from those of everything else, and changes from those of others', async () => {
		const [model] = await models();
		const parameters = { unit: model!.units[0]!.id, measured: 'vertical', cell: 100 };
		const first = (await make('thickness', { model: [model!.id] }, parameters, { name: 'Thick' })).body.id;
		expect((await make('thickness', { model: [model!.id] }, parameters, { name: 'Thick' })).body.type).toBe('doubled-name');
		expect((await make('thickness', { model: [model!.id] }, parameters, { name: model!.name })).body.type).toBe('doubled-name');
		const change = (body: object) => call<Result & { type: string }>('PATCH', at(`/results/${first}`), body);
		const { revision } = await result(first);
		const changed = await change({ revision, parameters: { ...parameters, cell: 80 }, auto: true, name: 'Thicker' });
		expect(changed.body).toMatchObject({ name: 'Thicker', auto: true, parameters: { cell: 80 } });
		expect((await change({ revision, parameters })).body.type).toBe('edited-elsewhere');
		await undo();
		expect(await result(first)).toMatchObject({ name: 'Thick', auto: false, parameters: { cell: 100 } });
		const copy = (await call<{ id: string }>('POST', at(`/results/${first}/duplicate`))).body.id;
		expect((await result(copy)).name).toBe('Thick (copy)');
		await undo();
		await undo();
		expect(await results()).toEqual([]);
		expect((await call('GET', at(`/results/${first}`))).status).toBe(404);
	});

	it('that are made of others come after them, are named before these go, and never go in circles', async () => {
		const [model] = await models();
		const unit = model!.units[1]!.id;
		const top = (await make('unit-elevation', { model: [model!.id] }, { unit, side: 'top', cell: 100 }, { name: 'Top' })).body.id;
		const below = (
			await make('depth-to-unit', { model: [model!.id], terrain: [top] }, { unit, side: 'base', cell: 100 }, { name: 'Below top' })
		).body.id;
		const last = (
			await make('depth-to-unit', { model: [model!.id], terrain: [below] }, { unit, side: 'base', cell: 100 }, { name: 'Last' })
		).body.id;
		const job = await build({ objects: [last] });
		expect((job.outcome as unknown as { steps: { object: string }[] }).steps.map((s) => s.object).sort()).toEqual(
			[top, below, last].sort()
		);
		expect(await result(top)).toMatchObject({ usedBy: ['Below top'] });
		const circle = await call<{ type: string }>('PATCH', at(`/results/${below}`), {
			revision: (await result(below)).revision,
			inputs: { model: [model!.id], terrain: [last] }
		});
		expect([circle.status, circle.body.type]).toEqual([422, 'circle']);
		const used = await call<{ type: string; title: string }>('DELETE', at(`/results/${top}`));
		expect([used.status, used.body.type]).toEqual([409, 'in-use']);
		expect(used.body.title).toContain('Below top');
		// What is upstream fails: what is downstream says so, and the rest is built.
		const other = (await make('thickness', { model: [model!.id] }, { unit, measured: 'vertical', cell: 90 }, { name: 'Other' })).body.id;
		await call('DELETE', at(`/results/${top}?used=true`));
		const failed = await build({ objects: [last, other] });
		expect(failed.state).toBe('failed');
		const outcome = failed.outcome as unknown as { problem: { type: string }; failed: { title: string; problem: { type: string } }[] };
		expect(outcome.problem.type).toBe('input-missing');
		expect(outcome.failed.map((f) => [f.title, f.problem.type]).sort()).toEqual([
			['Below top', 'input-missing'],
			['Last', 'input-failed']
		]);
		expect((await result(other)).state).toBe('up to date');
		await undo();
		expect(await build({ objects: [last] })).toMatchObject({ state: 'done' });
		for (const id of [last, below, top, other]) await call('DELETE', at(`/results/${id}`));
	});
});

describe('models', () => {
	it('are copied as they are built, changed by themselves, ordered, renamed and taken out, all of which can be undone', async () => {
		const [model] = await models();
		const copy = (await call<{ id: string }>('POST', at('/models'), { from: model!.id, name: 'The other idea' })).body.id;
		const [, second] = await models();
		// A copy of what is built is built.
		expect(second).toMatchObject({ id: copy, state: 'up to date', key: model!.key, units: model!.units });
		await spacing(150, second!);
		expect((await models()).map((m) => m.state)).toEqual(['up to date', 'out of date']);
		expect(await build({}, `?model=${copy}`)).toMatchObject({ state: 'done' });
		const cells = async (id: string) => (await call<{ cells: number }>('GET', at(`/model?model=${id}`))).body.cells;
		expect(await cells(copy)).toBeLessThan(await cells(model!.id));
		expect((await call('PUT', at('/models/order'), { models: [copy, model!.id] })).status).toBe(200);
		// The first one is meant where none is said.
		expect((await call<{ model: { spacing: number } }>('GET', at('/interpretation'))).body.model.spacing).toBe(150);
		expect((await call<{ type: string }>('PUT', at('/models/order'), { models: [copy] })).body.type).toBe('edited-elsewhere');
		const renamed = await call<{ type: string }>('PATCH', at(`/models/${copy}`), { name: model!.name, revision: second!.revision + 1 });
		expect(renamed.body.type).toBe('doubled-name');
		await undo();
		expect((await models()).map((m) => m.id)).toEqual([model!.id, copy]);
		await call('DELETE', at(`/models/${copy}`));
		expect(await models()).toHaveLength(1);
		expect((await call<{ type: string }>('DELETE', at(`/models/${model!.id}`))).body.type).toBe('last-model');
		await undo();
		expect((await models()).map((m) => m.name)).toEqual([model!.name, 'The other idea']);
		expect((await call('GET', at(`/model?model=${copy}`))).status).toBe(200);
		expect((await call('GET', at(`/model?model=${crypto.randomUUID()}`))).status).toBe(404);
		expect((await call('GET', at('/model?model=second'))).status).toBe(404);
		await call('DELETE', at(`/models/${copy}`));
	});

	it('begin empty, from nothing but a name, and get their own column, codes and faults', async () => {
		const id = (await call<{ id: string }>('POST', at('/models'))).body.id;
		const own = (await models()).find((m) => m.id === id)!;
		expect(own).toMatchObject({ name: 'Model 2', state: 'never built', units: [], key: '' });
		const { body } = await call<{ column: { revision: number }; lumping: { revision: number }; codes: { code: string }[] }>(
			'GET',
			at(`/interpretation?model=${id}`)
		);
		const units = ['upper', 'lower'].map((u) => ({ id: u, name: u, color: '#886644', contact: 'conformable' }));
		expect((await call('PUT', at(`/column?model=${id}`), { units, revision: body.column.revision })).status).toBe(200);
		const codes = Object.fromEntries(body.codes.map((c, i) => [c.code, i < 2 ? 'upper' : 'lower']));
		expect((await call('PUT', at(`/lumping?model=${id}`), { codes, revision: body.lumping.revision })).status).toBe(200);
		const [first] = await models();
		expect(first!.units.length).toBeGreaterThan(2);
		await spacing(200, own);
		expect(await build({}, `?model=${id}`)).toMatchObject({ state: 'done' });
		expect((await call<{ volumes: { unit: string }[] }>('GET', at(`/model?model=${id}`))).body.volumes.map((v) => v.unit)).toEqual([
			'upper',
			'lower'
		]);
		expect((await models()).map((m) => m.state)).toEqual(['up to date', 'up to date']);
		await call('DELETE', at(`/models/${id}`));
	});

	it('stand beside each other and beside the logs in a drawing of a hole, as they are called now', async () => {
		const [model] = await models();
		const copy = (await call<{ id: string }>('POST', at('/models'), { from: model!.id, name: 'The <other> idea' })).body.id;
		const track = (table: string) => ({
			kind: 'model',
			width: 20,
			series: [{ table, column: '', color: '#4A5E57' }],
			log: false,
			range: [null, null],
			fill: 'none'
		});
		const spec = {
			holes: ['TW-001'],
			tracks: [track(model!.id), track(copy), track(crypto.randomUUID())],
			axis: 'depth',
			scale: 500,
			align: null
		};
		const drawing = await call<Uint8Array>('POST', at('/exports/log.svg'), { spec });
		expect(drawing.status).toBe(200);
		const svg = new TextDecoder().decode(drawing.body);
		expect(svg).toContain('&lt;other&gt;');
		const runs = [...svg.matchAll(/stroke-width="0.12"/g)].length;
		// Both have the same units, so every run is there twice.
		expect(runs).toBeGreaterThan(2);
		expect(runs % 2).toBe(0);
		await call('DELETE', at(`/models/${copy}`));
	});

	it('are out of date as soon as any word of a unit is another one, but not by its name or its colour', async () => {
		const read = async () =>
			(await call<{ column: { units: Record<string, unknown>[]; revision: number } }>('GET', at('/interpretation'))).body.column;
		const change = async (more: object) => {
			const { units, revision } = await read();
			const put = await call('PUT', at('/column'), { units: units.map((u, i) => (i === 1 ? { ...u, ...more } : u)), revision });
			expect(put.status).toBe(200);
			return (await models())[0]!.state;
		};
		expect(await change({ name: 'Called anew', color: '#123456' })).toBe('up to date');
		for (const word of [{ opens: 'down' }, { thinsOut: false }, { endsAt: null }, { form: 'sheet' }, { contact: 'intrusive' }]) {
			expect([word, await change(word)]).toEqual([word, 'out of date']);
			await undo();
			expect((await models())[0]!.state).toBe('up to date');
		}
		await undo();
	});

	it('show in the lineage the log that they are made of by name', async () => {
		const [model] = await models();
		const table = (await objects()).find((o) => o.name === 'Slate in detail')!.id;
		const { body } = await call<{ shaping: Record<string, unknown> & { revision: number } }>('GET', at('/interpretation'));
		const { revision, ...shaping } = body.shaping;
		expect((await call('PUT', at('/shaping'), { ...shaping, log: { table: 'Slate in detail', column: 'Part' }, revision })).status).toBe(
			200
		);
		const contacts = (await call<{ objects: { kind: string; modelId: string; inputs: string[] }[] }>('GET', at(''))).body.objects.find(
			(o) => o.kind === 'contacts' && o.modelId === model!.id
		)!;
		expect(contacts.inputs).toContain(table);
		await undo();
	});

	it('that are many are fed by a table that comes later', async () => {
		const id = (await call<{ id: string }>('POST', at('/models'), { from: (await models())[0]!.id })).body.id;
		const text = 'x,y,strike,dip\n403700,4992300,30,20\n';
		const planes = await bring('Planes', 'planes.csv', text, {
			as: 'table',
			kind: 'orientations',
			mapping: { x: 'easting', y: 'northing', strike: 'strike', dip: 'dip' }
		});
		expect(planes.state).toBe('done');
		const fields = (await objects()).filter((o) => o.kind === 'fields');
		expect(fields).toHaveLength(2);
		expect(fields.every((f) => f.outOfDate)).toBe(true);
		await undo();
		await call('DELETE', at(`/models/${id}`));
	});
});
