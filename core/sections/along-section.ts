import type { HolePaths } from '../datasets/hole-paths';
import { apparentDip, RADIANS, wrapAzimuth } from '../geometry/angles';
import { pointOnTrace, projectOnTrace, traceLength, type Trace } from './section';

/** A hole as it is projected onto a section. */
export interface ProjectedHole {
	/** Number among the paths. */
	hole: number;
	name: string;
	/** Distance along the section and elevation of its vertices, flat, with their measured depths. */
	points: Float64Array;
	depths: Float64Array;
	/** How far its parts were projected: least and greatest distance from the section, project units. */
	off: [number, number];
}

/** Holes of which a part lies within the corridor (half its width on each side) of a section. */
export function holesNearSection(paths: HolePaths, trace: Trace, corridor: number): ProjectedHole[] {
	const length = traceLength(trace);
	const out: ProjectedHole[] = [];
	paths.holes.forEach((h, n) => {
		const [start, end] = [paths.start[n]!, paths.start[n + 1]!];
		const points = new Float64Array(2 * (end - start));
		let [low, high] = [Infinity, 0];
		let within = false;
		for (let v = start; v < end; v++) {
			const p = projectOnTrace(trace, paths.xyz[3 * v]!, paths.xyz[3 * v + 1]!);
			points[2 * (v - start)] = p.along;
			points[2 * (v - start) + 1] = paths.xyz[3 * v + 2]!;
			low = Math.min(low, p.off);
			high = Math.max(high, p.off);
			if (p.off <= corridor && p.along > 0 && p.along < length) within = true;
		}
		if (within) out.push({ hole: n, name: h.name, points, depths: paths.depths.subarray(start, end), off: [low, high] });
	});
	return out;
}

/** Distance along the section and elevation at a measured depth; beyond the ends the hole goes on straight. */
export function onProjected(h: Pick<ProjectedHole, 'points' | 'depths'>, depth: number): [number, number] {
	const { points, depths } = h;
	const n = depths.length;
	if (n < 2) return [points[0] ?? NaN, (points[1] ?? NaN) - depth];
	let low = 0;
	let high = n - 1;
	while (high - low > 1) {
		const middle = (low + high) >> 1;
		if (depths[middle]! <= depth) low = middle;
		else high = middle;
	}
	const t = (depth - depths[low]!) / (depths[high]! - depths[low]!);
	return [
		points[2 * low]! + t * (points[2 * high]! - points[2 * low]!),
		points[2 * low + 1]! + t * (points[2 * high + 1]! - points[2 * low + 1]!)
	];
}

/** Part of a projected hole between two depths, flat, with its bends. */
export function partOfProjected(h: Pick<ProjectedHole, 'points' | 'depths'>, from: number, to: number): number[] {
	const out = [...onProjected(h, from)];
	for (let v = 0; v < h.depths.length; v++) if (h.depths[v]! > from && h.depths[v]! < to) out.push(h.points[2 * v]!, h.points[2 * v + 1]!);
	out.push(...onProjected(h, to));
	return out;
}

/** Azimuth of a leg of a trace, degrees. */
export const legAzimuth = (trace: Trace, leg: number): number =>
	wrapAzimuth(Math.atan2(trace[leg + 1]![0] - trace[leg]![0], trace[leg + 1]![1] - trace[leg]![1]) / RADIANS);

/** A plane seen on a section: where, how far off, and its apparent dip (positive down to the right). */
export function planeOnSection(
	trace: Trace,
	x: number,
	y: number,
	dip: number,
	dipAzimuth: number
): { along: number; off: number; apparent: number } {
	const p = projectOnTrace(trace, x, y);
	return { along: p.along, off: p.off, apparent: apparentDip(dip, dipAzimuth, legAzimuth(trace, p.leg)) };
}

/** Distances along a trace at which another one crosses it. */
export function crossings(trace: Trace, other: Trace): number[] {
	const out: number[] = [];
	let along = 0;
	for (let i = 0; i + 1 < trace.length; i++) {
		const [ax, ay] = trace[i]!;
		const [dx, dy] = [trace[i + 1]![0] - ax, trace[i + 1]![1] - ay];
		const length = Math.hypot(dx, dy);
		for (let j = 0; j + 1 < other.length; j++) {
			const [bx, by] = other[j]!;
			const [ex, ey] = [other[j + 1]![0] - bx, other[j + 1]![1] - by];
			const d = dx * ey - dy * ex;
			if (d === 0) continue;
			const t = ((bx - ax) * ey - (by - ay) * ex) / d;
			const u = ((bx - ax) * dy - (by - ay) * dx) / d;
			if (t >= 0 && t <= 1 && u >= 0 && u <= 1) out.push(along + t * length);
		}
		along += length;
	}
	return out;
}

