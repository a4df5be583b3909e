import { fail } from '../problem';

/** One structure of a variogram: how much it adds, and the distance at which it has added (for the exponential 95 % of) it. */
interface Structure {
	shape: 'spherical' | 'exponential' | 'gaussian';
	sill: number;
	range: number;
}

/** A model of a variogram: the nugget is the jump at the origin. Semivariances in squared units of the values, distances in length units. */
export interface Variogram {
	nugget: number;
	structures: Structure[];
}

/** Share of its sill that a structure has reached at a distance (Journel & Huijbregts 1978, III.B.2; practical ranges). */
export function growth({ shape, range }: Pick<Structure, 'shape' | 'range'>, h: number): number {
	const r = h / range;
	switch (shape) {
		case 'spherical':
			return r >= 1 ? 1 : r * (1.5 - 0.5 * r * r);
		case 'exponential':
			return 1 - Math.exp(-3 * r);
		case 'gaussian':
			return 1 - Math.exp(-3 * r * r);
	}
}

/** Semivariance at a distance; 0 at the origin itself. */
export const semivariance = (v: Variogram, h: number): number =>
	h === 0 ? 0 : v.structures.reduce((s, x) => s + x.sill * growth(x, h), v.nugget);

/** Sum of nugget and sills. */
export const totalSill = (v: Variogram): number => v.structures.reduce((s, x) => s + x.sill, v.nugget);

/** Covariance at a distance: what is left of the total sill. */
export const covarianceAt = (v: Variogram, h: number): number => totalSill(v) - semivariance(v, h);

/** The same as a function of the distance, for those who ask very often. */
export function covarianceOf(v: Variogram): (h: number) => number {
	const sill = totalSill(v);
	const [one] = v.structures;
	if (v.structures.length !== 1 || !one) return (h) => covarianceAt(v, h);
	const { shape, range, sill: own } = one;
	if (shape === 'spherical')
		return (h) => {
			if (h >= range) return 0;
			const r = h / range;
			return h === 0 ? sill : own - own * r * (1.5 - 0.5 * r * r);
		};
	return shape === 'exponential'
		? (h) => (h === 0 ? sill : own * Math.exp((-3 * h) / range))
		: (h) => (h === 0 ? sill : own * Math.exp(-3 * (h / range) ** 2));
}

/** How pairs are gathered. Lengths in length units, angles in degrees. */
interface LagOptions {
	/** Width of a class of distances, and how many there are. */
	lag: number;
	count: number;
	/** Pairs along a line only: its direction (unit vector), how far a pair may turn off it, and how far it may stand off it. */
	along?: { direction: readonly [number, number, number]; tolerance: number; bandwidth?: number };
}

interface Lag {
	/** Mean distance of the pairs. */
	distance: number;
	semivariance: number;
	pairs: number;
}

/**
 * Experimental variogram: half of the mean squared difference of pairs by distance (Matheron 1963).
 * @param xyz places, 3 × n
 * @param values n values; pairs with one that is not a number are left out
 * @returns classes that have pairs
 */
export function experimentalVariogram(xyz: Float64Array, values: ArrayLike<number>, options: LagOptions): Lag[] {
	const { lag, count, along } = options;
	if (!(lag > 0) || !(count >= 1))
		fail('bad-lag', 'the width of the lags must be above 0, and there must be one at least', undefined, 'lag');
	const reach = lag * count;
	const sums = new Float64Array(count);
	const distances = new Float64Array(count);
	const pairs = new Uint32Array(count);
	const least = along ? Math.cos((along.tolerance * Math.PI) / 180) : 0;
	for (let i = 0; i < values.length; i++)
		for (let j = 0; j < i; j++) {
			const [dx, dy, dz] = [xyz[3 * i]! - xyz[3 * j]!, xyz[3 * i + 1]! - xyz[3 * j + 1]!, xyz[3 * i + 2]! - xyz[3 * j + 2]!];
			const h = Math.sqrt(dx * dx + dy * dy + dz * dz);
			if (h >= reach || h === 0) continue;
			if (along) {
				const [a, b, c] = along.direction;
				const on = Math.abs(dx * a + dy * b + dz * c);
				if (on < least * h || Math.sqrt(Math.max(0, h * h - on * on)) > (along.bandwidth ?? Infinity)) continue;
			}
			const d = values[i]! - values[j]!;
			if (d !== d) continue;
			const k = Math.floor(h / lag);
			sums[k]! += d * d;
			distances[k]! += h;
			pairs[k]!++;
		}
	const out: Lag[] = [];
	for (let k = 0; k < count; k++)
		if (pairs[k]) out.push({ distance: distances[k]! / pairs[k]!, semivariance: sums[k]! / (2 * pairs[k]!), pairs: pairs[k]! });
	return out;
}

/**
 * The model with a nugget and one structure that fits an experimental variogram best, each class weighted by its pairs over the square
 * of the model (Cressie 1985). For a range, nugget and sill follow from weighted least squares that are repeated as the weights
 * change; the range is searched for.
 * @throws ProblemError `too-few-lags` when fewer than three classes have pairs
 */
export function fitVariogram(lags: readonly Lag[], shape: Structure['shape']): Variogram {
	if (lags.length < 3)
		fail('too-few-lags', `${lags.length} classes of distances have pairs; a fit needs three`, 'Take wider lags, or more of them.', 'lags');
	const longest = lags[lags.length - 1]!.distance;
	const misfitOf = (range: number): { misfit: number; nugget: number; sill: number } => {
		let nugget = 0;
		let sill = lags.reduce((s, l) => s + l.semivariance * l.pairs, 0) / lags.reduce((s, l) => s + l.pairs, 0);
		const g = lags.map((l) => growth({ shape, range }, l.distance));
		for (let pass = 0; pass < 12; pass++) {
			let [sw, sg, sgg, sy, sgy] = [0, 0, 0, 0, 0];
			lags.forEach((l, i) => {
				const w = l.pairs / Math.max(1e-300, nugget + sill * g[i]!) ** 2;
				sw += w;
				sg += w * g[i]!;
				sgg += w * g[i]! ** 2;
				sy += w * l.semivariance;
				sgy += w * g[i]! * l.semivariance;
			});
			const det = sw * sgg - sg * sg;
			let [n, s] = det > 0 ? [(sgg * sy - sg * sgy) / det, (sw * sgy - sg * sy) / det] : [0, sgy / sgg];
			// Neither is negative: what would be takes nothing, and the other one fits alone.
			if (n < 0) [n, s] = [0, sgy / sgg];
			if (s < 0) [n, s] = [sy / sw, 0];
			[nugget, sill] = [n, s];
		}
		return {
			misfit: lags.reduce((m, l, i) => m + l.pairs * (l.semivariance / Math.max(1e-300, nugget + sill * g[i]!) - 1) ** 2, 0),
			nugget,
			sill
		};
	};
	// Coarse steps over the range, then a golden section about the best.
	const steps = Array.from({ length: 60 }, (_, i) => longest * 0.03 * 1.07 ** i);
	const best = steps.reduce((a, b) => (misfitOf(b).misfit < misfitOf(a).misfit ? b : a));
	let [low, high] = [best / 1.07, best * 1.07];
	for (let i = 0; i < 40; i++) {
		const [a, b] = [high - (high - low) * 0.618033988749895, low + (high - low) * 0.618033988749895];
		if (misfitOf(a).misfit < misfitOf(b).misfit) high = b;
		else low = a;
	}
	const range = (low + high) / 2;
	const { nugget, sill } = misfitOf(range);
	return { nugget, structures: [{ shape, sill, range }] };
}
