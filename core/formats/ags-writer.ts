import Papa from 'papaparse';
import { formatDate } from '../tables/dates';
import type { Table } from '../tables/table';

interface Column {
	heading: string;
	unit: string;
	type: string;
	cells: string[];
}

/**
 * Collars, and a table of logged intervals, as AGS 4 (Association of Geotechnical and Geoenvironmental Specialists): PROJ, TRAN, TYPE, UNIT, LOCA
 * and GEOL. Rows in use only; lengths in metres, whatever the unit of the project.
 * @param out 1 for each row that is not in use, by the name of its table
 * @param metres length of the unit of the project
 */
export function writeAgs(
	project: string,
	collars: Table,
	log: Table | null,
	out: Readonly<Record<string, ArrayLike<number>>>,
	metres: number,
	today: string
): string {
	const lines: string[][] = [];
	const group = (name: string, columns: readonly Column[]) => {
		if (lines.length) lines.push([]);
		lines.push(
			['GROUP', name],
			['HEADING', ...columns.map((c) => c.heading)],
			['UNIT', ...columns.map((c) => c.unit)],
			['TYPE', ...columns.map((c) => c.type)]
		);
		for (let i = 0; i < columns[0]!.cells.length; i++) lines.push(['DATA', ...columns.map((c) => c.cells[i]!)]);
	};
	const one = (heading: string, type: string, cell: string): Column => ({ heading, unit: '', type, cells: [cell] });
	const rowsOf = (t: Table) => Array.from({ length: t.rowCount }, (_, i) => i).filter((i) => !out[t.name]?.[i] && t.text['hole']?.[i]);
	const text = (t: Table, rows: readonly number[], heading: string, role: string, type = 'X'): Column[] =>
		t.text[role] ? [{ heading, unit: '', type, cells: rows.map((r) => t.text[role]![r]!.replace(/[\r\n]+/g, ' ')) }] : [];
	const length = (t: Table, rows: readonly number[], heading: string, role: string): Column[] =>
		t.numbers[role]
			? [
					{
						heading,
						unit: 'm',
						type: '2DP',
						cells: rows.map((r) => (Number.isNaN(t.numbers[role]![r]!) ? '' : (t.numbers[role]![r]! * metres).toFixed(2)))
					}
				]
			: [];
	const holes = rowsOf(collars);
	const days = collars.numbers['date'];
	const loca = [
		...text(collars, holes, 'LOCA_ID', 'hole', 'ID'),
		...length(collars, holes, 'LOCA_NATE', 'easting'),
		...length(collars, holes, 'LOCA_NATN', 'northing'),
		...length(collars, holes, 'LOCA_GL', 'elevation'),
		...length(collars, holes, 'LOCA_FDEP', 'totalDepth'),
		...(days
			? [
					{
						heading: 'LOCA_STAR',
						unit: 'yyyy-mm-dd',
						type: 'DT',
						cells: holes.map((r) => (Number.isNaN(days[r]!) ? '' : formatDate(days[r]!).slice(0, 10)))
					}
				]
			: [])
	];
	const known = new Set(holes.map((r) => collars.text['hole']![r]!));
	const logged = log ? rowsOf(log).filter((r) => known.has(log.text['hole']![r]!)) : [];
	const geol = log
		? [
				...text(log, logged, 'LOCA_ID', 'hole', 'ID'),
				...length(log, logged, 'GEOL_TOP', 'from'),
				...length(log, logged, 'GEOL_BASE', 'to'),
				...text(log, logged, 'GEOL_DESC', 'description'),
				...text(log, logged, 'GEOL_LEG', 'code', 'PA')
			]
		: [];
	const abbreviations = log ? [...new Set(logged.map((r) => log.text['code']?.[r] ?? ''))].filter(Boolean) : [];
	group('PROJ', [one('PROJ_ID', 'ID', project), one('PROJ_NAME', 'X', project)]);
	group(
		'TRAN',
		[
			one('TRAN_ISNO', 'X', '1'),
			one('TRAN_DATE', 'DT', today),
			one('TRAN_STAT', 'X', 'Draft'),
			one('TRAN_AGS', 'X', '4.1'),
			one('TRAN_DLIM', 'X', '|'),
			one('TRAN_RCON', 'X', '+')
		].map((c) => (c.heading === 'TRAN_DATE' ? { ...c, unit: 'yyyy-mm-dd' } : c))
	);
	group('LOCA', loca);
	if (log) group('GEOL', geol);
	if (abbreviations.length) {
		const cells = (of: (code: string) => string) => abbreviations.map(of);
		group('ABBR', [
			{ heading: 'ABBR_HDNG', unit: '', type: 'X', cells: cells(() => 'GEOL_LEG') },
			{ heading: 'ABBR_CODE', unit: '', type: 'X', cells: cells((c) => c) },
			{ heading: 'ABBR_DESC', unit: '', type: 'X', cells: cells((c) => c) }
		]);
	}
	const all = [...loca, ...geol];
	const used = (of: (c: Column) => string) => [...new Set(['ID', 'X', 'DT', ...all.map(of)])].filter(Boolean);
	const types: Record<string, string> = {
		ID: 'Unique identifier',
		X: 'Text',
		PA: 'Text of the abbreviations',
		'2DP': 'Two decimal places',
		DT: 'Date and time'
	};
	const typesUsed = used((c) => c.type);
	group('TYPE', [
		{ heading: 'TYPE_TYPE', unit: '', type: 'X', cells: typesUsed },
		{ heading: 'TYPE_DESC', unit: '', type: 'X', cells: typesUsed.map((t) => types[t] ?? t) }
	]);
	group('UNIT', [
		{ heading: 'UNIT_UNIT', unit: '', type: 'X', cells: ['m', 'yyyy-mm-dd'] },
		{ heading: 'UNIT_DESC', unit: '', type: 'X', cells: ['metre', 'year month day'] }
	]);
	return `${lines.map((l) => (l.length ? Papa.unparse([l], { quotes: true }) : '')).join('\r\n')}\r\n`;
}
