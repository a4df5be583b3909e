import { describe, expect, it } from 'vitest';
import { unpackReadings } from '../datasets/readings';
import { dipping, flat, grid, layer, modelOf, run } from './for-tests';
import type { Given } from './recipe';

const section = (role: string, name: string, trace: number[][]): Given => ({
	id: name,
	role,
	kind: 'section',
	name,
	state: { trace, corridor: 50 },
	report: {},
	units: [],
	pack: null
});
const features = (pack: { info: Record<string, unknown> }) =>
	pack.info['features'] as { properties: Record<string, string>; geometry: { type: string; coordinates: number[][] } }[];

describe('lines of a model on sections', () => {
	// Two units parted by z = -60 - 0.3 x, in a block of 600 by 400, 300 deep.
	it('lie on the surface and on the section, to centimetres, and the areas are those of the geometry', async () => {
		const trace = [
			[100, 50],
			[400, 50],
			[400, 350]
		];
		const { pack, report } = await run('lines-on-sections', [await modelOf('model', dipping), section('sections', 'Long', trace)]);
		const list = features(pack);
		expect([...new Set(list.map((f) => f.properties['name']))]).toEqual(['Base of M']);
		expect(list.every((f) => f.properties['section'] === 'Long' && f.properties['kind'] === 'contact')).toBe(true);
		for (const [x, y, z] of list.flatMap((f) => f.geometry.coordinates)) {
			expect(Math.min(Math.abs(y! - 50), Math.abs(x! - 400))).toBeLessThan(0.006);
			expect(Math.abs(z! - (-60 - 0.3 * x!))).toBeLessThan(0.02);
		}
		const lengths = list.reduce((sum, f) => {
			const c = f.geometry.coordinates;
			return sum + c.slice(1).reduce((n, p, i) => n + Math.hypot(p[0]! - c[i]![0]!, p[1]! - c[i]![1]!), 0);
		}, 0);
		expect(lengths).toBeCloseTo(600, 0);
		const area = (unit: string) => (report['areas'] as { unit: string; area: number }[]).find((a) => a.unit === unit)!.area;
		// Above: 60 + 0.3 x deep from x = 100 to 400, then 180 deep for 300.
		expect(area('M')).toBeCloseTo(300 * (60 + 0.3 * 250) + 300 * 180, -1);
		expect(area('M') + area('N')).toBeCloseTo(600 * 300, 3);
		expect(report['length']).toBe(600);
	});

	it('beside the model are none, and a section without a line is refused', async () => {
		const model = await modelOf('model', dipping);
		const beside = await run('lines-on-sections', [
			model,
			section('sections', 'Beside', [
				[5000, 0],
				[6000, 0]
			])
		]);
		expect([features(beside.pack), beside.report['areas']]).toEqual([[], []]);
		for (const trace of [
			[],
			[[1, 1]],
			[
				[1, 1],
				[1, 1]
			]
		])
			await expect(run('lines-on-sections', [model, section('sections', 'B', trace)])).rejects.toThrow('the section B has no line yet');
	});
});

describe('a profile along sections', () => {
	it('goes along each of them by its name, and along lines of layers beside them', async () => {
		const slope = flat((x) => x / 10);
		const line = {
			type: 'Feature' as const,
			properties: { name: 'road' },
			geometry: {
				type: 'LineString' as const,
				coordinates: [
					[100, 500],
					[200, 500]
				]
			}
		};
		const { pack, report } = await run(
			'grid-profile',
			[
				section('lines', 'B', [
					[100, 100],
					[300, 100]
				]),
				layer('lines', [line], 'Roads'),
				grid('grids', slope, 'Slope')
			],
			{ step: 100 }
		);
		const rows = unpackReadings(pack);
		expect((rows.columns[0] as { values: string[] }).values).toEqual(['B', 'B', 'B', 'Roads road', 'Roads road']);
		expect([...(rows.columns[2] as { values: Float64Array }).values].map((v) => Math.round(v))).toEqual([10, 20, 30, 10, 20]);
		expect(report).toMatchObject({ lines: 2, words: 'Slope along B, Roads.' });
		await expect(run('grid-profile', [section('lines', 'C', []), grid('grids', slope, 'Slope')])).rejects.toThrow('no line yet');
	});
});
