import { addSourcesGradient, sourcesValue, type SourcePart, type Sources } from './sources';

/**
 * What many data add to a field that was fitted to a part of them: in each patch a sum of covariances that brings the field onto
 * the data in and around the patch, and the patches blended by a partition of unity (Wendland 2002). Patches are the cells of a
 * regular grid, grown by half of their side so that neighbours overlap; where there is no patch nothing is added. All lengths
 * are scaled like those of the field.
 */
export interface LocalPart extends Sources {
	/** Side of a cell. */
	cell: number;
	/** Lower corner of the first cell. */
	origin: [number, number, number];
	/** Cells along x, y and z. */
	size: [number, number, number];
	/** By cell (x fastest): number of its patch, −1 when it has none. */
	patchOf: Int32Array;
	/** First point of each patch, and one past the last patch; likewise for gradients. */
	pointStart: Uint32Array;
	gradientStart: Uint32Array;
}

/** Half of the part of a cell, at each of its ends, over which it is blended with its neighbour. */
export const BLEND = 0.1;

/** From 0 to 1 over the blend, with two derivatives that end at 0. */
const blend = (u: number): number => u * u * u * (10 + u * (6 * u - 15));
const blendSlope = (u: number): number => 30 * u * u * (1 - u) * (1 - u);

/**
 * The one or two cells along an axis whose patches reach a place, with their weights.
 * @param s place in cells from the origin
 * @param out cell, weight, slope of the weight (per cell), cell, weight, slope
 * @returns how many
 */
function cellsAt(s: number, out: Float64Array, at: number): number {
	const i = Math.floor(s);
	const t = s - i;
	const low = t < BLEND;
	if (!low && t <= 1 - BLEND) {
		out[at] = i;
		out[at + 1] = 1;
		out[at + 2] = 0;
		return 1;
	}
	// Between the cells a and a + 1.
	const a = low ? i - 1 : i;
	const u = (s - (a + 1 - BLEND)) / (2 * BLEND);
	const [w, slope] = [blend(u), blendSlope(u) / (2 * BLEND)];
	out.set([a, 1 - w, -slope, a + 1, w, slope], at);
	return 2;
}

const scratch = new Float64Array(18);

/** Calls back for each patch that reaches a place, with the product of the weights and its gradient per cell. */
export function eachPatch(
	l: LocalPart,
	x: number,
	y: number,
	z: number,
	found: (patch: number, weight: number, slopeX: number, slopeY: number, slopeZ: number) => void
): void {
	const [nx, ny, nz] = l.size;
	const a = cellsAt((x - l.origin[0]) / l.cell, scratch, 0);
	const b = cellsAt((y - l.origin[1]) / l.cell, scratch, 6);
	const c = cellsAt((z - l.origin[2]) / l.cell, scratch, 12);
	for (let k = 0; k < c; k++) {
		const cz = scratch[12 + 3 * k]!;
		if (cz < 0 || cz >= nz) continue;
		for (let j = 0; j < b; j++) {
			const cy = scratch[6 + 3 * j]!;
			if (cy < 0 || cy >= ny) continue;
			for (let i = 0; i < a; i++) {
				const cx = scratch[3 * i]!;
				if (cx < 0 || cx >= nx) continue;
				const patch = l.patchOf[(cz * ny + cy) * nx + cx]!;
				if (patch < 0) continue;
				const [wx, wy, wz] = [scratch[3 * i + 1]!, scratch[7 + 3 * j]!, scratch[13 + 3 * k]!];
				found(patch, wx * wy * wz, scratch[3 * i + 2]! * wy * wz, wx * scratch[8 + 3 * j]! * wz, wx * wy * scratch[14 + 3 * k]!);
			}
		}
	}
}

const partOf = (l: LocalPart, patch: number): SourcePart => [
	l.pointStart[patch]!,
	l.pointStart[patch + 1]!,
	l.gradientStart[patch]!,
	l.gradientStart[patch + 1]!
];

/** What the local part adds to the value of a field. The plain twin of the kernel in `core/kernels`. */
export function localValue(l: LocalPart, weights: Float64Array, gradientWeights: Float64Array, x: number, y: number, z: number): number {
	let sum = 0;
	eachPatch(l, x, y, z, (patch, weight) => {
		sum += weight * sourcesValue(l.range, l.points, weights, l.gradientPoints, gradientWeights, x, y, z, partOf(l, patch));
	});
	return sum;
}

/** Adds the gradient of the local part to `out`. */
export function localGradient(
	out: number[],
	l: LocalPart,
	weights: Float64Array,
	gradientWeights: Float64Array,
	p: readonly [number, number, number]
): void {
	eachPatch(l, ...p, (patch, weight, slopeX, slopeY, slopeZ) => {
		const part = partOf(l, patch);
		const v = sourcesValue(l.range, l.points, weights, l.gradientPoints, gradientWeights, p[0], p[1], p[2], part) / l.cell;
		out[0]! += slopeX * v;
		out[1]! += slopeY * v;
		out[2]! += slopeZ * v;
		addSourcesGradient(out, weight, l.range, l.points, weights, l.gradientPoints, gradientWeights, p, part);
	});
}
