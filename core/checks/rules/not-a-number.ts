import { roleOf, tableKind } from '../../tables/kinds';
import type { Table } from '../../tables/table';
import type { Found, Rule } from '../finding';

/** A cell that must be a number and is not, or is empty. Measured values may be empty. */
export const notANumber: Rule = {
	id: 'not-a-number',
	title: 'Not a number',
	severity: 'held',
	reason: 'A position or depth that is not a number can not be used in any calculation.',
	scope: 'holes',
	ofVersions: true,
	*check({ tables, uses, rows, terrain }): Iterable<Found> {
		for (const table of tables) {
			const odd = new Map<number, { column: string; cell: string }[]>();
			for (const { row, column, cell } of table.notNumbers) {
				if (!uses(table, row) || roleOf(table.kind, column)?.type === 'date') continue;
				const list = odd.get(row);
				if (list) list.push({ column, cell });
				else odd.set(row, [{ column, cell }]);
			}
			const needed = Object.keys(table.numbers).filter((key) => table.headers[key] && isNeeded(table.kind, key));
			const noHeight = table.kind === 'collars' && !terrain;
			if (needed.length === 0 && odd.size === 0 && !noHeight) continue;
			for (const row of rows(table)) {
				const cells = odd.get(row);
				for (const { column, cell } of cells ?? []) {
					const held = (isNeeded(table.kind, column) && !answered(table, row, column)) || (noHeight && column === 'elevation');
					yield {
						table,
						row,
						column,
						...(table.text['hole'] ? { hole: table.text['hole'][row]! } : {}),
						severity: held ? 'held' : 'noted',
						message: `${table.headers[column]} is "${cell.slice(0, 40)}", not a number`,
						hint: held
							? 'Edit the cell or exclude the row.'
							: 'The value is left out; the row is used. A value rule can say what such a cell stands for.'
					};
				}
				if (noHeight && Number.isNaN(table.numbers['elevation']?.[row] ?? NaN) && !cells?.some((c) => c.column === 'elevation'))
					yield {
						table,
						row,
						column: 'elevation',
						hole: table.text['hole']![row]!,
						message: `${table.text['hole']![row]} has no elevation, and there is no terrain to take it from`,
						hint: 'Bring in a terrain, or give the elevation.'
					};
				for (const key of needed)
					if (Number.isNaN(table.numbers[key]![row]!) && !cells?.some((c) => c.column === key) && !answered(table, row, key))
						yield {
							table,
							row,
							column: key,
							...(table.text['hole'] ? { hole: table.text['hole'][row]! } : {}),
							message: `${table.headers[key]} is empty`,
							hint: 'Edit the cell or exclude the row.'
						};
			}
		}
	}
};

/** Without these a row has no place. */
const PLACES = new Set([
	'easting',
	'northing',
	'totalDepth',
	'depth',
	'azimuth',
	'inclination',
	'from',
	'to',
	'thickness',
	'dip',
	'dipAzimuth',
	'strike',
	'alpha',
	'beta',
	'plunge',
	'trend'
]);
const isNeeded = (kind: Parameters<typeof roleOf>[0], key: string): boolean => {
	const role = roleOf(kind, key);
	if (!role) return false;
	// A collar may give its direction or not; a reading table of other kinds need not have a depth.
	if (kind === 'collars') return role.required;
	// The thickness of a sheet is told where its middle is.
	if (kind === 'contactPoints' && key === 'thickness') return false;
	return PLACES.has(key) && kind !== 'other';
};

/** Whether a row that may leave a column empty gives another set of columns instead: dip and dip azimuth in place of alpha and beta. */
function answered(table: Table, row: number, column: string): boolean {
	const { rowChooses, oneOf } = tableKind(table.kind);
	return (
		rowChooses === true &&
		oneOf!.some((set) => set.includes(column)) &&
		oneOf!.some((set) => set.every((key) => !Number.isNaN(table.numbers[key]?.[row] ?? NaN)))
	);
}
