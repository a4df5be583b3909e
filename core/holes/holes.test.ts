import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { checkTables } from '../checks/check';
import type { Checked } from '../tables/finding';
import { length, subtract, type Vec3 } from '../geometry/vector';
import type { Raster } from '../grids/raster';
import { checkHoles, extentOfHoles, orientationsOf } from '../project/pipeline';
import { readDelimited } from '../tables/delimited';
import type { TableKind } from '../tables/kinds';
import { guessMapping } from '../tables/mapping';
import { readTable, type Table } from '../tables/table';
import { assembleHoles } from './holes';
import { directionAt, holePath, pathTable, pathThrough, positionAt, samplePath } from './path';

function table(kind: TableKind, text: string, name: string = kind): Table {
	const raw = readDelimited(new TextEncoder().encode(text), kind);
	return readTable(name, kind, raw, guessMapping(raw, kind));
}
const terrain: Raster = {
	x0: 0,
	y0: 0,
	dx: 100,
	dy: 100,
	nx: 3,
	ny: 3,
	values: Float32Array.from({ length: 9 }, (_, i) => 200 + 10 * (i % 3))
};
const all = (tables: readonly Table[]): Checked => ({
	findings: [],
	out: Object.fromEntries(tables.map((t) => [t.name, new Uint8Array(t.rowCount)]))
});
const near = (a: Vec3, b: Vec3) => expect(length(subtract(a, b))).toBeLessThan(1e-9);

describe('holes put together from tables', () => {
	const collars = () => table('collars', 'hole,x,y,z,depth\nB,50,0,12,80\nA,0,0,10,100\n');

	it('come by name, with their intervals by depth, whatever the order of the files', () => {
		const tables = [table('intervals', 'hole,from,to,code\nA,40,100,L\nB,0,80,S\nA,0,40,S\n'), collars()];
		const { holes, bent } = assembleHoles(tables, all(tables), null);
		expect(bent).toEqual([]);
		expect(holes.map((h) => [h.name, h.row, h.intervals.map((i) => [i.from, i.code, i.row])])).toEqual([
			[
				'A',
				1,
				[
					[0, 'S', 2],
					[40, 'L', 0]
				]
			],
			['B', 0, [[0, 'S', 1]]]
		]);
	});

	it('rows that are out take no part: intervals, stations, whole holes', () => {
		const tables = [
			collars(),
			table('surveys', 'hole,depth,azimuth,inclination\nA,0,90,-90\nA,50,90,0\n'),
			table('intervals', 'hole,from,to,code\nA,0,40,S\nA,40,100,L\n')
		];
		const checked = all(tables);
		checked.out['collars']![0] = 1;
		checked.out['surveys']![1] = 1;
		checked.out['intervals']![0] = 1;
		const { holes } = assembleHoles(tables, checked, null);
		expect(holes.map((h) => h.name)).toEqual(['A']);
		expect(holes[0]!.intervals.map((i) => i.code)).toEqual(['L']);
		near(positionAt(holes[0]!.path, 100), [0, 0, -90]);
	});

	it('a hole without survey goes where its collar says, or straight down', () => {
		const t = [table('collars', 'hole,x,y,z,depth,azimuth,inclination\nA,0,0,0,100,90,-30\nB,0,0,0,100,,\nC,0,0,0,100,90,\n')];
		const ends = assembleHoles(t, all(t), null).holes.map((h) => positionAt(h.path, 100));
		near(ends[0]!, [100 * Math.cos(Math.PI / 6), 0, -50]);
		near(ends[1]!, [0, 0, -100]);
		near(ends[2]!, [0, 0, -100]);
	});

	it('a survey counts before the direction of the collar', () => {
		const t = [
			table('collars', 'hole,x,y,z,depth,azimuth,inclination\nA,0,0,0,100,90,-30\n'),
			table('surveys', 'hole,depth,azimuth,inclination\nA,0,0,-90\n')
		];
		near(positionAt(assembleHoles(t, all(t), null).holes[0]!.path, 100), [0, 0, -100]);
	});

	it('a collar without elevation stands on the terrain; one with it stays where it is', () => {
		const t = [table('collars', 'hole,x,y,z,depth\nA,50,50,,100\nB,50,50,300,100\n')];
		expect(assembleHoles(t, all(t), terrain).holes.map((h) => h.path.collar[2])).toEqual([205, 300]);
	});

	it('a survey that turns straight back is left out and named', () => {
		const t = [collars(), table('surveys', 'hole,depth,azimuth,inclination\nA,0,0,-90\nA,50,0,90\nB,0,90,-60\n')];
		const { holes, bent } = assembleHoles(t, all(t), null);
		expect(bent).toEqual(['A']);
		near(positionAt(holes[0]!.path, 100), [0, 0, -90]);
		const { checked } = checkHoles(t, { lengthUnit: 'm' });
		expect(checked.findings.filter((f) => f.rule === 'impossible-path')).toMatchObject([{ hole: 'A', severity: 'noted', row: -1 }]);
	});

	it('a survey by coordinates is followed point by point, in the order of depth where it is given', () => {
		const t = [
			table('collars', 'hole,x,y,z,depth\nA,0,0,100,60\n'),
			table('surveys', 'hole,depth,easting,northing,elevation\nA,45,10,0,60\nA,20,0,0,80\n')
		];
		const { path } = assembleHoles(t, all(t), null).holes[0]!;
		near(positionAt(path, 20), [0, 0, 80]);
		near(positionAt(path, 45), [10, 0, 60]);
	});

	it('of two collars with one name the first counts', () => {
		const t = [table('collars', 'hole,x,y,z,depth\nA,1,0,0,10\nA,2,0,0,10\n')];
		expect(assembleHoles(t, checkTables(t, { lengthUnit: 'm' }), null).holes.map((h) => h.path.collar[0])).toEqual([1]);
	});

	it('without collars there is nothing to put together', () =>
		expect(() => checkHoles([table('intervals', 'hole,from,to,code\nA,0,1,S\n')], { lengthUnit: 'm' })).toThrow('no collar table'));
});

