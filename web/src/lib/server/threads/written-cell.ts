import { roleOf } from '#core/tables/kinds';
import { unitFactor } from '#core/tables/measures';
import { writtenInclination, type InclinationHabit } from '#core/tables/written';
import type { TableState } from './stored-table';

/** A number in project units as a cell of a column: in its unit, with its decimal mark; null where the file's coordinates are others. */
export function writtenCell(state: TableState, lengthUnit: string, position: number, given: number): string | null {
	const { header, mapping, units, reading, coordinates, kind, written } = state;
	const role = roleOf(kind, mapping[header[position]!] ?? '');
	if (!role || role.type !== 'number') return null;
	const isPlace = ['easting', 'northing'].includes(role.key);
	if (isPlace && (coordinates.from || coordinates.site)) return null;
	const unit = role.unit ? units[header[position]!] : undefined;
	const habit = written?.[header[position]!];
	const value = role.key === 'inclination' && habit ? writtenInclination(given, habit as InclinationHabit) : given;
	const shifted = role.key === 'elevation' ? value - (coordinates.verticalShift ?? 0) : value;
	const own = unit ? shifted / unitFactor(role.unit!, unit, role.unit === 'length' ? lengthUnit : '°') : shifted;
	return String(Number(own.toFixed(6))).replace('.', reading.decimal);
}
