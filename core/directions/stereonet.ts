import { Matrix } from 'ml-matrix';
import { symmetricEigen } from '../linear/eigen';
import { lineAngles, lineDirection, planeNormal, RADIANS } from '../geometry/angles';
import { cross, dot, normalize, scale, type Vec3 } from '../geometry/vector';

/** The downward pole of a plane, as a unit vector. */
export const poleOf = (dip: number, dipAzimuth: number): Vec3 => downward(planeNormal(dip, dipAzimuth));

/** The end of a line that points down. */
export const downward = (v: Vec3): Vec3 => (v[2] > 0 ? scale(v, -1) : v);

/** Lambert's equal-area projection of the lower hemisphere: the unit circle is horizontal, north is up. */
export function project(v: Vec3): [number, number] {
	const d = downward(v);
	const k = Math.sqrt(1 / (1 - d[2]));
	return [d[0] * k, d[1] * k];
}

/** The direction behind a point of the net; null outside of it. */
export function unproject(x: number, y: number): Vec3 | null {
	const r2 = x * x + y * y;
	if (r2 > 1 + 1e-9) return null;
	const k = Math.sqrt(Math.max(0, 2 - r2));
	return [x * k, y * k, r2 - 1];
}

/** The trace of a plane on the net: points from one end of its strike to the other. */
export function greatCircle(dip: number, dipAzimuth: number, steps = 60): [number, number][] {
	const strike = lineDirection(dipAzimuth - 90, 0);
	const down = lineDirection(dipAzimuth, -dip);
	return Array.from({ length: steps + 1 }, (_, i) => {
		const a = (i / steps) * Math.PI;
		const [c, s] = [Math.cos(a), Math.sin(a)];
		return project([strike[0] * c + down[0] * s, strike[1] * c + down[1] * s, Math.min(0, strike[2] * c + down[2] * s)]);
	});
}

/** A circle of directions at an angle (degrees) round an axis, in the parts that lie on the lower hemisphere. */
export function smallCircle(axis: Vec3, angle: number, steps = 90): [number, number][][] {
	const a = normalize(axis);
	const side = normalize(cross(a, Math.abs(a[2]) < 0.9 ? [0, 0, 1] : [1, 0, 0]));
	const other = cross(a, side);
	const parts: [number, number][][] = [[]];
	for (let i = 0; i <= steps; i++) {
		const t = (i / steps) * 2 * Math.PI;
		const [c, s] = [Math.cos(angle * RADIANS), Math.sin(angle * RADIANS)];
		const v: Vec3 = [0, 1, 2].map((k) => a[k]! * c + (side[k]! * Math.cos(t) + other[k]! * Math.sin(t)) * s) as unknown as Vec3;
		const p = project(v);
		const part = parts[parts.length - 1]!;
		const last = part[part.length - 1];
		// Where the circle leaves the net on one side, it comes back on the other.
		if (last && Math.hypot(p[0] - last[0], p[1] - last[1]) > 0.6) parts.push([p]);
		else part.push(p);
	}
	return parts.filter((p) => p.length > 1);
}

/** The orientation tensor of axes: its eigenvalues (their sum is 1, the greatest first) with their axes. */
interface Tensor {
	values: [number, number, number];
	axes: [Vec3, Vec3, Vec3];
}

/** Source: Scheidegger 1965; Woodcock 1977. @throws RangeError without any axis */
export function orientationTensor(vectors: readonly Vec3[]): Tensor {
	if (vectors.length === 0) throw new RangeError('there is no direction');
	const m = Matrix.zeros(3, 3);
	for (const v of vectors)
		for (let i = 0; i < 3; i++) for (let j = 0; j < 3; j++) m.set(i, j, m.get(i, j) + (v[i]! * v[j]!) / vectors.length);
	const e = symmetricEigen(m);
	const order = [0, 1, 2].sort((a, b) => e.realEigenvalues[b]! - e.realEigenvalues[a]!);
	return {
		values: order.map((k) => Math.max(0, e.realEigenvalues[k]!)) as [number, number, number],
		axes: order.map((k) => normalize([e.eigenvectorMatrix.get(0, k), e.eigenvectorMatrix.get(1, k), e.eigenvectorMatrix.get(2, k)])) as [
			Vec3,
			Vec3,
			Vec3
		]
	};
}

