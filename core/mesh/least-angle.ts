/** Sine of the least angle of a triangle; 0 where it has no area. */
export const sineOfLeast = (p: Float64Array, a: number, b: number, c: number): number => Math.sqrt(leastSquared(p, a, b, c));

/** Square of the sine of the least angle of a triangle: what is compared only needs no root. 0 where it has no area. */
export function leastSquared(p: Float64Array, a: number, b: number, c: number): number {
	// Places one by one: this is asked a million times, and lists of three cost half as much again.
	const x = p[3 * a]!;
	const y = p[3 * a + 1]!;
	const z = p[3 * a + 2]!;
	return leastBetween(p[3 * b]! - x, p[3 * b + 1]! - y, p[3 * b + 2]! - z, p[3 * c]! - x, p[3 * c + 1]! - y, p[3 * c + 2]! - z);
}

/** The same of a triangle by two edges from one corner. The least angle lies between the two longest edges. */
export function leastBetween(ux: number, uy: number, uz: number, vx: number, vy: number, vz: number): number {
	const nx = uy * vz - uz * vy;
	const ny = uz * vx - ux * vz;
	const nz = ux * vy - uy * vx;
	const wx = ux - vx;
	const wy = uy - vy;
	const wz = uz - vz;
	const u = ux * ux + uy * uy + uz * uz;
	const v = vx * vx + vy * vy + vz * vz;
	const w = wx * wx + wy * wy + wz * wz;
	const product = u <= v && u <= w ? v * w : v <= w ? u * w : u * v;
	return product > 0 ? (nx * nx + ny * ny + nz * nz) / product : 0;
}
