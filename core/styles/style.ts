import { BLANK, MOSS } from '../palette';
import * as yup from 'yup';
import { NO_CLASS, columnOf, type CategoryColumn, type Column, type DataSet, type NumberColumn } from '../datasets/dataset';
import { fail } from '../problem';
import { isPattern, PATTERNS, proposePattern, type PatternName } from './patterns';
import { sortedValues } from '../statistics/spread';
import { proposeScale, RAMPS, readyScale, type NumberScale, type ReadyScale } from './scale';

/** How one class of a column is drawn. */
export interface ClassStyle {
	color: string;
	pattern: PatternName | null;
	hidden: boolean;
}

/** What a class is drawn like unless its style says otherwise. */
export type ClassDefaults = (column: CategoryColumn, category: string, position: number) => Pick<ClassStyle, 'color' | 'pattern'>;

/** How a data set is drawn: the same for every kind of data and in every pane. */
export interface DataStyle {
	/** Key of the column that gives the colour; null is one colour. */
	by: string | null;
	color: string;
	/** By column and class: what differs from the default. */
	classes: Record<string, Record<string, Partial<ClassStyle>>>;
	/** Order of the classes by column, as far as it was changed. */
	order: Record<string, string[]>;
	/** By column; a column without one takes a scale that suits its values. */
	scales: Record<string, NumberScale>;
	/** By column: only rows with a value in the window are shown. */
	windows: Record<string, [number, number]>;
	opacity: number;
	size: {
		value: number;
		unit: 'm' | 'px';
		/** Column that scales the size from a third of `value` to three times it; null is one size. */
		by: string | null;
	};
	/** Key of the column whose text stands beside each; null is none. */
	labels: string | null;
}

export const plainStyle = (by: string | null = null): DataStyle => ({
	by,
	color: MOSS,
	classes: {},
	order: {},
	scales: {},
	windows: {},
	opacity: 1,
	size: { value: 6, unit: 'px', by: null },
	labels: null
});

const HEX = /^#[0-9a-f]{6}$/i;
const colorSchema = yup.string().matches(HEX, 'a colour is # and six hexadecimal digits');
const finite = yup.number().test('finite', 'must be a finite number', (v) => v === undefined || v === null || Number.isFinite(v));

/** A record whose values are checked by a schema. */
const recordOf = <T>(schema: yup.Schema<T>, most = 5000) =>
	yup
		.mixed<Record<string, T>>((v): v is Record<string, T> => typeof v === 'object' && v !== null && !Array.isArray(v))
		.test('record', '${path} is not valid', function (v) {
			if (v === undefined) return true;
			const entries = Object.entries(v);
			if (entries.length > most) return this.createError({ message: `${this.path} has more than ${most} entries` });
			for (const [key, value] of entries) {
				try {
					schema.validateSync(value, { strict: true });
				} catch (error) {
					return this.createError({ message: `${key}: ${(error as Error).message}` });
				}
			}
			return true;
		});

const scaleSchema = yup
	.object({
		kind: yup.string().oneOf(['linear', 'log', 'equal-count', 'breaks']).required(),
		ramp: yup.string().oneOf(Object.keys(RAMPS)).required(),
		reversed: yup.boolean().required(),
		clip: yup.array(finite.nullable().defined()).length(2).required(),
		breaks: yup.array(finite.required()).max(50).required(),
		classes: yup.number().integer().min(2).max(20).required()
	})
	.noUnknown();

export const styleSchema = yup
	.object({
		by: yup.string().max(500).nullable().defined(),
		color: colorSchema.required(),
		classes: recordOf(
			recordOf(
				yup.object({ color: colorSchema, pattern: yup.string().oneOf(Object.keys(PATTERNS)).nullable(), hidden: yup.boolean() }).noUnknown()
			)
		).required(),
		order: recordOf(yup.array(yup.string().max(500).defined()).max(5000).required()).required(),
		scales: recordOf(scaleSchema).required(),
		windows: recordOf(yup.array(finite.required()).length(2).required()).required(),
		opacity: yup.number().min(0).max(1).required(),
		size: yup
			.object({
				value: yup.number().min(0).max(10_000).required(),
				unit: yup.string().oneOf(['m', 'px']).required(),
				by: yup.string().max(500).nullable().defined()
			})
			.noUnknown()
			.required(),
		labels: yup.string().max(500).nullable().defined()
	})
	.noUnknown();