interface FisherStatistics {
	count: number;
	mean: Vec3;
	/** Length of the sum as a share of the count, 0–1. */
	resultant: number;
	/** Concentration; infinite when all are alike, NaN for fewer than two. */
	kappa: number;
	/** Half-angle of the cone that holds the true mean with a confidence of 95 %, degrees; NaN for fewer than two. */
	alpha95: number;
}

/**
 * Mean direction and spread of axes (poles, lines), each turned to the end that lies with most of the others.
 * Source: Fisher 1953. @throws RangeError without any axis
 */
export function fisher(vectors: readonly Vec3[]): FisherStatistics {
	const main = orientationTensor(vectors).axes[0];
	let sum: Vec3 = [0, 0, 0];
	for (const v of vectors) {
		const s = dot(v, main) < 0 ? -1 : 1;
		sum = [sum[0] + s * v[0], sum[1] + s * v[1], sum[2] + s * v[2]];
	}
	const n = vectors.length;
	const r = Math.hypot(...sum);
	const mean = downward(normalize(sum));
	if (n < 2) return { count: n, mean, resultant: r / n, kappa: NaN, alpha95: NaN };
	const kappa = n - r < 1e-12 * n ? Infinity : (n - 1) / (n - r);
	const cos = 1 - ((n - r) / r) * (20 ** (1 / (n - 1)) - 1);
	return { count: n, mean, resultant: r / n, kappa, alpha95: Math.acos(Math.max(-1, cos)) / RADIANS };
}

/** The great circle that poles lie along, as the axis that it is square to (a fold axis), and how well they do. */
interface Girdle {
	axis: Vec3;
	/** Greater than 1 for clusters, less than 1 for girdles (Woodcock 1977). */
	shape: number;
	/** Strength: the logarithm of the greatest over the least eigenvalue. */
	strength: number;
}

/** @throws RangeError without any axis */
export function girdle(vectors: readonly Vec3[]): Girdle {
	const {
		values: [a, b, c],
		axes
	} = orientationTensor(vectors);
	const log = (x: number, y: number) => Math.log(Math.max(x, 1e-12) / Math.max(y, 1e-12));
	return { axis: downward(axes[2]), shape: log(a, b) / (log(b, c) || 1e-12), strength: log(a, c) };
}

/**
 * Density of axes on a square grid over the net, in multiples of the standard deviation of an even spread (exponential smoothing; Vollmer
 * 1995 after Kamb 1959). NaN outside of the net.
 * @param size points of the grid each way, from −1 to 1
 */
export function density(vectors: readonly Vec3[], size: number, sigma = 3): Float64Array {
	const n = vectors.length;
	const grid = new Float64Array(size * size).fill(NaN);
	if (n === 0) return grid;
	const f = 2 * (1 + n / sigma ** 2);
	const unit = Math.sqrt((n * (f / 2 - 1)) / f ** 2);
	for (let j = 0; j < size; j++)
		for (let i = 0; i < size; i++) {
			const v = unproject((2 * i) / (size - 1) - 1, (2 * j) / (size - 1) - 1);
			if (!v) continue;
			let sum = 0;
			for (const w of vectors) sum += Math.exp(f * (Math.abs(dot(v, w)) - 1));
			grid[j * size + i] = (sum - 0.5) / unit;
		}
	return grid;
}

/** Vectors whose angle to an axis, either way round, is at most so many degrees: their positions in the list. */
export function withinCone(vectors: readonly Vec3[], axis: Vec3, angle: number): number[] {
	const limit = Math.cos(angle * RADIANS) - 1e-12;
	return vectors.flatMap((v, i) => (Math.abs(dot(v, axis)) >= limit ? [i] : []));
}

/** Trend and plunge of a direction that points down, degrees. */
export function trendPlunge(v: Vec3): { trend: number; plunge: number } {
	const { azimuth, inclination } = lineAngles(downward(v));
	return { trend: azimuth, plunge: -inclination };
}
