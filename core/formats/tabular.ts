import { fail } from '../problem';
import { decodeText, readDelimited } from '../tables/delimited';
import type { RawTable, Reading } from '../tables/raw-table';
import { isAgs, readAgs, tableOfGroup } from './ags';
import { isLas, readLas, tableOfLas } from './las';
import { readOdsSheets } from './ods';
import { formatAmong, type FileHead, type Reader, type Readers } from './reader';
import { isZip, readSheets, tableOfSheet, type Sheet } from './xlsx';

/** Whether a ZIP archive is a workbook, whatever pictures it holds beside its sheets. */
export function workbookFormat(entries: readonly string[]): 'xlsx' | 'ods' | null {
	if (entries.some((n) => /^xl\/workbook\.(xml|bin)$/.test(n))) return 'xlsx';
	return entries.includes('content.xml') && entries.includes('mimetype') ? 'ods' : null;
}

/** What a file has beside the table that was asked for: its tables, and what its format has to say about it. */
type Parts = Omit<TabularParts, 'format'>;
type TableReader = Reader<RawTable, Partial<Reading>> & { parts?(bytes: Uint8Array, name: string): Parts | Promise<Parts> };

const sheetParts = async (sheets: Promise<Sheet[]> | Sheet[]): Promise<Parts> => ({
	parts: (await sheets).map((s) => ({ name: s.name, rows: s.rows.length })),
	notes: []
});
const textOf = ({ bytes }: FileHead) => decodeText(bytes.subarray(0, 4096));

/** How tables are told and read. What nothing else is, is delimited text. */
const TABLE_READERS: { readonly [F in keyof Readers<'table', RawTable>]: TableReader } = {
	ods: {
		is: ({ entries }) => workbookFormat(entries) === 'ods',
		parts: (bytes, name) => sheetParts(readOdsSheets(bytes, name)),
		read: (bytes, name, known) => tableOfSheet(readOdsSheets(bytes, name), name, known)
	},
	// A ZIP archive that is no workbook is taken for one: its reader says what is wrong with it.
	xlsx: {
		is: ({ bytes }) => isZip(bytes),
		parts: (bytes, name) => sheetParts(readSheets(bytes, name)),
		read: async (bytes, name, known) => tableOfSheet(await readSheets(bytes, name), name, known)
	},
	las: { is: (head) => isLas(textOf(head)), read: (bytes, name) => tableOfLas(readLas(bytes, name), name) },
	ags: {
		is: (head) => isAgs(textOf(head)),
		parts: (bytes, name) => {
			const { groups, notes } = readAgs(bytes, name);
			return {
				parts: groups.filter((g) => g.rows.length && g.headings.length > 1).map((g) => ({ name: g.name, rows: g.rows.length })),
				notes: notes.map((n) => `${n.group}${n.line ? `, line ${n.line}` : ''}: ${n.message}`)
			};
		},
		read: (bytes, name, known) => {
			const { groups, notes } = readAgs(bytes, name);
			return tableOfGroup(groups, name, known?.part, notes);
		}
	},
	delimited: { is: () => true, read: readDelimited }
};

/** What a file of tables is, from its first bytes. */
export const tabularFormat = (bytes: Uint8Array): keyof typeof TABLE_READERS => formatAmong(TABLE_READERS, bytes, '')!;

/** The tables of a file: sheets, groups, or just one; and what its format has to say about it. */
interface TabularParts {
	format: keyof typeof TABLE_READERS;
	parts: { name: string; rows: number }[];
	notes: string[];
}

export async function partsOfFile(bytes: Uint8Array, name: string): Promise<TabularParts> {
	const format = tabularFormat(bytes);
	return { format, ...((await TABLE_READERS[format].parts?.(bytes, name)) ?? { parts: [], notes: [] }) };
}

/**
 * Reads one table of a file of any format that holds tables.
 * @param known how it is to be read; `part` names the sheet or group
 * @throws ProblemError that says what is wrong with the file
 */
export async function readTabular(bytes: Uint8Array, name: string, known: Partial<Reading> = {}): Promise<RawTable> {
	if (bytes.length === 0) return fail('empty-file', `${name} is empty`, 'Choose the file again; nothing was stored.', name);
	const raw = await TABLE_READERS[tabularFormat(bytes)].read(bytes, name, known);
	return { ...raw, header: raw.header.map(ownName) };
}

/** A name that a column can be kept under: what every object has by birth (`constructor`) would be taken for an entry. */
const ownName = (header: string): string => (header in {} ? `${header} (column)` : header);
