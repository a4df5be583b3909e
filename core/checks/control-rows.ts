import type { Table } from '../tables/table';

const HEADER = /(sample|assay|check)?.?(type|class|category)$|qc|dup|control/i;
const CONTROL =
	/^(d|dup.*|f.?dup.*|l.?dup.*|field.?dup.*|lab.*dup.*|rep|repeat|replicate|check.*|chk|blk|blank.*|std|standard.*|crm.*|qc.*|umpire.*)$/i;

const known = new WeakMap<Table, (row: number) => boolean>();

/** Whether a row of a table is marked as a control of the laboratory: a duplicate, a blank, a standard. Such rows repeat others on purpose. */
export function isControl(table: Table): (row: number) => boolean {
	let test = known.get(table);
	if (!test) {
		const columns = Object.entries(table.text)
			.filter(([key]) => key !== 'hole' && key !== 'code' && HEADER.test(table.headers[key] ?? key))
			.map(([, cells]) => cells);
		test = columns.length ? (row) => columns.some((cells) => CONTROL.test(cells[row]!)) : () => false;
		known.set(table, test);
	}
	return test;
}
