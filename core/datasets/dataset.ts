import type { Checked } from '../tables/finding';
import { planeAngles } from '../geometry/angles';
import { sampleRaster, type Raster } from '../grids/raster';
import { planeInCore } from '../holes/oriented-core';
import { directionAt } from '../holes/path';
import type { Hole } from '../holes/holes';
import { roleOf, tableKind, type TableKind } from '../tables/kinds';
import { unitOfColumn } from '../tables/calculated';
import type { Table } from '../tables/table';

/** A column of numbers; NaN where nothing is known. Dates are days since 1970-01-01. */
export interface NumberColumn {
	key: string;
	label: string;
	type: 'number' | 'date';
	/** Unit of measure, as far as it is known. */
	unit: string;
	values: Float32Array | Float64Array;
}

/** A column of classes: numbers into `categories`; `NO_CLASS` where the cell is empty. */
export interface CategoryColumn {
	key: string;
	label: string;
	type: 'category';
	values: Uint16Array;
	categories: string[];
}

export type Column = NumberColumn | CategoryColumn;

export const NO_CLASS = 0xffff;
/** A text column with more different cells, or longer ones, is read row by row and is no column of classes. */
const MOST_CLASSES = 2000;

/**
 * The rows of a table that are in use, with the place of each and a column for everything that they can be coloured, sized or
 * filtered by. All arrays have `rowCount` entries.
 */
export interface DataSet {
	/** Id of the table. */
	id: string;
	name: string;
	kind: TableKind;
	/** Rows lie along a hole (`from` and `to`), at a depth of a hole (both the same), at a place on the map, or belong to a whole hole. */
	place: 'interval' | 'depth' | 'map' | 'hole';
	rowCount: number;
	/** Row of the table. */
	row: Uint32Array;
	/** Number of the hole among the paths; empty for places on the map. */
	hole: Uint32Array;
	/** Measured depths, project units. */
	from: Float32Array;
	to: Float32Array;
	/** Position of places on the map: easting, northing, elevation, 3 numbers each. */
	xyz: Float64Array;
	columns: Column[];
	/** Text columns that are too various to be classes. */
	texts: { key: string; label: string }[];
}

const placeOf = (t: Table): DataSet['place'] => {
	const { at } = tableKind(t.kind);
	if (at === 'map' || at === 'start') return 'map';
	if (at === 'depth') return 'depth';
	if (t.numbers['from'] && t.numbers['to']) return 'interval';
	return t.numbers['depth'] ? 'depth' : 'hole';
};

/**
 * Places the rows of a table that are in use.
 * @param holes in the order of the paths that the panes have; rows of other holes are left out
 * @param stated units of measure by header, as the file or the user gives them
 */
export function placeTable(
	table: Table,
	checked: Pick<Checked, 'out'>,
	holes: readonly Hole[],
	terrain: Raster | null,
	lengthUnit: string,
	stated: Readonly<Record<string, string>> = {}
): DataSet {
	const out = checked.out[table.name]!;
	const place = placeOf(table);
	const holeNumber = new Map(holes.map((h, i) => [h.name, i]));
	const names = table.text['hole'];
	const row = new Uint32Array(table.rowCount);
	const hole = new Uint32Array(table.rowCount);
	let n = 0;
	let [name, number] = ['', holeNumber.get('')];
	for (let r = 0; r < table.rowCount; r++) {
		if (out[r]) continue;
		if (place !== 'map') {
			// Rows of a hole follow each other, most of the time.
			if (names![r] !== name) [name, number] = [names![r]!, holeNumber.get(names![r]!)];
			if (number === undefined) continue;
			hole[n] = number;
		}
		row[n++] = r;
	}
	const rows = row.slice(0, n);
	const take = (values: Float64Array | undefined) => {
		const own = new Float32Array(values ? n : 0);
		for (let i = 0; i < own.length; i++) own[i] = values![rows[i]!]!;
		return own;
	};
	const set: DataSet = {
		id: table.name,
		name: table.name,
		kind: table.kind,
		place,
		rowCount: n,
		row: rows,
		hole: place === 'map' ? new Uint32Array(0) : hole.slice(0, n),
		from: new Float32Array(0),
		to: new Float32Array(0),
		xyz: new Float64Array(0),
		columns: [],
		texts: []
	};
	if (place === 'interval') {
		set.from = take(table.numbers['from']);
		set.to = take(table.numbers['to']);
	} else if (place === 'depth') set.from = set.to = take(table.numbers['depth']);
	else if (place === 'map') set.xyz = positions(table, rows, terrain);
	for (const [key, values] of Object.entries(table.numbers)) {
		if (PLACES.has(key)) continue;
		const role = tableKind(table.kind).roles.find((r) => r.key === key);
		const header = table.headers[key] ?? key;
		const unit = unitOfColumn(table, key, lengthUnit, stated);
		set.columns.push({
			key,
			label: role && !role.many ? role.label : header,
			type: role?.type === 'date' ? 'date' : 'number',
			unit,
			values: role?.type === 'date' ? Float64Array.from(rows, (r) => values[r]!) : take(values)
		});
	}
	if (table.kind === 'holeOrientations') truePlanes(set, table, holes);
	for (const [key, cells] of Object.entries(table.text)) {
		if (key === 'hole' && place !== 'map') continue;
		const role = roleOf(table.kind, key);
		const label = role && role.key !== 'keep' ? role.label : (table.headers[key] ?? key);
		const classes = classify(cells, rows);
		if (classes) set.columns.push({ key, label, type: 'category', ...classes });
		else set.texts.push({ key, label });
	}
	return set;
}

