import { describe, expect, it } from 'vitest';
import type { Feature } from 'geojson';
import { describeReadings, packReadings, unpackReadings, type ReadingColumn, type Readings } from '../datasets/readings';
import type { Raster } from '../grids/raster';
import { inTasks } from '../model/compute';
import computePiece from '../model/compute';
import { packOfRaster, rasterOf } from './opened';
import { withFirstValues } from './parameters';
import type { Given, Product, RecipeContext } from './recipe';
import { recipeOf } from './register';
import { readRoutine, routineOf, runRoutine, type RoutineThing } from './routine';

const context: RecipeContext = {
	project: { name: 'Test', lengthUnit: 'm', crs: 0, extent: { minX: 0, minY: 0, minZ: -100, maxX: 1000, maxY: 1000, maxZ: 100 } },
	ground: null,
	progress: () => {},
	tasks: inTasks(async (task) => structuredClone(await computePiece(structuredClone(task))) as never)
};
const number = (key: string, values: number[], type: 'number' | 'date' = 'number'): ReadingColumn => ({
	key,
	label: key,
	type,
	unit: '',
	values: Float64Array.from(values)
});
const text = (key: string, values: string[]): ReadingColumn => ({ key, label: key, type: 'text', values });
const readings = (places: (readonly [number, number])[], columns: ReadingColumn[], z = 0): Readings => ({
	rowCount: places.length,
	row: Uint32Array.from(places, (_, i) => i),
	x: Float64Array.from(places, (p) => p[0]),
	y: Float64Array.from(places, (p) => p[1]),
	z: new Float64Array(places.length).fill(z),
	columns
});
const base = { state: {}, report: {}, units: [] };
const table = (role: string, r: Readings, name = 'Readings'): Given => ({
	...base,
	id: name,
	role,
	kind: 'table',
	name,
	rows: describeReadings(r),
	pack: packReadings(r)
});
const grid = (role: string, r: Raster, name: string): Given => ({ ...base, id: name, role, kind: 'grid', name, pack: packOfRaster(r) });
const layer = (role: string, features: Feature[], name = 'Lines'): Given => ({
	...base,
	id: name,
	role,
	kind: 'layer',
	name,
	pack: { info: { features }, arrays: {} }
});
const flat = (value: number | ((x: number, y: number) => number), n = 20, d = 50, x0 = 25, y0 = 25): Raster => ({
	x0,
	y0,
	dx: d,
	dy: d,
	nx: n,
	ny: n,
	values: Float32Array.from({ length: n * n }, (_, k) =>
		typeof value === 'number' ? value : value(x0 + (k % n) * d, y0 + Math.floor(k / n) * d)
	)
});
async function run(id: string, inputs: Given[], parameters: Record<string, unknown> = {}, preview = false): Promise<Product> {
	const r = recipeOf(id)!;
	const own = (await r.parameters.validate(withFirstValues(r.parameters, parameters), { strict: true })) as Record<string, unknown>;
	r.refuse?.(inputs, own);
	r.estimate?.(inputs, own, context.project);
	return r.run(inputs, own, { ...context, ...(preview ? { preview } : {}) });
}
const square = (a: number, b: number, name = 'inside'): Feature => ({
	type: 'Feature',
	properties: { name },
	geometry: {
		type: 'Polygon',
		coordinates: [
			[
				[a, a],
				[b, a],
				[b, b],
				[a, b],
				[a, a]
			]
		]
	}
});
const corners = [
	[100, 100],
	[900, 100],
	[100, 900],
	[900, 900],
	[500, 500]
] as const;
const some = readings([...corners], [number('v', [1, 2, 3, 4, 2.5]), text('name', ['a', 'b', 'c', 'd', 'e'])]);

