import { fail } from '../problem';
import { guessNumberStyle, numberReader } from './numbers';
import { numberedName, type OddRow, type RawTable, type Reading } from './raw-table';

/** Cells of a line of a file, trimmed. */
export interface Line {
	cells: string[];
	/** Counted from 1. */
	line: number;
}

export const COMMENTS = ['#', '//', '%', '!'];

const UNIT =
	/^[[(]?\s*(m|ft|feet|met(er|re)s?|km|cm|mm|in|deg(rees)?|°|%|pct|ppm|ppb|g\/t|oz\/t|kg|t|kn|kpa|mpa|s|ms|us\/ft|api|g\/cc|g\/cm3|t\/m3|kg\/m3|nt|mgal|ohm\.?m|si|text|none|date|yyyy-mm-dd|dd\/mm\/yyyy|hh:mm(:ss)?|-)\s*[\])]?$/i;

export const isEmptyRow = (cells: readonly string[]): boolean => cells.every((c) => c === '');
const filledWidth = (cells: readonly string[]): number => cells.findLastIndex((c) => c !== '') + 1;
const isComment = (l: Line, comment: string): boolean => comment !== '' && l.cells[0]!.startsWith(comment);

/** What can be told of a table from its first lines, once they are cut into cells: everything of `Reading` that is not given. */
export function guessLayout(sample: readonly Line[], delimiter: Reading['delimiter'], known: Partial<Reading> = {}): Reading {
	const all = sample.filter((l) => !isEmptyRow(l.cells));
	// A mark alone is the name of a column of numbers ("#, hole, …"), but between blanks it begins a remark.
	const comment =
		known.comment ?? COMMENTS.find((c) => all[0]?.cells[0]!.startsWith(c) && (all[0].cells[0] !== c || delimiter === 'space')) ?? '';
	const lines = all.filter((l) => !isComment(l, comment));
	const widths = new Map<number, number>();
	// Delimiters at the end of a line are an editor's habit: they make it no wider.
	for (const l of lines.slice(0, 200)) widths.set(filledWidth(l.cells), (widths.get(filledWidth(l.cells)) ?? 0) + 1);
	const width = [...widths].sort((a, b) => b[1] - a[1] || b[0] - a[0])[0]?.[0] ?? 0;
	const first = lines.findIndex((l) => l.cells.length >= Math.max(2, width) && l.cells.filter((c) => c !== '').length > width / 2);
	const style =
		known.decimal !== undefined && known.thousands !== undefined
			? { decimal: known.decimal, thousands: known.thousands }
			: {
					...guessNumberStyle(lines.slice(Math.max(0, first) + 1).flatMap((l) => l.cells)),
					...(known.decimal !== undefined ? { decimal: known.decimal } : {}),
					...(known.thousands !== undefined ? { thousands: known.thousands } : {})
				};
	const number = numberReader(style);
	const numeric = (cells: readonly string[] | undefined) => (cells ?? []).filter((c) => !Number.isNaN(number(c))).length;
	// A first line with as many numbers as the lines below it is data.
	const head = lines[first];
	const below = lines.slice(first + 1, first + 21);
	const typical = below.length ? below.reduce((n, l) => n + numeric(l.cells), 0) / below.length : 0;
	const headless = head !== undefined && below.length > 0 && numeric(head.cells) > 0 && numeric(head.cells) >= 0.7 * typical;
	const headerLine = known.headerLine ?? (head === undefined || headless ? 0 : head.line);
	const under = lines.find((l) => l.line > headerLine);
	const filled = under?.cells.filter((c) => c !== '') ?? [];
	const unitsLine =
		known.unitsLine ??
		(headerLine > 0 &&
			filled.length > 0 &&
			numeric(filled) === 0 &&
			filled.filter((c) => UNIT.test(c)).length >= 0.7 * filled.length &&
			typical > 0);
	return {
		delimiter,
		...style,
		headerLine,
		unitsLine,
		comment,
		...(known.part !== undefined ? { part: known.part } : {}),
		...(known.quotes !== undefined && known.quotes !== 'careful' ? { quotes: known.quotes } : {})
	};
}

/** What a spreadsheet would run as a formula, or what was kept from it. */
export const GUARDED = /^'*[=+\-@\t\r]/;

/** Without blanks around it; most cells have none, and then nothing is made. */
const trimmed = (cell: string): string =>
	cell.length &&
	(cell.charCodeAt(0) <= 32 || cell.charCodeAt(cell.length - 1) <= 32 || cell.charCodeAt(0) > 127 || cell.charCodeAt(cell.length - 1) > 127)
		? cell.trim()
		: cell;

