import { describe, expect, it } from 'vitest';
import type { Raster } from '../grids/raster';
import { readDelimited } from '../tables/delimited';
import type { TableKind } from '../tables/kinds';
import { guessMapping } from '../tables/mapping';
import { readTable, type Table } from '../tables/table';
import { checkTables, countFindings, type CheckOptions } from './check';
import type { Finding } from '../tables/finding';

/** Slips of the hand that are made in the field and the office, each with its innocent twin. */
function table(kind: TableKind, text: string, name: string = kind): Table {
	const raw = readDelimited(new TextEncoder().encode(text), kind);
	return readTable(name, kind, raw, guessMapping(raw, kind));
}
const collars = (text: string, head = 'hole,x,y,z,depth') => table('collars', `${head}\n${text}`);
const hundred = collars('A,0,0,10,100\nB,50,0,12,80\n');
const log = (text: string, head = 'hole,from,to,code') => table('intervals', `${head}\n${text}`);
const assays = (text: string, head = 'hole,from,to,sample,Cu') => table('assays', `${head}\n${text}`);
const survey = (text: string) => table('surveys', `hole,depth,azimuth,inclination\n${text}`);
const flat: Raster = { x0: 400_000, y0: 5_000_000, dx: 10, dy: 10, nx: 11, ny: 11, values: new Float32Array(121).fill(100) };
const of = (rule: string, tables: Table[], options: Partial<CheckOptions> = {}): Finding[] =>
	checkTables(tables, { lengthUnit: 'm', ...options }).findings.filter((f) => f.rule === rule);
const rows = (found: readonly Finding[]) => found.map((f) => f.row);

describe('lines that do not fit', () => {
	it('a line with too many cells is held back with what was cut off, one with too few is noted', () => {
		const found = of('odd-line', [hundred, log('A,0,5,S\nA,5,9,L,grey,soft\nA,9,12\n')]);
		expect(found.map((f) => [f.row, f.severity])).toEqual([
			[1, 'held'],
			[2, 'noted']
		]);
		expect(found[0]!.message).toContain('cut off: grey, soft');
	});
	it('a mark that is never closed holds back its own row and no other', () => {
		const { findings, out } = checkTables([hundred, log('A,0,5,S\nA,5,9,"L\nA,9,12,M\nA,12,15,S\n')], { lengthUnit: 'm' });
		expect(findings.filter((f) => f.rule === 'odd-line').map((f) => f.row)).toEqual([1]);
		expect([...out['intervals']!]).toEqual([0, 1, 0, 0]);
	});
	it('a log without a code is noted, and still counts for the gaps', () => {
		const tables = [hundred, log('A,0,5,S\nA,5,9,\nA,9,12,M\n')];
		expect(rows(of('empty-code', tables))).toEqual([1]);
		expect(of('gap', tables)).toEqual([]);
	});
});

describe('the ends of holes', () => {
	it.each<[string, string, number[]]>([
		['ends 20 m above the hole', 'A,0,50,S\nA,50,80,L\n', [1]],
		['reaches its end', 'A,0,50,S\nA,50,99.5,L\n', []],
		['of the cover only', 'A,0,12,S\n', []],
		['goes on below the end', 'A,0,50,S\nA,50,100.05,L\n', []]
	])('a log that %s', (_, text, expected) => expect(rows(of('short-log', [hundred, log(text)]))).toEqual(expected));
	it('a second log that goes on makes the first one whole', () => {
		expect(of('short-log', [hundred, log('A,0,80,S\n'), table('intervals', 'hole,from,to,code\nA,80,100,fresh\n', 'weathering')])).toEqual(
			[]
		);
	});
	it('a first station at 80 m is noted, one at 25 m is not', () => {
		expect(rows(of('late-station', [hundred, survey('A,80,10,-60\nA,95,10,-60\nB,25,10,-60\n')]))).toEqual([0]);
	});
	it('a row 3.28 times as deep as its hole is told to be in feet; a hundredth below the end is rounding', () => {
		const found = of('deeper-than-hole', [hundred, log('A,0,100.05,S\nB,0,262,S\n')]);
		expect(rows(found)).toEqual([1]);
		expect(found[0]!.message).toContain('feet');
	});
});

