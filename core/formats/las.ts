import { fail } from '../problem';
import { decodeText } from '../tables/delimited';
import type { RawTable, Reading } from '../tables/raw-table';

/** A line of the header of a LAS file: `MNEM.UNIT VALUE : DESCRIPTION`. */
interface LasItem {
	mnemonic: string;
	unit: string;
	value: string;
	description: string;
}

/** A well log of the Log ASCII Standard 2.0 (Canadian Well Logging Society 1992). */
export interface Las {
	well: LasItem[];
	curves: LasItem[];
	parameters: LasItem[];
	/** Cells by curve; empty where the file has its null value. */
	columns: string[][];
	/** Line of the file on which each depth step begins. */
	lines: Int32Array;
}

/** Whether a text begins as a LAS file. */
export const isLas = (text: string): boolean => /^(\s*#[^\n]*\n)*\s*~V/i.test(text.slice(0, 4000));

function parseItem(line: string): LasItem | null {
	const m = /^\s*([^.\s]+)\s*\.(\S*)\s*(.*)$/.exec(line);
	if (!m) return null;
	// The last colon stands before the description; a time of day has colons of its own.
	const rest = m[3]!;
	const at = rest.lastIndexOf(':');
	return {
		mnemonic: m[1]!,
		unit: m[2]!,
		value: (at < 0 ? rest : rest.slice(0, at)).trim(),
		description: at < 0 ? '' : rest.slice(at + 1).trim()
	};
}

/**
 * Reads a LAS 2.0 file, wrapped or not.
 * @throws ProblemError `not-a-las`, `las-version`, `las-columns`
 */
export function readLas(bytes: Uint8Array, name: string): Las {
	const text = decodeText(bytes);
	if (!isLas(text)) return fail('not-a-las', `${name} is no LAS file`, 'It should begin with a line ~Version.', name);
	const las: Las = { well: [], curves: [], parameters: [], columns: [], lines: new Int32Array(0) };
	let section = '';
	let wrapped = false;
	let empty = NaN;
	const lines: number[] = [];
	let waiting: string[] = [];
	let began = 0;
	const flush = () => {
		waiting.forEach((v, i) => las.columns[i]!.push(v !== '' && Number(v) === empty ? '' : v));
		lines.push(began);
		waiting = [];
	};
	text.split(/\r\n|\n|\r/).forEach((raw, i) => {
		const line = raw.trim();
		if (line === '' || line.startsWith('#')) return;
		if (line.startsWith('~')) {
			section = line[1]?.toUpperCase() ?? '';
			if (section === 'A') {
				if (las.curves.length < 2)
					fail(
						'las-columns',
						`${name} names ${las.curves.length} curves; at least a depth and one value are needed`,
						undefined,
						`${name}, line ${i + 1}`
					);
				las.columns = las.curves.map(() => []);
			}
			return;
		}
		if (section === 'A') {
			const cells = line.split(/[\s,]+/).filter((c) => c !== '');
			if (waiting.length === 0) began = i + 1;
			waiting.push(...cells);
			if (waiting.length > las.curves.length || (!wrapped && waiting.length !== las.curves.length))
				fail(
					'las-columns',
					`${name} has ${waiting.length} values where ${las.curves.length} curves are named`,
					'Check the line, or whether the file says WRAP YES.',
					`${name}, line ${i + 1}`
				);
			if (waiting.length === las.curves.length) flush();
			return;
		}
		const item = parseItem(raw);
		if (!item) return;
		if (section === 'V') {
			if (/^vers/i.test(item.mnemonic) && !/^[12](\.|$)/.test(item.value))
				fail('las-version', `${name} is LAS ${item.value}`, 'LAS 1.2 and 2.0 are read.', name);
			if (/^wrap/i.test(item.mnemonic)) wrapped = /^y/i.test(item.value);
		} else if (section === 'W') {
			las.well.push(item);
			if (/^null$/i.test(item.mnemonic)) empty = Number(item.value);
		} else if (section === 'C') las.curves.push(item);
		else if (section === 'P') las.parameters.push(item);
	});
	if (waiting.length) fail('las-columns', `${name} ends in the middle of a depth step`, 'The file is cut off; send it again.', name);
	if (lines.length === 0) fail('empty-file', `${name} holds no values`, 'Choose a file with data.', name);
	las.lines = Int32Array.from(lines);
	return las;
}

/** The name of the well. */
export const lasWell = (las: Las): string =>
	las.well.find((i) => /^well$/i.test(i.mnemonic))?.value || las.well.find((i) => /^uwi$/i.test(i.mnemonic))?.value || '';

/** What the head of a file promises and its depths do not keep. */
function wholeness(las: Las): string[] {
	const of = (mnemonic: string) => Number(las.well.find((i) => i.mnemonic.toUpperCase() === mnemonic)?.value || NaN);
	const depths = las.columns[0]!.map(Number).filter(Number.isFinite);
	const [first, last] = [depths[0] ?? NaN, depths[depths.length - 1] ?? NaN];
	const step = Math.abs(of('STEP')) || Math.abs(depths[1]! - first) || 0;
	const notes: string[] = [];
	if (Math.abs(last - of('STOP')) > 1.5 * step + 1e-6)
		notes.push(`the file says that it stops at ${of('STOP')}, and stops at ${last}: it may be cut off`);
	if (Math.abs(first - of('STRT')) > 1.5 * step + 1e-6) notes.push(`the file says that it starts at ${of('STRT')}, and starts at ${first}`);
	return notes;
}

/** A LAS file as a table: the name of the well, then the curves. */
export function tableOfLas(las: Las, name: string): RawTable {
	const well = lasWell(las) || name.replace(/\.\w+$/, '');
	const names = new Map<string, number>();
	const header = las.curves.map((c) => {
		const n = (names.get(c.mnemonic) ?? 0) + 1;
		names.set(c.mnemonic, n);
		return n > 1 ? `${c.mnemonic} ${n}` : c.mnemonic;
	});
	const reading: Reading = { delimiter: 'space', decimal: '.', thousands: '', headerLine: 0, unitsLine: false, comment: '#' };
	const notes = wholeness(las);
	return {
		header: ['WELL', ...header],
		units: ['', ...las.curves.map((c) => c.unit)],
		columns: [Array.from(las.lines, () => well), ...las.columns],
		rowCount: las.lines.length,
		lines: las.lines,
		...(notes.length ? { notes } : {}),
		reading
	};
}

const EMPTY = '-999.25';

/** Writes a LAS 2.0 file, not wrapped. Empty cells become the null value. */
export function writeLas(las: Pick<Las, 'well' | 'curves' | 'parameters' | 'columns'>): string {
	const depths = las.columns[0]!;
	const item = (i: LasItem) => ` ${i.mnemonic.padEnd(8)}.${i.unit.padEnd(8)} ${i.value} : ${i.description}`;
	const edge = (mnemonic: string, value: string): LasItem => ({ mnemonic, unit: las.curves[0]!.unit, value, description: '' });
	const steps = depths.slice(1).map((d, i) => Number(d) - Number(depths[i]!));
	const even = steps.length > 0 && steps.every((s) => Math.abs(s - steps[0]!) < 1e-9);
	const own = new Set(['STRT', 'STOP', 'STEP', 'NULL']);
	return (
		[
			'~Version',
			item({ mnemonic: 'VERS', unit: '', value: '2.0', description: 'CWLS Log ASCII Standard, version 2.0' }),
			item({ mnemonic: 'WRAP', unit: '', value: 'NO', description: 'One line for each depth step' }),
			'~Well',
			item(edge('STRT', depths[0]!)),
			item(edge('STOP', depths[depths.length - 1]!)),
			item(edge('STEP', even ? String(Number(steps[0]!.toPrecision(10))) : '0')),
			item({ mnemonic: 'NULL', unit: '', value: EMPTY, description: '' }),
			...las.well.filter((i) => !own.has(i.mnemonic.toUpperCase())).map(item),
			'~Curve',
			...las.curves.map(item),
			...(las.parameters.length ? ['~Parameter', ...las.parameters.map(item)] : []),
			'~Ascii',
			...depths.map((_, row) => las.columns.map((c) => (c[row] === '' ? EMPTY : c[row]!)).join(' '))
		].join('\n') + '\n'
	);
}