/** Without the apostrophe that keeps spreadsheets from running it. */
const unguarded = (cell: string): string => (cell.charCodeAt(0) === 39 && GUARDED.test(cell) ? cell.slice(1) : cell);

/** Most columns of a table: more are a matrix, or a file cut at the wrong character. */
const MOST_COLUMNS = 2000;

/** Names of columns, each different: the second of a name is told by a number behind it. */
export function distinct(names: readonly string[]): string[] {
	const taken = new Set(names);
	const seen = new Set<string>();
	return names.map((name) => {
		if (!seen.has(name)) return seen.add(name) && name;
		let n = 2;
		while (taken.has(`${name} (${n})`)) n++;
		taken.add(`${name} (${n})`);
		return `${name} (${n})`;
	});
}

/** Puts the lines of a table together, one after the other. */
export class TableBuilder {
	private header: string[] | null = null;
	private units: string[] | null = null;
	private columns: string[][] = [];
	private lines = new Int32Array(1024);
	private rowCount = 0;
	private odd: OddRow[] = [];

	/** @param counted whether every line should have as many cells as the header: those that do not are told */
	constructor(
		private readonly reading: Reading,
		private readonly name: string,
		private readonly counted = false
	) {}

	/** Takes the cells of a line; they need not be trimmed. @param doubted lines that a quotation mark on it would have swallowed */
	take(cells: readonly string[], line: number, doubted = 0): void {
		const { reading } = this;
		if (cells.length === 0 || (cells.length === 1 && cells[0]!.trim() === '')) return;
		if (reading.comment && cells[0]!.trimStart().startsWith(reading.comment)) return;
		if (line < reading.headerLine) return;
		if (!this.header) {
			this.header = reading.headerLine ? cells.map((c) => c.trim().replace(/\s+/g, ' ')) : cells.map((_, i) => numberedName(i));
			// Empty columns at the end are an editor's habit.
			while (reading.headerLine && this.header.length && this.header[this.header.length - 1] === '') this.header.pop();
			if (this.header.length > MOST_COLUMNS)
				fail(
					'too-many-columns',
					`${this.name} has ${this.header.length.toLocaleString('en')} columns; the most is ${MOST_COLUMNS.toLocaleString('en')}`,
					'Leave out what is not needed, or turn the table so that its columns become rows.',
					this.name
				);
			this.columns = this.header.map(() => []);
			if (reading.headerLine) return;
		} else if (reading.unitsLine && !this.units) {
			this.units = this.header.map((_, i) => (cells[i] ?? '').trim());
			return;
		}
		let any = false;
		const { columns } = this;
		for (let i = 0; i < columns.length; i++) {
			const cell = i < cells.length ? unguarded(trimmed(cells[i]!)) : '';
			if (cell !== '') any = true;
			columns[i]!.push(cell);
		}
		if (!any) {
			for (const c of columns) c.pop();
			return;
		}
		if (this.counted) {
			const lost = cells.slice(columns.length);
			if (doubted) this.odd.push({ row: this.rowCount, kind: 'quote', count: doubted });
			else if (lost.some((c) => c.trim() !== ''))
				this.odd.push({ row: this.rowCount, kind: 'long', count: cells.length, lost: lost.map((c) => c.trim()) });
			else if (cells.length < columns.length) this.odd.push({ row: this.rowCount, kind: 'short', count: cells.length });
		}
		if (this.rowCount === this.lines.length) {
			const more = new Int32Array(2 * this.rowCount);
			more.set(this.lines);
			this.lines = more;
		}
		this.lines[this.rowCount++] = line;
	}

	/** @throws ProblemError `not-a-table`, `empty-file` */
	finish(): RawTable {
		const { header, name, reading, rowCount } = this;
		if (!header || header.length < 2)
			return fail(
				'not-a-table',
				`${name} has no columns that could be told apart`,
				'Expected cells between commas, semicolons, tabs or blanks. Choose the delimiter by hand if it is another.',
				name
			);
		const names = distinct(header.map((h, i) => h || `column ${i + 1}`));
		if (rowCount === 0) fail('empty-file', `${name} has a header but no rows`, 'Choose a file with data.', name);
		return {
			header: names,
			units: this.units,
			columns: this.columns,
			rowCount,
			lines: this.lines.slice(0, rowCount),
			...(this.odd.length ? { odd: this.odd } : {}),
			reading
		};
	}
}