describe('the box around holes', () => {
	const at = (x: number, y: number, z: number, depth: number) => ({
		name: `${x} ${y}`,
		path: holePath([x, y, z], depth, []),
		intervals: [],
		row: 0
	});
	it('holds every collar and every end, with a margin, in round numbers', () => {
		fc.assert(
			fc.property(
				fc.array(
					fc.tuple(
						fc.integer({ min: 0, max: 9000 }),
						fc.integer({ min: 0, max: 9000 }),
						fc.integer({ min: -50, max: 900 }),
						fc.integer({ min: 1, max: 2000 })
					),
					{ minLength: 1, maxLength: 30 }
				),
				(list) => {
					const box = extentOfHoles(list.map(([x, y, z, d]) => at(x, y, z, d)))!;
					for (const [x, y, z, d] of list) {
						expect(x).toBeGreaterThan(box.minX);
						expect(x).toBeLessThan(box.maxX);
						expect(y).toBeGreaterThan(box.minY);
						expect(y).toBeLessThan(box.maxY);
						expect(z).toBeLessThan(box.maxZ);
						expect(z - d).toBeGreaterThan(box.minZ);
					}
					for (const v of Object.values(box)) expect(Number.isInteger(v)).toBe(true);
				}
			)
		);
	});
	it('is none without holes', () => expect(extentOfHoles([])).toBeNull());
});

describe('orientations', () => {
	const column = [
		{ id: 'sand', name: 'Sand', color: '#aaaaaa', contact: 'conformable' as const },
		{ id: 'rock', name: 'Rock', color: '#bbbbbb', contact: 'conformable' as const }
	];
	const extent = { minX: 0, minY: 0, minZ: -100, maxX: 200, maxY: 200, maxZ: 250 };
	const of = (tables: Table[], ground: Raster | null = null) =>
		orientationsOf(tables, checkHoles(tables, { lengthUnit: 'm', around: { terrain: ground } }), {
			column,
			lumping: { S: 'sand' },
			terrain: ground,
			extent
		});
	const collars = table('collars', 'hole,x,y,z,depth,azimuth,inclination\nA,100,100,50,80,0,-60\n');

	it('at places take a missing elevation from the terrain, else from the top of the extent', () => {
		const places = () => table('orientations', 'x,y,z,dip,dipaz,code\n50,50,,30,90,S\n50,50,12,30,90,rock\n50,50,12,40,90,unknown\n');
		expect(of([collars, places()], terrain).map((o) => [o.z, o.unit])).toEqual([
			[205, 0],
			[12, 1],
			[12, -1]
		]);
		expect(of([collars, places()]).map((o) => o.z)).toEqual([250, 12, 12]);
	});
	it('overturned ones are turned over; any other mark is the right way up', () => {
		expect(
			of([collars, table('orientations', 'x,y,dip,dipaz,polarity\n1,1,30,90,-1\n2,2,30,90,1\n3,3,30,90,\n')]).map((o) => o.polarity)
		).toEqual([-1, 1, 1]);
	});
	it('lines are no planes and shape nothing, at places and in holes', () => {
		expect(of([collars, table('orientations', 'x,y,dip,dipaz,plunge,trend\n1,1,30,90,,\n2,2,,,20,45\n')])).toHaveLength(1);
		expect(of([collars, table('orientations', 'x,y,plunge,trend\n2,2,20,45\n')])).toEqual([]);
		expect(of([collars, table('holeOrientations', 'hole,depth,plunge,trend\nA,20,20,45\n')])).toEqual([]);
	});
	it('in holes lie on the path, measured as they are or by alpha and beta', () => {
		const found = of([collars, table('holeOrientations', 'hole,depth,dip,dipaz,alpha,beta\nA,20,30,90,,\nA,40,,,90,0\nA,60,,,,\n')]);
		expect(found).toHaveLength(2);
		expect(found[0]).toMatchObject({ dip: 30, dipAzimuth: 90, x: 100 });
		expect(found[0]!.y).toBeCloseTo(110, 9);
		expect(found[0]!.z).toBeCloseTo(50 - 20 * Math.sin(Math.PI / 3), 9);
		// Square to the core in a hole that goes down 60° to the north: dips 30° to the south.
		expect(found[1]!.dip).toBeCloseTo(30, 9);
		expect(found[1]!.dipAzimuth).toBeCloseTo(180, 9);
	});
	it('of which a row gives one set whole are not held back for the other; a row that gives none is', () => {
		const { checked } = checkHoles(
			[collars, table('holeOrientations', 'hole,depth,dip,dipaz,alpha,beta\nA,20,30,90,,lost\nA,40,,,90,0\nA,60,30,,50,\n')],
			{ lengthUnit: 'm' }
		);
		expect(checked.findings.map((f) => [f.row, f.column, f.severity])).toEqual([
			[0, 'beta', 'noted'],
			[2, 'dipAzimuth', 'held'],
			[2, 'beta', 'held']
		]);
	});
	it('of a hole that is out are left out', () => {
		expect(of([collars, table('holeOrientations', 'hole,depth,dip,dipaz\nZ,20,30,90\n')])).toEqual([]);
	});
});