/** Columns that say where a row lies. */
const PLACES = new Set(['easting', 'northing', 'elevation', 'from', 'to', 'depth', 'thickness']);

function positions(table: Table, rows: Uint32Array, terrain: Raster | null): Float64Array {
	const xyz = new Float64Array(3 * rows.length);
	rows.forEach((r, i) => {
		const [x, y, z] = [table.numbers['easting']![r]!, table.numbers['northing']![r]!, table.numbers['elevation']?.[r] ?? NaN];
		xyz.set([x, y, Number.isNaN(z) && terrain ? sampleRaster(terrain, x, y) : z], 3 * i);
	});
	return xyz;
}

/** Classes of the cells of some rows; null when there are too many or they are prose. */
export function classify(cells: readonly string[], rows: ArrayLike<number>): { values: Uint16Array; categories: string[] } | null {
	const known = new Map<string, number>();
	const values = new Uint16Array(rows.length);
	let before: string | null = null;
	for (let i = 0; i < rows.length; i++) {
		const cell = cells[rows[i]!]!;
		if (cell === before) {
			values[i] = values[i - 1]!;
			continue;
		}
		before = cell;
		if (cell === '') {
			values[i] = NO_CLASS;
			continue;
		}
		let k = known.get(cell);
		if (k === undefined) {
			if (known.size === MOST_CLASSES || cell.length > 60) return null;
			known.set(cell, (k = known.size));
		}
		values[i] = k;
	}
	// More classes than half of many rows are names, not classes.
	if (known.size > 200 && known.size > rows.length / 2) return null;
	return { values, categories: [...known.keys()] };
}

/** Planes measured in cores as dip and dip azimuth. */
function truePlanes(set: DataSet, table: Table, holes: readonly Hole[]): void {
	const column = (key: string, label: string): NumberColumn => {
		let c = set.columns.find((x) => x.key === key) as NumberColumn | undefined;
		if (!c) set.columns.push((c = { key, label, type: 'number', unit: '°', values: new Float32Array(set.rowCount).fill(NaN) }));
		return c;
	};
	const [dip, dipAzimuth] = [column('dip', 'Dip'), column('dipAzimuth', 'Dip azimuth')];
	const { alpha, beta } = table.numbers;
	if (!alpha || !beta) return;
	for (let i = 0; i < set.rowCount; i++) {
		if (!Number.isNaN(dip.values[i]!) && !Number.isNaN(dipAzimuth.values[i]!)) continue;
		const normal = planeInCore(alpha[set.row[i]!]!, beta[set.row[i]!]!, directionAt(holes[set.hole[i]!]!.path, set.from[i]!));
		if (!normal || !Number.isFinite(normal[0])) continue;
		const angles = planeAngles(normal);
		dip.values[i] = angles.dip;
		dipAzimuth.values[i] = angles.dipAzimuth;
	}
}

/** Label of a column with its unit, unless the label says it already. */
export function titleOf(c: { label: string; unit?: string }): string {
	return c.unit && !c.label.toLowerCase().includes(c.unit.toLowerCase()) ? `${c.label}, ${c.unit}` : c.label;
}

/** A column of a data set by its key. */
export const columnOf = (set: Pick<DataSet, 'columns'>, key: string | null): Column | null =>
	set.columns.find((c) => c.key === key) ?? null;
export const numberOf = (set: Pick<DataSet, 'columns'>, key: string | null): NumberColumn | null => {
	const c = columnOf(set, key);
	return c && c.type !== 'category' ? c : null;
};
