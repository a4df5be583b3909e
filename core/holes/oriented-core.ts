import { lineDirection, planeAngles } from '../geometry/angles';
import { add, cross, dot, length, scale, type Vec3 } from '../geometry/vector';
import { RADIANS } from '../geometry/angles';

/**
 * Normal of a plane seen in oriented core (Marjoribanks 2010, app. B). The bottom line is the line along the core that lay lowest in
 * the hole.
 *
 * @param alpha degrees between the plane and the axis of the core, 0–90
 * @param beta degrees from the bottom line, clockwise looking down the hole, to the lower end of the ellipse that the plane makes
 * @param direction unit vector down the hole at that depth
 * @returns a unit normal (either side), or null in a vertical hole, which has no bottom line
 */
export function planeInCore(alpha: number, beta: number, direction: Vec3): Vec3 | null {
	const low: Vec3 = [0, 0, -1];
	const across = add(low, scale(direction, -dot(low, direction)));
	const size = length(across);
	if (size < 1e-6) return null;
	const bottom = scale(across, 1 / size);
	const b = beta * RADIANS;
	const lower = add(scale(bottom, Math.cos(b)), scale(cross(direction, bottom), Math.sin(b)));
	const a = alpha * RADIANS;
	return add(scale(direction, Math.sin(a)), scale(lower, -Math.cos(a)));
}

/** Dip and dip azimuth, degrees, of a plane seen in oriented core; see `planeInCore`. */
export function anglesInCore(
	alpha: number,
	beta: number,
	azimuth: number,
	inclination: number
): { dip: number; dipAzimuth: number } | null {
	const normal = planeInCore(alpha, beta, lineDirection(azimuth, inclination));
	return normal && planeAngles(normal);
}
