import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { readPack } from '../../core/formats/pack';
import { writeAsc } from '../../core/formats/asc';
import { unpackReadings } from '../../core/datasets/readings';
import { seededRandom } from '../../core/statistics/random';
import { NOBODY, client, startServer, type TestServer } from '../server';

// A valley that is not the demo: wells with slips and empty cells, a plain terrain, a project that begins empty.
let server: TestServer;
let api: ReturnType<typeof client>;
let project: string;
const at = (path: string) => `/projects/${project}${path}`;
const folder = mkdtempSync(join(tmpdir(), 'malachite-grids-'));
const { uniform } = seededRandom(77);
const wells = Array.from({ length: 40 }, (_, i) => ({
	name: `P${i + 1}`,
	x: 700_000 + Math.round(2000 * uniform()),
	y: 5_100_000 + Math.round(1500 * uniform())
}));
const ground = (x: number, y: number) => 200 + 0.02 * (x - 700_000) - 0.01 * (y - 5_100_000);
const COLLARS = `Well,East,North,Elev,Depth\n${wells.map((w) => `${w.name},${w.x},${w.y},${ground(w.x, w.y).toFixed(2)},60`).join('\n')}\n`;
const DAYS = ['2023-01-10', '2023-02-10', '2023-03-10', '2023-04-10', '2023-05-10', '2023-06-10'];
const LEVELS = `Well,Date,Water level\n${wells.flatMap((w, i) => DAYS.map((d, k) => `${w.name},${d},${i === 3 && k === 2 ? '' : (10 + 0.1 * k + (i === 7 && k === 4 ? 40 : 0)).toFixed(2)}`)).join('\n')}\n`;
const TERRAIN = writeAsc({
	x0: 699_950,
	y0: 5_099_950,
	dx: 50,
	dy: 50,
	nx: 44,
	ny: 34,
	values: Float32Array.from({ length: 44 * 34 }, (_, k) => ground(699_950 + 50 * (k % 44), 5_099_950 + 50 * Math.floor(k / 44)))
});
let levels: string;
let terrain: string;

interface Result {
	id: string;
	name: string;
	state: string;
	revision: number;
	parameters: Record<string, unknown>;
	failure: { title: string } | null;
	built: { report: Record<string, unknown> } | null;
}
const make = (recipe: string, name: string, inputs: Record<string, string[]>, parameters: object = {}) =>
	api.call<{ id: string; type: string; title: string; hint: string }>('POST', at('/results'), { recipe, name, inputs, parameters });
async function built(recipe: string, name: string, inputs: Record<string, string[]>, parameters: object = {}): Promise<Result> {
	const { status, body } = await make(recipe, name, inputs, parameters);
	expect([status, body.title]).toEqual([201, undefined]);
	await build([body.id]);
	return (await api.call<Result>('GET', at(`/results/${body.id}`))).body;
}
async function build(objects: string[]): Promise<void> {
	const { body } = await api.call<{ job: string }>('POST', at('/build'), { objects });
	await api.finished(project, body.job);
}
const result = async (id: string) => (await api.call<Result>('GET', at(`/results/${id}`))).body;

beforeAll(async () => {
	server = await startServer();
	api = client(server);
	project = (await api.call<{ id: string }>('POST', '/projects', { name: 'Valley' })).body.id;
});
afterAll(() => server?.stop());

