import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { checkTables } from '../checks/check';
import { readPack, writePack } from '../formats/pack';
import { assembleHoles } from '../holes/holes';
import { readDelimited } from '../tables/delimited';
import type { TableKind } from '../tables/kinds';
import { guessMapping } from '../tables/mapping';
import { readTable, type Table } from '../tables/table';
import { columnOf, NO_CLASS, numberOf, placeTable, titleOf, type DataSet } from './dataset';
import { nearestDepth, pathsOf, placeAt } from './hole-paths';
import { placedRows, placedTable } from './placed-rows';
import { packDataSet, unpackDataSet } from './transfer';
import { withUnits } from './units';

const table = (name: string, kind: TableKind, text: string): Table => {
	const raw = readDelimited(new TextEncoder().encode(text), `${name}.csv`);
	return readTable(name, kind, raw, guessMapping(raw, kind));
};
const collars = table('collars', 'collars', 'hole,x,y,z,depth,azimuth,inclination\nB,100,200,50,30,0,-90\nA,0,0,10,100,90,-45\n');
const log = table(
	'log',
	'intervals',
	'hole,from,to,lith,description\nA,0,10,SST,yellow sandstone of some kind that is described at great length and more\nA,10,20,MDST,\nB,0,5,SST,dark\nX,0,5,SST,nobody knows this hole\nA,20,30,,x\n'
);
const placed = (t: Table, others: Table[] = [collars], stated = {}): DataSet => {
	const tables = [...others, t];
	const checked = checkTables(tables, { lengthUnit: 'm' });
	return placeTable(t, checked, assembleHoles(tables, checked, null).holes, null, 'm', stated);
};

describe('a data set', () => {
	it('has the rows in use of holes that have a path, with number of hole, depths and row', () => {
		const set = placed(log);
		expect(set.place).toBe('interval');
		expect([...set.row]).toEqual([0, 1, 2, 4]);
		// Holes stand in the order of their names.
		expect([...set.hole]).toEqual([0, 0, 1, 0]);
		expect([...set.from]).toEqual([0, 10, 0, 20]);
		expect([...set.to]).toEqual([10, 20, 5, 30]);
	});
	it('keeps classes as numbers, and prose out', () => {
		const set = placed(log);
		expect(columnOf(set, 'code')).toMatchObject({ type: 'category', categories: ['SST', 'MDST'] });
		expect([...columnOf(set, 'code')!.values]).toEqual([0, 1, 0, NO_CLASS]);
		expect(set.texts).toEqual([{ key: 'description', label: 'Description' }]);
	});
	it('gives the units of codes as one more column', () => {
		const set = withUnits(
			placed(log),
			[
				{ id: 'a', name: 'Fennick', color: '#000000', contact: 'conformable' },
				{ id: 'b', name: 'Dorrow', color: '#111111', contact: 'conformable' }
			],
			{ SST: 'a', constructor: 'b' }
		);
		expect(set.columns[0]).toMatchObject({ key: 'unit', categories: ['Fennick', 'Dorrow'] });
		expect([...set.columns[0]!.values]).toEqual([0, NO_CLASS, 0, NO_CLASS]);
		expect(withUnits(set, [], {})).toBe(set);
	});
	it('names units of measure from the header, the file, or the role', () => {
		const set = placed(table('assays', 'assays', 'hole,from,to,Cu_ppm,Fe (%),S\nA,0,1,5,6,7\n'), [collars], { S: 'g/t' });
		expect(set.columns.flatMap((c) => (c.type === 'number' ? [[c.key, c.unit]] : []))).toEqual([
			['Cu_ppm', 'ppm'],
			['Fe (%)', '%'],
			['S', 'g/t']
		]);
		expect(titleOf({ label: 'Cu_ppm', unit: 'ppm' })).toBe('Cu_ppm');
		expect(titleOf({ label: 'Dip', unit: '°' })).toBe('Dip, °');
	});
	it('places points on the map, on the terrain where they have no height', () => {
		const places = table('soil', 'places', 'x,y,z,Cu\n5,5,,1\n6,6,3,2\n');
		const terrain = { x0: 0, y0: 0, dx: 10, dy: 10, nx: 2, ny: 2, values: Float32Array.of(0, 10, 0, 10) };
		const set = placeTable(places, { out: { soil: new Uint8Array(2) } }, [], terrain, 'm');
		expect([...set.xyz]).toEqual([5, 5, 5, 6, 6, 3]);
		expect(set.hole).toHaveLength(0);
	});
	it('turns planes seen in core into planes of the ground', () => {
		const set = placed(
			table('walls', 'holeOrientations', 'hole,depth,alpha,beta,dip,dipAzimuth\nA,10,90,0,,\nA,20,,,33,120\nB,5,40,0,,\n')
		);
		// Square to a hole that dips 45° to the east, the plane dips 45° to the west.
		expect(numberOf(set, 'dip')!.values[0]).toBeCloseTo(45, 4);
		expect(numberOf(set, 'dipAzimuth')!.values[0]).toBeCloseTo(270, 3);
		expect([numberOf(set, 'dip')!.values[1], numberOf(set, 'dipAzimuth')!.values[1]]).toEqual([33, 120]);
		// A vertical hole has no bottom line.
		expect(numberOf(set, 'dip')!.values[2]).toBeNaN();
	});
	it('of levels belongs to whole holes and keeps days in full', () => {
		const set = placed(table('levels', 'levels', 'hole,date,dtw\nA,2025-02-11,3.5\n'));
		expect(set.place).toBe('hole');
		expect(columnOf(set, 'date')!.values[0]).toBe(Date.UTC(2025, 1, 11) / 86_400_000);
	});
	it('with many names has no column of classes of them', () => {
		const rows = Array.from({ length: 900 }, (_, i) => `A,${i / 10},${i / 10 + 0.1},S${i},5`).join('\n');
		const set = placed(table('assays', 'assays', `hole,from,to,sample,Cu\n${rows}\n`));
		expect(columnOf(set, 'sample')).toBeNull();
		expect(set.texts.map((t) => t.key)).toEqual(['sample']);
	});
});

