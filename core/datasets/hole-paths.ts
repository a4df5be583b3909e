import type { Hole } from '../holes/holes';
import { samplePath } from '../holes/path';

/** The paths of all holes as polylines, in the order of their names. */
export interface HolePaths {
	holes: { name: string; collar: readonly [number, number, number]; totalDepth: number; row: number }[];
	/** First vertex of each hole; one more entry than holes. */
	start: Uint32Array;
	/** Measured depth and position of the vertices, project coordinates. */
	depths: Float64Array;
	xyz: Float64Array;
}

/** @param step greatest distance between vertices of a curved hole, project units */
export function pathsOf(holes: readonly Hole[], step = 5): HolePaths {
	const sampled = holes.map((h) => samplePath(h.path, step));
	const start = new Uint32Array(holes.length + 1);
	sampled.forEach((s, i) => (start[i + 1] = start[i]! + s.depths.length));
	const depths = new Float64Array(start[holes.length]!);
	const xyz = new Float64Array(3 * start[holes.length]!);
	sampled.forEach((s, i) => {
		depths.set(s.depths, start[i]);
		xyz.set(s.xyz, 3 * start[i]!);
	});
	return {
		holes: holes.map((h) => ({ name: h.name, collar: h.path.collar, totalDepth: h.path.totalDepth, row: h.row })),
		start,
		depths,
		xyz
	};
}

/** Writes the position at a measured depth of hole `h` to `out` from `offset` on; beyond the ends the path goes on straight. */
export function placeAt(paths: HolePaths, h: number, depth: number, out: { [n: number]: number }, offset = 0): void {
	const { depths, xyz } = paths;
	let low = paths.start[h]!;
	const end = paths.start[h + 1]! - 1;
	let high = end;
	if (low >= high) {
		for (let c = 0; c < 3; c++) out[offset + c] = xyz[3 * low + c] ?? NaN;
		if (low === high) out[offset + 2]! -= depth - depths[low]!;
		return;
	}
	while (high - low > 1) {
		const middle = (low + high) >> 1;
		if (depths[middle]! <= depth) low = middle;
		else high = middle;
	}
	const t = (depth - depths[low]!) / (depths[high]! - depths[low]!);
	for (let c = 0; c < 3; c++) out[offset + c] = xyz[3 * low + c]! + t * (xyz[3 * high + c]! - xyz[3 * low + c]!);
}

/** Measured depth of the place on hole `h` that is nearest to a point. */
export function nearestDepth(paths: HolePaths, h: number, x: number, y: number, z: number): { depth: number; distance: number } {
	let best = { depth: 0, distance: Infinity };
	const { xyz, depths } = paths;
	for (let v = paths.start[h]!; v + 1 < paths.start[h + 1]!; v++) {
		const d = [0, 1, 2].map((c) => xyz[3 * v + 3 + c]! - xyz[3 * v + c]!) as [number, number, number];
		const p = [x - xyz[3 * v]!, y - xyz[3 * v + 1]!, z - xyz[3 * v + 2]!] as const;
		const square = d[0] * d[0] + d[1] * d[1] + d[2] * d[2];
		const t = square === 0 ? 0 : Math.min(1, Math.max(0, (p[0] * d[0] + p[1] * d[1] + p[2] * d[2]) / square));
		const distance = Math.hypot(p[0] - t * d[0], p[1] - t * d[1], p[2] - t * d[2]);
		if (distance < best.distance) best = { depth: depths[v]! + t * (depths[v + 1]! - depths[v]!), distance };
	}
	return best;
}