describe('a grid of readings', () => {
	it('takes its cells from a grid, an extent, or what is typed, and tells what became of the readings', async () => {
		const { pack, report } = await run('gridded', [table('readings', some)], { column: 'v', cell: 20, method: 'nearest' });
		expect(report['readings']).toMatchObject({ rows: 5, read: 5, missing: 0, outside: 0 });
		expect(report['validation']).toMatchObject({ left: 5 });
		expect((report['worst'] as { row: number }[])[0]!.row).toBeGreaterThan(0);
		expect(rasterOf(pack).dx).toBe(20);
		const asTerrain = await run('gridded', [table('readings', some), grid('frame', flat(0), 'Terrain')], { column: 'v' });
		expect(rasterOf(asTerrain.pack)).toMatchObject({ nx: 20, ny: 20, dx: 50, x0: 25 });
		const typed = { column: 'v', extent: 'typed', minX: 0, maxX: 600, minY: 0, maxY: 300, cell: 30 };
		expect(rasterOf((await run('gridded', [table('readings', some)], typed)).pack)).toMatchObject({ nx: 20, ny: 10 });
		const byItself = await run('gridded', [table('readings', some)], { column: 'v' });
		expect(byItself.report['words']).toContain('by inverse distance');
	});
	it('at a first look has a quarter of the cells or fewer, and is not cross-validated', async () => {
		const whole = await run('gridded', [table('readings', some)], { column: 'v', cell: 2 });
		const look = await run('gridded', [table('readings', some)], { column: 'v', cell: 2 }, true);
		expect(rasterOf(look.pack).values.length).toBeLessThan(rasterOf(whole.pack).values.length / 3.9);
		expect(look.report['validation']).toBeUndefined();
	});
	it('keeps to an outline, and to one side of a barrier', async () => {
		const within = await run('gridded', [table('readings', some), layer('outline', [square(200, 800)])], { column: 'v', cell: 20 });
		expect(within.report['known']).toBe(30 * 30);
		const wall: Feature = {
			type: 'Feature',
			properties: {},
			geometry: {
				type: 'LineString',
				coordinates: [
					[400, -1e4],
					[400, 1e4]
				]
			}
		};
		const parted = rasterOf(
			(await run('gridded', [table('readings', some), layer('barriers', [wall])], { column: 'v', cell: 20, method: 'nearest' })).pack
		);
		// West of it only the readings 1 and 3 are seen.
		const west = parted.values.filter((_, k) => parted.x0 + (k % parted.nx) * parted.dx < 399);
		expect([...new Set(west)].sort()).toEqual([1, 3]);
	});
	it.each([
		['a column that is not there', { column: 'w' }, 'has no column "w"'],
		['a column of text', { column: 'name' }, 'holds text'],
		['a frame of 10⁹ cells', { column: 'v', cell: 0.02 }, 'cells of 0.02 make'],
		['a typed extent without a side', { column: 'v', extent: 'typed', minX: 0 }, 'needs west, east'],
		[
			'a typed extent that is turned round',
			{ column: 'v', extent: 'typed', minX: 5, maxX: 1, minY: 0, maxY: 1 },
			'east must be above west'
		],
		['more least than most readings', { column: 'v', most: 3, least: 5 }, 'more than the most'],
		['a radius that reaches nothing', { column: 'v', radius: 1, cell: 37, least: 3 }, 'no cell finds'],
		['kriging along nothing', { column: 'v', method: 'kriging-drift' }, 'needs the grid']
	])('refuses %s', async (_, parameters, message) => {
		await expect(run('gridded', [table('readings', some)], parameters)).rejects.toThrow(message);
	});
	it('refuses degrees beside metres, an outline that hides all, and lines as an outline', async () => {
		const far = grid('frame', flat(0, 20, 0.01, 10, 45), 'Degrees');
		await expect(run('gridded', [table('readings', some), far], { column: 'v' })).rejects.toThrow(
			expect.objectContaining({ problem: expect.objectContaining({ kind: 'no-overlap', hint: expect.stringContaining('degrees') }) })
		);
		await expect(
			run('gridded', [table('readings', some), layer('outline', [square(5000, 6000)])], { column: 'v', cell: 20 })
		).rejects.toThrow('no cell with a value');
		const line: Feature = {
			type: 'Feature',
			properties: {},
			geometry: {
				type: 'LineString',
				coordinates: [
					[0, 0],
					[900, 900]
				]
			}
		};
		await expect(run('gridded', [table('readings', some), layer('outline', [line])], { column: 'v', cell: 20 })).rejects.toThrow('no face');
		const none = readings(
			[
				[1, 1],
				[2, 2]
			],
			[number('v', [NaN, NaN])]
		);
		await expect(run('gridded', [table('readings', none)], { column: 'v', cell: 20 })).rejects.toThrow('none of 2 rows');
	});
	it('gives the standard error of kriging: none at a reading, the most far away', async () => {
		const { pack } = await run('gridded', [table('readings', some)], {
			column: 'v',
			method: 'kriging',
			gives: 'error',
			cell: 20,
			variogram: 'typed',
			range: 400,
			check: 'no'
		});
		const r = rasterOf(pack);
		const at = (x: number, y: number) => r.values[Math.round((y - r.y0) / r.dy) * r.nx + Math.round((x - r.x0) / r.dx)]!;
		expect(at(500, 500)).toBeLessThan(at(300, 300));
		for (const v of r.values) expect(v >= 0).toBe(true);
	});
});

