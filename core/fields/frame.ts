import { planeNormal, RADIANS } from '../geometry/angles';
import { cross, type Vec3 } from '../geometry/vector';
import { sampleRaster, type Raster } from '../grids/raster';

/** From project coordinates to those in which a field is summed: shifted, scaled, and bent and stretched where the layers have a trend. */
export interface Frame {
	/** Centre of the coordinates. */
	center: [number, number, number];
	/** Length units per scaled unit. */
	unit: number;
	/** Stretches scaled coordinates (rows of a 3 × 3 matrix), so that what lies along the layers is near; null leaves them. */
	metric: number[] | null;
	/** Elevations that the layers follow: z is measured from them; null measures it from the centre. */
	follow: Raster | null;
}

/** How the ground varies: less along a plane than across it. */
export interface Anisotropy {
	/** Plane of the two longer directions. */
	dip: number;
	dipAzimuth: number;
	/** Angle in the plane from its strike (dip to the right) down to the longest direction, degrees. */
	pitch: number;
	/** Lengths over which the ground varies alike: along the longest direction, square to it in the plane, across the plane. */
	ratios: readonly [number, number, number];
}

/** Matrix that makes the lengths of an anisotropy equal; the longest one stays as it is. */
export function metricOf(a: Anisotropy): number[] {
	const across = planeNormal(a.dip, a.dipAzimuth);
	const strike: Vec3 = [Math.sin((a.dipAzimuth - 90) * RADIANS), Math.cos((a.dipAzimuth - 90) * RADIANS), 0];
	// Down the dip; of a level plane the direction that it would dip to.
	const [dipSin, dipCos] = [Math.sin(a.dip * RADIANS), Math.cos(a.dip * RADIANS)];
	const down: Vec3 = [Math.sin(a.dipAzimuth * RADIANS) * dipCos, Math.cos(a.dipAzimuth * RADIANS) * dipCos, -dipSin];
	const [c, s] = [Math.cos(a.pitch * RADIANS), Math.sin(a.pitch * RADIANS)];
	const along: Vec3 = [c * strike[0] + s * down[0], c * strike[1] + s * down[1], c * strike[2] + s * down[2]];
	const axes = [along, cross(across, along), across];
	const longest = Math.max(...a.ratios);
	const out = new Array<number>(9).fill(0);
	axes.forEach((axis, k) => {
		const stretch = longest / a.ratios[k]!;
		for (let r = 0; r < 3; r++) for (let q = 0; q < 3; q++) out[3 * r + q]! += stretch * axis[r]! * axis[q]!;
	});
	return out;
}

/** Inverse of a symmetric 3 × 3 matrix. */
export function inverseOf(m: readonly number[]): number[] {
	const [a, b, c, , d, e, , , f] = m as [number, number, number, number, number, number, number, number, number];
	const [A, B, C] = [d * f - e * e, c * e - b * f, b * e - c * d];
	const det = a * A + b * B + c * C;
	return [A, B, C, B, a * f - c * c, b * c - a * e, C, b * c - a * e, a * d - b * b].map((v) => v / det);
}

export const times = (m: readonly number[], v: ArrayLike<number>): Vec3 => [
	m[0]! * v[0]! + m[1]! * v[1]! + m[2]! * v[2]!,
	m[3]! * v[0]! + m[4]! * v[1]! + m[5]! * v[2]!,
	m[6]! * v[0]! + m[7]! * v[1]! + m[8]! * v[2]!
];

/** Coordinates of places one after the other. */
export function flat(places: readonly { x: number; y: number; z: number }[]): Float64Array {
	const out = new Float64Array(3 * places.length);
	places.forEach((p, i) => out.set([p.x, p.y, p.z], 3 * i));
	return out;
}

/** Scaled, bent and stretched coordinates of places, 3 × n. */
export function framed(f: Frame, xyz: ArrayLike<number>): Float64Array {
	const out = new Float64Array(xyz.length);
	const { center, unit, metric, follow } = f;
	for (let i = 0; i < xyz.length; i += 3) {
		const lift = follow ? sampleRaster(follow, xyz[i]!, xyz[i + 1]!) : 0;
		out[i] = (xyz[i]! - center[0]) / unit;
		out[i + 1] = (xyz[i + 1]! - center[1]) / unit;
		out[i + 2] = (xyz[i + 2]! - lift - center[2]) / unit;
		if (metric) out.set(times(metric, out.subarray(i, i + 3)), i);
	}
	return out;
}

/** Slope of the followed elevations at a place, east and north. */
function slopeAt(follow: Raster, x: number, y: number): [number, number] {
	const [hx, hy] = [Math.abs(follow.dx) / 2, Math.abs(follow.dy) / 2];
	return [
		(sampleRaster(follow, x + hx, y) - sampleRaster(follow, x - hx, y)) / (2 * hx),
		(sampleRaster(follow, x, y + hy) - sampleRaster(follow, x, y - hy)) / (2 * hy)
	];
}

/** A gradient in the project (length units per length unit) as one in the frame. The metric is symmetric. */
export function gradientInto(f: Frame, g: readonly [number, number, number], x: number, y: number): Vec3 {
	let out: Vec3 = [g[0], g[1], g[2]];
	if (f.follow) {
		const [hx, hy] = slopeAt(f.follow, x, y);
		out = [g[0] + g[2] * hx, g[1] + g[2] * hy, g[2]];
	}
	return f.metric ? times(inverseOf(f.metric), out) : out;
}

/** The other way round than `gradientInto`. */
export function gradientFrom(f: Frame, g: readonly [number, number, number], x: number, y: number): [number, number, number] {
	const w = f.metric ? times(f.metric, g) : g;
	if (!f.follow) return [w[0], w[1], w[2]];
	const [hx, hy] = slopeAt(f.follow, x, y);
	return [w[0] - w[2] * hx, w[1] - w[2] * hy, w[2]];
}
