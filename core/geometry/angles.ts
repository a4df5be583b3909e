import type { Vec3 } from './vector';

export const RADIANS = Math.PI / 180;

/** Brings any azimuth in degrees to 0 ≤ azimuth < 360. */
export const wrapAzimuth = (azimuth: number): number => ((azimuth % 360) + 360) % 360;

/**
 * Unit normal of a plane, pointing to the younger side.
 * @param dip degrees down from horizontal, 0–90
 * @param dipAzimuth degrees clockwise from north, 0–360
 * @param polarity 1 for right way up, −1 for overturned
 */
export function planeNormal(dip: number, dipAzimuth: number, polarity: 1 | -1 = 1): Vec3 {
	const d = dip * RADIANS;
	const a = dipAzimuth * RADIANS;
	return [polarity * Math.sin(d) * Math.sin(a), polarity * Math.sin(d) * Math.cos(a), polarity * Math.cos(d)];
}

/** Dip and dip azimuth, in degrees, of the plane with this normal (either side gives the same plane). */
export function planeAngles(normal: Vec3): { dip: number; dipAzimuth: number } {
	const s = normal[2] < 0 ? -1 : 1;
	const horizontal = Math.hypot(normal[0], normal[1]);
	return {
		dip: Math.atan2(horizontal, Math.abs(normal[2])) / RADIANS,
		dipAzimuth: horizontal === 0 ? 0 : wrapAzimuth(Math.atan2(s * normal[0], s * normal[1]) / RADIANS)
	};
}

/** Dip azimuth of a plane from its strike by the right-hand rule: the plane dips to the right of the strike direction. */
export const dipAzimuthOfStrike = (strike: number): number => wrapAzimuth(strike + 90);

/**
 * Unit vector along a line.
 * @param azimuth degrees clockwise from north
 * @param inclination signed degrees from horizontal, −90 is straight down
 */
export function lineDirection(azimuth: number, inclination: number): Vec3 {
	const a = azimuth * RADIANS;
	const i = inclination * RADIANS;
	return [Math.cos(i) * Math.sin(a), Math.cos(i) * Math.cos(a), Math.sin(i)];
}

/** Azimuth (0–360) and signed inclination, in degrees, of a direction. */
export function lineAngles(direction: Vec3): { azimuth: number; inclination: number } {
	const horizontal = Math.hypot(direction[0], direction[1]);
	return {
		azimuth: horizontal < 1e-12 ? 0 : wrapAzimuth(Math.atan2(direction[0], direction[1]) / RADIANS),
		inclination: Math.atan2(direction[2], horizontal) / RADIANS
	};
}

/**
 * Apparent dip, signed degrees, of a plane in a vertical section.
 * Positive when the plane goes down in the direction of the section's azimuth.
 */
export function apparentDip(dip: number, dipAzimuth: number, sectionAzimuth: number): number {
	return Math.atan(Math.tan(dip * RADIANS) * Math.cos((dipAzimuth - sectionAzimuth) * RADIANS)) / RADIANS;
}
