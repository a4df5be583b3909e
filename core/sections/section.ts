import { cross, dot, normalize, type Vec3 } from '../geometry/vector';
import { SIDE, type SolidMesh } from '../mesh/cut-lattice';
import { fail } from '../problem';

/** A section trace: vertices on the map. Distance along the section is measured along it from the first vertex. */
export type Trace = readonly (readonly [number, number])[];

export interface SectionPicture {
	length: number;
	/** Distances at which the trace bends. */
	bends: number[];
	/** By unit: closed rings of (distance, elevation), flat; outer rings and holes together, to be filled even-odd. */
	fills: Map<number, Float64Array[]>;
	/** By surface number: polylines, flat. */
	lines: Map<number, Float64Array[]>;
}

export function traceLength(trace: Trace): number {
	let sum = 0;
	for (let i = 1; i < trace.length; i++) sum += Math.hypot(trace[i]![0] - trace[i - 1]![0], trace[i]![1] - trace[i - 1]![1]);
	return sum;
}

/** @throws ProblemError `section-trace` when the trace has no length */
export function validateTrace(trace: Trace): void {
	if (trace.length < 2 || !(traceLength(trace) > 0))
		fail(
			'section-trace',
			'the section needs a line of at least two different points',
			'Draw it on the map, or type the coordinates.',
			'trace'
		);
}

/**
 * Cuts the model by the vertical planes under a trace. The picture is an exact cut of the solids, so a section can never differ
 * from the model.
 */
export function cutSection(mesh: SolidMesh, trace: Trace): SectionPicture {
	validateTrace(trace);
	const fills = new Map<number, Float64Array[]>();
	const lines = new Map<number, Float64Array[]>();
	const bends: number[] = [];
	let start = 0;
	for (let leg = 0; leg + 1 < trace.length; leg++) {
		const [x0, y0] = trace[leg]!;
		const [x1, y1] = trace[leg + 1]!;
		const length = Math.hypot(x1 - x0, y1 - y0);
		if (length === 0) continue;
		const cut = cutByPlane(mesh, { at: [x0, y0, 0], u: [(x1 - x0) / length, (y1 - y0) / length, 0], v: [0, 0, 1] });
		for (const [unit, segments] of cut.byUnit)
			for (const ring of stitch(segments)) push(fills, unit, clipRing(ring.points, 0, length, start));
		for (const [surface, segments] of cut.bySurface)
			for (const line of stitch(segments)) for (const part of clipLine(line.points, 0, length, start)) push(lines, surface, part);
		if (leg > 0) bends.push(start);
		start += length;
	}
	return { length: start, bends, fills, lines };
}

/** A plane with its own axes: `u` and `v` are unit vectors at right angles. */
interface CutPlane {
	at: Vec3;
	u: Vec3;
	v: Vec3;
}

/** The plane through a place with a normal; `u` runs horizontally, a level plane has east and north. */
export function planeThrough(at: Vec3, normal: Vec3): CutPlane {
	const n = normalize(normal);
	if (Math.hypot(n[0], n[1]) < 1e-9) return { at, u: [1, 0, 0], v: [0, 1, 0] };
	const u = normalize(cross([0, 0, 1], n));
	return { at, u, v: cross(n, u) };
}

/** The place of a point of the plane. */
export const onPlane = ({ at, u, v }: CutPlane, a: number, b: number): [number, number, number] => [
	at[0] + a * u[0] + b * v[0],
	at[1] + a * u[1] + b * v[1],
	at[2] + a * u[2] + b * v[2]
];

/** The exact cut of the solids by any plane. @returns by unit: closed rings along `u` and `v`, flat, to be filled even-odd */
export function cutPlane(mesh: SolidMesh, plane: CutPlane): Map<number, Float64Array[]> {
	const fills = new Map<number, Float64Array[]>();
	for (const [unit, segments] of cutByPlane(mesh, plane).byUnit) for (const ring of stitch(segments)) push(fills, unit, ring.points);
	return fills;
}

const push = (map: Map<number, Float64Array[]>, key: number, value: Float64Array) => {
	if (value.length < 4) return;
	const list = map.get(key);
	if (list) list.push(value);
	else map.set(key, [value]);
};

