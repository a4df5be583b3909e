import { rasterOf } from '../formats/raster-pack';
import { describe, expect, it } from 'vitest';
import { unpackReadings } from '../datasets/readings';
import { base, dipping, flat, grid, level, modelOf, number, readings, run, table, text } from './for-tests';
import type { Given, Product } from './recipe';

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

describe('what of a model is wet', () => {
	const columnsOf = (p: Product) => {
		const r = unpackReadings(p.pack);
		return (key: string) => (r.columns.find((c) => c.key === key) as { values: (string | number)[] | Float64Array }).values;
	};

	it('is what of each unit lies below the water table, to the volume of the model', async () => {
		const m = await modelOf('model', level);
		// Two units of 600 × 400, parted at −120; water at −30 in the west to −90 in the east.
		const water = grid(
			'grid',
			flat((x) => -30 - 0.1 * x, 30, 20, 10, 10),
			'Water'
		);
		const narrow = {
			...water,
			pack: {
				...water.pack!,
				info: { ...water.pack!.info, ny: 20 },
				arrays: { values: (water.pack!.arrays['values'] as Float32Array).slice(0, 600) }
			}
		};
		const made = await run('units-below', [m, narrow]);
		const at = columnsOf(made);
		expect(at('unit')).toEqual(['A', 'B']);
		expect(at('below')[0]).toBeCloseTo(240_000 * (120 - 60), -4);
		expect(at('above')[0]).toBeCloseTo(240_000 * 60, -4);
		expect(at('share')[1]).toBeCloseTo(1, 9);
		expect(at('met')[0]).toBeCloseTo(240_000, 6);
		expect(at('met')[1]).toBe(0);
		expect(made.report['below'] as number).toBeCloseTo(240_000 * (300 - 60), -4);
		// Rows from the north, as terrain files have them, say the same.
		const r = rasterOf(narrow.pack);
		const turned = Float32Array.from(r.values, (_, k) => r.values[(19 - Math.floor(k / 30)) * 30 + (k % 30)]!);
		const other = await run('units-below', [m, grid('grid', { ...r, y0: r.y0 + 19 * r.dy, dy: -r.dy, values: turned }, 'Water')]);
		expect([...columnsOf(other)('below')]).toEqual([...at('below')]);
	});

	it('tells what lies beside the water table, and refuses one that lies elsewhere or holds nothing', async () => {
		const m = await modelOf('model', dipping);
		const half = await run('units-below', [
			m,
			grid(
				'grid',
				flat((x) => (x < 300 ? -100 : NaN), 30, 20, 10, 10),
				'Water'
			)
		]);
		expect(half.report['beside'] as number).toBeCloseTo(120_000 * 300, -5);
		await expect(run('units-below', [m, grid('grid', flat(0, 4, 10, 9000, 9000), 'Far')])).rejects.toThrow('Far');
		await expect(run('units-below', [m, grid('grid', flat(NaN, 30, 20, 10, 10), 'Empty')])).rejects.toThrow('no value over');
	});

	it('is a grid of one unit, too', async () => {
		const m = await modelOf('model', level);
		const below = grid('below', flat(-50, 40, 20, -50, -50), 'Water');
		const wet = rasterOf((await run('thickness', [m, below], { unit: 'a', measured: 'vertical', cell: 20 })).pack);
		for (const v of wet.values) expect(v).toBeCloseTo(70, 3);
		const dry = rasterOf(
			(await run('thickness', [m, grid('below', flat(-500, 40, 20, -50, -50), 'Deep')], { unit: 'a', measured: 'vertical', cell: 20 })).pack
		);
		for (const v of dry.values) expect(v).toBe(0);
		await expect(
			run('thickness', [m, grid('below', flat(0, 4, 10, 9000, 9000), 'Far')], { unit: 'a', measured: 'vertical', cell: 20 })
		).rejects.toThrow('Far has no value');
	});
});
