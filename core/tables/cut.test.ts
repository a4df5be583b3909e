import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { cutLines, type Quotes } from './cut';
import { csvCell, decodeText, readDelimited, writeCsv } from './delimited';
import { rowOf } from './raw-table';

const cut = (text: string, quotes: Quotes = 'careful', delimiter: ',' | ';' | 'space' = ',') =>
	Array.from(cutLines(text, delimiter, quotes), ({ cells, line, doubted }) => ({ cells: [...cells], line, doubted }));
const cells = (text: string, quotes?: Quotes) => cut(text, quotes).map((l) => l.cells);

describe('quotation marks', () => {
	it('hold delimiters, doubled marks and line ends together, and line numbers go on behind them', () => {
		expect(cut('a,"b,c",d\n"say ""x""",e,f\n1,"two\nlines",3\nx,y,z\n')).toEqual([
			{ cells: ['a', 'b,c', 'd'], line: 1, doubted: 0 },
			{ cells: ['say "x"', 'e', 'f'], line: 2, doubted: 0 },
			{ cells: ['1', 'two\nlines', '3'], line: 3, doubted: 0 },
			{ cells: ['x', 'y', 'z'], line: 5, doubted: 0 }
		]);
	});
	it.each([
		['closed nowhere', 'h,f,t,c\nA,0,1,S\nA,1,2,"S\nA,2,3,S\nA,3,4,S\n', 3],
		['closed by the next one, lines below', 'h,f,t,c\nA,0,1,S\nA,1,2,"S\nA,2,3,S\nA,3,4,"L"\n', 3],
		['closed in the very next line', 'h,f,t,c\nA,0,1,S\nA,1,2,"S\nA,2,3,"L"\n', 3],
		['on the last line', 'h,f,t,c\nA,0,1,S\nA,1,2,"S', 3]
	])('that are %s swallow no row', (_, text, line) => {
		const lines = cut(text);
		expect(lines.filter((l) => l.doubted).map((l) => l.line)).toEqual([line]);
		expect(lines.map((l) => l.cells.length)).toEqual(lines.map(() => 4));
	});
	it('that hold prose over several lines are not doubted, however many commas it has', () => {
		const text = 'hole,from,to,note\nA,0,1,"clay, stiff, brown, moist\nsand, loose, wet, grey\ngravel"\nA,1,2,x\n';
		expect(cut(text).map((l) => [l.cells.length, l.doubted])).toEqual([
			[4, 0],
			[4, 0],
			[4, 0]
		]);
	});
	it('count always, or never, when that is said', () => {
		const text = 'a,b\n1,"x\n2,y\n';
		expect(cells(text, 'all')).toEqual([
			['a', 'b'],
			['1', 'x\n2,y\n']
		]);
		expect(cells(text, 'none')).toEqual([
			['a', 'b'],
			['1', '"x'],
			['2', 'y']
		]);
	});
	it('inside a cell, or with words behind them, are part of it', () =>
		expect(cells('5" casing,"a" b,c\n')).toEqual([['5" casing', '"a" b', 'c']]));
	it('of any table that was written are read back, whatever stands in it', () => {
		const cell = fc
			.oneof(fc.stringMatching(/^[a-z0-9 ,"'=+@-]{0,12}$/), fc.stringMatching(/^[a-z0-9 "'\n=+@-]{0,12}$/))
			.map((c) => c.trim());
		fc.assert(
			fc.property(fc.array(fc.tuple(fc.stringMatching(/^[a-z]{1,5}$/), cell, cell), { minLength: 1, maxLength: 12 }), (rows) => {
				const raw = readDelimited(new TextEncoder().encode(writeCsv(['first', 'second', 'third'], rows)), 'x.csv', {
					delimiter: ',',
					headerLine: 1,
					comment: '',
					unitsLine: false
				});
				expect(Array.from({ length: raw.rowCount }, (_, n) => rowOf(raw, n))).toEqual(rows.map((r) => [...r]));
			})
		);
	});
	it('of an unclosed mark in any row of numbers lose no other row', () => {
		fc.assert(
			fc.property(fc.integer({ min: 3, max: 60 }), fc.nat(), (n, at) => {
				const lines = Array.from({ length: n }, (_, i) => `H${i},${i},${i + 1},S`);
				lines[at % n] = lines[at % n]!.replace(',S', ',"S');
				const raw = readDelimited(new TextEncoder().encode(`hole,from,to,code\n${lines.join('\n')}\n`), 'x.csv');
				expect(raw.rowCount).toBe(n);
				expect(raw.odd).toMatchObject([{ row: at % n, kind: 'quote' }]);
			})
		);
	});
});

describe('lines that do not fit the header', () => {
	it('are told: too few cells, and too many that hold something', () => {
		const raw = readDelimited(new TextEncoder().encode('hole,from,to,code\nA,0,1,S\nA,1,2\nA,2,3,S,,\nA,3,4,S,more,\n'), 'x.csv');
		expect(raw.odd).toEqual([
			{ row: 1, kind: 'short', count: 3 },
			{ row: 3, kind: 'long', count: 6, lost: ['more', ''] }
		]);
		expect(rowOf(raw, 1)).toEqual(['A', '1', '2', '']);
	});
});

describe('the guard against formulas', () => {
	it('is put before what a spreadsheet would run, and taken off again', () => {
		expect(csvCell('=1+1')).toBe("'=1+1");
		expect(csvCell("'=x")).toBe("''=x");
		expect(csvCell('-5')).toBe('-5');
		const raw = readDelimited(
			new TextEncoder().encode(
				writeCsv(
					['a', 'b'],
					[
						['=1+1', "'=x"],
						['@x', "it's"]
					]
				)
			),
			'x.csv',
			{ headerLine: 1 }
		);
		expect([rowOf(raw, 0), rowOf(raw, 1)]).toEqual([
			['=1+1', "'=x"],
			['@x', "it's"]
		]);
	});
});

describe('text in other habits', () => {
	const bytesOf = (text: string, big = false) =>
		Uint8Array.from(
			[...text].flatMap((c) => (big ? [c.charCodeAt(0) >> 8, c.charCodeAt(0) & 255] : [c.charCodeAt(0) & 255, c.charCodeAt(0) >> 8]))
		);
	it.each([false, true])('in UTF-16 without its mark (big end first: %s)', (big) => {
		const raw = readDelimited(bytesOf('hole,depth\nGröße,5\nB,6\n', big), 'x.csv');
		expect(rowOf(raw, 0)).toEqual(['Größe', '5']);
	});
	it('with two columns of one name makes them distinct', () =>
		expect(readDelimited(new TextEncoder().encode('hole,Cu,Cu,Cu (2)\nA,1,2,3\n'), 'x.csv').header).toEqual([
			'hole',
			'Cu',
			'Cu (3)',
			'Cu (2)'
		]));
	it('with a remark before a header between blanks', () => {
		const raw = readDelimited(new TextEncoder().encode('# depth readings of 2024\nHOLE DEPTH GR\nA 1 50\nA 2 60\n'), 'x.txt');
		expect(raw.header).toEqual(['HOLE', 'DEPTH', 'GR']);
	});
	it('with more columns than a table has is refused with the figure', () =>
		expect(() =>
			readDelimited(new TextEncoder().encode(`${Array.from({ length: 2500 }, (_, i) => `c${i}`).join()}\n${'1,'.repeat(2499)}1\n`), 'x.csv')
		).toThrow('2,500 columns'));
});

it('has the dashes, marks and the euro sign of Windows-1252, which Node 20 decodes as control characters', () => {
	expect(decodeText(Uint8Array.of(0x31, 0x96, 0x35, 0x20, 0x80, 0x20, 0x93, 0xe4, 0x94, 0x92))).toBe('1–5 € “ä”’');
});
