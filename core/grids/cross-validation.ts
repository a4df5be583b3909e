import { Barriers } from './barriers';
import { gridder, variogramFor, type Gridding, type GriddingInput } from './gridding';
import { minimumCurvature } from './methods/minimum-curvature';
import type { Frame } from './frame';
import type { Points } from './points';
import { sampleRaster } from './raster';
import { frameBoxOf } from './methods/box';
import { frameOf, niceAbove } from './frame';
import { usualSpacing } from './points';
import { seededRandom } from '../statistics/random';

export interface Validation {
	/** Estimate of each reading from the others; NaN where they give none. */
	estimates: Float64Array;
	/** Readings that others give an estimate of. */
	count: number;
	/** Of estimate − reading, units of the readings. */
	meanError: number;
	rms: number;
	meanAbsolute: number;
	/** Of estimates and readings. */
	correlation: number;
	/** Numbers of the readings that are missed most, the worst first. */
	worst: number[];
}

/** Above so many readings a method that must be made anew for each is tried on groups. */
const MOST_ALONE = 400;

/**
 * Leaves readings out, one by one or group by group, and estimates them from the others (Stone 1974).
 * @param groups number of groups; 0 leaves out one by one. Readings of a group are spread evenly, by a fixed seed.
 */
export function crossValidate(g: Gridding, input: GriddingInput, groups: number, progress: (share: number) => void = () => {}): Validation {
	const { points } = input;
	const n = points.value.length;
	const indicator = g.method === 'kriging-indicator';
	const truth = indicator ? points.value.map((v) => (v > g.above ? 1 : 0)) : points.value;
	const estimates = new Float64Array(n).fill(NaN);
	const variogram = variogramFor(g, points);
	const own: GriddingInput = variogram ? { ...input, variogram: variogram.variogram } : input;
	const ready = groups === 0 && g.method !== 'minimum-curvature' ? gridder(g, own)! : null;
	if (ready && !ready.rebuilt)
		for (let i = 0; i < n; i++) {
			if (i % 100 === 0) progress(i / n);
			estimates[i] = ready.at(points.x[i]!, points.y[i]!, i);
		}
	else {
		const parts = groups > 0 ? Math.min(groups, n) : n <= MOST_ALONE && g.method !== 'minimum-curvature' ? n : Math.min(n, 20);
		const { uniform } = seededRandom(11);
		const order = Array.from({ length: n }, (_, i) => [uniform(), i] as const)
			.sort((a, b) => a[0] - b[0])
			.map(([, i]) => i);
		for (let p = 0; p < parts; p++) {
			progress(p / parts);
			const left = order.filter((_, k) => k % parts === p);
			const at = estimatorWithout(g, own, new Set(left));
			if (at) for (const i of left) estimates[i] = at(points.x[i]!, points.y[i]!);
		}
	}
	return { estimates, ...errorsOf(estimates, truth) };
}

/** What the other readings tell about places; null when they are too few to tell anything. */
function estimatorWithout(g: Gridding, input: GriddingInput, left: ReadonlySet<number>): ((x: number, y: number) => number) | null {
	const keep = Array.from({ length: input.points.value.length }, (_, i) => i).filter((i) => !left.has(i));
	if (keep.length === 0) return null;
	const { points: all } = input;
	const points: Points = {
		x: Float64Array.from(keep, (i) => all.x[i]!),
		y: Float64Array.from(keep, (i) => all.y[i]!),
		value: Float64Array.from(keep, (i) => all.value[i]!),
		from: Uint32Array.from(keep, (i) => all.from[i]!)
	};
	try {
		if (g.method !== 'minimum-curvature') {
			const made = gridder(g, { ...input, points })!;
			return (x, y) => made.at(x, y);
		}
		const box = frameBoxOf(all);
		const frame: Frame = frameOf(box, niceAbove(usualSpacing(all.value.length, box) / 4));
		const { values } = minimumCurvature({ points, barriers: new Barriers(input.barriers) }, frame, g);
		return (x, y) => sampleRaster({ ...frame, values }, x, y);
	} catch {
		// Without these readings the others lie in a line or are too few: there is no estimate.
		return null;
	}
}

/** How far estimates lie from what was read. */
export function errorsOf(estimates: ArrayLike<number>, truth: ArrayLike<number>): Omit<Validation, 'estimates'> {
	const own: number[] = [];
	let [sum, squares, absolute, se, st, see, stt, set] = [0, 0, 0, 0, 0, 0, 0, 0];
	for (let i = 0; i < truth.length; i++) {
		const [e, t] = [estimates[i]!, truth[i]!];
		if (!Number.isFinite(e) || !Number.isFinite(t)) continue;
		own.push(i);
		const d = e - t;
		sum += d;
		squares += d * d;
		absolute += Math.abs(d);
		[se, st] = [se + e, st + t];
	}
	const n = own.length;
	for (const i of own) {
		const [e, t] = [estimates[i]! - se / n, truth[i]! - st / n];
		[see, stt, set] = [see + e * e, stt + t * t, set + e * t];
	}
	const miss = (i: number) => Math.abs(estimates[i]! - truth[i]!);
	return {
		count: n,
		meanError: n ? sum / n : NaN,
		rms: n ? Math.sqrt(squares / n) : NaN,
		meanAbsolute: n ? absolute / n : NaN,
		correlation: see > 0 && stt > 0 ? set / Math.sqrt(see * stt) : NaN,
		worst: own.sort((a, b) => miss(b) - miss(a)).slice(0, 20)
	};
}
