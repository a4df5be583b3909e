import { CHANGE } from '../tables/version';
import { unitOrCode, type Lumping, type Unit } from '../units/column';
import { NO_CLASS, type CategoryColumn, type DataSet } from './dataset';

/** A data set with one more column, `unit`: what its codes are taken to be. Sets without codes stay as they are. */
export function withUnits(set: DataSet, units: readonly Unit[], lumping: Lumping): DataSet {
	const code = set.columns.find((c) => c.key === 'code');
	if (code?.type !== 'category' || units.length === 0) return set;
	const number = new Map(units.map((u, k) => [u.id, k]));
	const unitOf = code.categories.map((c) => number.get(unitOrCode(lumping, c)) ?? NO_CLASS);
	const column: CategoryColumn = {
		key: 'unit',
		// Beside the unit of what it goes out from that of a version says what it is.
		label: set.columns.some((c) => c.key === CHANGE) ? 'unit, relogged' : 'unit',
		type: 'category',
		categories: units.map((u) => u.name),
		values: Uint16Array.from(code.values, (v) => (v === NO_CLASS ? NO_CLASS : unitOf[v]!))
	};
	return { ...set, columns: [column, ...set.columns] };
}
