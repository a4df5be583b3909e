import type { HolePaths } from '../datasets/hole-paths';
import { withTriangles, type SolidMesh } from '../mesh/cut-lattice';
import { AIR, FAULT, OUTSIDE, SIDE } from '../mesh/labels';

/** A part of a hole inside one unit of a model. */
interface SolidRun {
	/** Measured depths. */
	from: number;
	to: number;
	/** Label of the mesh; never that of the air or of what lies outside. */
	label: number;
}

/** Crossings nearer to each other than this share of a segment are one: an edge belongs to two triangles. */
const SAME = 1e-7;

/**
 * What a hole passes through in a model: where its path crosses the triangles of the solids (Möller & Trumbore 1997) one label ends and another
 * begins. Parts above the terrain and outside the model are left out.
 * @returns runs from the collar down
 */
export function unitsAlongHole(mesh: SolidMesh, paths: HolePaths, hole: number): SolidRun[] {
	const [first, last] = [paths.start[hole]!, paths.start[hole + 1]!];
	if (last - first < 2) return [];
	const [xyz, depths] = [paths.xyz.subarray(3 * first, 3 * last), paths.depths.subarray(first, last)];
	const all = crossings(mesh, xyz, depths);
	const [begin, end] = [depths[0]!, depths[depths.length - 1]!];
	const near = SAME * (end - begin);
	const runs: SolidRun[] = [];
	let from = begin;
	let label = all[0]?.before ?? labelBelow(mesh, xyz);
	const add = (to: number) => {
		const before = runs.at(-1);
		if (to - from <= near || label === AIR || label === OUTSIDE) return;
		if (before && before.label === label && from - before.to <= near) before.to = to;
		else runs.push({ from, to, label });
	};
	for (const { depth, after } of all) {
		add(depth);
		[from, label] = [depth, after];
	}
	add(end);
	return runs;
}

/** Measured depths at which each hole goes through a fault of a model. */
export function faultsAlongHoles(mesh: SolidMesh, paths: HolePaths): number[][] {
	const own: number[] = [];
	mesh.surface.forEach((s, t) => {
		if (s >= FAULT && s < SIDE) own.push(t);
	});
	const faults = withTriangles(mesh, own);
	return paths.holes.map((_, hole) => {
		const [first, last] = [paths.start[hole]!, paths.start[hole + 1]!];
		const depths = paths.depths.subarray(first, last);
		const near = SAME * (depths[depths.length - 1]! - depths[0]!);
		const all = own.length ? crossings(faults, paths.xyz.subarray(3 * first, 3 * last), depths).map((c) => c.depth) : [];
		return all.filter((d, i) => i === 0 || d - all[i - 1]! > near);
	});
}

/** What a place that starts inside a unit and never leaves it is in: what is met last on the way down to it. */
function labelBelow(mesh: SolidMesh, xyz: Float64Array): number {
	let top = -Infinity;
	for (let i = 2; i < mesh.positions.length; i += 3) top = Math.max(top, mesh.positions[i]!);
	const [x, y, z] = [xyz[0]!, xyz[1]!, xyz[2]!];
	if (!(top >= z)) return OUTSIDE;
	return crossings(mesh, Float64Array.of(x, y, top + 1, x, y, z), Float64Array.of(0, top + 1 - z)).at(-1)?.after ?? OUTSIDE;
}

interface Crossing {
	depth: number;
	before: number;
	after: number;
}

/** Where a line of segments goes through triangles, from its beginning on. */
function crossings(mesh: SolidMesh, xyz: Float64Array, depths: Float64Array): Crossing[] {
	const low = [Infinity, Infinity, Infinity];
	const high = [-Infinity, -Infinity, -Infinity];
	xyz.forEach((v, i) => {
		low[i % 3] = Math.min(low[i % 3]!, v);
		high[i % 3] = Math.max(high[i % 3]!, v);
	});
	const { positions: p, triangles: t } = mesh;
	const found: Crossing[] = [];
	for (let k = 0; k < mesh.front.length; k++) {
		const [a, b, c] = [3 * t[3 * k]!, 3 * t[3 * k + 1]!, 3 * t[3 * k + 2]!];
		if (outside(p, a, b, c, low, high)) continue;
		const [ux, uy, uz] = [p[b]! - p[a]!, p[b + 1]! - p[a + 1]!, p[b + 2]! - p[a + 2]!];
		const [vx, vy, vz] = [p[c]! - p[a]!, p[c + 1]! - p[a + 1]!, p[c + 2]! - p[a + 2]!];
		for (let s = 0; s + 1 < depths.length; s++) {
			const [ox, oy, oz] = [xyz[3 * s]!, xyz[3 * s + 1]!, xyz[3 * s + 2]!];
			const [dx, dy, dz] = [xyz[3 * s + 3]! - ox, xyz[3 * s + 4]! - oy, xyz[3 * s + 5]! - oz];
			const [hx, hy, hz] = [dy * vz - dz * vy, dz * vx - dx * vz, dx * vy - dy * vx];
			const det = ux * hx + uy * hy + uz * hz;
			if (det === 0) continue;
			const [sx, sy, sz] = [ox - p[a]!, oy - p[a + 1]!, oz - p[a + 2]!];
			const u = (sx * hx + sy * hy + sz * hz) / det;
			if (u < 0 || u > 1) continue;
			const [qx, qy, qz] = [sy * uz - sz * uy, sz * ux - sx * uz, sx * uy - sy * ux];
			const v = (dx * qx + dy * qy + dz * qz) / det;
			if (v < 0 || u + v > 1) continue;
			const along = (vx * qx + vy * qy + vz * qz) / det;
			if (along < 0 || along > 1) continue;
			// The normal points to the front, and det is minus the segment along it.
			const intoFront = det < 0;
			found.push({
				depth: depths[s]! + along * (depths[s + 1]! - depths[s]!),
				before: intoFront ? mesh.back[k]! : mesh.front[k]!,
				after: intoFront ? mesh.front[k]! : mesh.back[k]!
			});
		}
	}
	return found.sort((a, b) => a.depth - b.depth);
}

/** Whether a triangle lies beside a box. */
function outside(p: Float64Array, a: number, b: number, c: number, low: readonly number[], high: readonly number[]): boolean {
	for (let k = 0; k < 3; k++) {
		const [x, y, z] = [p[a + k]!, p[b + k]!, p[c + k]!];
		if ((x < low[k]! && y < low[k]! && z < low[k]!) || (x > high[k]! && y > high[k]! && z > high[k]!)) return true;
	}
	return false;
}
