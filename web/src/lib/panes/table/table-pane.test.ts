import { describe, expect, it } from 'vitest';
import { clipboardCells, clipboardText, pasted } from './clipboard';
import { ROW, RowWindow } from './row-window';

describe('cells on the clipboard', () => {
	it('come back as they were, whatever they hold', () => {
		const rows = [
			['TW-001', '12.5', ''],
			['with\ttab', 'two\nlines', 'say "so"'],
			['=1+1', ' blank ', 'ü']
		];
		expect(clipboardCells(clipboardText(rows))).toEqual(rows);
	});
	it('of a spreadsheet are read with its line ends, one cell alone too', () => {
		expect(clipboardCells('a\tb\r\nc\td\r\n')).toEqual([
			['a', 'b'],
			['c', 'd']
		]);
		expect(clipboardCells('12,5')).toEqual([['12,5']]);
	});
	it('are pasted from the cursor on, all or none', () => {
		const rowAt = (i: number) => [7, 8][i];
		expect(pasted('1\t2\n3\t4', rowAt, ['x', 'y', 'z'])).toEqual([
			{ n: 7, column: 'x', value: '1' },
			{ n: 7, column: 'y', value: '2' },
			{ n: 8, column: 'x', value: '3' },
			{ n: 8, column: 'y', value: '4' }
		]);
		expect(pasted('1\n2\n3', rowAt, ['x'])).toContain('3 rows; there are not so many');
		expect(pasted('1\t2', rowAt, ['x'])).toContain('more columns');
		expect(pasted(`${'1\n'.repeat(20_001)}1`, (i) => i, ['x'])).toBe('At most 20 000 cells are pasted at once.');
	});
});

describe('the window on a long table', () => {
	it('shows the row it is scrolled to, and scrolls no more than it must', () => {
		const w = new RowWindow(1000, 400);
		expect([w.height, w.first(0), w.first(240)]).toEqual([1000 * ROW, 0, 10]);
		expect(w.seen(5, 0)).toBe(0);
		expect(w.seen(2, 240)).toBe(2 * ROW);
		expect(w.first(w.seen(500, 0)) + w.count).toBeGreaterThan(500);
		expect(w.first(w.near(500))).toBe(497);
		expect(w.near(1)).toBe(0);
	});
	it('reaches both ends of a table that is too tall to be drawn', () => {
		const w = new RowWindow(5_000_000, 400);
		expect(w.height).toBeLessThan(5_000_000 * ROW);
		expect(w.first(0)).toBe(0);
		expect(w.first(w.height - 400) + w.count).toBeGreaterThanOrEqual(5_000_000);
		for (const row of [0, 17, 2_500_000, 4_999_999]) {
			const first = w.first(w.seen(row, 1234));
			expect(row).toBeGreaterThanOrEqual(first - 1);
			expect(row).toBeLessThan(first + w.count);
		}
	});
	it('of an empty table is empty', () => {
		const w = new RowWindow(0, 400);
		expect([w.height, w.first(0), w.seen(0, 0), w.near(0)]).toEqual([0, 0, 0, 0]);
	});
});