/** Colours that are told apart beside each other: hues a golden angle apart in three lightnesses, by position. */
export function colorAt(position: number): string {
	const hue = (position * 137.508 + 25) % 360;
	const lightness = [0.52, 0.68, 0.4][Math.floor(position / 7) % 3]!;
	const saturation = 0.42;
	const f = (n: number) => {
		const k = (n + hue / 30) % 12;
		const v = lightness - saturation * Math.min(lightness, 1 - lightness) * Math.max(-1, Math.min(k - 3, 9 - k, 1));
		return Math.round(255 * v)
			.toString(16)
			.padStart(2, '0');
	};
	return `#${f(0)}${f(8)}${f(4)}`;
}

export const plainDefaults: ClassDefaults = (_column, category, position) => ({
	color: colorAt(position),
	pattern: proposePattern(category)
});

/** Classes of a column in the order of the style; classes that the style does not know come after, as they come. */
export function orderedClasses(column: CategoryColumn, style: Pick<DataStyle, 'order'>): string[] {
	const known = new Set(column.categories);
	const first = (style.order[column.key] ?? []).filter((c) => known.has(c));
	const listed = new Set(first);
	return [...first, ...column.categories.filter((c) => !listed.has(c))];
}

export const classStyle = (
	column: CategoryColumn,
	category: string,
	style: Pick<DataStyle, 'classes'>,
	defaults: ClassDefaults
): ClassStyle => ({
	...defaults(column, category, column.categories.indexOf(category)),
	hidden: false,
	...(Object.hasOwn(style.classes, column.key) && Object.hasOwn(style.classes[column.key]!, category)
		? style.classes[column.key]![category]
		: {})
});

export const scaleOf = (column: NumberColumn, style: Pick<DataStyle, 'scales'>, sorted: ArrayLike<number>): NumberScale =>
	style.scales[column.key] ?? proposeScale(sorted);

/** What no value has. */
export const NO_VALUE_COLOR = BLANK;
const NO_VALUE = 0xc9c6bc;

/** Draws the rows of one data set. */
export interface Painter {
	/** 0xRRGGBB of a row; −1 where it is not shown. */
	rgb: (row: number) => number;
	css: (row: number) => string;
	pattern: (row: number) => PatternName | null;
	/** Size of a row as a share of the size of the style, 1/3–3. */
	size: (row: number) => number;
	/** Of the column that gives the colour, when it holds numbers. */
	scale: ReadyScale | null;
	shown: (row: number) => boolean;
	/** No row is hidden. */
	all: boolean;
}

/** A colour as one number, from `#rrggbb`. */
export const rgbOf = (hex: string): number => Number.parseInt(hex.slice(1), 16);

/** Sorted finite values by column array, kept as long as the array lives. */
const sortedOf = new WeakMap<ArrayLike<number> & object, Float32Array | Float64Array>();
export function sortedColumn(column: NumberColumn): Float32Array | Float64Array {
	let s = sortedOf.get(column.values);
	if (!s) sortedOf.set(column.values, (s = sortedValues(column.values)));
	return s;
}

/** Ranks values that are part of others by these, so that both have one colour for one value. */
export const rankedAs = (part: NumberColumn, whole: NumberColumn): void => void sortedOf.set(part.values, sortedColumn(whole));

/** Makes a style ready to draw the rows of a data set. Columns that are not there (any more) count as none. */
export function painter(set: Pick<DataSet, 'columns'>, style: DataStyle, defaults: ClassDefaults = plainDefaults): Painter {
	const filters = filtersOf(set, style, defaults);
	const shown = (row: number) => filters.every((f) => f(row));
	const column = columnOf(set, style.by);
	const { value, pattern, scale } = colorsOf(column, style, defaults);
	const by = columnOf(set, style.size.by);
	let size = (_row: number) => 1;
	if (by && by.type !== 'category') {
		const s = readyScale(scaleOf(by, style, sortedColumn(by)), sortedColumn(by));
		size = (row) => {
			const t = s.at(by.values[row]!);
			return Number.isNaN(t) ? 1 / 3 : 3 ** (2 * t - 1);
		};
	}
	const rgb = filters.length ? (row: number) => (shown(row) ? value(row) : -1) : value;
	return { rgb, css: (row) => cssOf(value(row)), pattern, size, scale, shown, all: filters.length === 0 };
}

export const cssOf = (rgb: number): string => `#${rgb.toString(16).padStart(6, '0')}`;

