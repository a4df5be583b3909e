import { columnOf, numberOf, titleOf, type DataSet, type NumberColumn } from '../datasets/dataset';
import { placeAt, type HolePaths } from '../datasets/hole-paths';
import { holeIndex } from '../scene/hole-index';
import { sortedValues } from '../statistics/spread';
import type { ClassDefaults, DataStyle } from '../styles/style';
import type { LogAxis, LogSpec, LogTrack } from './spec';

/** All that a log is drawn from. */
export interface LogData {
	paths: HolePaths;
	set: (table: string) => DataSet | null;
	style: (set: DataSet) => DataStyle;
	defaults: ClassDefaults;
	/** Text of a row in a column that is too various to be one of classes. */
	text: (table: string, key: string, row: number) => string;
	/** Findings in a hole, by measured depth. */
	findings: (hole: string) => readonly { depth: number; severity: 'held' | 'noted'; message: string }[];
	/** Photographs of the core of a hole, by measured depth; `href` is an address or a data URI. */
	photographs: (hole: string) => readonly { from: number; to: number; href: string; name: string }[];
	/** What a hole passes through in a model, and what that is called; null while it is not there. */
	model: (id: string, hole: number) => ModelLog | null;
	lengthUnit: string;
}

/** A hole as a model has it. */
export interface ModelLog {
	name: string;
	runs: readonly { from: number; to: number; name: string; color: string }[];
}

/** A hole on its way onto paper: what its vertical axis shows. */
export interface LogHole {
	/** Number among the paths. */
	number: number;
	name: string;
	/** Measured depths of its ends. */
	from: number;
	to: number;
	/** Value of the axis at a measured depth; runs downwards for elevations too. */
	axis: (depth: number) => number;
	/** Added to the axis to align holes. */
	shift: number;
}

/** Where a part of a log is drawn. All lengths in mm. */
export interface LogFrame {
	/** Height of a measured depth. */
	y: (depth: number) => number;
	/** Measured depths that are drawn. */
	from: number;
	to: number;
	/** Upper and lower edge. */
	top: number;
	bottom: number;
	/** Size of text. */
	text: number;
	/** Stands before the ids of patterns, so that several drawings can stand on a page. */
	prefix: string;
}

/** Heights of an interval, as far as it lies in the frame. */
export const clipped = (frame: LogFrame, from: number, to: number): [number, number] => [
	frame.y(Math.max(from, frame.from)),
	frame.y(Math.min(to, frame.to))
];

/** The holes of a log; those that have no path are left out. */
export function logHoles(spec: LogSpec, data: LogData): LogHole[] {
	return spec.holes.flatMap((name): LogHole[] => {
		const number = data.paths.holes.findIndex((h) => h.name === name);
		const hole = data.paths.holes[number];
		if (!hole || !(hole.totalDepth > 0)) return [];
		const axis = axisOf(data.paths, number, spec.axis);
		const at = spec.align ? firstOf(data, number, spec.align) : null;
		return [{ number, name, from: 0, to: hole.totalDepth, axis, shift: at === null ? 0 : -axis(at) }];
	});
}

function axisOf(paths: HolePaths, hole: number, axis: LogAxis): (depth: number) => number {
	if (axis === 'depth') return (d) => d;
	const p = [0, 0, 0];
	const z0 = paths.holes[hole]!.collar[2];
	return (d) => {
		placeAt(paths, hole, d, p);
		// Downwards either way, so that paper and axis run together.
		return axis === 'tvd' ? z0 - p[2]! : -p[2]!;
	};
}

/** Depth of the first interval of a class in a hole. */
function firstOf(data: LogData, hole: number, align: NonNullable<LogSpec['align']>): number | null {
	const set = data.set(align.table);
	const column = set ? columnOf(set, align.column) : null;
	if (!set || column?.type !== 'category') return null;
	const wanted = column.categories.indexOf(align.category);
	const row = rowsOf(data, set, hole).find((i) => column.values[i] === wanted);
	return row === undefined ? null : set.from[row]!;
}

export const rowsOf = (data: LogData, set: DataSet, hole: number): Uint32Array => {
	const index = holeIndex(set, data.paths.holes.length);
	return index.order.subarray(index.start[hole], index.start[hole + 1]);
};

/** Ends of the axis of a track of numbers, from the values of all holes. */
export function trackRange(track: LogTrack, data: LogData): [number, number] {
	let [low, high] = [Infinity, -Infinity];
	for (const s of track.series) {
		const set = data.set(s.table);
		const column = set ? numberOf(set, s.column) : null;
		if (!column) continue;
		const sorted = sortedOf(column);
		for (const v of sorted) {
			if (track.log && !(v > 0)) continue;
			low = Math.min(low, v);
			break;
		}
		high = Math.max(high, sorted[sorted.length - 1] ?? -Infinity);
	}
	if (!(low <= high)) [low, high] = [track.log ? 1 : 0, track.log ? 10 : 1];
	if (!track.log && low > 0 && low < high * 0.5) low = 0;
	low = track.range[0] ?? low;
	high = track.range[1] ?? high;
	if (track.log && !(low > 0)) low = high > 0 ? high / 1000 : 1;
	return high > low ? [low, high] : [low, low + (Math.abs(low) || 1)];
}
const sortedCache = new WeakMap<ArrayLike<number> & object, Float32Array | Float64Array>();
function sortedOf(c: NumberColumn): Float32Array | Float64Array {
	let s = sortedCache.get(c.values);
	if (!s) sortedCache.set(c.values, (s = sortedValues(c.values)));
	return s;
}

export const scaleOf =
	(track: LogTrack, range: [number, number], width: number) =>
	(v: number): number => {
		if (Number.isNaN(v) || (track.log && !(v > 0))) return NaN;
		const t = track.log ? Math.log(v / range[0]) / Math.log(range[1] / range[0]) : (v - range[0]) / (range[1] - range[0]);
		return Math.min(1, Math.max(0, t)) * width;
	};

/** Title of a track and, for numbers, the ends of its axis. */
export function trackTitle(track: LogTrack, data: LogData): { title: string; low: string; high: string } {
	const names = track.series.map((s) => {
		if (track.kind === 'model') return data.model(s.table, 0)?.name ?? '';
		const set = data.set(s.table);
		const c = set ? (columnOf(set, s.column) ?? set.texts.find((t) => t.key === s.column)) : null;
		return c ? titleOf(c) : (set?.name ?? '');
	});
	const plain = {
		axis: '',
		tadpoles: 'Dip, °',
		rose: 'Dip azimuth',
		samples: 'Samples',
		levels: 'Water',
		photographs: 'Core',
		findings: 'Findings'
	}[track.kind as string];
	const numbers = ['curves', 'bars', 'points'].includes(track.kind);
	const range = numbers ? trackRange(track, data) : track.kind === 'tadpoles' ? [0, 90] : null;
	const short = (v: number) => String(Number(v.toPrecision(3)));
	return { title: plain ?? names.join(', '), low: range ? short(range[0]!) : '', high: range ? short(range[1]!) : '' };
}