describe('what is sent', () => {
	const set = (holes: number[], depths: [number, number][], rows: number[]): DataSet => ({
		id: 't',
		name: 'T',
		kind: 'assays',
		place: 'interval',
		rowCount: rows.length,
		row: Uint32Array.from(rows),
		hole: Uint32Array.from(holes),
		from: Float32Array.from(depths, (d) => d[0]),
		to: Float32Array.from(depths, (d) => d[1]),
		xyz: new Float64Array(0),
		columns: [
			{ key: 'Cu', label: 'Cu', type: 'number', unit: '', values: Float32Array.from(rows) },
			{ key: 'c', label: 'c', type: 'category', values: Uint16Array.from(rows, (r) => r % 3), categories: ['a', 'b', 'c'] }
		],
		texts: []
	});
	it('comes back as it was, whatever stands in it', () => {
		fc.assert(
			fc.property(
				fc.array(fc.tuple(fc.integer({ min: 0, max: 3 }), fc.integer({ min: 0, max: 9 }), fc.integer({ min: 1, max: 3 }), fc.boolean()), {
					maxLength: 60
				}),
				fc.boolean(),
				(list, gaps) => {
					let end = 0;
					const depths = list.map(([, a, length, joined]): [number, number] => {
						const from = joined ? end : a;
						end = from + length;
						return [from, end];
					});
					const s = set(
						list.map(([h]) => h),
						depths,
						list.map((_, i) => (gaps ? 2 * i : i + 7))
					);
					expect(unpackDataSet(readPack(writePack(packDataSet(s))))).toEqual(s);
				}
			)
		);
	});
	it('is small where rows follow each other down the holes', () => {
		const n = 2000;
		const s = set(
			Array.from({ length: n }, (_, i) => Math.floor(i / 200)),
			Array.from({ length: n }, (_, i) => [i % 200, (i % 200) + 1]),
			Array.from({ length: n }, (_, i) => i)
		);
		// A lower depth, a number and a class for each row, and little else.
		expect(writePack(packDataSet(s)).length).toBeLessThan(n * 10 + 1500);
	});
	it('of points and readings comes back too', () => {
		const readings = placed(table('gamma', 'readings', 'hole,depth,API\nA,1,5\nA,2,6\nB,1,7\n'));
		expect(unpackDataSet(readPack(writePack(packDataSet(readings))))).toEqual(readings);
		const points = placeTable(table('soil', 'places', 'x,y,z,Cu\n5,5,1,1\n'), { out: { soil: new Uint8Array(1) } }, [], null, 'm');
		expect(unpackDataSet(readPack(writePack(packDataSet(points))))).toEqual(points);
	});
});

