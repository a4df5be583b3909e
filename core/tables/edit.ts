import { moveRow } from './row-index';
import { roleOf } from './kinds';
import { LEAVE, type ColumnUnits, type Mapping } from './mapping';
import { numberReader } from './numbers';
import type { RawTable } from './raw-table';
import { cellReader, derive, type Table } from './table';
import { applyValueRules, type ValueRules } from './value-rules';

/** How the columns of a table are read. */
interface TableReading {
	mapping: Mapping;
	units: ColumnUnits;
	values: ValueRules;
	lengthUnit: string;
}

/**
 * Changes one cell of a table that is held in memory, in place: the raw cell, the value that is read from it, and the list of odd cells.
 * @returns the key of the column in the table; null when the column is left out
 */
export function editCell(raw: RawTable, table: Table, reading: TableReading, row: number, position: number, value: string): string | null {
	const header = raw.header[position]!;
	const before = raw.columns[position]![row]!;
	raw.columns[position]![row] = value;
	const roleKey = reading.mapping[header] ?? LEAVE;
	const role = roleKey === LEAVE ? undefined : roleOf(table.kind, roleKey);
	if (!role) return null;
	const key = role.many ? header : role.key;
	if (role.type === 'text') {
		// The text of a role is the raw column itself.
		if (key === 'hole') moveRow(table, row, before, value);
		return key;
	}
	const v = cellReader(role, raw, raw.columns[position]!, reading.units[header], reading.lengthUnit, table.written?.[key])(value);
	table.numbers[key]![row] = v;
	table.notNumbers = table.notNumbers.filter((o) => o.row !== row || o.column !== key);
	if (Number.isNaN(v) && value !== '') table.notNumbers.push({ row, column: key, cell: value });
	const rule = role.many ? reading.values[header] : undefined;
	if (rule) {
		const one = {
			...table,
			numbers: { [key]: table.numbers[key]!.subarray(row, row + 1) },
			notNumbers: table.notNumbers.filter((o) => o.row === row && o.column === key).map((o) => ({ ...o, row: 0 }))
		};
		applyValueRules(one, [key], () => [value], reading.values, numberReader(raw.reading));
		if (one.notNumbers.length === 0) table.notNumbers = table.notNumbers.filter((o) => o.row !== row || o.column !== key);
	}
	if (table.kind === 'intervals' || key === 'strike') derive(table);
	return key;
}

/** Leaves a row of a table out, or takes it in again, in place; depths that follow from the rows above are brought up to date. */
export function excludeRow(table: Table, row: number, excluded: boolean): void {
	table.excluded[row] = excluded ? 1 : 0;
	derive(table);
}