describe('grids of what was brought in', () => {
	it('of an empty project have nothing to be made of, and levels without collars say so', async () => {
		expect((await make('gridded', 'X', { readings: [] }, { column: 'v' })).body).toMatchObject({ type: 'input-missing' });
		levels = (await api.bring(project, 'Levels', 'levels.csv', LEVELS, { kind: 'levels' })).outcome.object!;
		const { status, body } = await make('water-levels', 'X', { readings: [levels] }, { well: 'hole', date: 'date', column: 'waterDepth' });
		expect([status, body.type]).toEqual([422, 'no-collars']);
		await api.bring(project, 'Wells', 'wells.csv', COLLARS);
		terrain = (await api.bring(project, 'Ground', 'ground.asc', TERRAIN)).outcome.object!;
	});

	it('propose columns and first values, and give a first look', async () => {
		const { body } = await api.call<{ parameters: Record<string, unknown>; columns: Record<string, { key: string }[]> }>(
			'POST',
			at('/suggestions'),
			{
				recipe: 'water-levels',
				inputs: { readings: [levels] }
			}
		);
		expect(body.parameters).toMatchObject({ well: 'hole', date: 'date', column: 'waterDepth', measures: 'depth' });
		expect(body.columns['readings']!.map((c) => c.key)).toContain('waterDepth');
		const look = await api.send<Uint8Array>('POST', at('/previews'), {
			recipe: 'water-levels',
			inputs: { readings: [levels] },
			parameters: body.parameters
		});
		expect(look.status).toBe(200);
		const { info } = readPack(look.body);
		expect(info).toMatchObject({ form: 'places', rowCount: 40 });
		expect(
			(await api.call('POST', at('/previews'), { recipe: 'zone-statistics', inputs: { grid: [terrain] }, parameters: {} })).status
		).toBe(422);
	});

	let monthly: Result;
	let table: Result;
	let depth: Result;
	it('become a water table along the terrain, the depth to it, and contours; a slip is named and left out', async () => {
		monthly = await built(
			'water-levels',
			'May',
			{ readings: [levels] },
			{ well: 'hole', date: 'date', column: 'waterDepth', when: 'month', day: '2023-05-01' }
		);
		expect(monthly).toMatchObject({
			state: 'up to date',
			built: { report: { wells: 39, withoutLevel: 1, standOut: [{ well: 'P8', level: 50.4 }] } }
		});
		table = await built(
			'gridded',
			'Water table',
			{ readings: [monthly.id], along: [terrain], frame: [terrain] },
			{ column: 'elevation', method: 'kriging-drift' }
		);
		const { info, arrays } = readPack((await api.send<Uint8Array>('GET', at(`/results/${table.id}/pack`))).body);
		expect(info).toMatchObject({ nx: 44, ny: 34 });
		// The water lies 10.4 below the ground everywhere, and the ground is what the mean follows.
		arrays['values']!.forEach((v, k) =>
			expect(v).toBeCloseTo(ground(699_950 + 50 * (k % 44), 5_099_950 + 50 * Math.floor(k / 44)) - 10.4, 1)
		);
		expect((table.built!.report['validation'] as { rms: number }).rms).toBeLessThan(0.05);
		depth = await built('calculated-grid', 'Depth', { grids: [terrain, table.id] }, { expression: 'ground - water_table' });
		expect(depth.built!.report['mean']).toBeCloseTo(10.4, 1);
		const lines = await built('contours', 'Lines', { grid: [table.id] }, { step: 10 });
		const saved = await api.send<{ features: unknown[] }>('GET', at(`/results/${lines.id}/file.geojson`));
		expect(saved.body.features.length).toBe(lines.built!.report['contours']);
	});

	it('are out of date when a level is corrected, or a collar is moved, and hear of another name', async () => {
		const edit = await api.call('POST', at(`/tables/${levels}/cells`), { cells: [{ n: 4, column: 'Water level', value: '12' }] });
		expect(edit.status).toBe(200);
		expect((await result(monthly.id)).state).toBe('out of date');
		await build([depth.id]);
		expect((await result(depth.id)).state).toBe('up to date');
		const { body } = await api.call<Result>('PATCH', at(`/results/${table.id}`), {
			name: 'Heads of May',
			revision: (await result(table.id)).revision
		});
		expect(body.name).toBe('Heads of May');
		expect((await result(depth.id)).parameters['expression']).toBe('ground - heads_of_may');
		await api.call('PATCH', at(`/sources/${terrain}`), { name: 'Relief' });
		expect((await result(depth.id)).parameters['expression']).toBe('relief - heads_of_may');
		await build([depth.id]);
		expect((await result(depth.id)).state).toBe('up to date');
		await api.call('POST', at('/undo'));
		expect((await result(depth.id)).parameters['expression']).toBe('ground - heads_of_may');
	});

	it('are saved with their rows', async () => {
		const csv = new TextDecoder().decode((await api.send<Uint8Array>('GET', at(`/results/${monthly.id}/file.csv`))).body);
		expect(csv.split('\n')[0]).toBe('easting,northing,elevation,well,elevation,depth,readings,standOut');
		expect(csv.trim().split('\n')).toHaveLength(40);
		const r = unpackReadings(readPack((await api.send<Uint8Array>('GET', at(`/results/${monthly.id}/pack`))).body));
		expect(r.rowCount).toBe(39);
	});

	it('are read in parts, as fine as wanted', async () => {
		const part = async (query: string) => readPack((await api.send<Uint8Array>('GET', at(`/objects/${terrain}/part?${query}`))).body);
		expect((await part('')).info).toMatchObject({ nx: 44, ny: 34, every: 1 });
		const { info, arrays } = await part('most=400');
		expect(info).toMatchObject({ nx: 22, ny: 17, every: 2, dx: 100, x0: 699_975, whole: { nx: 44, ny: 34 } });
		expect(arrays['values']![0]).toBeCloseTo(ground(699_975, 5_099_975), 2);
		expect((await part('minX=700500&minY=5100500&maxX=700600&maxY=5100600')).info).toMatchObject({ nx: 3, ny: 3, x0: 700_500, every: 1 });
		expect((await part('minX=0&minY=0&maxX=10&maxY=10')).info).toMatchObject({ nx: 0, ny: 0 });
		for (const [path, status, type] of [
			[`/objects/${terrain}/part?minX=1`, 422, 'no-extent'],
			[`/objects/${terrain}/part?minX=5&minY=0&maxX=1&maxY=1`, 422, 'no-extent'],
			[`/objects/${terrain}/part?most=0`, 422, 'invalid-input'],
			[`/objects/${monthly.id}/part`, 422, 'wrong-form'],
			[`/objects/${NOBODY}/part`, 404, 'not-found']
		] as const) {
			const answer = await api.call<{ type: string }>('GET', at(path));
			expect([path, answer.status, answer.body.type]).toEqual([path, status, type]);
		}
	});

	it('tell how they were made, from the files on', async () => {
		const { body } = await api.call<{ steps: { name: string; words: string }[] }>('GET', at(`/results/${depth.id}/account`));
		expect(body.steps.map((s) => s.name)).toEqual(expect.arrayContaining(['Levels', 'May', 'Depth']));
		const words = (name: string) => body.steps.find((s) => s.name === name)!.words;
		expect(words('Levels')).toBe('Read from levels.csv.');
		expect(words('May')).toContain('month of 2023-05-01');
		expect(body.steps.at(-1)!.name).toBe('Depth');
		// What is made of others comes after them.
		expect(body.steps.findIndex((s) => s.name === 'Levels')).toBeLessThan(body.steps.findIndex((s) => s.name === 'May'));
	});

	it('whose water stands above the ground say so', async () => {
		const springs = await api.bring(project, 'Artesian', 'more.csv', `Well,Date,Water level\nP1,2023-01-01,-1.5\nP2,2023-01-01,3\n`, {
			kind: 'levels'
		});
		const wet = await built(
			'water-levels',
			'Pressed',
			{ readings: [springs.outcome.object!] },
			{ well: 'hole', date: 'date', column: 'waterDepth' }
		);
		expect(wet.built!.report['finding']).toBe('the water of well P1 stands above the ground');
		const over = await built('grid-above', 'Nowhere', { first: [table.id], second: [terrain] }, { by: 0 });
		expect(over.built!.report['finding']).toBeUndefined();
		expect(over.built!.report['words']).toMatch(/nowhere/);
	});

	it.each([
		['a column that is not there', { column: 'nope' }, 'unknown-column'],
		['a column of text', { column: 'well' }, 'wrong-column'],
		['far too many cells', { column: 'depth', cell: 0.001 }, 'too-fine'],
		['kriging along nothing', { column: 'depth', method: 'kriging-drift' }, 'input-missing'],
		['a method that there is not', { column: 'depth', method: 'magic' }, 'invalid-input']
	])('refuse %s before anything is made', async (_, parameters, type) => {
		const { status, body } = await make('gridded', 'Bad', { readings: [monthly.id] }, parameters);
		expect([status, body.type]).toEqual([422, type]);
	});

	it('that fail when they are built say why, and what is made of them waits', async () => {
		const one = (await api.bring(project, 'One', 'one.csv', 'x,y,v\n700100,5100100,5\n', { kind: 'places' })).outcome.object!;
		const first = await make(
			'gridded',
			'Triangles',
			{ readings: [one] },
			{ column: 'v', method: 'linear', extent: 'typed', minX: 700_000, maxX: 701_000, minY: 5_100_000, maxY: 5_101_000, cell: 50 }
		);
		const next = await make('contours', 'Of triangles', { grid: [first.body.id] });
		await build([next.body.id]);
		expect(await result(first.body.id)).toMatchObject({ state: 'failed', failure: { title: '1 place makes no triangle' } });
		expect((await result(next.body.id)).state).not.toBe('up to date');
	});

	it('run again as a routine, once for each month, and as one change', async () => {
		const { status, body: routine } = await api.call<Record<string, unknown>>('POST', at('/routine-proposals'), {
			name: 'Depth of a month',
			objects: [depth.id],
			open: [{ object: monthly.id, parameter: 'day', name: 'month' }]
		});
		expect([status, (routine['inputs'] as { name: string }[]).map((i) => i.name).sort()]).toEqual([200, ['Ground', 'Levels']]);
		writeFileSync(join(folder, 'routine.json'), JSON.stringify(routine));
		const inputs = { Ground: terrain, Levels: levels };
		const run = await api.call<{ objects: { id: string; name: string }[] }>('POST', at('/routine-runs'), {
			routine,
			inputs,
			repeat: { parameter: 'month', values: ['2023-01-01', '2023-06-01'] }
		});
		expect(run.body.objects.map((o) => o.name)).toEqual(['Depth 2023-01-01', 'Depth 2023-06-01']);
		await build(run.body.objects.map((o) => o.id));
		const means = [];
		for (const o of run.body.objects) means.push((await result(o.id)).built!.report['mean'] as number);
		expect(means[1]! - means[0]!).toBeCloseTo(0.45, 1);
		await api.call('POST', at('/undo'));
		expect((await api.call('GET', at(`/results/${run.body.objects[0]!.id}`))).status).toBe(404);
		const refused = (more: object) => api.call<{ type: string }>('POST', at('/routine-runs'), { routine, inputs, ...more });
		expect((await refused({ inputs: { Ground: terrain } })).body.type).toBe('input-missing');
		expect((await refused({ inputs: { Ground: levels, Levels: levels } })).body.type).toBe('wrong-input');
		expect((await refused({ values: { nope: 1 } })).body.type).toBe('unknown-parameter');
		expect((await refused({ routine: { hello: 1 } })).body.type).toBe('bad-routine');
	});
});

