import { framed, inverseOf, times, type Frame } from './frame';

/**
 * A fault that dies out: the jump of the field across it is greatest at its middle and nothing from the tip line on, and it fades
 * away from the fault, too (drift functions bounded to an ellipsoid: Calcagno et al. 2008; displacement that falls to an
 * elliptical tip line and decays away from the fault: Barnett et al. 1987; Walsh & Watterson 1987).
 */
export interface BoundedZone {
	/** Number of the fault, a bit of the block masks. */
	fault: number;
	/** Middle of the fault, and three rows: unit vectors along it, down it and across it, each divided by the half-length in that direction. */
	center: [number, number, number];
	axes: number[];
}

/** A zone of a fitted field, in its scaled coordinates, with the jump of each shape. */
export interface BoundedJump extends BoundedZone {
	jumps: number[];
}

/**
 * Shapes of a jump, 1 at the middle: over the fault, an ellipse or a parabola to the tip line; away from it, a straight or a
 * hollow fall. The data settle how much of each there is.
 */
const OVER = [0.5, 1] as const;
const AWAY = [1, 2] as const;
export const SHAPES = OVER.length * AWAY.length;

/** What is left on the fault to the tip line (1 at the middle, 0 from there on), and away from the fault. */
function leftOf(z: BoundedZone, x: number, y: number, elevation: number): { over: number; away: number; part: [number, number, number] } {
	const d = [x - z.center[0], y - z.center[1], elevation - z.center[2]] as const;
	const part = [0, 3, 6].map((r) => z.axes[r]! * d[0] + z.axes[r + 1]! * d[1] + z.axes[r + 2]! * d[2]) as [number, number, number];
	return { over: Math.max(0, 1 - part[0] ** 2 - part[1] ** 2), away: Math.max(0, 1 - Math.abs(part[2])), part };
}

/** True within the tip line, and within reach of the fault. */
export function isInZone(z: BoundedZone, x: number, y: number, elevation: number): boolean {
	const { over, away } = leftOf(z, x, y, elevation);
	return over > 0 && away > 0;
}

/** Distance from the middle plane of the fault, length units. */
export const fromMiddle = (z: BoundedZone, x: number, y: number, elevation: number): number =>
	Math.abs(leftOf(z, x, y, elevation).part[2]) / Math.hypot(z.axes[6]!, z.axes[7]!, z.axes[8]!);

/** Values of all shapes at a place. */
export function shapesAt(z: BoundedZone, x: number, y: number, elevation: number): number[] {
	const { over, away } = leftOf(z, x, y, elevation);
	return OVER.flatMap((p) => AWAY.map((q) => over ** p * away ** q));
}

/** Gradients of all shapes. At the tip line, where an ellipse is upright, the slope is that a little inside. */
export function shapeSlopes(z: BoundedZone, x: number, y: number, elevation: number): [number, number, number][] {
	const { over, away, part } = leftOf(z, x, y, elevation);
	if (over === 0 || away === 0) return Array.from({ length: SHAPES }, () => [0, 0, 0]);
	const sign = part[2] >= 0 ? 1 : -1;
	return OVER.flatMap((p) =>
		AWAY.map((q): [number, number, number] => {
			const slopeOver = p * Math.max(over, 0.02) ** (p - 1) * away ** q;
			const slopeAway = q * away ** (q - 1) * over ** p;
			return [0, 1, 2].map(
				(c) => -2 * slopeOver * (part[0] * z.axes[c]! + part[1] * z.axes[3 + c]!) - sign * slopeAway * z.axes[6 + c]!
			) as [number, number, number];
		})
	);
}

/** A zone in the coordinates of a frame. */
export function framedZone(z: BoundedZone, f: Frame): BoundedZone {
	const inverse = f.metric ? inverseOf(f.metric) : null;
	const axes = z.axes.map((v) => v * f.unit);
	// The inverse is symmetric: the rows can be taken as columns.
	return {
		fault: z.fault,
		center: [...framed(f, z.center)] as [number, number, number],
		axes: inverse ? [0, 3, 6].flatMap((r) => times(inverse, axes.slice(r, r + 3))) : axes
	};
}

/** Half of the jump at a place, on the hanging-wall side; the other side has the opposite. */
export function halfJump(j: BoundedJump, x: number, y: number, z: number): number {
	const { over, away } = leftOf(j, x, y, z);
	if (over === 0 || away === 0) return 0;
	let sum = 0;
	let k = 0;
	for (const p of OVER) for (const q of AWAY) sum += j.jumps[k++]! * over ** p * away ** q;
	return 0.5 * sum;
}

/** Adds the gradient of `halfJump`, times a sign, to `out`. */
export function addHalfJumpSlope(out: number[], sign: number, j: BoundedJump, x: number, y: number, z: number): void {
	shapeSlopes(j, x, y, z).forEach((s, k) => {
		for (let c = 0; c < 3; c++) out[c]! += sign * 0.5 * j.jumps[k]! * s[c]!;
	});
}

/** Bits of the faults that cut right through: only they part the covariance. */
export const throughMask = (zones: readonly BoundedZone[]): number => zones.reduce((mask, z) => mask & ~(1 << z.fault), ~0);
