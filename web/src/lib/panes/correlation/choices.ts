import { dateColumns, isAge } from '#core/stratigraphy/date-columns';
import type { DateSource } from '#core/stratigraphy/hole-ages';
import type { Tie, TieEnd } from '#core/stratigraphy/ties';

/** What a table is called and how its columns are read. */
export interface ReadTable {
	id: string;
	name: string;
	state: Record<string, unknown>;
}

/** A column along holes. */
export interface ColumnOption {
	key: string;
	table: string;
	column: string;
	name: string;
}

const columnsOf = (t: ReadTable) => Object.entries((t.state['mapping'] ?? {}) as Record<string, string>);
const has = (t: ReadTable, ...roles: string[]) => columnsOf(t).some(([, role]) => roles.includes(role));
const isLog = (t: ReadTable) => has(t, 'hole') && has(t, 'to', 'thickness');
const isAlong = (t: ReadTable) => isLog(t) || (has(t, 'hole') && has(t, 'depth') && t.state['kind'] !== 'surveys');
const option = (t: ReadTable, column: string, label: string): ColumnOption => ({
	key: `${t.id} ${column}`,
	table: t.id,
	column,
	name: `${t.name}: ${label}`
});

/** Columns of words along holes that can be correlated: units first, where the column has any, those of the table that is shown before all others. */
export const logOptions = (tables: readonly ReadTable[], shown: string | null, hasUnits: boolean): ColumnOption[] =>
	tables
		.filter(isLog)
		.sort((a, b) => Number(b.id === shown) - Number(a.id === shown))
		.flatMap((t) => [
			...columnsOf(t).flatMap(([header, role]) =>
				role === 'code' ? [...(hasUnits ? [option(t, 'unit', 'unit')] : []), option(t, 'code', header)] : []
			),
			...columnsOf(t).flatMap(([header, role]) => (role === 'keep' ? [option(t, header, header)] : []))
		]);

/** Columns of numbers along holes, for curves. */
export const curveOptions = (tables: readonly ReadTable[]): ColumnOption[] =>
	tables
		.filter(isAlong)
		.flatMap((t) => columnsOf(t).flatMap(([header, role]) => (role === 'value' && !isAge(header) ? [option(t, header, header)] : [])));

/** Tables that look as if they dated depths: a column of ages, or two that ages lie between. */
export function proposeDates(tables: readonly ReadTable[]): DateSource[] {
	return tables.filter(isAlong).flatMap((t): DateSource[] => {
		const own = dateColumns(columnsOf(t).flatMap(([header, role]) => (role === 'value' ? [header] : [])));
		return own ? [{ table: t.id, ...own }] : [];
	});
}

/** A tie between two places, with an id that no other has; the left one stands first. */
export function newTie(ties: readonly Pick<Tie, 'id'>[], a: TieEnd, b: TieEnd, name: string): Tie {
	const ids = new Set(ties.map((t) => t.id));
	let n = ties.length + 1;
	while (ids.has(`tie-${n}`)) n++;
	const round = (e: TieEnd) => ({ hole: e.hole, depth: Math.round(e.depth * 1000) / 1000 });
	return { id: `tie-${n}`, name, kind: 'certain', a: round(a), b: round(b) };
}

/** Ties of which an end lay on a boundary, when that goes to another depth. */
export const withMovedEnds = (ties: readonly Tie[], hole: string, from: number, to: number): Tie[] =>
	ties.map((t) => {
		const move = (e: TieEnd): TieEnd => (e.hole === hole && Math.abs(e.depth - from) < 2e-3 ? { hole, depth: to } : e);
		return { ...t, a: move(t.a), b: move(t.b) };
	});