function colorsOf(
	column: Column | null,
	style: DataStyle,
	defaults: ClassDefaults
): { value: (row: number) => number; pattern: (row: number) => PatternName | null; scale: ReadyScale | null } {
	if (!column) {
		const one = rgbOf(style.color);
		return { value: () => one, pattern: () => null, scale: null };
	}
	if (column.type === 'category') {
		const list = column.categories.map((c) => classStyle(column, c, style, defaults));
		const colors = list.map((c) => rgbOf(c.color));
		return {
			value: (row) => colors[column.values[row]!] ?? NO_VALUE,
			pattern: (row) => list[column.values[row]!]?.pattern ?? null,
			scale: null
		};
	}
	const sorted = sortedColumn(column);
	const scale = readyScale(scaleOf(column, style, sorted), sorted);
	const steps = 512;
	const ramp = RAMPS[scaleOf(column, style, sorted).ramp];
	const table = Int32Array.from({ length: steps + 1 }, (_, i) => rgbOf(hexOf(ramp(i / steps))));
	return {
		value: (row) => {
			const t = scale.at(column.values[row]!);
			return Number.isNaN(t) ? NO_VALUE : table[Math.round(t * steps)]!;
		},
		pattern: () => null,
		scale
	};
}

/** d3's ramps answer in `rgb(r, g, b)` or `#rrggbb`. */
export function hexOf(color: string): string {
	if (color[0] === '#') return color;
	const [r, g, b] = color.match(/[\d.]+/g)!.map(Number) as [number, number, number];
	return `#${[r, g, b].map((v) => Math.round(v).toString(16).padStart(2, '0')).join('')}`;
}

function filtersOf(set: Pick<DataSet, 'columns'>, style: DataStyle, defaults: ClassDefaults): ((row: number) => boolean)[] {
	const filters: ((row: number) => boolean)[] = [];
	for (const column of set.columns) {
		if (column.type === 'category') {
			if (!Object.values(style.classes[column.key] ?? {}).some((c) => c.hidden)) continue;
			const hidden = column.categories.map((c) => classStyle(column, c, style, defaults).hidden);
			filters.push((row) => column.values[row] === NO_CLASS || !hidden[column.values[row]!]);
			continue;
		}
		const window = style.windows[column.key];
		if (!window) continue;
		// Read once: a style may be an object that watches every access.
		const [low, high] = window;
		const { values } = column;
		filters.push((row) => values[row]! >= low && values[row]! <= high);
	}
	return filters;
}

/** The classes of a column as an open document: a JSON list that other programs can read and write. */
export function writeClasses(column: CategoryColumn, style: DataStyle, defaults: ClassDefaults): string {
	const classes = orderedClasses(column, style).map((name) => {
		const { color, pattern, hidden } = classStyle(column, name, style, defaults);
		return { name, color, ...(pattern ? { pattern } : {}), ...(hidden ? { hidden } : {}) };
	});
	return `${JSON.stringify({ column: column.label, classes }, null, '\t')}\n`;
}

const classesFile = yup
	.object({
		column: yup.string().max(500),
		classes: yup
			.array(
				yup
					.object({
						name: yup.string().max(500).required(),
						color: colorSchema.required(),
						pattern: yup.string().max(50),
						hidden: yup.boolean()
					})
					.required()
			)
			.min(1)
			.max(5000)
			.required()
	})
	.required();

/**
 * Takes the classes of a document into a style; classes that the column does not have are left out, patterns of another name dropped.
 * @returns the style, and the number of classes that were found in the column
 * @throws ProblemError `not-a-legend`
 */
export function readClasses(text: string, column: CategoryColumn, style: DataStyle): { style: DataStyle; found: number } {
	let file: yup.InferType<typeof classesFile>;
	try {
		file = classesFile.validateSync(JSON.parse(text), { strict: true });
	} catch (error) {
		return fail(
			'not-a-legend',
			`this is no list of classes: ${(error as Error).message}`,
			'It must be JSON: {"classes": [{"name": "…", "color": "#rrggbb", "pattern": "sand"}]}.'
		);
	}
	const known = new Set(column.categories);
	const taken = file.classes.filter((c) => known.has(c.name));
	const classes = Object.fromEntries(
		taken.map((c) => [c.name, { color: c.color, pattern: c.pattern && isPattern(c.pattern) ? c.pattern : null, hidden: c.hidden ?? false }])
	);
	return {
		style: {
			...style,
			classes: { ...style.classes, [column.key]: { ...style.classes[column.key], ...classes } },
			order: { ...style.order, [column.key]: taken.map((c) => c.name) }
		},
		found: taken.length
	};
}
