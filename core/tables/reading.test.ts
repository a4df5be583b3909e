import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { formatDate, guessDateOrder, parseDate } from './dates';
import { readDelimited } from './delimited';
import { guessKind, guessMapping, guessUnits } from './mapping';
import { guessNumberStyle, numberReader } from './numbers';
import { rowOf, type RawTable } from './raw-table';
import { readTable } from './table';

const bytes = (text: string) => new TextEncoder().encode(text);
const rowsOf = (raw: RawTable) => Array.from({ length: raw.rowCount }, (_, n) => rowOf(raw, n));

describe('how a file is written', () => {
	it('is told from a file with comments, decimal commas, thousands, a line of units and German names', () => {
		const raw = readDelimited(
			bytes(
				'# export of the field database\nBohrung;Rechtswert;Hochwert;Höhe;Endteufe;Datum\n;m;m;m;ft;\nK-1;402.310,5;4.992.011,0;210,4;328,1;03.04.2021\nK-2;402.410,5;4.992.111,0;;656,2;13.04.2021\n'
			),
			'k.csv'
		);
		expect(raw.reading).toMatchObject({ delimiter: ';', decimal: ',', thousands: '.', headerLine: 2, unitsLine: true, comment: '#' });
		expect([...raw.lines]).toEqual([4, 5]);
		expect(guessKind(raw, 'k.csv')).toBe('collars');
		const mapping = guessMapping(raw, 'collars');
		const units = guessUnits(raw, 'collars', mapping, 'm');
		expect(units).toEqual({ Endteufe: 'ft' });
		const t = readTable('t', 'collars', raw, mapping, { units, lengthUnit: 'm' });
		expect([...t.numbers['easting']!]).toEqual([402310.5, 402410.5]);
		expect(t.numbers['totalDepth']![0]).toBeCloseTo(100.005, 3);
		expect(t.numbers['date']![0]).toBe(Date.UTC(2021, 3, 3) / 86_400_000);
	});

	it.each([
		['blanks between cells', 'HOLE   FROM  TO   CODE\nA  0   5.5  SST\nA  5.5   9  LST\n', 'space', 1],
		['tabs', 'HOLE\tFROM\tTO\nA\t0\t5\n', '\t', 1],
		['no header at all', 'A,0,5.5,SST\nA,5.5,9,LST\nB,0,3,SST\n', ',', 0],
		['a title above the header', 'Drilling campaign 2024\n\nhole,from,to,code\nA,0,5,S\nA,5,9,L\n', ',', 3],
		['carriage returns only', 'a,b\r1,2\r3,4\r', ',', 1]
	])('%s', (_, text, delimiter, headerLine) => {
		const { reading } = readDelimited(bytes(text), 'f.txt');
		expect(reading).toMatchObject({ delimiter, headerLine });
	});

	it('can be said by hand, and then counts', () => {
		const raw = readDelimited(bytes('1;2\n3,5;4\n'), 'f.txt', { headerLine: 0, decimal: '.' });
		expect(raw.header).toEqual(['column 1', 'column 2']);
		expect(rowsOf(raw)).toEqual([
			['1', '2'],
			['3,5', '4']
		]);
		expect(numberReader(raw.reading)('3,5')).toBeNaN();
	});
});

describe('numbers', () => {
	it.each([
		[['1.5', '2.25'], { decimal: '.', thousands: '' }],
		[['1,5', '2,25'], { decimal: ',', thousands: '' }],
		[['1,234.5', '12,345,678'], { decimal: '.', thousands: ',' }],
		[['1.234,5', '402.310,5'], { decimal: ',', thousands: '.' }],
		[['1 234,5', '0,1'], { decimal: ',', thousands: ' ' }],
		[["1'234.5"], { decimal: '.', thousands: "'" }],
		[['0,125', '0,250'], { decimal: ',', thousands: '' }],
		[['03.04.2021', '1,5'], { decimal: ',', thousands: '' }]
	])('of the style of %j are told', (cells, style) => expect(guessNumberStyle(cells)).toEqual(style));

	it('are read back whatever style they are written in', () => {
		fc.assert(
			fc.property(
				fc.double({ min: -1e9, max: 1e9, noNaN: true }),
				fc.constantFrom<['.' | ',', '' | ',' | '.' | ' ' | "'"]>(['.', ''], [',', ''], ['.', ','], [',', '.'], ['.', ' '], [',', "'"]),
				(v, [decimal, thousands]) => {
					const [whole, rest] = Math.abs(v).toFixed(3).split('.') as [string, string];
					const text = `${v < 0 ? '-' : ''}${whole.replace(/\B(?=(\d{3})+$)/g, thousands)}${decimal}${rest}`;
					expect(numberReader({ decimal, thousands })(text)).toBeCloseTo(Number(v.toFixed(3)), 6);
				}
			)
		);
	});

	it.each(['', 'abc', '1e', '0x10', '0b1', 'Infinity', 'NaN', '1,2,3', '--1', '12-', '1_000'])('%j is none', (cell) =>
		expect(numberReader({ decimal: '.', thousands: '' })(cell)).toBeNaN()
	);
});

describe('dates', () => {
	it.each([
		['2024-05-31', '2024-05-31'],
		['31.05.2024', '2024-05-31'],
		['31/5/24', '2024-05-31'],
		['31-May-2024', '2024-05-31'],
		['2024-05-31T06:30', '2024-05-31 06:30']
	])('%s is %s', (text, iso) => expect(formatDate(parseDate(text))).toBe(iso));
	it.each(['31/02/2024', '2024-13-01', 'yesterday', '5', '', '12/2024', '2024-05-31 25:00'])('%s does not exist', (text) =>
		expect(parseDate(text)).toBeNaN()
	);
	it('say by themselves which number is the month', () => {
		expect(guessDateOrder(['05/31/2024', '04/01/2024'])).toBe('mdy');
		expect(guessDateOrder(['31/05/2024', '04/01/2024'])).toBe('dmy');
	});
});

describe('kinds of table that say depths or directions otherwise', () => {
	const read = (text: string, kind: Parameters<typeof readTable>[1]) => {
		const raw = readDelimited(bytes(text), 'f.csv');
		return readTable('t', kind, raw, guessMapping(raw, kind));
	};
	it('bases alone begin where the one above ends, by hole', () => {
		const t = read('hole,base,code\nA,5,S\nB,3,S\nA,9,L\n', 'intervals');
		expect([...t.numbers['from']!]).toEqual([0, 0, 5]);
	});
	it('thicknesses add up', () => {
		const t = read('hole,thickness,code\nA,5,S\nA,4,L\nB,2,S\n', 'intervals');
		expect([[...t.numbers['from']!], [...t.numbers['to']!]]).toEqual([
			[0, 5, 0],
			[5, 9, 2]
		]);
	});
	it('strikes by the right-hand rule become dip azimuths', () => {
		const t = read('x,y,dip,strike\n1,2,30,300\n', 'orientations');
		expect(t.numbers['dipAzimuth']![0]).toBe(30);
	});
	it('an id column is told by the collars when no header helps', () => {
		const raw = readDelimited(bytes('where,a,b,what\nTW-1,0,5,S\nTW-2,5,9,L\n'), 'f.csv');
		expect(guessMapping(raw, 'intervals', { holes: new Set(['TW-1', 'TW-2']) })).toMatchObject({ where: 'hole' });
	});
});
