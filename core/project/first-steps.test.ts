import { describe, expect, it } from 'vitest';
import type { Hole } from '../holes/holes';
import { holePath } from '../holes/path';
import { columnSchema } from './guards';
import { validateColumn } from '../units/column';
import { firstSteps, meanDipAzimuth, proposeExtent, type KnownSoFar } from './first-steps';

const hole = (name: string, x: number, y: number, ...codes: string[]): Hole => ({
	name,
	row: 0,
	path: holePath([x, y, 100], 10 * Math.max(1, codes.length), [], { azimuth: 0, inclination: -90 }),
	intervals: codes.map((code, i) => ({ from: 10 * i, to: 10 * i + 10, code, table: 'log', row: i }))
});
const nothing: KnownSoFar = {
	holes: [],
	terrain: null,
	column: [],
	lumping: {},
	extent: null,
	taken: [],
	hasSection: false,
	dipAzimuth: null
};
const terrain = { x0: 0, y0: 0, dx: 100, dy: 100, nx: 11, ny: 6, values: new Float32Array(66).map((_, i) => 100 + (i % 11) * 5) };
const holes = [
	hole('A', 100, 100, 'Sand', 'CLAY', 'Rock'),
	hole('B', 300, 120, 'sand', 'Clay', 'NR', 'Rock'),
	hole('C', 500, 90, 'SAND ', 'Rock')
];

describe('the first steps of a project', () => {
	it('without anything say what to bring in', () => {
		expect(firstSteps(nothing)).toMatchObject({
			units: null,
			extent: null,
			spacing: null,
			section: null,
			missing: [{ what: 'holes or a terrain' }]
		});
		expect(firstSteps({ ...nothing, holes: [hole('A', 0, 0)] }).missing).toMatchObject([{ what: 'a log' }]);
	});
	it('make a unit of every code, spellings of one together, and none of what was not seen', () => {
		const { units, extent, spacing, section } = firstSteps({ ...nothing, holes });
		expect(units!.column.map((u) => u.name.toLowerCase())).toEqual(['sand', 'clay', 'rock']);
		expect(units!.alike.map((g) => g.length)).toEqual([3, 2]);
		expect(units!.left).toEqual(['NR']);
		const [sand, clay, rock] = units!.column.map((u) => u.id);
		expect(units!.lumping).toEqual({ Sand: sand, sand, 'SAND ': sand, CLAY: clay, Clay: clay, Rock: rock });
		expect(() => validateColumn(columnSchema.validateSync(units!.column, { strict: true }))).not.toThrow();
		expect(extent!.minX).toBeLessThan(100);
		expect(spacing).toBeGreaterThan(0);
		expect(section!.holes).toBe(3);
	});
	it('leave what there is as it is, and add to it', () => {
		const column = [{ id: 'rock', name: 'Rock', color: '#123456', contact: 'conformable' as const }];
		const { units, extent, section } = firstSteps({
			...nothing,
			holes,
			column,
			lumping: { CLAY: 'rock' },
			extent: { minX: 0, minY: 0, minZ: 0, maxX: 600, maxY: 600, maxZ: 200 },
			hasSection: true
		});
		expect(units!.column.at(-1)).toEqual(column[0]);
		expect(units!.lumping).toMatchObject({ CLAY: 'rock', Clay: 'rock', Rock: 'rock' });
		expect(units!.added).toHaveLength(1);
		expect([extent, section]).toEqual([null, null]);
	});
	it('propose nothing where every code has its unit', () => {
		const column = [{ id: 'a', name: 'A', color: '#123456', contact: 'conformable' as const }];
		expect(firstSteps({ ...nothing, holes: [hole('A', 0, 0, 'x', 'y')], column, lumping: { x: 'a', y: 'a' } }).units).toBeNull();
	});
	it('make no column of a log of sentences', () => {
		const many = Array.from({ length: 70 }, (_, i) => hole(`H${i}`, i, i, `sentence number ${i}`));
		const steps = firstSteps({ ...nothing, holes: many });
		expect(steps.units).toBeNull();
		expect(steps.missing).toMatchObject([{ what: 'units' }]);
	});
	it('leave a hole with a lost digit out of extent and section, and name it', () => {
		const row = Array.from({ length: 12 }, (_, i) => hole(`H${i}`, 402_000 + 50 * i, 4_992_000, 'a', 'b'));
		const steps = firstSteps({ ...nothing, holes: [...row, hole('lost', 40_200, 4_992_000, 'a')] });
		expect(steps.far).toEqual(['lost']);
		expect(steps.extent!.minX).toBeGreaterThan(401_000);
		expect(steps.section!.holes).toBe(12);
	});
	it('units named alike after odd characters are taken off have ids of their own', () => {
		const { units } = firstSteps({ ...nothing, holes: [hole('A', 0, 0, '砂', '泥', '')], taken: ['unit'] });
		expect(new Set(units!.column.map((u) => u.id)).size).toBe(units!.column.length);
		expect(() => columnSchema.validateSync(units!.column, { strict: true })).not.toThrow();
	});
});

describe('an extent', () => {
	it('of holes reaches above the terrain; of a terrain alone goes down by its relief', () => {
		expect(proposeExtent(holes, terrain)!.maxZ).toBeGreaterThan(130);
		expect(proposeExtent([], terrain)).toEqual({ minX: -50, maxX: 1050, minY: -50, maxY: 550, minZ: 50, maxZ: 160 });
		expect(proposeExtent([], null)).toBeNull();
		expect(proposeExtent([], { ...terrain, values: terrain.values.map(() => NaN) })).toBeNull();
	});
});

it('the mean dip azimuth is that of steep planes, and none where they dip all ways', () => {
	const planes = (...rows: [number, number][]) => [
		{
			name: 'o',
			kind: 'orientations' as const,
			rowCount: rows.length,
			numbers: { dip: Float64Array.from(rows, (r) => r[0]), dipAzimuth: Float64Array.from(rows, (r) => r[1]) },
			text: {},
			headers: {}
		}
	];
	const of = (...rows: [number, number][]) => meanDipAzimuth(planes(...rows) as never, { o: new Uint8Array(rows.length) });
	expect(of([30, 350], [30, 10])).toBeCloseTo(0, 6);
	expect(of([30, 0], [30, 180])).toBeNull();
	expect(of([NaN, 10])).toBeNull();
	expect(of()).toBeNull();
});
