import { unzipSync } from 'fflate';
import readWorkbook from 'read-excel-file/universal';
import writeWorkbook from 'write-excel-file/universal';
import { fail, ProblemError } from '../problem';
import { formatDate } from '../tables/dates';
import { guessLayout, TableBuilder, type Line } from '../tables/layout';
import type { RawTable, Reading } from '../tables/raw-table';

const LARGEST_UNPACKED = 512 * 1024 * 1024;
const MOST_CELLS = 20_000_000;
const MOST_ENTRIES = 5000;

/** Whether bytes are a ZIP archive, as every XLSX file is. */
export const isZip = (bytes: Uint8Array): boolean => bytes[0] === 0x50 && bytes[1] === 0x4b && bytes[2] === 3 && bytes[3] === 4;

/**
 * Sizes of a ZIP archive from its directory, without unpacking anything.
 * @throws ProblemError `not-a-zip`, `archive-too-large`
 */
export function zipEntries(bytes: Uint8Array, name: string): Map<string, number> {
	const entries = new Map<string, number>();
	let total = 0;
	try {
		unzipSync(bytes, {
			filter: (f) => {
				entries.set(f.name, f.originalSize);
				total += f.originalSize;
				return false;
			}
		});
	} catch {
		return fail('not-a-zip', `${name} is damaged: its directory can not be read`, 'Save or send the file again.', name);
	}
	if (total > LARGEST_UNPACKED || entries.size > MOST_ENTRIES)
		fail(
			'archive-too-large',
			`${name} unpacks to ${Math.round(total / 1048576)} MiB in ${entries.size} files`,
			`At most ${LARGEST_UNPACKED / 1048576} MiB and ${MOST_ENTRIES} files are unpacked. It was not read.`,
			name
		);
	return entries;
}

/** A sheet of a workbook: rows of text, formulas as their values, dates as ISO text. */
export interface Sheet {
	name: string;
	rows: string[][];
}

/** Reads all sheets of a workbook. @throws ProblemError `not-a-workbook`, `archive-too-large` */
export async function readSheets(bytes: Uint8Array, name: string): Promise<Sheet[]> {
	const entries = zipEntries(bytes, name);
	if (!entries.has('xl/workbook.xml'))
		fail('not-a-workbook', `${name} is a ZIP archive, but no workbook`, 'Tables are read from XLSX workbooks.', name);
	try {
		const shapes = shapesOf(bytes, name);
		const sheets = await readWorkbook(bytes.slice().buffer as ArrayBuffer);
		return sheets
			.map(({ sheet, data }, i) => ({
				name: sheet,
				rows: filledDown(
					data.map((row) => row.map(cellText)),
					shapes[i]?.merges ?? []
				)
			}))
			.filter((s) => s.rows.some((r) => r.some((c) => c !== '')));
	} catch (error) {
		if (error instanceof ProblemError) throw error;
		return fail(
			'not-a-workbook',
			`${name} can not be read as a workbook`,
			`Save it again as XLSX. The reader said: ${error instanceof Error ? error.message : String(error)}`,
			name
		);
	}
}

/** A block of merged cells: rows and columns from 0. */
interface Merge {
	top: number;
	left: number;
	bottom: number;
	right: number;
}

const columnOf = (letters: string): number => [...letters].reduce((n, c) => 26 * n + c.charCodeAt(0) - 64, 0) - 1;

