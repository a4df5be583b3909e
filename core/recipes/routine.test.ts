import { rasterOf } from '../formats/raster-pack';
import { describe, expect, it } from 'vitest';
import type { Given } from './recipe';
import { context, flat, grid, number, readings, some, table } from './for-tests';
import { readRoutine, routineOf, runRoutine, type RoutineThing } from './routine';

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
