/** Sine of the least angle of a triangle; 0 where it has no area. */
export function sineOfLeast(p: Float64Array, a: number, b: number, c: number): number {
	const [ax, ay, az] = [p[3 * a]!, p[3 * a + 1]!, p[3 * a + 2]!];
	const [ux, uy, uz] = [p[3 * b]! - ax, p[3 * b + 1]! - ay, p[3 * b + 2]! - az];
	const [vx, vy, vz] = [p[3 * c]! - ax, p[3 * c + 1]! - ay, p[3 * c + 2]! - az];
	const [nx, ny, nz] = [uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx];
	return sineBetween(
		nx * nx + ny * ny + nz * nz,
		ux * ux + uy * uy + uz * uz,
		vx * vx + vy * vy + vz * vz,
		squares(ux - vx, uy - vy, uz - vz)
	);
}

const squares = (x: number, y: number, z: number) => x * x + y * y + z * z;

/** Sine of the least angle, which lies between the two longest edges. @param area square of twice the area @param u v w squares of the edges */
export function sineBetween(area: number, u: number, v: number, w: number): number {
	const product = u <= v && u <= w ? v * w : v <= w ? u * w : u * v;
	return product > 0 ? Math.sqrt(area / product) : 0;
}