/** The merged cells of each sheet in the order of the workbook. A sheet whose cells lie so far apart that the space between them would fill memory is refused. */
function shapesOf(bytes: Uint8Array, name: string): { merges: Merge[] }[] {
	const files = unzipSync(bytes, { filter: (f) => /^xl\/(workbook\.xml|_rels\/workbook\.xml\.rels|worksheets\/[^/]+\.xml)$/.test(f.name) });
	const text = (file: string) => (files[file] ? new TextDecoder('latin1').decode(files[file]) : '');
	const targets = new Map(
		[...text('xl/_rels/workbook.xml.rels').matchAll(/<Relationship\s[^>]*>/g)].map(([tag]) => [
			/\sId="([^"]*)"/.exec(tag)?.[1] ?? '',
			(/\sTarget="([^"]*)"/.exec(tag)?.[1] ?? '').replace(/^\/?(xl\/)?/, 'xl/')
		])
	);
	return [...text('xl/workbook.xml').matchAll(/<sheet\s[^>]*\sr:id="([^"]*)"[^>]*>/g)].map(([, id]) => {
		const sheet = text(targets.get(id!) ?? '');
		let [rows, columns] = [0, 0];
		for (const m of sheet.matchAll(/<c\s[^>]*?r="([A-Z]{1,3})(\d{1,7})"/g)) {
			rows = Math.max(rows, Number(m[2]));
			columns = Math.max(columns, columnOf(m[1]!) + 1);
		}
		if (rows * columns > MOST_CELLS)
			fail(
				'sheet-too-large',
				`${name} has a sheet of ${rows.toLocaleString('en')} rows and ${columns.toLocaleString('en')} columns; the most is ${MOST_CELLS.toLocaleString('en')} cells`,
				'Delete the rows and columns that are not needed, or save it as CSV.',
				name
			);
		return {
			merges: [...sheet.matchAll(/<mergeCell\s[^>]*ref="([A-Z]{1,3})(\d+):([A-Z]{1,3})(\d+)"/g)].map((m) => ({
				top: Number(m[2]) - 1,
				left: columnOf(m[1]!),
				bottom: Number(m[4]) - 1,
				right: columnOf(m[3]!)
			}))
		};
	});
}

/** Cells that are merged downwards hold the same in each row, as one reads them. */
function filledDown(rows: string[][], merges: readonly Merge[]): string[][] {
	for (const m of merges) {
		const value = rows[m.top]?.[m.left] ?? '';
		if (value === '' || m.bottom === m.top) continue;
		for (let r = m.top + 1; r <= Math.min(m.bottom, rows.length - 1); r++) if ((rows[r]![m.left] ?? '') === '') rows[r]![m.left] = value;
	}
	return rows;
}

function cellText(value: unknown): string {
	if (value === null || value === undefined) return '';
	if (value instanceof Date) return formatDate(value.getTime() / 86_400_000);
	if (typeof value === 'number') return String(value);
	return String(value).trim();
}

/**
 * A sheet as a table. Titles above the header are skipped.
 * @param known `part` is the name of the sheet
 * @throws ProblemError `no-such-sheet` and what `TableBuilder` throws
 */
export function tableOfSheet(sheets: readonly Sheet[], name: string, known: Partial<Reading> = {}): RawTable {
	const sheet = known.part === undefined ? sheets[0] : sheets.find((s) => s.name === known.part);
	if (!sheet)
		return fail(
			'no-such-sheet',
			`${name} has no sheet "${known.part ?? ''}"`,
			`Its sheets are: ${sheets.map((s) => s.name).join(', ')}.`,
			name
		);
	const lines: Line[] = sheet.rows.map((cells, i) => ({ cells, line: i + 1 }));
	const reading = guessLayout(lines.slice(0, 300), ',', { decimal: '.', thousands: '', comment: '', ...known, part: sheet.name });
	const builder = new TableBuilder(reading, name);
	for (const l of lines) if (l.cells.length) builder.take(l.cells, l.line);
	return builder.finish();
}

/** A workbook with a bold header line on each sheet. Text is written as text, so that nothing is run as a formula. */
export async function writeXlsx(
	sheets: readonly { name: string; header: readonly string[]; rows: readonly (readonly (string | number)[])[] }[]
): Promise<Uint8Array> {
	const cell = (v: string | number) =>
		typeof v === 'number' && Number.isFinite(v) ? { value: v, type: Number } : { value: String(v), type: String };
	const blob = await writeWorkbook(
		sheets.map((s) => ({
			sheet: s.name.replace(/[\\/?*[\]:]/g, ' ').slice(0, 31) || 'Sheet',
			data: [s.header.map((h) => ({ value: h, type: String, fontWeight: 'bold' as const })), ...s.rows.map((r) => r.map(cell))],
			stickyRowsCount: 1
		}))
	).toBlob();
	return new Uint8Array(await blob.arrayBuffer());
}