describe('paths', () => {
	const station = fc.record({
		depth: fc.integer({ min: 0, max: 300 }),
		azimuth: fc.integer({ min: 0, max: 359 }),
		inclination: fc.integer({ min: -89, max: -30 })
	});
	it('direction and position agree: the one is the slope of the other', () => {
		fc.assert(
			fc.property(
				fc.uniqueArray(station, { minLength: 1, maxLength: 6, selector: (s) => s.depth }),
				fc.double({ min: 1, max: 299, noNaN: true }),
				(stations, depth) => {
					const path = holePath([0, 0, 0], 300, stations);
					const h = 1e-4;
					const slope = subtract(positionAt(path, depth + h), positionAt(path, depth - h));
					const d = directionAt(path, depth);
					// Where two legs meet the bend is in the direction, not in its value.
					slope.forEach((v, c) => expect(Math.abs(v / (2 * h) - d[c]!)).toBeLessThan(0.02));
				}
			)
		);
	});
	it('pass each station in the direction that was measured there', () => {
		fc.assert(
			fc.property(fc.uniqueArray(station, { minLength: 1, maxLength: 6, selector: (s) => s.depth }), (stations) => {
				const rows = pathTable(holePath([0, 0, 0], 400, stations));
				for (const s of stations) {
					const row = rows.find((r) => Math.abs(r.measuredDepth - s.depth) < 1e-9)!;
					expect(row.inclination).toBeCloseTo(s.inclination, 6);
					expect(Math.cos(((row.azimuth - s.azimuth) * Math.PI) / 180)).toBeCloseTo(1, 9);
				}
			})
		);
	});
	it('the table of a straight hole has its end and no bend', () => {
		expect(pathTable(holePath([10, 20, 30], 100, [], { azimuth: 90, inclination: -30 }))).toEqual([
			expect.objectContaining({ measuredDepth: 0, easting: 10, northing: 20, elevation: 30, trueVerticalDepth: 0, doglegSeverity: 0 }),
			expect.objectContaining({
				measuredDepth: 100,
				easting: expect.closeTo(10 + 100 * Math.cos(Math.PI / 6), 9),
				elevation: expect.closeTo(-20, 9),
				trueVerticalDepth: expect.closeTo(50, 9),
				doglegSeverity: 0
			})
		]);
	});
	it('samples lie no further apart than asked, and end at the end', () => {
		const path = holePath([0, 0, 0], 250, [
			{ depth: 0, azimuth: 0, inclination: -90 },
			{ depth: 200, azimuth: 0, inclination: -45 },
			{ depth: 400, azimuth: 0, inclination: -30 }
		]);
		const { depths, xyz } = samplePath(path, 7);
		for (let i = 1; i < depths.length; i++) {
			expect(depths[i]! - depths[i - 1]!).toBeGreaterThan(0);
			expect(depths[i]! - depths[i - 1]!).toBeLessThanOrEqual(7 + 1e-9);
		}
		expect(depths.at(-1)).toBe(250);
		near([...xyz.slice(-3)] as unknown as Vec3, positionAt(path, 250));
	});
	it('points that lie on each other or go back in depth are passed over', () => {
		const path = pathThrough([0, 0, 0], 50, [
			{ at: [0, 0, 0] },
			{ at: [0, 0, -20] },
			{ at: [0, 0, -20] },
			{ at: [0, 0, -30], depth: 10 },
			{ at: [0, 0, -40] }
		]);
		near(positionAt(path, 20), [0, 0, -20]);
		near(positionAt(path, 40), [0, 0, -40]);
		near(positionAt(path, 50), [0, 0, -50]);
	});
	it('a path through no points at all is vertical; a hole of no length is its collar', () => {
		near(positionAt(pathThrough([1, 2, 3], 10, []), 10), [1, 2, -7]);
		near(positionAt(holePath([1, 2, 3], 0, []), 5), [1, 2, 3]);
		expect(directionAt(holePath([1, 2, 3], 0, []), 5)).toEqual([0, 0, -1]);
	});
});