/** Segments as joints: each end is the mesh edge that was cut (or a vertex on it), so that they can be put together exactly. */
interface Segments {
	from: number[];
	to: number[];
	at: Map<number, readonly [number, number]>;
}

function cutByPlane(mesh: SolidMesh, { at: origin, u, v }: CutPlane) {
	const { positions, triangles } = mesh;
	const vertexCount = positions.length / 3;
	const side = new Float64Array(vertexCount);
	const [nx, ny, nz] = cross(u, v);
	const [x0, y0, z0] = origin;
	for (let i = 0; i < vertexCount; i++)
		side[i] = (positions[3 * i]! - x0) * nx + (positions[3 * i + 1]! - y0) * ny + (positions[3 * i + 2]! - z0) * nz;
	const byUnit = new Map<number, Segments>();
	const bySurface = new Map<number, Segments>();
	const at = new Map<number, readonly [number, number]>();
	const get = (map: Map<number, Segments>, key: number): Segments => {
		let s = map.get(key);
		if (!s) map.set(key, (s = { from: [], to: [], at }));
		return s;
	};
	const joint = (a: number, b: number): number => {
		const low = Math.min(a, b);
		const high = Math.max(a, b);
		const key = low * vertexCount + high;
		if (!at.has(key)) {
			const t = side[low]! / (side[low]! - side[high]!);
			const mixAt = (c: 0 | 1 | 2) => positions[3 * low + c]! + t * (positions[3 * high + c]! - positions[3 * low + c]!) - origin[c];
			const p: Vec3 = [mixAt(0), mixAt(1), mixAt(2)];
			at.set(key, [dot(p, u), dot(p, v)]);
		}
		return key;
	};
	for (let t = 0; t < triangles.length; t += 3) {
		const p0 = side[triangles[t]!]! >= 0;
		const p1 = side[triangles[t + 1]!]! >= 0;
		const p2 = side[triangles[t + 2]!]! >= 0;
		if (p0 === p1 && p1 === p2) continue;
		// The corner that is alone on its side, then the other two in turn.
		const alone = p1 === p2 ? 0 : p0 === p2 ? 1 : 2;
		const a = triangles[t + alone]!;
		const positive = alone === 0 ? p0 : alone === 1 ? p1 : p2;
		let from = joint(a, triangles[t + ((alone + 1) % 3)]!);
		let to = joint(a, triangles[t + ((alone + 2) % 3)]!);
		if (positive) [from, to] = [to, from];
		const n = t / 3;
		const front = mesh.front[n]!;
		const back = mesh.back[n]!;
		const surface = mesh.surface[n]!;
		// The ring of a unit runs with its inside always on the same hand.
		if (back !== front) {
			if (back >= 0) add(get(byUnit, back), from, to);
			if (front >= 0) add(get(byUnit, front), to, from);
		}
		if (surface < SIDE) add(get(bySurface, surface), from, to);
	}
	return { byUnit, bySurface };
}

const add = (s: Segments, from: number, to: number) => {
	s.from.push(from);
	s.to.push(to);
};

/** Puts segments together at their joints: closed rings where they close, else open lines. */
function stitch(s: Segments): { points: Float64Array; closed: boolean }[] {
	const leaving = new Map<number, number[]>();
	const arriving = new Map<number, number>();
	s.from.forEach((joint, i) => {
		const list = leaving.get(joint);
		if (list) list.push(i);
		else leaving.set(joint, [i]);
	});
	for (const joint of s.to) arriving.set(joint, (arriving.get(joint) ?? 0) + 1);
	const used = new Uint8Array(s.from.length);
	const out: { points: Float64Array; closed: boolean }[] = [];
	const follow = (start: number) => {
		const points: number[] = [...s.at.get(s.from[start]!)!];
		let i: number | undefined = start;
		let closed = false;
		while (i !== undefined) {
			used[i] = 1;
			points.push(...s.at.get(s.to[i]!)!);
			if (s.to[i] === s.from[start]) closed = true;
			i = closed ? undefined : leaving.get(s.to[i]!)?.find((k) => !used[k]);
		}
		out.push({ points: Float64Array.from(points), closed });
	};
	// Open lines first, from joints where nothing arrives.
	for (let i = 0; i < s.from.length; i++) if (!used[i] && !arriving.has(s.from[i]!)) follow(i);
	for (let i = 0; i < s.from.length; i++) if (!used[i]) follow(i);
	return out;
}