describe('grids of grids', () => {
	const [a, b] = [
		grid(
			'grids',
			flat((x) => x),
			'East'
		),
		grid('grids', flat(10, 10, 100, 50, 50), 'Ten')
	];
	it('are calculated by their names, and cut', async () => {
		const { pack, report } = await run('calculated-grid', [a, b], { expression: 'east - ten' });
		expect(rasterOf(pack).values[3]).toBeCloseTo(165, 3);
		expect(report['words']).toBe('east - ten, of East, Ten.');
		await expect(run('calculated-grid', [a, b], { expression: 'west' })).rejects.toThrow('no grid "west"');
		await expect(run('calculated-grid', [a], {})).rejects.toThrow('no expression');
		await expect(run('calculated-grid', [a, grid('grids', flat(1, 5, 10, 1e6, 0), 'Far')], { expression: 'east - far' })).rejects.toThrow(
			'do not overlap'
		);
	});
	it('differ by what they differ, with the volume between them', async () => {
		const high = grid(
			'first',
			flat((x) => (x < 500 ? 12 : 7)),
			'A'
		);
		const { report } = await run('grid-difference', [high, grid('second', flat(10), 'B')]);
		expect(report).toMatchObject({ mean: -0.5, above: { area: 500_000, volume: 1_000_000 }, below: { area: 500_000, volume: 1_500_000 } });
		expect((report['pairs'] as unknown[]).length).toBe(400);
		expect(await run('grid-above', [high, grid('second', flat(10), 'B')])).toMatchObject({
			report: { area: 500_000, most: 2, finding: 'A lies above B in 200 cells' }
		});
	});
	it('have contours, statistics by faces and by classes, and places', async () => {
		expect(
			(
				await run(
					'contours',
					[
						grid(
							'grid',
							flat((x) => x),
							'East'
						)
					],
					{ step: 250 }
				)
			).report
		).toMatchObject({ contours: 3 });
		await expect(
			run(
				'contours',
				[
					grid(
						'grid',
						flat((x) => x),
						'East'
					)
				],
				{ step: 0.001 }
			)
		).rejects.toThrow('contours');
		const zones = (
			await run('zone-statistics', [
				grid(
					'grid',
					flat((x) => x),
					'East'
				),
				layer('faces', [square(0, 500, 'P'), square(500, 1000, 'Q')])
			])
		).report['zones'] as { zone: string; mean: number; count: number }[];
		expect(zones.map((z) => [z.zone, z.count, z.mean])).toEqual([
			['P', 100, 250],
			['Q', 100, 750]
		]);
		const classes = (
			await run(
				'zone-statistics',
				[
					grid('grid', flat(1), 'One'),
					grid(
						'classes',
						flat((x) => x),
						'East'
					)
				],
				{ width: 500 }
			)
		).report['zones'] as { zone: string; count: number }[];
		expect(classes).toMatchObject([
			{ zone: '0 to 500', count: 200 },
			{ zone: '500 to 1000', count: 200 }
		]);
		await expect(run('zone-statistics', [grid('grid', flat(1), 'One')])).rejects.toThrow('either faces or the classes');
		const sampled = unpackReadings((await run('sampled', [table('readings', some), a])).pack);
		expect([...(sampled.columns.find((c) => c.key === 'east') as { values: Float64Array }).values]).toEqual([100, 900, 100, 900, 500]);
	});
	it('flow down, and stand along lines', async () => {
		const { pack, report } = await run('flow-arrows', [
			grid(
				'grid',
				flat((x) => -0.01 * x),
				'Heads'
			)
		]);
		expect(report['steepest']).toBeCloseTo(0.01, 5);
		for (const f of pack.info['features'] as Feature[]) expect(f.properties!['azimuth']).toBeCloseTo(90, 3);
		const line: Feature = {
			type: 'Feature',
			properties: { name: 'L' },
			geometry: {
				type: 'LineString',
				coordinates: [
					[100, 500],
					[300, 500],
					[300, 700]
				]
			}
		};
		const along = unpackReadings((await run('grid-profile', [layer('lines', [line]), a], { step: 100 })).pack);
		expect([...(along.columns[1] as { values: Float64Array }).values]).toEqual([0, 100, 200, 300, 400]);
		expect([...(along.columns[2] as { values: Float64Array }).values].map(Math.round)).toEqual([100, 200, 300, 300, 300]);
	});
	it('filters of fields keep gaps, and refuse a grid without values', async () => {
		for (const filter of [
			'continued',
			'vertical',
			'gradient',
			'pole',
			'analytic',
			'tilt',
			'regional',
			'residual',
			'low',
			'high',
			'levelled'
		]) {
			const r = flat((x, y) => 50 * Math.sin(x / 200) + 0.01 * y);
			r.values[7] = NaN;
			const out = rasterOf((await run('field-filter', [grid('grid', r, 'Field')], { filter })).pack);
			expect([filter, out.values[7], out.values.filter(Number.isFinite).length]).toEqual([filter, NaN, 399]);
		}
		await expect(run('field-filter', [grid('grid', flat(NaN), 'Empty')])).rejects.toThrow('has no values');
	});
	it('have shapes of all kinds', async () => {
		for (const what of ['slope', 'aspect', 'curvature', 'shade', 'smooth', 'median', 'upslope']) {
			const { pack } = await run(
				'shaped-grid',
				[
					grid(
						'grid',
						flat((x, y) => x + y),
						'G'
					)
				],
				{ what }
			);
			expect([what, rasterOf(pack).values.some(Number.isFinite)]).toEqual([what, true]);
		}
	});
});

