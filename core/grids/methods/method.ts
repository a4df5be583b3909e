import type { Barriers } from '../barriers';
import type { Points } from '../points';

/**
 * Values between readings. NaN where a method has none to give.
 * @param without number of a reading that is left out, −1 for none
 */
export interface Gridder {
	at(x: number, y: number, without?: number): number;
	/** Values of a whole row, at x0 + i dx; for methods that are quicker so. The same as `at`. */
	row?(y: number, x0: number, dx: number, out: Float32Array): void;
	/** Variance of the error, for methods that know it. */
	varianceAt?(x: number, y: number, without?: number): number;
	/** Where leaving out a reading needs everything anew, `at` takes no `without`. */
	rebuilt?: true;
}

/** What all methods take. Places far from the origin lose digits; methods shift them to their own. */
export interface MethodInput {
	points: Points;
	barriers: Barriers;
}