describe('the same from a command line and from Python', () => {
	it('a routine runs on files without a database, and gives the same', () => {
		writeFileSync(join(folder, 'levels.csv'), LEVELS);
		writeFileSync(join(folder, 'wells.csv'), COLLARS);
		writeFileSync(join(folder, 'ground.asc'), TERRAIN);
		const run = (...more: string[]) =>
			execFileSync('node', ['dist/cli.js', 'run', join(folder, 'routine.json'), '--out', join(folder, 'out'), ...more], {
				encoding: 'utf8',
				stdio: 'pipe'
			});
		const files = ['--input', `Levels=${join(folder, 'levels.csv')}`, '--input', `Ground=${join(folder, 'ground.asc')}`];
		run(...files, '--input', `collars=${join(folder, 'wells.csv')}`, '--repeat', 'month=2023-02-01,2023-03-01');
		const mean = (month: string) => (JSON.parse(readFileSync(join(folder, 'out', month, 'Depth.json'), 'utf8')) as { mean: number }).mean;
		expect(mean('2023-02-01')).toBeCloseTo(10.1, 1);
		expect(mean('2023-03-01')).toBeCloseTo(10.2, 1);
		expect(() => run(...files)).toThrow('nobody knows where they are');
		expect(() => run(...files.slice(0, 2), '--input', `collars=${join(folder, 'wells.csv')}`)).toThrow('nothing is given for "Ground"');
		expect(() => run(...files, '--input', 'oops=x.csv')).toThrow('has no input "oops"');
	});

	it('the examples of the manual run with nothing but Python', () => {
		const example = /```python\n([\s\S]*?)```/.exec(readFileSync('docs/grids.md', 'utf8'))![1]!;
		writeFileSync(join(folder, 'springs.csv'), `x,y,depth\n${wells.map((w, i) => `${w.x},${w.y},${5 + (i % 7)}`).join('\n')}\n`);
		writeFileSync(join(folder, 'example.py'), example.replace('http://127.0.0.1:5810', server.url).replace('Isle of Tarrow', 'Valley'));
		const out = execFileSync('python3', [join(folder, 'example.py')], {
			cwd: folder,
			encoding: 'utf8',
			env: { ...process.env, PYTHONPATH: `${process.cwd()}/docs`, PYTHONDONTWRITEBYTECODE: '1' }
		});
		expect(out).toContain('natural neighbour');
		expect(out).toContain('refused: Springs has no column "nope"');
		expect(readFileSync(join(folder, 'springs.tif')).length).toBeGreaterThan(1000);
	});
});
