import { tableKind } from '../tables/kinds';
import { PAPER } from '../palette';
import type { DataSet } from '../datasets/dataset';
import type { Box } from '../geometry/box';
import { unitOrCode, type Lumping, type Unit } from '../units/column';
import { proposePattern } from './patterns';
import { plainDefaults, plainStyle, type ClassDefaults, type DataStyle } from './style';
import { timeColor } from './time-colors';

/** Colours that classes have by themselves: units theirs, codes those of the unit that they are taken to be, names of geological time those of the chart. */
export function unitDefaults(
	units: readonly Pick<Unit, 'id' | 'name' | 'color'>[],
	lumping: Lumping,
	schemes: readonly { units: readonly { name: string; color: string }[] }[] = []
): ClassDefaults {
	const byName = new Map(units.map((u) => [u.name, u]));
	const ranked = new Map(schemes.flatMap((s) => s.units.flatMap((u) => (u.color ? [[u.name, u.color] as const] : []))));
	const byId = new Map(units.map((u) => [u.id, u]));
	return (column, category, position) => {
		const unit = column.key === 'unit' ? byName.get(category) : column.key === 'code' ? byId.get(unitOrCode(lumping, category)) : undefined;
		if (unit) return { color: unit.color, pattern: proposePattern(category) ?? proposePattern(unit.name) };
		const plain = plainDefaults(column, category, position);
		// A column of ranks or of time has the colours of its scheme, or of the units of the same name.
		const color = ranked.get(category) ?? byName.get(category)?.color ?? timeColor(category);
		return color ? { color, pattern: plain.pattern ?? proposePattern(category) } : plain;
	};
}

/** A style that suits a data set that nobody has styled. */
export function proposedStyle(set: Pick<DataSet, 'kind' | 'place' | 'columns' | 'rowCount'>, extent: Box | null): DataStyle {
	const has = (key: string) => set.columns.some((c) => c.key === key);
	const firstNumber = set.columns.find((c) => c.type === 'number');
	const by = has('unit')
		? 'unit'
		: has('code')
			? 'code'
			: set.kind === 'collars'
				? null
				: has('feature')
					? 'feature'
					: (firstNumber?.key ?? null);
	const style = plainStyle(by);
	const wide = extent ? Math.hypot(extent.maxX - extent.minX, extent.maxY - extent.minY) : 1000;
	if (set.kind && tableKind(set.kind).directions) style.size = { value: Number((wide / 70).toPrecision(2)), unit: 'm', by: null };
	else if (set.place === 'map') style.size = { value: set.rowCount > 1000 ? 4 : 7, unit: 'px', by: null };
	// The ring of a hole on the map: light inside, dark round it.
	if (set.kind === 'collars') style.color = PAPER;
	return style;
}
