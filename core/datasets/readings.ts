import type { Feature } from 'geojson';
import type { Pack } from '../formats/pack';
import { sampleRaster, type Raster } from '../grids/raster';
import type { Hole } from '../holes/holes';
import { positionAt } from '../holes/path';
import { fail } from '../problem';
import { formatDate } from '../tables/dates';
import { roleOf } from '../tables/kinds';
import { classify, type DataSet } from './dataset';
import type { Checked } from '../tables/finding';
import type { Table } from '../tables/table';
import { unitOfColumn } from '../tables/calculated';

/** A column of readings. Numbers are NaN, texts '' where nothing is known; dates are days since 1970-01-01 with the time as a fraction. */
export type ReadingColumn =
	| { key: string; label: string; type: 'number' | 'date'; unit: string; values: Float64Array }
	| { key: string; label: string; type: 'text'; values: string[] };

/**
 * The rows in use of a table with the place of each in space: what recipes take of a table, and what those give back that make one
 * of another. All columns have `rowCount` entries.
 */
export interface Readings {
	rowCount: number;
	/** Row of the table that each comes from, counted from 0. */
	row: Uint32Array;
	/** NaN where a row has no place. Of an interval its middle. */
	x: Float64Array;
	y: Float64Array;
	z: Float64Array;
	columns: ReadingColumn[];
}

/**
 * Rows in use with all their columns in full precision. Of intervals `top` and `base` are the elevations of their ends; of anything in
 * a hole `hole` is its name.
 * @param terrain gives places without an elevation theirs
 */
export function readingsOf(
	table: Table,
	checked: Pick<Checked, 'out'>,
	holes: readonly Hole[],
	terrain: Raster | null,
	lengthUnit: string,
	stated: Readonly<Record<string, string>> = {}
): Readings {
	const out = checked.out[table.name];
	const byName = new Map(holes.map((h) => [h.name, h]));
	const names = table.text['hole'];
	const { easting, northing, elevation, from, to, depth } = table.numbers;
	const onMap = easting && northing && table.kind !== 'surveys';
	const rows: number[] = [];
	for (let r = 0; r < table.rowCount; r++) if (!out?.[r] && !table.excluded[r]) rows.push(r);
	const n = rows.length;
	const place = () => new Float64Array(n).fill(NaN);
	const [x, y, z, top, base] = [place(), place(), place(), place(), place()];
	rows.forEach((r, i) => {
		if (onMap) {
			[x[i], y[i]] = [easting[r]!, northing[r]!];
			const own = elevation?.[r] ?? NaN;
			z[i] = Number.isNaN(own) && terrain && Number.isFinite(x[i]! + y[i]!) ? sampleRaster(terrain, x[i]!, y[i]!) : own;
			return;
		}
		const hole = byName.get(names?.[r] ?? '');
		if (!hole) return;
		const [a, b] = [from?.[r] ?? NaN, to?.[r] ?? NaN];
		const at = depth?.[r] ?? (a + b) / 2;
		const p = Number.isFinite(at) ? positionAt(hole.path, at) : hole.path.collar;
		[x[i], y[i], z[i]] = [p[0], p[1], p[2]];
		if (Number.isFinite(a)) top[i] = positionAt(hole.path, a)[2];
		if (Number.isFinite(b)) base[i] = positionAt(hole.path, b)[2];
	});
	const columns: ReadingColumn[] = [];
	const label = (key: string) => {
		const role = roleOf(table.kind, key);
		return role && !role.many && role.key !== 'keep' ? role.label : (table.headers[key] ?? key);
	};
	for (const [key, values] of Object.entries(table.numbers)) {
		const type = roleOf(table.kind, key)?.type === 'date' ? 'date' : 'number';
		columns.push({
			key,
			label: label(key),
			type,
			unit: unitOfColumn(table, key, lengthUnit, stated),
			values: Float64Array.from(rows, (r) => values[r]!)
		});
	}
	if (from && to && !onMap)
		columns.push(
			{ key: 'top', label: 'Elevation of the top', type: 'number', unit: lengthUnit, values: top },
			{ key: 'base', label: 'Elevation of the base', type: 'number', unit: lengthUnit, values: base }
		);
	for (const [key, cells] of Object.entries(table.text))
		columns.push({ key, label: label(key), type: 'text', values: rows.map((r) => cells[r]!) });
	return { rowCount: n, row: Uint32Array.from(rows), x, y, z, columns: unique(columns) };
}

