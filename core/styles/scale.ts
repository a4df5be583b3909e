import { quantileSorted } from '../statistics/spread';
import {
	interpolateCividis,
	interpolateGreys,
	interpolateInferno,
	interpolateMagma,
	interpolatePlasma,
	interpolateViridis
} from 'd3-scale-chromatic';

/** Colour ramps that are perceptually even; the first is the default and safe for colour-blind readers. */
export const RAMPS = {
	cividis: interpolateCividis,
	viridis: interpolateViridis,
	magma: interpolateMagma,
	inferno: interpolateInferno,
	plasma: interpolatePlasma,
	grey: (t: number) => interpolateGreys(0.12 + 0.88 * t)
} as const;
export type RampName = keyof typeof RAMPS;

export type ScaleKind = 'linear' | 'log' | 'equal-count' | 'breaks';

/** How numbers become places on a ramp. */
export interface NumberScale {
	kind: ScaleKind;
	ramp: RampName;
	reversed: boolean;
	/** Values beyond take the colour of the end; null is the least or greatest value. */
	clip: [number | null, number | null];
	/** Ascending limits between classes, for `breaks`. */
	breaks: number[];
	/** Number of classes for `equal-count`. */
	classes: number;
}

export const plainScale = (): NumberScale => ({
	kind: 'linear',
	ramp: 'cividis',
	reversed: false,
	clip: [null, null],
	breaks: [],
	classes: 6
});

/**
 * A scale that suits some values: logarithmic where they are positive and spread over more than 1.7 decades, clipped at the 2nd and
 * 98th percentile so that one wild value does not grey the rest.
 */
export function proposeScale(sorted: ArrayLike<number>): NumberScale {
	const low = quantileSorted(sorted, 0.02);
	const high = quantileSorted(sorted, 0.98);
	const log = sorted.length > 0 && sorted[0]! > 0 && high / low > 50;
	return { ...plainScale(), kind: log ? 'log' : 'linear', clip: low < high ? [low, high] : [null, null] };
}

/** A scale made ready for some values. */
export interface ReadyScale {
	/** Place on the ramp, 0–1; NaN for what can not be placed. */
	at: (value: number) => number;
	color: (value: number) => string;
	low: number;
	high: number;
	/** Limits between classes, where the scale has classes. */
	limits: number[];
}

/** @param sorted finite values in ascending order */
export function readyScale(scale: NumberScale, sorted: ArrayLike<number>): ReadyScale {
	const n = sorted.length;
	// Read once: a scale may be an object that watches every access.
	const { kind, ramp: rampName, reversed, clip, breaks, classes } = scale;
	let low = clip[0] ?? (n ? sorted[0]! : 0);
	let high = clip[1] ?? (n ? sorted[n - 1]! : 1);
	if (kind === 'log') {
		// A logarithm needs a least value above zero: the first one that there is.
		if (!(low > 0)) low = firstAbove(sorted, 0) ?? 1;
		if (!(high > low)) high = low * 10;
	}
	const limits =
		kind === 'breaks'
			? [...breaks].sort((a, b) => a - b)
			: kind === 'equal-count'
				? [...new Set(Array.from({ length: Math.max(1, classes - 1) }, (_, i) => quantileSorted(sorted, (i + 1) / classes)))].filter(
						Number.isFinite
					)
				: [];
	const stepped = kind === 'breaks' || kind === 'equal-count';
	const place = (v: number): number => {
		if (Number.isNaN(v)) return NaN;
		if (stepped) {
			let k = 0;
			while (k < limits.length && v >= limits[k]!) k++;
			return limits.length ? k / limits.length : 0.5;
		}
		if (kind === 'log') return v <= 0 ? 0 : clamp((Math.log(v) - Math.log(low)) / (Math.log(high) - Math.log(low)));
		return high > low ? clamp((v - low) / (high - low)) : 0.5;
	};
	const at = reversed ? (v: number) => 1 - place(v) : place;
	const ramp = RAMPS[rampName];
	return { at, color: (v) => ramp(at(v)), low, high, limits };
}

const clamp = (t: number) => Math.min(1, Math.max(0, t));

function firstAbove(sorted: ArrayLike<number>, limit: number): number | undefined {
	for (let i = 0; i < sorted.length; i++) if (sorted[i]! > limit) return sorted[i]!;
	return undefined;
}
