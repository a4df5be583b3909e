import { solvePositive } from '../kernels/cholesky-kernel';
import { fail } from '../problem';
import { fillCovariance, type GradientErrors } from './system';

/** Residuals of a field at its data, in its frame. */
export interface Residuals {
	xyz: Float64Array;
	blocks: Int32Array;
	nuggets: Float64Array;
	values: Float64Array;
	gradientXyz: Float64Array;
	gradientBlocks: Int32Array;
	/** 3 each. */
	gradients: Float64Array;
	/** Range of their covariance, and errors of gradients. */
	range: number;
	gradientErrors: GradientErrors;
}

/** Some patches to be solved: simple kriging of the residuals at the data of each. */
export interface PatchesTask {
	residuals: Residuals;
	patches: { points: Uint32Array; gradients: Uint32Array }[];
	/** Where the first datum of each patch lies, to name it. */
	places: string[];
}

/** Errors that are tried, one after the other, where a patch can not be solved as it is. */
const NUGGETS = [0, 1e-8, 1e-6, 1e-4];

/**
 * @returns the weights of all patches, one after the other: those of points, then those of gradients
 * @throws ProblemError `singular-field` that names the place
 */
export function solvePatches({ residuals: r, patches, places }: PatchesTask): Float64Array {
	const pick = (from: Float64Array, list: Uint32Array): Float64Array => {
		const out = new Float64Array(3 * list.length);
		for (let k = 0; k < list.length; k++) for (let c = 0; c < 3; c++) out[3 * k + c] = from[3 * list[k]! + c]!;
		return out;
	};
	const out = new Float64Array(patches.reduce((n, p) => n + p.points.length + 3 * p.gradients.length, 0));
	let at = 0;
	patches.forEach(({ points, gradients }, k) => {
		const [xyz, gradientXyz] = [pick(r.xyz, points), pick(r.gradientXyz, gradients)];
		const [blocks, gradientBlocks] = [
			Int32Array.from(points, (q) => r.blocks[q]!),
			Int32Array.from(gradients, (q) => r.gradientBlocks[q]!)
		];
		const right = new Float64Array(points.length + 3 * gradients.length);
		points.forEach((q, i) => (right[i] = r.values[q]!));
		right.set(pick(r.gradients, gradients), points.length);
		for (const extra of NUGGETS) {
			const errors = Float64Array.from(points, (q) => r.nuggets[q]! + extra);
			const solved = solvePositive(
				right.length,
				(a, stride) =>
					fillCovariance(
						a,
						stride,
						xyz,
						blocks,
						points.length,
						gradientXyz,
						gradientBlocks,
						gradients.length,
						r.range,
						{ ...r.gradientErrors, gradients: pick(r.gradientErrors.gradients, gradients) },
						errors
					),
				right
			);
			if (!solved) continue;
			out.set(solved, at);
			at += right.length;
			return;
		}
		fail(
			'singular-field',
			`the contacts and orientations near ${places[k]} can not be told apart by the solver`,
			'Look for contacts or orientations at nearly the same place that say different things.'
		);
	});
	return out;
}
