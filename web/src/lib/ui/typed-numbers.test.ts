import { describe, expect, it } from 'vitest';
import { typedLines, typedNumber } from './typed-numbers';

describe('a number that is typed', () => {
	it.each([
		['12.5', 12.5],
		['12,5', 12.5],
		['-0,125', -0.125],
		['1 234,5', 1234.5],
		['1\u202f234.5', 1234.5],
		['1.234,5', 1234.5],
		['1,234.5', 1234.5],
		['1,234,567', 1234567],
		['401842,5', 401842.5],
		['5', 5],
		['1e3', 1000],
		['\u22125', -5]
	])('%s is %d', (text, value) => expect(typedNumber(text)).toEqual({ value }));
	it.each(['', 'x', '1.2.3', '1,2,3', '1,23.4,5', '12-5', '--5', '1.234,5,6'])('%j is none', (text) =>
		expect(typedNumber(text)).toHaveProperty('problem')
	);
	it('that could mean two things is refused, unless it is in the habit of the project', () => {
		expect(typedNumber('1,234', '.')).toEqual({ problem: '"1,234" can be read in two ways: write 1234 or 1.234' });
		expect(typedNumber('1,234', ',')).toEqual({ value: 1.234 });
		expect(typedNumber('1.234', '.')).toEqual({ value: 1.234 });
		expect(typedNumber('1.234', ',')).toHaveProperty('problem');
		expect(typedNumber('0,125', '.')).toEqual({ value: 0.125 });
	});
});

describe('places that are typed', () => {
	it.each([
		['401842,5 4992000', [[401842.5, 4992000]]],
		['401842.5, 4992000', [[401842.5, 4992000]]],
		['401842;4992000;12,5', [[401842, 4992000, 12.5]]],
		['401842,4992000', [[401842, 4992000]]],
		[
			'1 2\n\n3 4\n',
			[
				[1, 2],
				[3, 4]
			]
		]
	])('%j', (text, places) => expect(typedLines(text, [2, 3])).toEqual(places));
	it('that are no places name their line', () => {
		expect(() => typedLines('1 2\n3', [2, 3])).toThrow('line 2 has 1 numbers');
		expect(() => typedLines('1 2\n3 x', [2, 3])).toThrow('line 2: "x"');
		expect(() => typedLines('1 2 3 4', [2, 3])).toThrow('line 1');
	});
});
