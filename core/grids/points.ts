import { fail } from '../problem';
import { cellAt, type Frame } from './frame';

/** Readings at places of the map; what is no number was left out. */
export interface Points {
	x: Float64Array;
	y: Float64Array;
	value: Float64Array;
	/** Number of the reading that each comes from, of several the first. */
	from: Uint32Array;
}

/** What becomes of several readings in one cell. */
export const COMBINE = {
	all: 'keep all',
	mean: 'mean',
	median: 'median',
	first: 'first',
	last: 'last',
	least: 'least',
	greatest: 'greatest',
	sum: 'sum',
	count: 'how many'
} as const;
export type Combine = keyof typeof COMBINE;

/** What was read, and what became of it. */
interface PointsReport {
	/** Rows that were looked at. */
	rows: number;
	/** Rows with a place and a value. */
	read: number;
	missing: number;
	/** Outside the frame; they are used all the same, for what lies near the edge. */
	outside: number;
	/** Cells with several readings, and how many readings there are in them. */
	doubledCells: number;
	doubledReadings: number;
	/** What a method takes after readings of one cell, or of one place, were combined. */
	used: number;
	least: number;
	greatest: number;
	mean: number;
}

/**
 * Readings with a place and a value; those that fall into one cell of the frame combined as is wanted. Readings at exactly one place
 * are always combined (the mean, where all are kept): no method can pass through two values there.
 * @throws ProblemError `no-readings` when none has both
 */
export function gatherPoints(
	x: ArrayLike<number>,
	y: ArrayLike<number>,
	value: ArrayLike<number>,
	frame: Frame | null,
	combine: Combine = 'all'
): { points: Points; report: PointsReport } {
	const kept: number[] = [];
	let [outside, missing] = [0, 0];
	for (let i = 0; i < value.length; i++) {
		if (!Number.isFinite(x[i]!) || !Number.isFinite(y[i]!) || !Number.isFinite(value[i]!)) missing++;
		else {
			kept.push(i);
			if (frame && cellAt(frame, x[i]!, y[i]!) < 0) outside++;
		}
	}
	if (kept.length === 0)
		fail(
			'no-readings',
			value.length === 0 ? 'there are no rows to take readings from' : `none of ${value.length} rows has a place and a number`,
			'Choose another column, or see under Check why its cells are no numbers.'
		);
	const groups = new Map<number | string, number[]>();
	let [doubledCells, doubledReadings] = [0, 0];
	const byCell = new Map<number, number>();
	for (const i of kept) {
		const cell = frame ? cellAt(frame, x[i]!, y[i]!) : -1;
		if (cell >= 0) byCell.set(cell, (byCell.get(cell) ?? 0) + 1);
		const key = combine !== 'all' && cell >= 0 ? cell : `${x[i]} ${y[i]}`;
		const list = groups.get(key);
		if (list) list.push(i);
		else groups.set(key, [i]);
	}
	for (const n of byCell.values())
		if (n > 1) {
			doubledCells++;
			doubledReadings += n;
		}
	const n = groups.size;
	const points: Points = { x: new Float64Array(n), y: new Float64Array(n), value: new Float64Array(n), from: new Uint32Array(n) };
	let at = 0;
	for (const list of groups.values()) {
		points.x[at] = list.reduce((s, i) => s + x[i]!, 0) / list.length;
		points.y[at] = list.reduce((s, i) => s + y[i]!, 0) / list.length;
		points.value[at] = combined(
			list.map((i) => value[i]!),
			combine
		);
		points.from[at++] = list[0]!;
	}
	let [least, greatest, sum] = [Infinity, -Infinity, 0];
	for (const v of points.value) [least, greatest, sum] = [Math.min(least, v), Math.max(greatest, v), sum + v];
	return {
		points,
		report: {
			rows: value.length,
			read: kept.length,
			missing,
			outside,
			doubledCells,
			doubledReadings,
			used: n,
			least,
			greatest,
			mean: sum / n
		}
	};
}

/** One value of several. */
function combined(values: readonly number[], how: Combine): number {
	switch (how) {
		case 'first':
			return values[0]!;
		case 'last':
			return values[values.length - 1]!;
		case 'least':
			return values.reduce((a, b) => Math.min(a, b));
		case 'greatest':
			return values.reduce((a, b) => Math.max(a, b));
		case 'sum':
			return values.reduce((a, b) => a + b);
		case 'count':
			return values.length;
		case 'median': {
			const s = [...values].sort((a, b) => a - b);
			return (s[(s.length - 1) >> 1]! + s[s.length >> 1]!) / 2;
		}
		default:
			return values.reduce((a, b) => a + b) / values.length;
	}
}

/** The usual distance between neighbours of scattered places: the side of the square that each has to itself. */
export function usualSpacing(count: number, box: { minX: number; minY: number; maxX: number; maxY: number }): number {
	const [w, h] = [box.maxX - box.minX, box.maxY - box.minY];
	const area = w * h;
	return area > 0 ? Math.sqrt(area / Math.max(1, count)) : Math.max(w, h) / Math.max(1, count - 1);
}
