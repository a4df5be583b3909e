import { cubic, cubicBend, cubicSlope } from './covariance';
import { blockDamping } from './field';

/** Keeps data that are honoured from making the system singular. */
const CONTACT_NUGGET = 1e-10;

/** Errors of gradients, as shares of their prior variance: of where they point, and of how long they are. */
export interface GradientErrors {
	direction: number;
	length: number;
	/** The gradients themselves, 3 each, of any length. */
	gradients: Float64Array;
}

/**
 * Lower triangle of the covariances between all data: values first, then three rows for each gradient.
 * @param nuggets variance of the error of each value, as a share of the prior variance
 */
export function fillCovariance(
	a: Float64Array,
	stride: number,
	xyz: Float64Array,
	blocks: Int32Array,
	n: number,
	gxyz: Float64Array,
	gblocks: Int32Array,
	m: number,
	range: number,
	errors: GradientErrors,
	nuggets?: ArrayLike<number>
): void {
	const inverse = 1 / range;
	const inverse2 = inverse * inverse;
	for (let i = 0; i < n; i++) {
		const [x, y, z] = [xyz[3 * i]!, xyz[3 * i + 1]!, xyz[3 * i + 2]!];
		for (let j = 0; j < i; j++) {
			const dx = x - xyz[3 * j]!;
			const dy = y - xyz[3 * j + 1]!;
			const dz = z - xyz[3 * j + 2]!;
			a[i * stride + j] = cubic(Math.sqrt(dx * dx + dy * dy + dz * dz) * inverse) * blockDamping(blocks[i]!, blocks[j]!);
		}
		a[i * stride + i] = 1 + CONTACT_NUGGET + (nuggets?.[i] ?? 0);
	}
	for (let j = 0; j < m; j++) {
		const row = (n + 3 * j) * stride;
		for (let i = 0; i < n; i++) {
			const dx = xyz[3 * i]! - gxyz[3 * j]!;
			const dy = xyz[3 * i + 1]! - gxyz[3 * j + 1]!;
			const dz = xyz[3 * i + 2]! - gxyz[3 * j + 2]!;
			const s = -inverse2 * cubicSlope(Math.sqrt(dx * dx + dy * dy + dz * dz) * inverse) * blockDamping(blocks[i]!, gblocks[j]!);
			a[row + i] = s * dx;
			a[row + stride + i] = s * dy;
			a[row + 2 * stride + i] = s * dz;
		}
	}
	for (let i = 0; i < m; i++)
		for (let j = 0; j <= i; j++) {
			const d = [0, 1, 2].map((c) => gxyz[3 * i + c]! - gxyz[3 * j + c]!);
			const u = Math.hypot(...d) * inverse;
			const w = blockDamping(gblocks[i]!, gblocks[j]!);
			const slope = inverse2 * cubicSlope(u);
			const variance = -w * slope;
			const bend = u > 0 ? (inverse2 * inverse2 * cubicBend(u)) / u : 0;
			for (let c = 0; c < 3; c++)
				for (let e = 0; e < 3; e++) {
					let v = -w * ((c === e ? slope : 0) + d[c]! * d[e]! * bend);
					if (i === j)
						v = variance * ((c === e ? 1 + errors.direction : 0) + (errors.length - errors.direction) * along(errors.gradients, i, c, e));
					a[(n + 3 * i + c) * stride + n + 3 * j + e] = v;
				}
		}
}

/** Entry of the matrix that keeps what is along a gradient. */
function along(g: Float64Array, i: number, c: number, e: number): number {
	const square = g[3 * i]! ** 2 + g[3 * i + 1]! ** 2 + g[3 * i + 2]! ** 2;
	return square > 0 ? (g[3 * i + c]! * g[3 * i + e]!) / square : 0;
}