/** Columns by their keys; of two with one key the first. */
function unique(columns: ReadingColumn[]): ReadingColumn[] {
	const known = new Set<string>();
	return columns.filter((c) => !known.has(c.key) && known.add(c.key));
}

/** A column of readings by its key. @throws ProblemError `unknown-column` that names those there are */
export function readingColumn(r: Readings, key: string, what: string): ReadingColumn {
	return (
		r.columns.find((c) => c.key === key) ??
		fail(
			'unknown-column',
			`${what} has no column "${key}"`,
			`Its columns are ${r.columns.map((c) => c.key).join(', ') || 'none'}.`,
			'column'
		)
	);
}

/** Numbers of a column. @throws ProblemError `unknown-column`, `not-numbers` */
export function numbersOf(r: Readings, key: string, what: string): Float64Array {
	if (key === 'z') return r.z;
	const c = readingColumn(r, key, what);
	return c.type === 'text'
		? fail('not-numbers', `the column "${key}" of ${what} holds text`, 'Choose a column of numbers.', 'column')
		: c.values;
}

/** What is told of readings before they are opened: how many, columns with labels and units, and the rectangle they lie in. */
export function describeReadings(r: Readings) {
	const box = { minX: Infinity, minY: Infinity, maxX: -Infinity, maxY: -Infinity };
	for (let i = 0; i < r.rowCount; i++) {
		if (!Number.isFinite(r.x[i]!) || !Number.isFinite(r.y[i]!)) continue;
		box.minX = Math.min(box.minX, r.x[i]!);
		box.maxX = Math.max(box.maxX, r.x[i]!);
		box.minY = Math.min(box.minY, r.y[i]!);
		box.maxY = Math.max(box.maxY, r.y[i]!);
	}
	return {
		rows: r.rowCount,
		columns: r.columns.map((c) => ({ key: c.key, label: c.label, type: c.type, unit: c.type === 'text' ? '' : c.unit })),
		box: box.minX <= box.maxX ? box : null
	};
}

export function packReadings(r: Readings): Pack {
	const arrays: Pack['arrays'] = { row: r.row, x: r.x, y: r.y, z: r.z };
	const columns = r.columns.map((c, i) => {
		if (c.type !== 'text') {
			arrays[`c${i}`] = c.values;
			return { key: c.key, label: c.label, type: c.type, unit: c.unit };
		}
		const words = new Map<string, number>();
		arrays[`c${i}`] = Uint32Array.from(c.values, (v) => {
			if (!words.has(v)) words.set(v, words.size);
			return words.get(v)!;
		});
		return { key: c.key, label: c.label, type: c.type, words: [...words.keys()] };
	});
	return { info: { readings: true, rowCount: r.rowCount, columns }, arrays };
}

export function unpackReadings({ info, arrays }: Pack): Readings {
	const described = info['columns'] as { key: string; label: string; type: ReadingColumn['type']; unit?: string; words?: string[] }[];
	return {
		rowCount: info['rowCount'] as number,
		row: arrays['row'] as Uint32Array,
		x: arrays['x'] as Float64Array,
		y: arrays['y'] as Float64Array,
		z: arrays['z'] as Float64Array,
		columns: described.map((c, i): ReadingColumn =>
			c.type === 'text'
				? { key: c.key, label: c.label, type: 'text', values: Array.from(arrays[`c${i}`] as Uint32Array, (k) => c.words![k]!) }
				: { key: c.key, label: c.label, type: c.type, unit: c.unit ?? '', values: arrays[`c${i}`] as Float64Array }
		)
	};
}

/** A key that no column has yet. */
export function freeKey(wanted: string, columns: readonly ReadingColumn[]): string {
	for (let n = 1; ; n++) {
		const key = n === 1 ? wanted : `${wanted}_${n}`;
		if (!columns.some((c) => c.key === key)) return key;
	}
}

/** Some of the rows. */
export function rowsWhere(r: Readings, keep: (i: number) => boolean): Readings {
	const rows = Array.from({ length: r.rowCount }, (_, i) => i).filter(keep);
	return rowsInOrder(r, rows);
}

