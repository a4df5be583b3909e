import { planeAngles } from '../geometry/angles';
import { wrapAzimuth, RADIANS } from '../geometry/angles';
import { cross, subtract, type Vec3 } from '../geometry/vector';

interface LineMeasure {
	length: number;
	horizontal: number;
	/** Positive up. */
	vertical: number;
	/** Degrees clockwise from north, from the first point to the second. */
	bearing: number;
	/** Degrees down from horizontal. */
	plunge: number;
}

/** Distance and direction from one point to another. */
export function measureLine(a: Vec3, b: Vec3): LineMeasure {
	const [x, y, z] = subtract(b, a);
	const horizontal = Math.hypot(x, y);
	return {
		length: Math.hypot(x, y, z),
		horizontal,
		vertical: z,
		bearing: horizontal === 0 ? 0 : wrapAzimuth(Math.atan2(x, y) / RADIANS),
		plunge: Math.atan2(-z, horizontal) / RADIANS
	};
}

/** Dip and dip azimuth of the plane through three points; null when they lie on one line. */
export function planeThrough(a: Vec3, b: Vec3, c: Vec3): { dip: number; dipAzimuth: number } | null {
	const normal = cross(subtract(b, a), subtract(c, a));
	const size = Math.hypot(...normal);
	const sides = Math.hypot(...subtract(b, a)) * Math.hypot(...subtract(c, a));
	return size <= 1e-9 * sides || size === 0 ? null : planeAngles(normal);
}