describe('levels of water', () => {
	const day = (text: string) => Date.parse(text) / 86_400_000;
	const rows = ['2024-01-15', '2024-02-15', '2024-03-15', '2024-04-15', '2024-05-15', '2024-06-15', '2024-07-15', '2024-08-15'];
	const levels = readings(
		[...rows.map(() => [10, 20] as const), ...rows.map(() => [90, 20] as const)],
		[
			text('hole', [...rows.map(() => 'W1'), ...rows.map(() => 'W2')]),
			number('date', [...rows, ...rows].map(day), 'date'),
			// One slip of the decimal point.
			number('waterDepth', [5, 5.1, 5.2, 52, 5.3, 5.2, 5.1, 5, 8, 8, 8.1, 8.2, 8.1, 8, 8, 8.1])
		],
		100
	);
	const asked = { well: 'hole', date: 'date', column: 'waterDepth' };
	it('are those of a time, as depth and as elevation, without what stands out, which is named', async () => {
		const { pack, report } = await run('water-levels', [table('readings', levels)], { ...asked, when: 'month', day: '2024-03-02' });
		const r = unpackReadings(pack);
		expect([...r.z]).toEqual([94.8, 91.9].map((v) => expect.closeTo(v, 9)));
		expect(report['standOut']).toEqual([{ well: 'W1', row: 4, date: '2024-04-15', level: 52 }]);
		const all = await run('water-levels', [table('readings', levels)], { ...asked, when: 'all', outliers: 'in' });
		expect(unpackReadings(all.pack).z[0]).toBeCloseTo(100 - 87.9 / 8, 9);
	});
	it('rise between two days', async () => {
		const { pack } = await run('water-levels', [table('readings', levels)], {
			...asked,
			when: 'day',
			day: '2024-08-15',
			less: '2024-05-15'
		});
		const rise = unpackReadings(pack).columns.find((c) => c.key === 'rise') as { values: Float64Array };
		expect(rise.values[0]).toBeCloseTo(0.3, 9);
	});
	it.each([
		['no day', { when: 'day' }, 'no day is given'],
		['a day that there is not', { when: 'day', day: '2024-02-31' }, 'is a day'],
		['a day long before', { when: 'day', day: '1990-01-01' }, 'no well has a reading'],
		['a period that ends before it begins', { when: 'period', from: '2024-05-01', to: '2024-01-01' }, 'ends before'],
		['a column that is not there', { column: 'x' }, 'has no column']
	])('refuse %s', async (_, more, message) => {
		await expect(run('water-levels', [table('readings', levels)], { ...asked, ...more })).rejects.toThrow(message);
	});
});

