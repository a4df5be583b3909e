import { fail } from '../problem';
import { decodeText, readDelimited } from '../tables/delimited';
import type { RawTable, Reading } from '../tables/raw-table';
import { isAgs, readAgs, tableOfGroup } from './ags';
import { isLas, readLas, tableOfLas } from './las';
import { readOdsSheets } from './ods';
import { isZip, readSheets, tableOfSheet, zipEntries } from './xlsx';

/** The formats that hold tables. */
type TabularFormat = 'delimited' | 'xlsx' | 'ods' | 'las' | 'ags';

/** Whether a ZIP archive is a workbook, whatever pictures it holds beside its sheets. */
export function workbookFormat(bytes: Uint8Array): 'xlsx' | 'ods' | null {
	if (!isZip(bytes)) return null;
	try {
		const entries = zipEntries(bytes, '');
		if ([...entries.keys()].some((n) => /^xl\/workbook\.(xml|bin)$/.test(n))) return 'xlsx';
		return entries.has('content.xml') && entries.has('mimetype') ? 'ods' : null;
	} catch {
		return null;
	}
}

/** What a file of tables is, from its first bytes. A ZIP archive that is no workbook is taken for one: its reader says what is wrong with it. */
export function tabularFormat(bytes: Uint8Array): TabularFormat {
	if (isZip(bytes)) return workbookFormat(bytes) ?? 'xlsx';
	const head = decodeText(bytes.subarray(0, 4096));
	return isLas(head) ? 'las' : isAgs(head) ? 'ags' : 'delimited';
}

/** The tables of a file: sheets, groups, or just one; and what its format has to say about it. */
interface TabularParts {
	format: TabularFormat;
	parts: { name: string; rows: number }[];
	notes: string[];
}

export async function partsOfFile(bytes: Uint8Array, name: string): Promise<TabularParts> {
	const format = tabularFormat(bytes);
	if (format === 'xlsx' || format === 'ods')
		return { format, parts: (await sheetsOf(bytes, name, format)).map((s) => ({ name: s.name, rows: s.rows.length })), notes: [] };
	if (format === 'ags') {
		const { groups, notes } = readAgs(bytes, name);
		return {
			format,
			parts: groups.filter((g) => g.rows.length && g.headings.length > 1).map((g) => ({ name: g.name, rows: g.rows.length })),
			notes: notes.map((n) => `${n.group}${n.line ? `, line ${n.line}` : ''}: ${n.message}`)
		};
	}
	return { format, parts: [], notes: [] };
}

/**
 * Reads one table of a file of any format that holds tables.
 * @param known how it is to be read; `part` names the sheet or group
 * @throws ProblemError that says what is wrong with the file
 */
export async function readTabular(bytes: Uint8Array, name: string, known: Partial<Reading> = {}): Promise<RawTable> {
	if (bytes.length === 0) return fail('empty-file', `${name} is empty`, 'Choose the file again; nothing was stored.', name);
	const raw = await readFormat(bytes, name, known);
	return { ...raw, header: raw.header.map(ownName) };
}

/** A name that a column can be kept under: what every object has by birth (`constructor`) would be taken for an entry. */
const ownName = (header: string): string => (header in {} ? `${header} (column)` : header);

const sheetsOf = async (bytes: Uint8Array, name: string, format: TabularFormat) =>
	format === 'ods' ? readOdsSheets(bytes, name) : readSheets(bytes, name);

async function readFormat(bytes: Uint8Array, name: string, known: Partial<Reading>): Promise<RawTable> {
	switch (tabularFormat(bytes)) {
		case 'xlsx':
		case 'ods':
			return tableOfSheet(await sheetsOf(bytes, name, tabularFormat(bytes)), name, known);
		case 'las':
			return tableOfLas(readLas(bytes, name), name);
		case 'ags': {
			const { groups, notes } = readAgs(bytes, name);
			return tableOfGroup(groups, name, known.part, notes);
		}
		case 'delimited':
			return readDelimited(bytes, name, known);
	}
}
