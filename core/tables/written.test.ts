import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { formatDate, guessDateOrder, parseDate } from './dates';
import { readDelimited } from './delimited';
import { readMarked } from './marked';
import { numberReader, PLAIN_NUMBERS } from './numbers';
import { readTable } from './table';
import { guessWritten, HABITS, isAmbiguous, signedInclination, writtenInclination, type InclinationHabit } from './written';

const raw = (text: string) => readDelimited(new TextEncoder().encode(text), 'x.csv');
const survey = { hole: 'hole', depth: 'depth', azi: 'azimuth', dip: 'inclination' };
const inclinations = (text: string, dip?: InclinationHabit) =>
	Array.from(readTable('t', 'surveys', raw(text), survey, dip ? { written: { dip } } : {}).numbers['inclination']!);

describe('inclinations', () => {
	const file = (values: number[]) => `hole,depth,azi,dip\n${values.map((v, i) => `A,${i * 10},0,${v}`).join('\n')}\n`;
	it('are read as they are written', () => {
		expect(inclinations(file([-90, -60, 10]), 'negative-down')).toEqual([-90, -60, 10]);
		expect(inclinations(file([90, 60, -10]), 'positive-down')).toEqual([-90, -60, 10]);
		expect(inclinations(file([0, 30, 100]), 'from-vertical')).toEqual([-90, -60, 10]);
		expect(inclinations(file([-90, -60, 10]))).toEqual([-90, -60, 10]);
	});
	it('have their habit proposed from the header and all values', () => {
		expect(guessWritten(raw(file([-60, -61, 5])), 'surveys', survey)).toEqual({ dip: 'negative-down' });
		expect(guessWritten(raw(file([60, 61, -5])), 'surveys', survey)).toEqual({ dip: 'positive-down' });
		const from = raw('hole,depth,azi,Incl from vertical\nA,0,0,5\nA,10,0,6\n');
		expect(guessWritten(from, 'surveys', { hole: 'hole', depth: 'depth', azi: 'azimuth', 'Incl from vertical': 'inclination' })).toEqual({
			'Incl from vertical': 'from-vertical'
		});
	});
	it('come back from what they were written as', () =>
		fc.assert(
			fc.property(fc.double({ min: -90, max: 90, noNaN: true }), fc.constantFrom(...(HABITS.slice(0, 3) as InclinationHabit[])), (v, h) => {
				expect(signedInclination(writtenInclination(v, h), h)).toBeCloseTo(v, 9);
			})
		));
});

describe('dates', () => {
	it.each([
		['2024-05-31', '2024-05-31'],
		['20240531', '2024-05-31'],
		['31.05.2024 14:30', '2024-05-31 14:30'],
		['31/05/2024 2:30 PM', '2024-05-31 14:30'],
		['31-May-24', '2024-05-31'],
		['2024-05-31T14:30:00Z', '2024-05-31 14:30'],
		['2024-05-31T14:30:00+02:00', '2024-05-31 12:30'],
		['2024-05-31 00:30 -0130', '2024-05-31 02:00'],
		['45443', '2024-05-31'],
		['45443.604166666664', '2024-05-31 14:30']
	])('%s is %s', (text, iso) => expect(formatDate(parseDate(text))).toBe(iso));
	it.each(['31.02.2024', '2024-13-01', '12', '5', '2024', '99999', '14:30', '31/05/2024 13:00 PM'])('%s is none', (text) =>
		expect(parseDate(text)).toBeNaN()
	);
	it('of a workbook keep their minute, whatever the fraction of a day rounds to', () =>
		fc.assert(
			fc.property(fc.integer({ min: 0, max: 1439 }), fc.integer({ min: 20_001, max: 60_000 }), (minute, day) => {
				expect(formatDate(parseDate(String(day + minute / 1440))).slice(11)).toBe(
					minute ? `${String(Math.floor(minute / 60)).padStart(2, '0')}:${String(minute % 60).padStart(2, '0')}` : ''
				);
			})
		));
	it('have their order told by all rows; where none tells, that is said', () => {
		const cells = [...Array.from({ length: 600 }, () => '03/04/2024'), '03/25/2024'];
		expect(guessDateOrder(cells)).toBe('mdy');
		expect(isAmbiguous(cells)).toBe(false);
		expect(isAmbiguous(cells.slice(0, 600))).toBe(true);
		expect(isAmbiguous(['2024-01-02'])).toBe(false);
	});
	it('are read in the order that is said', () => {
		const t = readTable(
			't',
			'levels',
			raw('hole,date,dtw\nA,03/04/2024,1\n'),
			{ hole: 'hole', date: 'date', dtw: 'waterDepth' },
			{ written: { date: 'mdy' } }
		);
		expect(formatDate(t.numbers['date']![0]!)).toBe('2024-03-04');
	});
});

describe('cells with more than a number', () => {
	const plain = numberReader(PLAIN_NUMBERS);
	it.each([
		['12.5 m', 'length', 'm', 12.5],
		['41 ft', 'length', 'm', 41 * 0.3048],
		["10'", 'length', 'm', 3.048],
		['3 m', 'length', 'ft', 3 / 0.3048],
		["45°30'", 'angle', '°', 45.5],
		['-12° 15\' 36"', 'angle', '°', -12.26],
		['50 gon', 'angle', '°', 45]
	] as const)('%s is read', (cell, measure, own, value) => expect(readMarked(cell, plain, measure, own)).toBeCloseTo(value, 9));
	it.each(['12 bananas', 'm', "45°70'", '12 m 5'])('%s is not', (cell) =>
		expect(readMarked(cell, plain, cell.includes('°') ? 'angle' : 'length', 'm')).toBeNaN()
	);
	it('take blanks that do not break for marks of thousands, and what a spreadsheet calls missing for missing', () => {
		const t = readTable('t', 'assays', raw('hole;from;to;Cu\nA;0;1;1\u00a0234,5\nA;1;2;2\u202f000,1\nA;2;3;#N/A\nA;3;4;#REF!\n'), {
			hole: 'hole',
			from: 'from',
			to: 'to',
			Cu: 'value'
		});
		expect(Array.from(t.numbers['Cu']!)).toEqual([1234.5, 2000.1, NaN, NaN]);
		expect(t.notNumbers.map((o) => o.cell)).toEqual(['#REF!']);
	});
});