describe('values by hole', () => {
	const log = readings(
		[
			[1, 1],
			[1, 1],
			[1, 1],
			[5, 5]
		],
		[
			text('hole', ['A', 'A', 'A', 'B']),
			text('code', ['SST', 'LST', 'SST', 'SST']),
			number('from', [0, 10, 15, 0]),
			number('to', [10, 15, 40, 7]),
			number('top', [100, 90, 85, 50]),
			number('base', [90, 85, 60, 43])
		]
	);
	const assays = readings(
		[
			[1, 1],
			[1, 1],
			[5, 5]
		],
		[text('hole', ['A', 'A', 'B']), number('from', [0, 12, 0]), number('to', [12, 20, 5]), number('Cu', [10, 100, 7])]
	);
	const value = (p: Product) => {
		const r = unpackReadings(p.pack);
		const c = r.columns.find((x) => x.key === 'value') as { values: Float64Array };
		return Object.fromEntries((r.columns[0] as { values: string[] }).values.map((h, i) => [h, c.values[i]]));
	};
	it('are tops, bases, thicknesses of what is asked for', async () => {
		const of = async (gives: string, where: string) => value(await run('hole-values', [table('readings', log)], { gives, where }));
		expect(await of('top', "code = 'SST'")).toEqual({ A: 100, B: 50 });
		expect(await of('base', "code = 'SST'")).toEqual({ A: 60, B: 43 });
		expect(await of('thickness', "code = 'SST'")).toEqual({ A: 35, B: 7 });
		expect(await of('thickness', "code = 'LST'")).toEqual({ A: 5 });
		await expect(of('top', "code = 'XXX'")).rejects.toThrow('no row counts');
		await expect(of('top', 'code')).rejects.toThrow('yes or no');
	});
	it('are means weighted by length, within a part of a log as far as both lie together', async () => {
		const plain = value(await run('hole-values', [table('readings', assays)], { gives: 'mean', column: 'Cu' }));
		expect(plain['A']).toBeCloseTo((12 * 10 + 8 * 100) / 20, 9);
		const within = value(
			await run('hole-values', [table('readings', assays), table('log', log, 'Log')], {
				gives: 'mean',
				column: 'Cu',
				where: "code = 'LST'"
			})
		);
		expect(within).toEqual({ A: expect.closeTo((2 * 10 + 3 * 100) / 5, 9) });
	});
	it('by the units of a model', async () => {
		const model: Given = {
			...base,
			id: 'm',
			role: 'model',
			kind: 'lumping',
			name: 'Model',
			state: { codes: { SST: 'f', LST: 'm' } },
			units: [{ id: 'f', name: 'Fennick', color: '#000000', contact: 'conformable' }],
			pack: null
		};
		expect(value(await run('hole-values', [table('readings', log), model], { gives: 'thickness', where: "unit = 'Fennick'" }))).toEqual({
			A: 35,
			B: 7
		});
	});
});

