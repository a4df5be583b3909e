import { describe, expect, it } from 'vitest';
import fc from 'fast-check';
import { csvCell, decodeText, readDelimited, writeCsv } from './delimited';
import { guessKind, guessMapping, missingRoles } from './mapping';
import { rowOf, type RawTable } from './raw-table';
import { readTable } from './table';

const rowsOf = (raw: RawTable) => Array.from({ length: raw.rowCount }, (_, n) => rowOf(raw, n));
const bytes = (text: string) => new TextEncoder().encode(text);

describe('delimited text', () => {
	it('reads commas, semicolons and tabs, quotes, blank lines, and keeps line numbers', () => {
		for (const d of [',', ';', '\t']) {
			const raw = readDelimited(bytes(`a${d}b\n1${d}"x${d}y"\n\n2${d}"two\nlines"\n3${d}z\n`), 'f.csv');
			expect(rowsOf(raw)).toEqual([
				['1', `x${d}y`],
				['2', 'two\nlines'],
				['3', 'z']
			]);
			expect([...raw.lines]).toEqual([2, 4, 6]);
		}
	});

	it('reads UTF-8 with and without mark, UTF-16 and Latin-1', () => {
		expect(decodeText(new Uint8Array([0xef, 0xbb, 0xbf, 0x61]))).toBe('a');
		expect(decodeText(new Uint8Array([0xff, 0xfe, 0x61, 0, 0xe9, 0]))).toBe('aé');
		expect(decodeText(new Uint8Array([0x61, 0xe9]))).toBe('aé');
	});

	it.each([
		['an empty file', '', 'empty'],
		['a header without rows', 'a,b\n', 'no rows'],
		['one column', 'a\n1\n', 'no columns'],
		['a picture', '\u0089PNG\0\0', 'not a text file']
	])('refuses %s', (_, text, message) => {
		expect(() => readDelimited(bytes(text), 'f.csv')).toThrow(message);
	});

	it('refuses a file of one endless line before it is parsed', () => {
		expect(() => readDelimited(new Uint8Array(3 << 20).fill(65), 'f.csv')).toThrow('line longer');
	});

	it('never writes a cell that a spreadsheet would run, and reads back what it wrote', () => {
		expect(csvCell('=1+2')).toBe("'=1+2");
		expect(csvCell('-12.5')).toBe('-12.5');
		fc.assert(
			fc.property(
				fc.array(fc.tuple(fc.string({ minLength: 1 }), fc.double({ noNaN: true, noDefaultInfinity: true })), {
					minLength: 1,
					maxLength: 20
				}),
				(rows) => {
					const usable = rows.filter(
						([t]) => t.trim() === t && t !== '' && !/^[=+\-@]/.test(t) && !/[\r\0\ufeff]/.test(t) && !t.includes('\n')
					);
					fc.pre(usable.length > 0);
					const back = readDelimited(bytes(writeCsv(['text', 'number'], usable)), 'f.csv');
					expect(rowsOf(back).map((r) => [r[0], Number(r[1])])).toEqual(usable.map(([t, n]) => [t, n === 0 ? 0 : n]));
				}
			)
		);
	});
});

describe('column roles', () => {
	it('are guessed from several habits of naming', () => {
		const raw = readDelimited(bytes('BHID,X,Y,RL,EOH\nA,1,2,3,4\n'), 'holes.csv');
		expect(guessKind(raw, 'holes.csv')).toBe('collars');
		expect(guessMapping(raw, 'collars')).toEqual({ BHID: 'hole', X: 'easting', Y: 'northing', RL: 'elevation', EOH: 'totalDepth' });
	});

	it('tell kinds apart', () => {
		const kinds: [string, string][] = [
			['HoleID,Depth,Azimuth,Dip\nA,0,10,-60\n', 'surveys'],
			['hole,from,to,lith\nA,0,5,SST\n', 'intervals'],
			['hole,from,to,sample,Cu_ppm\nA,0,5,S1,12\n', 'assays'],
			['Easting,Northing,Dip,DipDirection\n1,2,30,90\n', 'orientations']
		];
		for (const [text, kind] of kinds) expect(guessKind(readDelimited(bytes(text), 'data.csv'), 'data.csv')).toBe(kind);
	});

	it('that must be given are named while they are missing', () => {
		expect(missingRoles('intervals', { a: 'hole', b: 'from' })).toEqual(['Code', 'From and To, or To, or Thickness']);
		const raw = readDelimited(bytes('a,b\n1,2\n'), 'f.csv');
		expect(() => readTable('t', 'intervals', raw, { a: 'hole', b: 'from' })).toThrow('Code; From');
		expect(() => readTable('t', 'intervals', raw, { a: 'hole', b: 'hole' })).toThrow('two columns');
		expect(() => readTable('t', 'intervals', raw, { c: 'hole' })).toThrow('no column');
	});

	it('keep text in number columns as findings, not as numbers', () => {
		const raw = readDelimited(bytes('hole,from,to,Cu\nA,0,1,<5\nA,1,2,\nA,2,3,7\n'), 'f.csv');
		const t = readTable('t', 'assays', raw, { hole: 'hole', from: 'from', to: 'to', Cu: 'value' });
		expect([...t.numbers['Cu']!]).toEqual([NaN, NaN, 7]);
		expect(t.notNumbers).toEqual([{ row: 0, column: 'Cu', cell: '<5' }]);
	});
});

it('a vertical shift is added to elevations: a file 50 too low comes up', () => {
	const raw = readDelimited(new TextEncoder().encode('hole,x,y,z,depth\nA,1,2,100,30\n'), 'c');
	const table = readTable('c', 'collars', raw, guessMapping(raw, 'collars'), { coordinates: { verticalShift: 50 } });
	expect([table.numbers['elevation']![0], table.numbers['totalDepth']![0], table.numbers['northing']![0]]).toEqual([150, 30, 2]);
});