/** Rows by their numbers, in this order. */
function rowsInOrder(r: Readings, rows: readonly number[]): Readings {
	const take = (v: Float64Array) => Float64Array.from(rows, (i) => v[i]!);
	return {
		rowCount: rows.length,
		row: Uint32Array.from(rows, (i) => r.row[i]!),
		x: take(r.x),
		y: take(r.y),
		z: take(r.z),
		columns: r.columns.map((c): ReadingColumn =>
			c.type === 'text' ? { ...c, values: rows.map((i) => c.values[i]!) } : { ...c, values: take(c.values) }
		)
	};
}

/** Readings as rows of a file: their places first where they have one, then their columns. */
export function readingsTable(r: Readings): { header: string[]; rows: (string | number)[][] } {
	const placed = r.x.some(Number.isFinite);
	const own = r.columns.filter(
		(c) => !placed || !['easting', 'northing', 'elevation'].includes(c.key) || c.label === 'Elevation of the water'
	);
	const cell = (c: ReadingColumn, i: number): string | number => {
		if (c.type === 'text') return c.values[i]!;
		const v = c.values[i]!;
		if (Number.isNaN(v)) return '';
		return c.type === 'date' ? formatDate(v) : Number(v.toPrecision(12));
	};
	const number = (v: number) => (Number.isFinite(v) ? Number(v.toFixed(4)) : '');
	return {
		header: [...(placed ? ['easting', 'northing', 'elevation'] : []), ...own.map((c) => c.key)],
		rows: Array.from({ length: r.rowCount }, (_, i) => [
			...(placed ? [number(r.x[i]!), number(r.y[i]!), number(r.z[i]!)] : []),
			...own.map((c) => cell(c, i))
		])
	};
}

/** Readings that have a place as points. */
export function readingsFeatures(r: Readings): Feature[] {
	const { header, rows } = readingsTable(r);
	return rows.flatMap((row, i): Feature[] =>
		Number.isFinite(r.x[i]!) && Number.isFinite(r.y[i]!)
			? [
					{
						type: 'Feature',
						properties: Object.fromEntries(header.map((h, k) => [h, row[k] === '' ? null : row[k]])),
						geometry: { type: 'Point', coordinates: Number.isFinite(r.z[i]!) ? [r.x[i]!, r.y[i]!, r.z[i]!] : [r.x[i]!, r.y[i]!] }
					}
				]
			: []
	);
}

/** Readings as panes draw, style, filter and chart them. @param id of the object that they are */
export function dataSetOfReadings(r: Readings, id: string, name: string): DataSet {
	const xyz = new Float64Array(3 * r.rowCount);
	for (let i = 0; i < r.rowCount; i++) xyz.set([r.x[i]!, r.y[i]!, r.z[i]!], 3 * i);
	const all = Array.from({ length: r.rowCount }, (_, i) => i);
	const set: DataSet = { ...emptySet(id, name), rowCount: r.rowCount, row: Uint32Array.from(all), xyz };
	for (const c of r.columns) {
		if (['easting', 'northing'].includes(c.key)) continue;
		if (c.type !== 'text') set.columns.push({ key: c.key, label: c.label, type: c.type, unit: c.unit, values: c.values });
		else {
			const classes = classify(c.values, all);
			if (classes) set.columns.push({ key: c.key, label: c.label, type: 'category', ...classes });
			else set.texts.push({ key: c.key, label: c.label });
		}
	}
	return set;
}

/** The values of a grid as a data set of one column, so that it has a style as all data have. */
export const dataSetOfGrid = ({ values, unit }: Pick<Raster, 'values' | 'unit'>, id: string, name: string): DataSet => ({
	...emptySet(id, name),
	rowCount: values.length,
	columns: [{ key: 'value', label: name, type: 'number', unit: unit ?? '', values }]
});

const emptySet = (id: string, name: string): DataSet => ({
	id,
	name,
	kind: 'places',
	place: 'map',
	rowCount: 0,
	row: new Uint32Array(0),
	hole: new Uint32Array(0),
	from: new Float32Array(0),
	to: new Float32Array(0),
	xyz: new Float64Array(0),
	columns: [],
	texts: []
});