describe('steps of a survey', () => {
	const lines = Array.from({ length: 5 }, (_, l) => Array.from({ length: 21 }, (_, k) => [k * 50, l * 200] as const)).flat();
	const ties = Array.from({ length: 2 }, (_, t) => Array.from({ length: 17 }, (_, k) => [200 + 500 * t, k * 50] as const)).flat();
	const places = [...lines, ...ties];
	const field = (x: number, y: number) => 0.02 * x + 0.01 * y;
	const offset = [3, -4, 2, 5, -6];
	const stations = readings(places, [
		text('line', [...lines.map((_, i) => `L${Math.floor(i / 21)}`), ...ties.map((_, i) => `T${Math.floor(i / 17)}`)]),
		number(
			'date',
			places.map((_, i) => 20_000 + i / 5000),
			'date'
		),
		number(
			'T',
			places.map(([x, y], i) => field(x, y) + (i < lines.length ? offset[Math.floor(i / 21)]! : 0))
		)
	]);
	const asked = { line: 'line', time: 'date', column: 'T' };
	const last = (p: Product) => unpackReadings(p.pack).columns.at(-1) as { key: string; values: Float64Array };
	it('level lines by their ties, keep the column that they were made from, and tell the misties', async () => {
		const p = await run('levelled-stations', [table('readings', stations)], { ...asked, ties: 'T*' });
		expect(p.report['misties']).toEqual({ before: expect.closeTo(Math.sqrt((9 + 16 + 4 + 25 + 36) / 5), 6), after: expect.closeTo(0, 3) });
		expect(last(p).key).toBe('T_levelled');
		last(p).values.forEach((v, i) => expect(v).toBeCloseTo(field(...places[i]!), 2));
		expect(unpackReadings(p.pack).columns.find((c) => c.key === 'T')).toBeDefined();
	});
	it('say what they lack', async () => {
		await expect(run('levelled-stations', [table('readings', stations)], { ...asked, ties: 'X*' })).rejects.toThrow('no line is a tie');
		await expect(run('levelled-stations', [table('readings', stations)], { column: 'T' })).rejects.toThrow('names the lines');
		const base = readings([[0, 0]], [number('date', [NaN], 'date'), number('T', [5])]);
		const drift = { ...asked, baseColumn: 'T', baseTime: 'date' };
		await expect(run('drift-corrected', [table('readings', stations), table('base', base, 'Base')], drift)).rejects.toThrow(
			'at none of the times'
		);
		await expect(
			run('drift-corrected', [table('readings', stations), table('base', base, 'Base')], { ...drift, time: '' })
		).rejects.toThrow('needs the time');
		await expect(run('cleaned-stations', [table('readings', stations)], { column: 'T', step: 'lag', lagOf: 'seconds' })).rejects.toThrow(
			'needs the times'
		);
	});
	it('take drift off, spikes out, and place stations at equal steps', async () => {
		const base = readings(
			[
				[0, 0],
				[0, 0]
			],
			[number('date', [20_000, 20_001], 'date'), number('T', [100, 200])]
		);
		const p = await run('drift-corrected', [table('readings', stations), table('base', base, 'Base')], {
			...asked,
			baseColumn: 'T',
			baseTime: 'date',
			datum: 100
		});
		const raw = unpackReadings(packOf(stations)).columns.find((c) => c.key === 'T') as { values: Float64Array };
		expect(last(p).values[50]).toBeCloseTo(raw.values[50]! - (100 * 50) / 5000, 6);
		const spiked = {
			...stations,
			columns: stations.columns.map((c) =>
				c.key === 'T' && c.type !== 'text' ? { ...c, values: c.values.map((v, i) => (i === 30 ? 999 : v)) } : c
			)
		};
		const clean = await run('cleaned-stations', [table('readings', spiked)], { ...asked, step: 'spikes' });
		expect(clean.report).toMatchObject({ spikes: 1, stations: [{ row: 31, line: 'L1', before: 999 }] });
		expect(last(clean).values[30]).toBeNaN();
		const even = unpackReadings((await run('resampled-stations', [table('readings', stations)], { ...asked, step: 100 })).pack);
		expect(even.rowCount).toBe(5 * 11 + 2 * 9);
	});
	it('bring gravity to the Bouguer anomaly: on a plain slab nothing is left but the datum', async () => {
		const at = [
			[100, 100],
			[500, 500],
			[800, 300]
		] as const;
		const heights = [0, 50, 120];
		const read = heights.map((h) => 9_780_00 + 0 - (0.3086 - 0.04193 * 2.67) * h);
		const g = readings([...at], [number('g', read), number('elevation', heights)]);
		const p = await run('gravity-reduced', [table('readings', g, 'Gravity')], {
			column: 'g',
			height: 'elevation',
			latitude: 45,
			density: 2670
		});
		const bouguer = last(p).values;
		expect(Math.max(...bouguer) - Math.min(...bouguer)).toBeLessThan(0.1);
		await expect(run('gravity-reduced', [table('readings', g, 'Gravity')], { column: 'g', height: 'elevation' })).rejects.toThrow(
			'tells the latitude'
		);
		// A plain terrain at the height of the station has no effect.
		const one = readings([[500, 500]], [number('g', [978_000]), number('elevation', [50])]);
		const level = await run('gravity-reduced', [table('readings', one, 'Gravity'), grid('terrain', flat(50), 'Terrain')], {
			column: 'g',
			height: 'elevation',
			latitude: 45
		});
		expect((unpackReadings(level.pack).columns.find((c) => c.key === 'terrainEffect') as { values: Float64Array }).values[0]).toBe(0);
	});
	it('hold a simple body against what was read', async () => {
		const made = await run('modelled-field', [table('readings', stations)], { body: 'dipole', x: 500, y: 400, depth: 150, moment: 20 });
		const again = readings(places, [number('T', [...last(made).values])]);
		const found = await run('modelled-field', [table('readings', again)], {
			body: 'dipole',
			column: 'T',
			x: 500,
			y: 400,
			depth: 150,
			moment: 20
		});
		expect(found.report['misfit']).toBeCloseTo(0, 9);
		const deeper = await run('modelled-field', [table('readings', again)], {
			body: 'dipole',
			column: 'T',
			x: 500,
			y: 400,
			depth: 250,
			moment: 20
		});
		expect(deeper.report['misfit']).toBeGreaterThan(1);
	});
	const packOf = (r: Readings) => packReadings(r);
});

