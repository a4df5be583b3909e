// Measures between vertices of a mesh. `p` has 3 coordinates a vertex. Places one by one: these are asked millions of times.

/** Square of the distance of two vertices. */
export function distanceSquared(p: Float64Array, a: number, b: number): number {
	const x = p[3 * b]! - p[3 * a]!;
	const y = p[3 * b + 1]! - p[3 * a + 1]!;
	const z = p[3 * b + 2]! - p[3 * a + 2]!;
	return x * x + y * y + z * z;
}

/** Distance of a vertex from the straight line between two others, or from the nearer of these where it lies beyond. */
export function distanceFromEdge(p: Float64Array, v: number, a: number, b: number): number {
	const dx = p[3 * b]! - p[3 * a]!;
	const dy = p[3 * b + 1]! - p[3 * a + 1]!;
	const dz = p[3 * b + 2]! - p[3 * a + 2]!;
	const wx = p[3 * v]! - p[3 * a]!;
	const wy = p[3 * v + 1]! - p[3 * a + 1]!;
	const wz = p[3 * v + 2]! - p[3 * a + 2]!;
	const size = dx * dx + dy * dy + dz * dz;
	const t = size > 0 ? Math.min(1, Math.max(0, (dx * wx + dy * wy + dz * wz) / size)) : 0;
	return Math.sqrt((wx - t * dx) ** 2 + (wy - t * dy) ** 2 + (wz - t * dz) ** 2);
}

/** Six times the volume between a vertex and a triangle, greater than 0 when the vertex lies behind it. */
export function sixfoldVolume(p: Float64Array, o: number, a: number, b: number, c: number): number {
	const ox = p[3 * o]!;
	const oy = p[3 * o + 1]!;
	const oz = p[3 * o + 2]!;
	const ax = p[3 * a]! - ox;
	const ay = p[3 * a + 1]! - oy;
	const az = p[3 * a + 2]! - oz;
	const bx = p[3 * b]! - ox;
	const by = p[3 * b + 1]! - oy;
	const bz = p[3 * b + 2]! - oz;
	const cx = p[3 * c]! - ox;
	const cy = p[3 * c + 1]! - oy;
	const cz = p[3 * c + 2]! - oz;
	return ax * (by * cz - bz * cy) + ay * (bz * cx - bx * cz) + az * (bx * cy - by * cx);
}

/** Area of a triangle as it is seen from above; less than 0 where its back is seen. */
export function areaFromAbove(p: Float64Array, a: number, b: number, c: number): number {
	const x = p[3 * a]!;
	const y = p[3 * a + 1]!;
	return ((p[3 * b]! - x) * (p[3 * c + 1]! - y) - (p[3 * b + 1]! - y) * (p[3 * c]! - x)) / 2;
}
