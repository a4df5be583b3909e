import { rasterOf } from '../formats/raster-pack';
import { describe, expect, it } from 'vitest';
import type { Feature } from 'geojson';
import { unpackReadings } from '../datasets/readings';
import { partOf } from '../grids/overview';
import type { Given } from './recipe';
import { corners, flat, grid, layer, number, readings, run, some, square, table } from './for-tests';

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
	it('says that places look like degrees, and says nothing of a small local grid', async () => {
		const of = async (places: (readonly [number, number])[]) =>
			(
				await run(
					'gridded',
					[
						table(
							'readings',
							readings(places, [
								number(
									'v',
									places.map((_, i) => i)
								)
							]),
							'Wells'
						)
					],
					{ column: 'v' }
				)
			).report['finding'];
		expect(
			await of([
				[9.11, 45.2],
				[9.13, 45.22],
				[9.12, 45.25]
			])
		).toBe('the places of Wells lie within 0.02 × 0.05 m: they look like degrees; say so where they were brought in');
		expect(
			await of([
				[10, 20],
				[40, 25],
				[22, 60]
			])
		).toBeUndefined();
		expect(
			await of([
				[500_000.1, 4_990_000],
				[500_000.9, 4_990_001],
				[500_001, 4_990_000]
			])
		).toBeUndefined();
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
	it('have a unit of measure where it is known', async () => {
		const fields = readings([...corners], [{ ...number('v', [1, 2, 3, 4, 2.5]), unit: 'nT' } as ReturnType<typeof number>]);
		const made = await run('gridded', [table('readings', fields)], { column: 'v', cell: 20 });
		const field = rasterOf(made.pack);
		expect([field.unit, rasterOf((await run('gridded', [table('readings', some)], { column: 'v', cell: 20 })).pack).unit]).toEqual([
			'nT',
			undefined
		]);
		const unitOf = async (id: string, inputs: Given[], parameters: Record<string, unknown> = {}) =>
			rasterOf((await run(id, inputs, parameters)).pack).unit;
		const [own, metres] = [grid('grid', field, 'Field'), grid('second', { ...flat(0), unit: 'm' }, 'Other')];
		expect(await unitOf('resampled-grid', [own], { cell: 40 })).toBe('nT');
		expect(
			await unitOf('grid-difference', [
				{ ...own, role: 'first' },
				{ ...own, role: 'second' }
			])
		).toBe('nT');
		expect(await unitOf('grid-difference', [{ ...own, role: 'first' }, metres])).toBeUndefined();
		for (const [what, unit] of [
			['slope', '°'],
			['smooth', 'nT'],
			['curvature', undefined],
			['upslope', 'm²']
		] as const)
			expect([what, await unitOf('shaped-grid', [own], { what })]).toEqual([what, unit]);
		for (const [parameters, unit] of [
			[{ filter: 'continued' }, 'nT'],
			[{ filter: 'vertical', order: 1 }, 'nT/m'],
			[{ filter: 'vertical', order: 2 }, 'nT/m²'],
			[{ filter: 'tilt' }, '°']
		] as const)
			expect(await unitOf('field-filter', [own], parameters)).toBe(unit);
		expect(partOf(field, null, 50)!.unit).toBe('nT');
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