describe('paths of holes', () => {
	const checked = checkTables([collars], { lengthUnit: 'm' });
	const paths = pathsOf(assembleHoles([collars], checked, null).holes);
	const at = (h: number, depth: number) => {
		const p = [0, 0, 0];
		placeAt(paths, h, depth, p);
		return p.map((v) => Math.round(v * 1e6) / 1e6);
	};
	it('give the place at a depth, and beyond the end straight on', () => {
		expect(at(1, 12)).toEqual([100, 200, 38]);
		expect(at(0, 10 * Math.SQRT2)).toEqual([10, 0, 0]);
		expect(at(0, 200 * Math.SQRT2)).toEqual([200, 0, -190]);
	});
	it('give the depth that is nearest to a place', () => {
		const near = nearestDepth(paths, 0, 12, 5, -2);
		expect(near.depth).toBeCloseTo(12 * Math.SQRT2, 9);
		expect(near.distance).toBeCloseTo(5, 9);
		expect(nearestDepth(paths, 0, -50, 0, 60).depth).toBe(0);
	});
});

describe('rows where they lie', () => {
	const features = (t: Table, others: Table[] = [collars]) => {
		const tables = others.includes(t) ? others : [...others, t];
		const checked = checkTables(tables, { lengthUnit: 'm' });
		return placedRows(t, checked.out[t.name]!, assembleHoles(tables, checked, null).holes, null);
	};
	const near = (a: readonly number[], b: readonly number[]) => a.forEach((v, i) => expect(v).toBeCloseTo(b[i]!, 9));
	const half = Math.SQRT1_2;
	it('an interval is its part of the hole; rows of holes without a path are left out', () => {
		const placed = features(log);
		expect(placed.map((f) => f.properties!['lith'])).toEqual(['SST', 'MDST', 'SST', '']);
		const [first] = placed;
		near((first!.geometry as { coordinates: number[][] }).coordinates.at(-1)!, [10 * half, 0, 10 - 10 * half]);
	});
	it('a bent hole bends between the ends of an interval, and a hole is a line to its end', () => {
		const bent = table('surveys', 'surveys', 'hole,depth,azimuth,inclination\nA,0,90,-45\nA,100,90,-80\n');
		const line = features(collars, [collars, bent]).find((f) => f.properties!['hole'] === 'A')!.geometry as { coordinates: number[][] };
		expect(line.coordinates.length).toBeGreaterThan(15);
		const long = line.coordinates.slice(1).reduce((s, p, i) => s + Math.hypot(...p.map((v, k) => v - line.coordinates[i]![k]!)), 0);
		expect(Math.abs(long - 100)).toBeLessThan(0.05);
	});
	it('places are points, with a height where there is one; dates are text', () => {
		const places = table('springs', 'places', 'easting,northing,elevation,flow,date\n5,6,7,1.5,2026-02-03\n8,9,,2,\n');
		const [a, b] = features(places);
		expect(a).toMatchObject({ geometry: { type: 'Point', coordinates: [5, 6, 7] }, properties: { flow: 1.5, date: '2026-02-03' } });
		expect(b).toMatchObject({ geometry: { coordinates: [8, 9] }, properties: { date: null } });
	});
	it('as columns: begin, middle and end of each, and a name of its own for a column that is called x', () => {
		const { header, rows } = placedTable(features(table('assays', 'assays', 'hole,from,to,x,z middle\nA,10,20,5,6\n')));
		expect(header).toEqual([
			'hole',
			'from',
			'to',
			'x',
			'z middle',
			'x from',
			'y from',
			'z from',
			'x middle',
			'y middle',
			'z middle (place)',
			'x to',
			'y to',
			'z to'
		]);
		expect(rows[0]!.slice(5)).toEqual([10, 15, 20].flatMap((d) => [Number((d * half).toFixed(3)), 0, Number((10 - d * half).toFixed(3))]));
	});
});
