import { kindOf } from '$lib/workbench/kinds';
import { numberOf, type DataSet } from '#core/datasets/dataset';
import { spaced } from '#core/formats/ticks';
import { RADIANS } from '#core/geometry/angles';
import { sampleRaster } from '#core/grids/raster';
import { curvePieces } from '#core/scene/hole-curves';
import { holeIndex } from '#core/scene/hole-index';
import { spreadLabels, type LeaderLabel } from '#core/scene/leader-labels';
import { legAzimuth, onProjected, partOfProjected, planeOnSection, type ProjectedHole } from '#core/sections/along-section';
import { projectOnTrace, traceLength, type Trace } from '#core/sections/section';
import type { proposePattern } from '#core/styles/patterns';
import { readyScale } from '#core/styles/scale';
import { scaleOf, sortedColumn } from '#core/styles/style';
import type { Workspace } from '$lib/workspace.svelte';

/** From distance along the section and elevation to pixels. */
export interface Place {
	X(along: number): number;
	Y(elevation: number): number;
}

/** What is seen of a unit on the section. */
export interface Face {
	info: { id: string; name: string; color: string };
	rings: readonly ArrayLike<number>[];
	pattern: ReturnType<typeof proposePattern>;
}

/** A line through places, flat distance and elevation, as a path of SVG. */
export function pathOf(points: ArrayLike<number>, { X, Y }: Place, close = false): string {
	let out = '';
	for (let i = 0; i < points.length; i += 2) out += `${i ? 'L' : 'M'}${X(points[i]!).toFixed(1)} ${Y(points[i + 1]!).toFixed(1)}`;
	return close ? `${out}Z` : out;
}

/** Logged parts of the holes: one path a colour. */
export function barPaths(workspace: Workspace, along: DataSet, holes: readonly ProjectedHole[], place: Place): Map<number, string> {
	const paths = new Map<number, string>();
	const all = workspace.sets.paths;
	if (along.place !== 'interval' || !all || !workspace.shown(`data:${along.id}`)) return paths;
	const painter = workspace.sets.painter(along);
	const index = holeIndex(along, all.holes.length);
	for (const h of holes)
		for (let k = index.start[h.hole]!; k < index.start[h.hole + 1]!; k++) {
			const i = index.order[k]!;
			const rgb = painter.rgb(i);
			if (rgb >= 0) paths.set(rgb, (paths.get(rgb) ?? '') + pathOf(partOfProjected(h, along.from[i]!, along.to[i]!), place));
		}
	return paths;
}

/** The parts of projected holes at which some rows of a data set lie, as one path. */
export function rowsPath(
	along: DataSet,
	rows: ReadonlySet<number>,
	holes: readonly ProjectedHole[],
	holeCount: number,
	place: Place
): string {
	const index = holeIndex(along, holeCount);
	let path = '';
	for (const h of holes)
		for (let k = index.start[h.hole]!; k < index.start[h.hole + 1]!; k++) {
			const i = index.order[k]!;
			if (rows.has(along.row[i]!)) path += pathOf(partOfProjected(h, along.from[i]!, along.to[i]!), place);
		}
	return path;
}

/** Rows of a data set of which a part lies in a box of the section. @param box distance and elevation: least, then greatest */
export function rowsInBox(
	along: DataSet,
	holes: readonly ProjectedHole[],
	holeCount: number,
	box: readonly [number, number, number, number]
): number[] {
	const index = holeIndex(along, holeCount);
	const rows: number[] = [];
	for (const h of holes)
		for (let k = index.start[h.hole]!; k < index.start[h.hole + 1]!; k++) {
			const i = index.order[k]!;
			const p = partOfProjected(h, along.from[i]!, along.to[i]!);
			for (let v = 0; v + 3 < p.length; v += 2)
				if (meetsBox([p[v]!, p[v + 1]!], [p[v + 2]!, p[v + 3]!], box)) {
					rows.push(along.row[i]!);
					break;
				}
		}
	return rows;
}

/** Whether a line meets a box (Liang & Barsky 1984). */
function meetsBox(a: readonly [number, number], b: readonly [number, number], box: readonly [number, number, number, number]): boolean {
	let [from, to] = [0, 1];
	for (const c of [0, 1] as const) {
		const [d, low, high] = [b[c] - a[c], box[c] - a[c], box[c + 2]! - a[c]];
		if (d === 0) {
			if (low > 0 || high < 0) return false;
			continue;
		}
		from = Math.max(from, Math.min(low / d, high / d));
		to = Math.min(to, Math.max(low / d, high / d));
	}
	return from <= to;
}