describe('a routine', () => {
	const objects = [
		{ id: '1', kind: 'table', name: 'Wells', form: 'table' as const, state: { kind: 'places' }, edges: [] },
		{ id: '2', kind: 'grid', name: 'Terrain', form: 'grid' as const, state: {}, edges: [] },
		{
			id: '3',
			kind: 'gridded',
			name: 'Depth',
			form: 'grid' as const,
			state: { column: 'v', method: 'nearest', cell: 50, power: 2 },
			edges: [
				{ role: 'readings', input: '1' },
				{ role: 'frame', input: '2' }
			]
		},
		{
			id: '4',
			kind: 'calculated-grid',
			name: 'Table',
			form: 'grid' as const,
			state: { expression: 'terrain - depth' },
			edges: [
				{ role: 'grids', input: '2' },
				{ role: 'grids', input: '3' }
			]
		}
	];
	const thing = (g: Given, form: RoutineThing['form']): RoutineThing => ({ ...g, form });
	const given = new Map<string, RoutineThing>([
		['Wells', thing(table('', some, 'Others'), 'table')],
		['Terrain', thing(grid('', flat(100), 'Ground'), 'grid')]
	]);
	it('is the chain that leads to a result, with what was brought in as its inputs', () => {
		const r = routineOf('R', objects, ['4'], [{ object: '3', parameter: 'method', name: 'way' }]);
		expect(r.inputs).toEqual([
			{ name: 'Terrain', form: 'grid' },
			{ name: 'Wells', form: 'table', kind: 'places', columns: ['v'] }
		]);
		expect(r.steps.map((s) => s.name)).toEqual(['Depth', 'Table']);
		expect(r.parameters).toEqual([{ name: 'way', value: 'nearest' }]);
		expect(readRoutine(JSON.parse(JSON.stringify(r)))).toEqual(r);
	});
	it('runs on other data, with other values', async () => {
		const r = routineOf('R', objects, ['4'], [{ object: '3', parameter: 'method', name: 'way' }]);
		const made = await runRoutine(r, given, {}, context);
		expect(rasterOf(made.get('Table')!.product.pack).values[0]).toBe(99);
		const other = await runRoutine(r, given, { way: 'inverse-distance' }, context);
		expect(rasterOf(other.get('Table')!.product.pack).values[0]).not.toBe(99);
	});
	it('says what is wrong with it, with what it is given, and which step failed', async () => {
		const r = routineOf('R', objects, ['4']);
		await expect(runRoutine(r, new Map(), {}, context)).rejects.toThrow('nothing is given for "Terrain"');
		const lacking = readings([[1, 1]], [number('w', [1])]);
		const bad = new Map(given).set('Wells', thing(table('', lacking, 'Others'), 'table'));
		await expect(runRoutine(r, bad, {}, context)).rejects.toThrow('Others lacks the column "v"');
		await expect(runRoutine(r, new Map(given).set('Wells', given.get('Terrain')!), {}, context)).rejects.toThrow('needs a table');
		await expect(runRoutine(r, given, { nope: 1 }, context)).rejects.toThrow('no parameter "nope"');
		await expect(
			runRoutine({ ...r, steps: r.steps.map((s) => ({ ...s, parameters: { ...s.parameters, expression: 'x +' } })) }, given, {}, context)
		).rejects.toThrow('the step');
		const wrong = (change: object) => () => readRoutine({ ...r, ...change });
		expect(wrong({ malachite: 'x' })).toThrow('this is no routine');
		expect(wrong({ results: ['Nope'] })).toThrow('is no step');
		expect(wrong({ steps: [{ ...r.steps[0], recipe: 'model' }] })).toThrow('unknown recipe');
		expect(wrong({ steps: [...r.steps].reverse() })).toThrow('no step before it');
		expect(wrong({ steps: [{ ...r.steps[0], parameters: { cell: { parameter: 'q' } } }, r.steps[1]] })).toThrow('which is no parameter');
		expect(() => routineOf('R', objects, ['1'])).toThrow('made of results');
	});
});
