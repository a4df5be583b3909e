import { cubic, cubicBend, cubicSlope } from './covariance';

/** What a field is summed from. Lengths are scaled. */
export interface Sources {
	/** Range of the covariance. */
	range: number;
	/** Positions of contact and value data, xyz, with their fault blocks and weights. */
	points: Float64Array;
	pointBlocks: Int32Array;
	weights: Float64Array;
	/** Positions of gradient data, xyz, with their fault blocks and three weights each. */
	gradientPoints: Float64Array;
	gradientBlocks: Int32Array;
	gradientWeights: Float64Array;
}

/**
 * Sum of the covariance and of its slope over sources: Σ wᵢ C(|p − pᵢ|) + Σ gⱼ·∇C(|p − qⱼ|). All lengths are in one unit.
 * @param from first source of each kind, with `to` to use a part of the arrays
 */
export function sourcesValue(
	range: number,
	points: Float64Array,
	weights: Float64Array,
	gradientPoints: Float64Array,
	gradientWeights: Float64Array,
	x: number,
	y: number,
	z: number,
	part: SourcePart = [0, weights.length, 0, gradientWeights.length / 3]
): number {
	const inverse = 1 / range;
	let sum = 0;
	for (let i = part[0], j = 3 * part[0]; i < part[1]; i++, j += 3) {
		const dx = x - points[j]!;
		const dy = y - points[j + 1]!;
		const dz = z - points[j + 2]!;
		sum += weights[i]! * cubic(Math.sqrt(dx * dx + dy * dy + dz * dz) * inverse);
	}
	const inverse2 = inverse * inverse;
	for (let j = 3 * part[2]; j < 3 * part[3]; j += 3) {
		const dx = x - gradientPoints[j]!;
		const dy = y - gradientPoints[j + 1]!;
		const dz = z - gradientPoints[j + 2]!;
		const along = dx * gradientWeights[j]! + dy * gradientWeights[j + 1]! + dz * gradientWeights[j + 2]!;
		sum -= along * inverse2 * cubicSlope(Math.sqrt(dx * dx + dy * dy + dz * dz) * inverse);
	}
	return sum;
}

/** First and one past the last of the points, and of the gradients. */
export type SourcePart = readonly [number, number, number, number];

/** Adds the gradient of `sourcesValue`, times a factor, to `out`. */
export function addSourcesGradient(
	out: number[],
	factor: number,
	range: number,
	points: Float64Array,
	weights: Float64Array,
	gradientPoints: Float64Array,
	gradientWeights: Float64Array,
	p: readonly [number, number, number],
	part: SourcePart = [0, weights.length, 0, gradientWeights.length / 3]
): void {
	const inverse = 1 / range;
	const inverse2 = inverse * inverse;
	const [x, y, z] = p;
	let sx = 0;
	let sy = 0;
	let sz = 0;
	for (let i = part[0], j = 3 * part[0]; i < part[1]; i++, j += 3) {
		const dx = x - points[j]!;
		const dy = y - points[j + 1]!;
		const dz = z - points[j + 2]!;
		const s = factor * weights[i]! * inverse2 * cubicSlope(Math.sqrt(dx * dx + dy * dy + dz * dz) * inverse);
		sx += s * dx;
		sy += s * dy;
		sz += s * dz;
	}
	for (let j = 3 * part[2]; j < 3 * part[3]; j += 3) {
		const dx = x - gradientPoints[j]!;
		const dy = y - gradientPoints[j + 1]!;
		const dz = z - gradientPoints[j + 2]!;
		const u = Math.sqrt(dx * dx + dy * dy + dz * dz) * inverse;
		const gx = gradientWeights[j]!;
		const gy = gradientWeights[j + 1]!;
		const gz = gradientWeights[j + 2]!;
		const slope = inverse2 * cubicSlope(u);
		const bend = u > 0 ? ((inverse2 * inverse2 * cubicBend(u)) / u) * (dx * gx + dy * gy + dz * gz) : 0;
		sx -= factor * (gx * slope + dx * bend);
		sy -= factor * (gy * slope + dy * bend);
		sz -= factor * (gz * slope + dz * bend);
	}
	out[0]! += sx;
	out[1]! += sy;
	out[2]! += sz;
}
