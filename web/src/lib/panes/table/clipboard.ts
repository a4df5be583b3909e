import Papa from 'papaparse';

/** A cell to be stored: row of the table, header of the column. */
export interface CellEdit {
	n: number;
	column: string;
	value: string;
}

/** So many cells are pasted at once. */
const MOST_CELLS = 20_000;

/** Cells as spreadsheets take them from the clipboard: tabs between, quotes where a cell holds tabs, line breaks or quotes. */
export const clipboardText = (rows: readonly (readonly string[])[]): string =>
	Papa.unparse(rows as string[][], { delimiter: '\t', newline: '\n' });

/** The cells that a spreadsheet has put on the clipboard. */
export const clipboardCells = (text: string): string[][] => Papa.parse<string[]>(text.replace(/\r?\n$/, ''), { delimiter: '\t' }).data;

/**
 * Where the cells of the clipboard go, all or none.
 * @param rowAt number of the row of the table that stands so many rows below the first; undefined where there is none
 * @param header columns from the first one on
 * @returns the cells, or why nothing is pasted
 */
export function pasted(text: string, rowAt: (below: number) => number | undefined, header: readonly string[]): CellEdit[] | string {
	const lines = clipboardCells(text);
	const cells: CellEdit[] = [];
	for (const [i, line] of lines.entries()) {
		const n = rowAt(i);
		if (n === undefined) return `The clipboard holds ${lines.length} rows; there are not so many below this cell. Nothing was pasted.`;
		for (const [k, value] of line.entries()) {
			const column = header[k];
			if (column === undefined) return 'The clipboard holds more columns than there are to the right of this cell. Nothing was pasted.';
			cells.push({ n, column, value });
		}
	}
	return cells.length > MOST_CELLS ? `At most ${MOST_CELLS.toLocaleString('en').replace(',', ' ')} cells are pasted at once.` : cells;
}
