import { describe, expect, it } from 'vitest';
import { readDelimited } from './delimited';
import { formatDate, parseDate } from './dates';
import { editCell, excludeRow } from './edit';
import { appendTables, compareTables } from './compare';
import { rowOf } from './raw-table';
import { summarise } from './summary';
import { readTable } from './table';
import { countClasses, valueClass, type ValueRules } from './value-rules';
import { numberReader } from './numbers';

const raw = (text: string) => readDelimited(new TextEncoder().encode(text), 'f.csv');
const MAPPING = { hole: 'hole', from: 'from', to: 'to', Cu: 'value' };
const ASSAYS = 'hole,from,to,Cu\nA,0,1,<5\nA,1,2,\nA,2,3,0\nA,3,4,-5\nA,4,5,>1000\nA,5,6,trace\nA,6,7,lost\nA,7,8,12\n';

describe('value rules', () => {
	it('tell the classes of cells apart and count them', () => {
		const classes = raw(ASSAYS).columns[3]!.map((c) => valueClass(c, numberReader({ decimal: '.', thousands: '' })(c)));
		expect(classes).toEqual(['below', 'missing', 'zero', 'negative', 'above', 'below', 'text', null]);
		expect(countClasses(raw(ASSAYS).columns[3]!, numberReader({ decimal: '.', thousands: '' }))).toEqual({
			missing: 1,
			below: 2,
			above: 1,
			text: 1,
			zero: 1,
			negative: 1
		});
	});

	it('leave out, keep, put a number, or a share of the stated limit', () => {
		const values: ValueRules = {
			Cu: {
				acts: {
					below: { act: 'share', share: 0.5 },
					above: { act: 'keep' },
					missing: { act: 'number', number: 1 },
					negative: { act: 'share', share: 0.5 },
					zero: { act: 'leave' },
					text: { act: 'leave' }
				}
			}
		};
		const t = readTable('t', 'assays', raw(ASSAYS), MAPPING, { values });
		expect([...t.numbers['Cu']!]).toEqual([2.5, 1, NaN, 2.5, 1000, NaN, NaN, 12]);
		expect(t.notNumbers).toEqual([]);
	});

	it('without a rule, what is no number is left out and said', () => {
		const t = readTable('t', 'assays', raw(ASSAYS), MAPPING);
		expect(t.notNumbers.map((o) => o.cell)).toEqual(['<5', '>1000', 'trace', 'lost']);
	});
});

describe('an edit in place', () => {
	it('leaves the table as if it had been read with the new cell', () => {
		const values: ValueRules = { Cu: { acts: { below: { act: 'share', share: 0.5 } } } };
		const reading = { mapping: MAPPING, units: { to: 'ft' }, values, lengthUnit: 'm' };
		const r = raw(ASSAYS);
		const t = readTable('t', 'assays', r, MAPPING, reading);
		for (const [row, column, value] of [
			[3, 'Cu', '<8'],
			[7, 'Cu', 'bad'],
			[2, 'to', '9.9'],
			[1, 'hole', 'B'],
			[0, 'to', 'x']
		] as const) {
			editCell(r, t, reading, row, r.header.indexOf(column), value);
			const again = readTable('t', 'assays', r, MAPPING, reading);
			expect(t.numbers).toEqual(again.numbers);
			expect([...t.notNumbers].sort((a, b) => a.row - b.row)).toEqual([...again.notNumbers].sort((a, b) => a.row - b.row));
			expect(t.text).toEqual(again.text);
		}
	});

	it('takes a date in the order in which the column writes it', () => {
		const r = raw('hole,date,depth\nA,05/31/2024,2.5\nA,06/30/2024,2.6\n');
		const mapping = { hole: 'hole', date: 'date', depth: 'waterDepth' };
		const t = readTable('t', 'levels', r, mapping);
		editCell(r, t, { mapping, units: {}, values: {}, lengthUnit: 'm' }, 1, 1, '07/04/2024');
		expect(t.numbers['date']![1]).toBe(Date.UTC(2024, 6, 4) / 86_400_000);
		expect(t.numbers).toEqual(readTable('t', 'levels', r, mapping).numbers);
	});

	it('that leaves a row out moves the depths that follow from it', () => {
		const r = raw('hole,thickness,code\nA,5,S\nA,4,L\nA,2,S\n');
		const mapping = { hole: 'hole', thickness: 'thickness', code: 'code' };
		const t = readTable('t', 'intervals', r, mapping);
		excludeRow(t, 1, true);
		expect([...t.numbers['from']!]).toEqual([0, 5, 5]);
		excludeRow(t, 1, false);
		expect([...t.numbers['from']!]).toEqual([0, 5, 9]);
	});
});

describe('a newer version of a file', () => {
	const old = raw('hole,from,to,code\nA,0,5,S\nA,5,9,L\nB,0,3,S\nC,0,2,S\n');
	const fresh = raw('hole,from,to,code\nB,0,3,M\nA,0,5,S\nA,5,9,LST\nD,0,1,S\n');
	const mapping = { hole: 'hole', from: 'from', to: 'to', code: 'code' };

	it('is compared row by row, whatever the order', () => {
		const c = compareTables(old, fresh, 'intervals', mapping, []);
		expect([...c.match]).toEqual([2, 0, 1, -1]);
		expect(c).toMatchObject({ added: 1, gone: 1, changed: 2, same: 1 });
	});

	it('keeps edits where the source did not change, names conflicts where it did, and drops what the source has taken over', () => {
		const edits = [
			{ n: 0, position: 3, value: 'SST', original: 'S' },
			{ n: 1, position: 3, value: 'Limestone', original: 'L' },
			{ n: 2, position: 3, value: 'M', original: 'S' },
			{ n: 3, position: 3, value: 'X', original: 'S' }
		];
		const c = compareTables(old, fresh, 'intervals', mapping, edits);
		expect(c.kept).toEqual([{ n: 1, position: 3, value: 'SST' }]);
		expect(c.conflicts).toEqual([{ n: 2, position: 3, value: 'Limestone', source: 'LST' }]);
	});

	it('can be added behind', () => {
		const both = appendTables(old, raw('code,hole,to,from\nZ,E,7,0\n'));
		expect(rowOf(both, 4)).toEqual(['E', '0', '7', 'Z']);
		expect(both.lines[4]).toBeGreaterThan(both.lines[3]!);
	});
});

it('a summary gives counts, ranges, a histogram that adds up, and codes', () => {
	const s = summarise(
		readTable(
			't',
			'intervals',
			raw('hole,from,to,code\nA,0,5,S\nA,5,9,L\nB,0,3,S\n'),
			{ hole: 'hole', from: 'from', to: 'to', code: 'code' },
			{ excluded: Uint8Array.from([0, 0, 1]) }
		)
	);
	expect(s).toMatchObject({
		rows: 3,
		excluded: 1,
		holes: 1,
		depths: [0, 9],
		codes: [
			{ code: 'L', count: 1 },
			{ code: 'S', count: 1 }
		]
	});
	const to = s.numbers.find((n) => n.column === 'to')!;
	expect(to).toMatchObject({ count: 2, min: 5, max: 9, mean: 7, median: 7 });
	expect(to.histogram.reduce((a, b) => a + b)).toBe(2);
});

it('two digits of a year: below 70 this century, from 70 on the last', () => {
	expect(['1.2.69', '1.2.70', '1.2.00', '1.2.99'].map((d) => formatDate(parseDate(d)).slice(0, 4))).toEqual([
		'2069',
		'1970',
		'2000',
		'1999'
	]);
});