/** Lines beside a trace at a spacing: `left` of them on its left, `right` on its right, each shifted square to the line from end to end. */
export function parallelTraces(trace: Trace, spacing: number, left: number, right: number): [number, number][][] {
	const [x0, y0] = trace[0]!;
	const [x1, y1] = trace[trace.length - 1]!;
	const length = Math.hypot(x1 - x0, y1 - y0);
	if (length === 0) return [];
	const [nx, ny] = [(y1 - y0) / length, -(x1 - x0) / length];
	const out: [number, number][][] = [];
	for (let k = -left; k <= right; k++) if (k !== 0) out.push(trace.map(([x, y]) => [x + k * spacing * nx, y + k * spacing * ny]));
	return out;
}

/** Lines square to a trace at a spacing along it, half of `length` to each side: a fence. */
export function fenceTraces(trace: Trace, spacing: number, length: number): [number, number][][] {
	const total = traceLength(trace);
	const out: [number, number][][] = [];
	for (let s = spacing / 2; s < total; s += spacing) {
		const [x, y] = pointOnTrace(trace, s);
		const a = legAzimuth(trace, projectOnTrace(trace, x, y).leg) + 90;
		const [dx, dy] = [(Math.sin(a * RADIANS) * length) / 2, (Math.cos(a * RADIANS) * length) / 2];
		out.push([
			[x - dx, y - dy],
			[x + dx, y + dy]
		]);
	}
	return out;
}

/** A trace through places from west to east, or from south to north where they stretch farther that way; stretched at both ends. */
export function traceThrough(places: readonly (readonly [number, number])[], margin: number): [number, number][] {
	const [xs, ys] = [places.map((p) => p[0]), places.map((p) => p[1])];
	const wide = Math.max(...xs) - Math.min(...xs) >= Math.max(...ys) - Math.min(...ys);
	const sorted = [...places]
		.sort((a, b) => (wide ? a[0] - b[0] : a[1] - b[1]))
		.filter((p, i, all) => i === 0 || Math.hypot(p[0] - all[i - 1]![0], p[1] - all[i - 1]![1]) > 1e-6);
	if (sorted.length === 0) return [];
	if (sorted.length === 1)
		return [
			[sorted[0]![0] - Math.max(margin, 1), sorted[0]![1]],
			[sorted[0]![0] + Math.max(margin, 1), sorted[0]![1]]
		];
	const stretch = (a: readonly [number, number], b: readonly [number, number]): [number, number] => {
		const d = Math.hypot(a[0] - b[0], a[1] - b[1]);
		return [a[0] + ((a[0] - b[0]) / d) * margin, a[1] + ((a[1] - b[1]) / d) * margin];
	};
	const n = sorted.length;
	return [
		stretch(sorted[0]!, sorted[1]!),
		...sorted.slice(1, -1).map((p) => [p[0], p[1]] as [number, number]),
		stretch(sorted[n - 1]!, sorted[n - 2]!)
	];
}

/** A trace along a hole on the map, stretched at both ends; a vertical hole gives a west–east line. */
export function traceAlongHole(paths: HolePaths, hole: number, margin: number): [number, number][] {
	const [a, b] = [paths.start[hole]!, paths.start[hole + 1]! - 1];
	const top: [number, number] = [paths.xyz[3 * a]!, paths.xyz[3 * a + 1]!];
	const end: [number, number] = [paths.xyz[3 * b]!, paths.xyz[3 * b + 1]!];
	const length = Math.hypot(end[0] - top[0], end[1] - top[1]);
	if (length < 1)
		return [
			[top[0] - Math.max(margin, 1), top[1]],
			[top[0] + Math.max(margin, 1), top[1]]
		];
	const [ux, uy] = [(end[0] - top[0]) / length, (end[1] - top[1]) / length];
	return [
		[top[0] - ux * margin, top[1] - uy * margin],
		[end[0] + ux * margin, end[1] + uy * margin]
	];
}