describe('holes and their collars', () => {
	it('a collar that points elsewhere than its first station', () => {
		const own = collars('A,0,0,10,100,90,-60\nB,50,0,12,80,90,-60\n', 'hole,x,y,z,depth,azimuth,inclination');
		const found = of('collar-direction', [own, survey('A,0,94,-58\nB,0,270,-60\n')]);
		expect(found.map((f) => f.hole)).toEqual(['B']);
		expect(found[0]!.message).toContain('60° off');
	});
	it('two holes at one place, and two spellings of one name', () => {
		const found = of('twin-collars', [collars('A,0,0,10,100\nB,0.2,0.1,10,80\nC-1,90,0,5,10\nc01,200,0,5,10\nD,0,0.7,10,80\n')]);
		expect(found.map((f) => f.hole)).toEqual(['B', 'c01']);
	});
	it('letters for digits: BH-1O means BH-10 when there is one', () => {
		const tables = [collars('BH-10,0,0,10,100\nBH-11,50,0,12,80\n'), log('BH-1O,0,5,S\nBH-l1,0,5,S\nXX,0,5,S\n')];
		expect(of('unknown-hole', tables).map((f) => f.proposal)).toEqual(['BH-10', 'BH-11', undefined]);
	});
	it('two collars that a name could mean: no proposal, both are told', () => {
		const [f] = of('unknown-hole', [collars('BH 1,0,0,10,100\nBH-1,50,0,12,80\n'), log('BH_01,0,5,S\n')]);
		expect(f!.proposal).toBeUndefined();
		expect(f!.message).toMatch(/BH 1 or BH-1/);
	});
	it('rows of a collar that is left out are told so, once for all of them', () => {
		const tables = [collars('A,0,0,10,100\nB,x,0,12,80\n'), log('B,0,5,S\nB,5,9,S\n')];
		const found = of('unknown-hole', tables);
		expect(found.map((f) => f.count)).toEqual([2]);
		expect(found[0]!.message).toContain('held back');
	});
});

describe('places', () => {
	const places = (f: (i: number) => string) => collars(Array.from({ length: 6 }, (_, i) => `H${i},${f(i)},100,50\n`).join(''));
	it.each<[string, (i: number) => string, string | null]>([
		['in degrees', (i) => `${-15.3 + i * 0.0013},${44.5 + i * 0.0017}`, 'degrees'],
		['with easting and northing exchanged', (i) => `${5_000_010 + i * 10},${400_010 + i * 10}`, 'exchanged'],
		['in another system', (i) => `${900_000 + i},${7_000_000 + i}`, 'outside the terrain'],
		['where they should be', (i) => `${400_010 + i * 10},${5_000_010 + i * 10}`, null]
	])('%s', (_, f, message) => {
		const found = of('collars-elsewhere', [places(f)], { around: { terrain: flat } });
		if (message === null) expect(found).toEqual([]);
		else {
			expect(found).toHaveLength(1);
			expect(found[0]!.message).toContain(message);
		}
	});
	it('degrees are seen without any terrain; a local grid of whole metres is not taken for them', () => {
		expect(of('collars-elsewhere', [places((i) => `${-15.3 + i * 0.0013},${44.5 + i * 0.0017}`)])).toHaveLength(1);
		expect(of('collars-elsewhere', [places((i) => `${i * 10},${i * 5}`)])).toEqual([]);
		expect(of('collars-elsewhere', [places(() => '0,0')])).toEqual([]);
	});
	it('are looked at in large tables, too', () => {
		const many = collars(Array.from({ length: 200_000 }, (_, i) => `H${i},${-15 + (i % 1000) * 1e-5},44.51234,100,50\n`).join(''));
		expect(of('collars-elsewhere', [many])[0]!.count).toBe(200_000);
	});
});

