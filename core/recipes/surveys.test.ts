import { describe, expect, it } from 'vitest';
import { packReadings, unpackReadings, type Readings } from '../datasets/readings';
import { flat, grid, number, readings, run, table, text } from './for-tests';
import type { Product } from './recipe';

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

	it('take drift off by a station that is read again and again, whatever else is read between', async () => {
		// The instrument rises by 0.5 an hour; the base BM1 is read every two hours.
		const hours = [0, 0.5, 1, 1.5, 2, 2.5, 3, 3.5, 4];
		const names = hours.map((h) => (h % 2 === 0 ? (h === 2 ? ' bm1' : 'BM1') : `S${h}`));
		const truth = hours.map((h, i) => (h % 2 === 0 ? 100 : 100 + i));
		const own = readings(
			hours.map((h) => [h * 10, 0] as const),
			[
				number(
					'g',
					hours.map((h, i) => truth[i]! + 0.5 * h)
				),
				text('station', names),
				number(
					'date',
					hours.map((h) => 19_000 + h / 24),
					'date'
				)
			]
		);
		const asked = { column: 'g', line: '', time: 'date', named: 'station', baseName: 'BM1', datum: 100 };
		const { pack, report } = await run('drift-corrected', [table('readings', own)], asked);
		const made = unpackReadings(pack).columns.at(-1) as { values: Float64Array };
		made.values.forEach((v, i) => expect(v).toBeCloseTo(truth[i]!, 9));
		expect(report['words']).toContain('station "BM1"');
		for (const [more, message] of [
			[{ baseName: 'BM2' }, 'no station of Readings is called "BM2"'],
			[{ baseName: 'S1' }, 'was read once only'],
			[{ baseName: '' }, 'needs a base'],
			[{ named: 'nowhere' }, 'has no column "nowhere"'],
			[{ time: '' }, 'needs the time']
		] as const)
			await expect(run('drift-corrected', [table('readings', own)], { ...asked, ...more })).rejects.toThrow(message);
		const once = {
			...own,
			columns: own.columns.map((c) =>
				c.key === 'date'
					? number(
							'date',
							hours.map(() => NaN),
							'date'
						)
					: c
			)
		};
		await expect(run('drift-corrected', [table('readings', once)], asked)).rejects.toThrow('with a time and a reading');
	});

	it('are micro-levelled: what the lines leave in a grid goes, what the ground holds stays', async () => {
		// Lines to the east, 50 apart, every other one lifted; a broad field of the ground below.
		const places = Array.from({ length: 40 }, (_, l) => Array.from({ length: 41 }, (_, k) => [k * 50, l * 50] as const)).flat();
		const ground = (x: number, y: number) => 20 * Math.sin(x / 500) * Math.cos(y / 600);
		const lift = (l: number) => (l % 2 ? 2 : -2);
		const own = readings(places, [
			text(
				'line',
				places.map((p) => `L${p[1] / 50}`)
			),
			number(
				'nT',
				places.map(([x, y]) => ground(x, y) + lift(y / 50))
			)
		]);
		const gridded = await run('gridded', [table('readings', own)], {
			column: 'nT',
			method: 'linear',
			beyond: 'nearest',
			cell: 10,
			check: 'no'
		});
		const grid_ = { ...grid('grid', flat(0), 'Grid of nT'), pack: gridded.pack };
		const asked = { column: 'nT', line: 'line', time: '', step: 'micro' };
		const { pack, report } = await run('levelled-stations', [table('readings', own), grid_], asked);
		expect(report['azimuth']).toBeCloseTo(90, 6);
		expect(report['spacing']).toBeCloseTo(50, 6);
		const made = unpackReadings(pack).columns.at(-1) as { key: string; values: Float64Array };
		expect(made.key).toBe('nT_microlevelled');
		const inner = places.map(([x, y], i) => ({ x, y, i })).filter(({ x, y }) => x > 300 && x < 1700 && y > 300 && y < 1650);
		const rms = (of: (i: number) => number) => Math.sqrt(inner.reduce((s, { i }) => s + of(i) ** 2, 0) / inner.length);
		const left = rms((i) => made.values[i]! - ground(...places[i]!));
		expect(left).toBeLessThan(0.4);
		const held = await run('levelled-stations', [table('readings', own), grid_], { ...asked, most: 0.5 });
		expect(held.report['held']).toBeGreaterThan(100);
		await expect(run('levelled-stations', [table('readings', own)], asked)).rejects.toThrow('reads off a grid');
		await expect(
			run('levelled-stations', [table('readings', own), grid('grid', flat(1, 4, 10, 90_000, 90_000), 'Elsewhere')], asked)
		).rejects.toThrow('no value at any station');
		const single = readings(places.slice(0, 41), [
			text(
				'line',
				places.slice(0, 41).map(() => 'L0')
			),
			number('nT', Array<number>(41).fill(1))
		]);
		await expect(run('levelled-stations', [table('readings', single), grid_], asked)).rejects.toThrow('how far apart');
	});
});