/** Curves beside the holes, with their fills. @param width of the drawing, pixels */
export function curvePaths(
	workspace: Workspace,
	holes: readonly ProjectedHole[],
	trace: Trace,
	width: number,
	place: Place
): { line: string; fill: string; color: string }[] {
	const { sets } = workspace;
	const length = traceLength(trace);
	return workspace.bench.state.curves.flatMap((curve) => {
		const set = sets.of(curve.table);
		const column = set ? numberOf(set, curve.column) : null;
		if (!set || !column || !sets.paths || length === 0) return [];
		const sorted = sortedColumn(column);
		const { at } = readyScale(scaleOf(column, sets.style(set), sorted), sorted);
		const index = holeIndex(set, sets.paths.holes.length);
		let line = '';
		let fill = '';
		for (const h of holes) {
			const collar = sets.paths.holes[h.hole]!.collar;
			const azimuth = legAzimuth(trace, projectOnTrace(trace, collar[0], collar[1]).leg);
			const hand = (Math.cos((curve.side - azimuth) * RADIANS) >= 0 ? 1 : -1) * curve.reach;
			const pieces = curvePieces(
				set,
				column,
				index.order.subarray(index.start[h.hole]!, index.start[h.hole + 1]!),
				{ at, threshold: curve.threshold, fill: curve.fill, shape: curve.shape ?? 'line' },
				(0.5 * length) / Math.max(1, width)
			);
			const off = (depth: number, t: number): [number, number] => {
				const [x, z] = onProjected(h, depth);
				return [x + hand * t, z];
			};
			for (const [d0, t0, d1, t1] of pieces.lines) line += pathOf([...off(d0, t0), ...off(d1, t1)], place);
			for (const [d0, a0, b0, d1, a1, b1] of pieces.fills)
				fill += pathOf([...off(d0, a0), ...off(d0, b0), ...off(d1, b1), ...off(d1, a1)], place, true);
		}
		return [{ line, fill, color: curve.color }];
	});
}

interface PlaneMark {
	x: number;
	y: number;
	/** Half of the mark, pixels. */
	dx: number;
	dy: number;
	color: string;
	what: string;
	row: number;
	table: string;
}

/** Planes within the corridor as short lines at their apparent dip. @param top elevation of a place that has none, where there is no terrain */
export function planeMarks(
	workspace: Workspace,
	section: { trace: Trace; corridor: number },
	place: Place,
	exaggeration: number,
	top: number
): PlaneMark[] {
	const { trace, corridor } = section;
	const length = traceLength(trace);
	const unit = workspace.project?.lengthUnit ?? 'm';
	return workspace.tables.flatMap((t) => {
		if (!kindOf(t).directions || !workspace.shown(`data:${t.id}`)) return [];
		const set = workspace.sets.of(t.id);
		const [dip, azimuth] = set ? [numberOf(set, 'dip'), numberOf(set, 'dipAzimuth')] : [null, null];
		if (!set || !dip || !azimuth) return [];
		const painter = workspace.sets.painter(set);
		const out: PlaneMark[] = [];
		for (let i = 0; i < set.rowCount; i++) {
			const at = painter.shown(i) ? workspace.sets.placeOf(set, i) : null;
			if (!at || Number.isNaN(dip.values[i]!)) continue;
			const p = planeOnSection(trace, at[0], at[1], dip.values[i]!, azimuth.values[i]!);
			if (p.off > corridor || p.along <= 0 || p.along >= length) continue;
			const z = Number.isNaN(at[2]) ? (workspace.terrain ? sampleRaster(workspace.terrain, at[0], at[1]) : top) : at[2];
			const slope = Math.atan(Math.tan(p.apparent * RADIANS) * exaggeration);
			out.push({
				x: place.X(p.along),
				y: place.Y(z),
				dx: 11 * Math.cos(slope),
				dy: 11 * Math.sin(slope),
				color: painter.css(i),
				what: `apparent dip ${Math.abs(p.apparent).toFixed(0)}° of ${dip.values[i]!.toFixed(0)}° to ${azimuth.values[i]!.toFixed(0)}°, projected ${spaced(p.off)} ${unit}`,
				row: set.row[i]!,
				table: set.id
			});
		}
		return out;
	});
}

/** The hole within six pixels of a place on the drawing, with the depth there. */
export function holeAt(
	holes: readonly ProjectedHole[],
	px: number,
	py: number,
	{ X, Y }: Place
): { h: ProjectedHole; depth: number } | null {
	let best: { h: ProjectedHole; depth: number } | null = null;
	let least = 6;
	for (const h of holes)
		for (let v = 0; v + 1 < h.depths.length; v++) {
			const [ax, ay, bx, by] = [X(h.points[2 * v]!), Y(h.points[2 * v + 1]!), X(h.points[2 * v + 2]!), Y(h.points[2 * v + 3]!)];
			const square = (bx - ax) ** 2 + (by - ay) ** 2;
			const t = square === 0 ? 0 : Math.min(1, Math.max(0, ((px - ax) * (bx - ax) + (py - ay) * (by - ay)) / square));
			const off = Math.hypot(px - ax - t * (bx - ax), py - ay - t * (by - ay));
			if (off < least) {
				least = off;
				best = { h, depth: h.depths[v]! + t * (h.depths[v + 1]! - h.depths[v]!) };
			}
		}
	return best;
}

interface HoleName extends LeaderLabel {
	name: string;
	text: string;
	/** Middle of the name. */
	at: number;
	/** Height of the collar. */
	collar: number;
}

/** Width of a letter of the drawing's type on average, pixels. */
const LETTER = 6.1;

/** Names of the holes in one row above the frame, with how far off each stands: the nearest come first when there is no room for all. */
export function holeNames(
	holes: readonly ProjectedHole[],
	frame: { x0: number; x1: number; y0: number },
	{ X, Y }: Place,
	chosen: ReadonlySet<string>
): HoleName[] {
	const within = holes.flatMap((h) => {
		const [x, collar] = [X(h.points[0]!), Math.max(frame.y0, Y(h.points[1]!))];
		const text = `${h.name}${h.off[0] >= 1 ? ` ±${spaced(h.off[0])}` : ''}`;
		return x < frame.x0 || x > frame.x1
			? []
			: [{ x, collar, name: h.name, text, width: LETTER * text.length, rank: chosen.has(h.name) ? Infinity : -h.off[0] }];
	});
	return spreadLabels(within, frame.x0 - 20, frame.x1 + 10);
}