describe('values', () => {
	it('a share above all', () => {
		expect(
			rows(of('above-hundred', [hundred, assays('A,0,1,S1,55\nA,1,2,S2,104\nA,2,3,S3,-3\nA,3,4,S4,100.4\n', 'hole,from,to,sample,RQD')]))
		).toEqual([1, 2]);
		expect(of('above-hundred', [hundred, assays('A,0,1,S1,5500\n')])).toEqual([]);
	});
	it('a batch in parts per billion: one finding for the hole; a rich hole is none', () => {
		const holes = ['A', 'B', 'C', 'D', 'E'];
		const own = collars(holes.map((h, i) => `${h},${i * 50},0,10,100\n`).join(''));
		const text = (of: (h: string, i: number) => number) =>
			assays(holes.flatMap((h) => Array.from({ length: 8 }, (_, i) => `${h},${i},${i + 1},${h}${i},${of(h, i)}\n`)).join(''));
		const found = of('other-unit', [own, text((h, i) => (1 + 0.2 * i) * (h === 'C' ? 1000 : 1))]);
		expect(found.map((f) => [f.hole, f.count])).toEqual([['C', 8]]);
		expect(of('other-unit', [own, text((h, i) => (1 + 0.2 * i) * (h === 'C' ? 15 : 1))])).toEqual([]);
	});
	it('a level before the hole was drilled, and two on one day', () => {
		const own = collars('A,0,0,10,100,2024-03-01\n', 'hole,x,y,z,depth,date');
		const levels = table(
			'levels',
			'hole,date,waterDepth\nA,2024-02-01,4.5\nA,2024-04-01,4.5\nA,2024-04-01,7.5\nA,2024-05-01,3\nA,2024-05-01,3\n'
		);
		expect(rows(of('early-level', [own, levels]))).toEqual([0, 2]);
	});
	it('what the laboratory repeats on purpose is no overlap and no duplicate', () => {
		const tables = (mark: string) => [
			hundred,
			assays(`A,0,1,S1,5,\nA,1,2,S2,6,\nA,1,2,S2,6.1,${mark}\nA,2,3,S3,7,\n`, 'hole,from,to,sample,Cu,QC type')
		];
		for (const rule of ['overlap', 'same-interval', 'duplicate-sample', 'duplicate-row'])
			expect([rule, of(rule, tables('DUP'))]).toEqual([rule, []]);
		expect(of('same-interval', tables('')).length + of('duplicate-sample', tables('')).length).toBeGreaterThan(0);
	});
	it('of three rows of which one slipped, the one that joins no neighbour is held back', () => {
		// 5–9 was typed as 5–19: it overlaps the next one, which joins its own neighbours.
		expect(rows(of('overlap', [hundred, log('A,0,5,S\nA,5,12,L\nA,9,13,M\nA,13,20,S\n')]))).toHaveLength(1);
		expect(rows(of('overlap', [hundred, log('A,0,5,S\nA,4,9,L\nA,9,13,M\n')]))).toEqual([1]);
	});
	it('one code in three spellings is one cluster with the commonest as its proposal', () => {
		const found = of('code-variants', [
			hundred,
			log('A,0,5,sandstone\nA,5,9,Sandstone\nA,9,10,sandstone\nA,10,12,sandstnoe\nA,12,14,S1\nA,14,15,S2\n')
		]);
		expect(found.map((f) => [f.row, f.proposal])).toEqual([
			[1, 'sandstone'],
			[3, 'sandstone']
		]);
	});
	it('a file that was cut off is told by its check, once', () => {
		const t = { ...log('A,0,5,S\n'), remarks: ['stops at 50, and stops at 2'] };
		expect(of('file-remark', [hundred, t]).map((f) => f.row)).toEqual([-1]);
	});
});

it('many findings of one rule are counted as many, not as one line each', () => {
	const n = 6000;
	const found = checkTables([hundred, log(Array.from({ length: n }, () => 'nobody,0,5,S\n').join(''))], { lengthUnit: 'm' });
	expect(countFindings(found.findings)).toBeTruthy();
	const unknown = found.findings.filter((f) => f.rule === 'unknown-hole');
	expect(unknown.reduce((sum, f) => sum + (f.count ?? 1), 0)).toBe(n);
	expect(unknown).toHaveLength(1);
	expect([...found.out['intervals']!].every((v) => v === 1)).toBe(true);
});