/** Sutherland–Hodgman clip of a ring to low ≤ distance ≤ high; distances are shifted by `shift`. */
function clipRing(ring: Float64Array, low: number, high: number, shift: number): Float64Array {
	let points: number[] = Array.from(ring);
	for (const [limit, keepAbove] of [
		[low, true],
		[high, false]
	] as const) {
		const next: number[] = [];
		for (let i = 0; i < points.length; i += 2) {
			const j = (i + 2) % points.length;
			const [ax, ay, bx, by] = [points[i]!, points[i + 1]!, points[j]!, points[j + 1]!];
			const aIn = keepAbove ? ax >= limit : ax <= limit;
			const bIn = keepAbove ? bx >= limit : bx <= limit;
			if (aIn) next.push(ax, ay);
			if (aIn !== bIn) next.push(limit, ay + ((limit - ax) / (bx - ax)) * (by - ay));
		}
		points = next;
	}
	for (let i = 0; i < points.length; i += 2) points[i]! += shift;
	return Float64Array.from(points);
}

/** The parts of a line within low ≤ distance ≤ high. */
function clipLine(line: Float64Array, low: number, high: number, shift: number): Float64Array[] {
	const parts: Float64Array[] = [];
	let open: number[] = [];
	const close = () => {
		if (open.length >= 4) parts.push(Float64Array.from(open));
		open = [];
	};
	for (let i = 0; i + 3 < line.length; i += 2) {
		const [ax, ay, bx, by] = [line[i]!, line[i + 1]!, line[i + 2]!, line[i + 3]!];
		const d = bx - ax;
		let t0 = 0;
		let t1 = 1;
		if (d === 0) {
			if (ax < low || ax > high) continue;
		} else {
			const [u, v] = [(low - ax) / d, (high - ax) / d];
			t0 = Math.max(t0, Math.min(u, v));
			t1 = Math.min(t1, Math.max(u, v));
			if (t0 > t1) continue;
		}
		const [px, py, qx, qy] = [ax + t0 * d, ay + t0 * (by - ay), ax + t1 * d, ay + t1 * (by - ay)];
		if (open.length === 0 || t0 > 0) {
			close();
			open.push(px + shift, py);
		}
		open.push(qx + shift, qy);
		if (t1 < 1) close();
	}
	close();
	return parts;
}

/** Where a point projects onto a trace: distance along it, distance from it, and on which leg. */
export function projectOnTrace(trace: Trace, x: number, y: number): { along: number; off: number; leg: number } {
	let best = { along: 0, off: Infinity, leg: 0 };
	let start = 0;
	for (let leg = 0; leg + 1 < trace.length; leg++) {
		const [x0, y0] = trace[leg]!;
		const dx = trace[leg + 1]![0] - x0;
		const dy = trace[leg + 1]![1] - y0;
		const length = Math.hypot(dx, dy);
		if (length === 0) continue;
		const t = Math.min(1, Math.max(0, ((x - x0) * dx + (y - y0) * dy) / (length * length)));
		const off = Math.hypot(x - x0 - t * dx, y - y0 - t * dy);
		if (off < best.off) best = { along: start + t * length, off, leg };
		start += length;
	}
	return best;
}

/** The point on the map at a distance along the trace. */
export function pointOnTrace(trace: Trace, along: number): [number, number] {
	let left = along;
	for (let leg = 0; leg + 1 < trace.length; leg++) {
		const [x0, y0] = trace[leg]!;
		const [x1, y1] = trace[leg + 1]!;
		const length = Math.hypot(x1 - x0, y1 - y0);
		if (left <= length || leg + 2 === trace.length) {
			const t = length === 0 ? 0 : left / length;
			return [x0 + t * (x1 - x0), y0 + t * (y1 - y0)];
		}
		left -= length;
	}
	return [...trace[0]!] as [number, number];
}
