import type { DataSet, NumberColumn } from '../datasets/dataset';
import { placeAt, type HolePaths } from '../datasets/hole-paths';
import { RADIANS } from '../geometry/angles';
import { cross, dot, normalize, type Vec3 } from '../geometry/vector';
import { holeIndex } from './hole-index';

/** How values become a curve beside a hole. */
interface CurveLook {
	/** Where a value stands between the hole (0) and the reach (1); NaN breaks the curve. */
	at: (value: number) => number;
	threshold: number | null;
	fill: 'above' | 'below';
	/** A line through the values, or a bar from the hole for each. */
	shape: 'line' | 'bars';
}

interface CurveOptions extends CurveLook {
	origin: readonly [number, number, number];
	/** Angle round the hole, degrees clockwise from north seen from above. */
	side: number;
	/** Project units. */
	reach: number;
	resolution: (h: number) => number;
	wanted: (h: number) => boolean;
}

/** A curve by measured depth (d) and distance from the hole as a share of its reach (t). */
interface CurvePieces {
	/** d, t of one end, d, t of the other. */
	lines: [number, number, number, number][];
	/** d of the upper end, t from and to there; then the same for the lower end. */
	fills: [number, number, number, number, number, number][];
}

interface CurveShape {
	/** Both ends of each piece of the line, 6 numbers each, less the origin. */
	lines: number[];
	/** Corners of the triangles of the fill, 9 numbers each. */
	fill: number[];
}

/**
 * Direction in which a curve stands off a hole: square to the hole, and as near as can be to the wanted side.
 * @param along unit vector down the hole
 */
export function sideOf(along: Vec3, side: number): Vec3 {
	const wanted: Vec3 = [Math.sin(side * RADIANS), Math.cos(side * RADIANS), 0];
	const d = dot(wanted, along);
	const square: Vec3 = [wanted[0] - d * along[0], wanted[1] - d * along[1], wanted[2] - d * along[2]];
	return Math.hypot(...square) < 1e-6 ? normalize(cross(along, [0, 0, 1])) : normalize(square);
}

/** A curve beside the holes of a data set, in 3D. */
export function curveShape(
	set: Pick<DataSet, 'hole' | 'from' | 'to' | 'rowCount' | 'place'>,
	column: NumberColumn,
	paths: HolePaths,
	o: CurveOptions
): CurveShape {
	const index = holeIndex(set, paths.holes.length);
	const shape: CurveShape = { lines: [], fill: [] };
	const point = new Float64Array(3);
	for (let h = 0; h < paths.holes.length; h++) {
		if (!o.wanted(h) || index.start[h] === index.start[h + 1]) continue;
		const last = index.order[index.start[h + 1]! - 1]!;
		const middle = (set.from[index.order[index.start[h]!]!]! + set.to[last]!) / 2;
		const above = new Float64Array(3);
		placeAt(paths, h, middle - 0.5, above);
		placeAt(paths, h, middle + 0.5, point);
		const along = normalize([point[0]! - above[0]!, point[1]! - above[1]!, point[2]! - above[2]!]);
		const side = sideOf(along.every(Number.isFinite) ? along : [0, 0, -1], o.side);
		const place = (depth: number, t: number): Vec3 => {
			placeAt(paths, h, depth, point);
			return [
				point[0]! - o.origin[0] + side[0] * t * o.reach,
				point[1]! - o.origin[1] + side[1] * t * o.reach,
				point[2]! - o.origin[2] + side[2] * t * o.reach
			];
		};
		const pieces = curvePieces(set, column, index.order.subarray(index.start[h]!, index.start[h + 1]!), o, o.resolution(h));
		for (const [d0, t0, d1, t1] of pieces.lines) shape.lines.push(...place(d0, t0), ...place(d1, t1));
		for (const [d0, a0, b0, d1, a1, b1] of pieces.fills) {
			const [p0, p1, q0, q1] = [place(d0, a0), place(d0, b0), place(d1, a1), place(d1, b1)];
			shape.fill.push(...p0, ...q0, ...q1, ...p0, ...q1, ...p1);
		}
	}
	return shape;
}

/**
 * The curve of one hole. Values closer than the resolution are put together to the one that stands out most, so that peaks stay.
 * Intervals are drawn as steps or bars of their length, readings at depths as a line or as rods.
 * @param rows of the hole, by depth
 */
export function curvePieces(
	set: Pick<DataSet, 'from' | 'to' | 'place'>,
	column: NumberColumn,
	rows: Uint32Array,
	look: CurveLook,
	resolution: number
): CurvePieces {
	const pieces: CurvePieces = { lines: [], fills: [] };
	const limit = look.threshold === null ? null : look.at(look.threshold);
	const filled = (t: number) => limit !== null && (look.fill === 'above' ? t > limit : t < limit);
	const held = heldValues(set, column, rows, look.at, resolution);
	if (look.shape === 'bars') {
		for (const { from, to, t } of held) {
			if (to > from) pieces.lines.push([from, 0, from, t], [from, t, to, t], [to, t, to, 0]);
			else pieces.lines.push([from, 0, from, t]);
			// Without a threshold all bars are filled, else those beyond it.
			if (to > from && (limit === null || filled(t))) pieces.fills.push([from, 0, t, to, 0, t]);
		}
		return pieces;
	}
	const points: { depth: number; t: number }[] = [];
	let before = -Infinity;
	for (const { from, to, t } of held) {
		// An interval after a gap starts a curve of its own.
		if (set.place === 'interval' && points.length && from - before > Math.max(resolution, 0.01)) points.push({ depth: before, t: NaN });
		before = to;
		if (set.place === 'interval') points.push({ depth: from, t }, { depth: to, t });
		else points.push({ depth: (from + to) / 2, t });
	}
	for (let k = 0; k + 1 < points.length; k++) {
		const [a, b] = [points[k]!, points[k + 1]!];
		if (Number.isNaN(a.t) || Number.isNaN(b.t)) continue;
		pieces.lines.push([a.depth, a.t, b.depth, b.t]);
		if (limit === null || (!filled(a.t) && !filled(b.t))) continue;
		const beyond = (t: number) => (look.fill === 'above' ? Math.max(t, limit) : Math.min(t, limit));
		pieces.fills.push([a.depth, limit, beyond(a.t), b.depth, limit, beyond(b.t)]);
	}
	return pieces;
}

function heldValues(
	set: Pick<DataSet, 'from' | 'to'>,
	column: NumberColumn,
	rows: Uint32Array,
	at: (v: number) => number,
	bin: number
): { from: number; to: number; t: number }[] {
	const out: { from: number; to: number; t: number }[] = [];
	for (const i of rows) {
		const t = at(column.values[i]!);
		if (Number.isNaN(t)) continue;
		const [from, to] = [set.from[i]!, set.to[i]!];
		const held = out[out.length - 1];
		if (held && to - held.from <= bin && from - held.to <= bin) {
			held.to = to;
			held.t = Math.max(held.t, t);
		} else out.push({ from, to, t });
	}
	return out;
}
