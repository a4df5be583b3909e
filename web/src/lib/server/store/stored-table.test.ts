import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { readDelimited } from '#core/tables/delimited';
import type { RawTable } from '#core/tables/raw-table';
import { CHUNK_ROWS, decodeChunks, encodeChunks, openTable, type TableParts } from '../threads/stored-table';
import { tableHash } from './table-hash';

const raw = (columns: string[][]): RawTable => ({
	header: columns.map((_, i) => `c${i}`),
	units: null,
	columns,
	rowCount: columns[0]!.length,
	lines: Int32Array.from(columns[0]!, (_, i) => i + 2),
	reading: { delimiter: ',', decimal: '.', thousands: '', headerLine: 1, unitsLine: false, comment: '' }
});

describe('rows in chunks', () => {
	it('come back as they were, whatever stands in the cells', () => {
		fc.assert(
			fc.property(fc.array(fc.tuple(fc.string(), fc.string({ unit: 'grapheme' })), { minLength: 1, maxLength: 40 }), (rows) => {
				const clean = (c: string) => c.replaceAll('\u001f', ' ').replace(/[\ud800-\udfff]/g, '');
				const table = raw([rows.map((r) => r[0]), rows.map((r) => clean(r[1]))]);
				const back = decodeChunks(encodeChunks(table), 2);
				expect(back.columns).toEqual([rows.map((r) => r[0].replaceAll('\u001f', ' ')), rows.map((r) => clean(r[1]))]);
				expect([...back.lines]).toEqual([...table.lines]);
			})
		);
	});

	it('are cut at a fixed number of rows', () => {
		const n = 2 * CHUNK_ROWS + 3;
		const chunks = encodeChunks(raw([Array.from({ length: n }, (_, i) => String(i)), new Array<string>(n).fill('')]));
		expect(chunks.length).toBe(3);
		const last = decodeChunks([chunks[2]!], 2);
		expect([last.rowCount, last.columns[0]![0], last.columns[1]!.length]).toEqual([3, String(2 * CHUNK_ROWS), 3]);
	});
});

describe('a stored table', () => {
	const file = readDelimited(new TextEncoder().encode('hole,from,to,code\nA,0,5,S\nA,5,9,L\n'), 'f.csv');
	const parts = (change: Partial<TableParts> = {}): TableParts => ({
		id: 't',
		hash: '',
		name: 'T',
		chunks: encodeChunks(file),
		edits: [],
		excluded: [],
		state: {
			kind: 'intervals',
			header: file.header,
			stated: null,
			reading: file.reading,
			mapping: { hole: 'hole', from: 'from', to: 'to', code: 'code' },
			units: {},
			values: {},
			coordinates: {},
			rowCount: 2
		},
		...change
	});

	it('is opened with its edits and exclusions over what the file says', () => {
		const { raw: r, table } = openTable(
			parts({
				edits: [
					{ n: 1, position: 2, value: '8.5' },
					{ n: 9, position: 0, value: 'gone' }
				],
				excluded: [0]
			}),
			'm'
		);
		expect([...table.numbers['to']!]).toEqual([5, 8.5]);
		expect([...table.excluded]).toEqual([1, 0]);
		expect(r.columns[2]).toEqual(['5', '8.5']);
	});

	it('has a hash that counts what is computed, and nothing else', () => {
		const { state } = parts();
		const hash = tableHash('file', state, [], []);
		expect(tableHash('file', { ...state, mapping: Object.fromEntries(Object.entries(state.mapping).reverse()) }, [], [])).toBe(hash);
		expect(tableHash('file', { ...state, values: { x: { acts: {}, reviewed: ['zero'] } } }, [], [])).toBe(
			tableHash('file', { ...state, values: { x: { acts: {} } } }, [], [])
		);
		for (const other of [
			tableHash('other', state, [], []),
			tableHash('file', state, [{ n: 0, position: 1, value: '1' }], []),
			tableHash('file', state, [], [1]),
			tableHash('file', { ...state, units: { to: 'ft' } }, [], []),
			tableHash('file', { ...state, coordinates: { verticalShift: 1 } }, [], [])
		])
			expect(other).not.toBe(hash);
	});
});
