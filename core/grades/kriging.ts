import { factorPlain, solveLower, solveUpper, strideOf, type Cholesky } from '../linear/cholesky';
import { covarianceOf, totalSill, type Variogram } from './variogram';

/** An estimate with its variance; both NaN where there is nothing to estimate from. */
export interface Estimate {
	value: number;
	variance: number;
}

interface KrigingOptions {
	/** Samples that an estimate takes: the nearest ones. */
	most?: number;
	/** Finds the samples around a place, when something knows that better than asking all; `without` is left out. */
	around?: (x: number, y: number, z: number, without: number) => number[];
	/** What the mean follows besides a constant, at a place: universal kriging, or kriging with an external drift. */
	drift?: (x: number, y: number, z: number) => readonly number[];
}

interface System {
	own: number[];
	factor: Cholesky;
	/** Of each condition: its values at the samples, and what the matrix solves of them. */
	conditions: { at: Float64Array; solved: Float64Array }[];
	/** Products of the conditions over the samples, factored. */
	normal: Cholesky;
	/** The dual form (Dowd & Royle 1977): a value is the sum of covariances times these, and of the conditions times `means`. */
	dual: Float64Array;
	means: Float64Array;
}

/**
 * Ordinary kriging of a place from samples around it (Matheron 1963; Journel & Huijbregts 1978, V.A): weights that add up to 1 and
 * make the variance of the error least. With a drift the weights also give back what it is (universal kriging, Matheron 1969).
 * What was solved for one set of samples serves the places that come right after and have the same.
 */
export class Kriging {
	private readonly most: number;
	private readonly scales: Float64Array;
	private last: System | null = null;
	private readonly covariance: (h: number) => number;

	/**
	 * @param xyz places of the samples, 3 × n
	 * @param values n values
	 */
	constructor(
		private readonly xyz: Float64Array,
		private readonly values: ArrayLike<number>,
		private readonly variogram: Variogram,
		private readonly options: KrigingOptions = {}
	) {
		this.most = options.most ?? 24;
		this.covariance = covarianceOf(variogram);
		const count = options.drift && values.length ? options.drift(xyz[0]!, xyz[1]!, xyz[2]!).length : 0;
		// A drift is measured in units of its own spread, so that its conditions weigh alike.
		this.scales = new Float64Array(count).fill(1e-300);
		if (options.drift)
			for (let i = 0; i < values.length; i++)
				options
					.drift(xyz[3 * i]!, xyz[3 * i + 1]!, xyz[3 * i + 2]!)
					.forEach((v, k) => (this.scales[k] = Math.max(this.scales[k]!, Math.abs(v))));
	}

	private apart(i: number, x: number, y: number, z: number): number {
		const dx = this.xyz[3 * i]! - x;
		const dy = this.xyz[3 * i + 1]! - y;
		const dz = this.xyz[3 * i + 2]! - z;
		return Math.sqrt(dx * dx + dy * dy + dz * dz);
	}

	/** The nearest samples, by asking all. */
	private nearest(x: number, y: number, z: number, without: number): number[] {
		return Array.from({ length: this.values.length }, (_, s) => s)
			.filter((s) => s !== without)
			.map((s) => [s, this.apart(s, x, y, z)] as const)
			.sort((a, b) => a[1] - b[1] || a[0] - b[0])
			.slice(0, this.most)
			.map(([s]) => s);
	}

	private conditionsAt(x: number, y: number, z: number): number[] {
		return [1, ...(this.options.drift?.(x, y, z) ?? []).map((v, k) => v / this.scales[k]!)];
	}

	/** @returns null when the samples can not be told apart */
	private system(own: number[]): System | null {
		const n = own.length;
		const stride = strideOf(n);
		const matrix = new Float64Array(n * stride);
		const { xyz, covariance } = this;
		const zero = covariance(0);
		for (let i = 0; i < n; i++) {
			const a = 3 * own[i]!;
			for (let j = 0; j < i; j++) {
				const b = 3 * own[j]!;
				const dx = xyz[a]! - xyz[b]!;
				const dy = xyz[a + 1]! - xyz[b + 1]!;
				const dz = xyz[a + 2]! - xyz[b + 2]!;
				matrix[i * stride + j] = covariance(Math.sqrt(dx * dx + dy * dy + dz * dz));
			}
			matrix[i * stride + i] = zero;
		}
		if (factorPlain(matrix, n, stride) >= 0) return null;
		const factor: Cholesky = { n, stride, l: matrix, norm: 0 };
		const at = own.map((s) => this.conditionsAt(this.xyz[3 * s]!, this.xyz[3 * s + 1]!, this.xyz[3 * s + 2]!));
		// A drift needs more samples than it has conditions; with fewer the mean is a constant.
		for (let count = n > at[0]!.length ? at[0]!.length : 1; ; count = 1) {
			const conditions = Array.from({ length: count }, (_, k) => {
				const column = Float64Array.from(at, (c) => c[k]!);
				return { at: column, solved: solveUpper(factor, solveLower(factor, column)) };
			});
			const step = strideOf(count);
			const normal = new Float64Array(count * step);
			for (let i = 0; i < count; i++) for (let j = 0; j <= i; j++) normal[i * step + j] = dot(conditions[i]!.at, conditions[j]!.solved);
			const diagonal = conditions.map((_, i) => normal[i * step + i]!);
			const singular = factorPlain(normal, count, step) >= 0 || diagonal.some((d, i) => normal[i * step + i]! ** 2 < 1e-12 * d);
			if (!singular) {
				const values = Float64Array.from(own, (s) => this.values[s]!);
				const small: Cholesky = { n: count, stride: step, l: normal, norm: 0 };
				const means = solveUpper(
					small,
					solveLower(
						small,
						Float64Array.from(conditions, (c) => dot(c.solved, values))
					)
				);
				const left = values.map((v, i) => conditions.reduce((s, c, k) => s - c.at[i]! * means[k]!, v));
				return { own, factor, conditions, normal: small, dual: solveUpper(factor, solveLower(factor, left)), means };
			}
			if (count === 1) return null;
		}
	}

	/** The system of the samples around a place; null when there are none, or they can not be told apart. */
	private systemAt(x: number, y: number, z: number, without: number): System | null {
		const own = this.options.around ? this.options.around(x, y, z, without) : this.nearest(x, y, z, without);
		if (own.length === 0) return null;
		const known = this.last;
		if (known && known.own.length === own.length && known.own.every((s, i) => s === own[i])) return known;
		return (this.last = this.system(own));
	}

	/** The estimate alone, for those who ask very often. */
	valueAt(x: number, y: number, z: number, without = -1): number {
		const system = this.systemAt(x, y, z, without);
		if (!system) return NaN;
		const { own, dual, means } = system;
		let value = means[0]!;
		if (means.length > 1) {
			const here = this.conditionsAt(x, y, z);
			for (let k = 1; k < means.length; k++) value += here[k]! * means[k]!;
		}
		for (let i = 0; i < own.length; i++) value += dual[i]! * this.covariance(this.apart(own[i]!, x, y, z));
		return value;
	}

	/** Estimate at a place. @param without number of a sample that is left out, for cross-validation */
	at(x: number, y: number, z: number, without = -1): Estimate {
		const system = this.systemAt(x, y, z, without);
		if (!system) return { value: NaN, variance: NaN };
		const { own, factor, conditions, normal } = system;
		const toPlace = Float64Array.from(own, (s) => this.covariance(this.apart(s, x, y, z)));
		// Without conditions the weights would be `free`; multiples of what the conditions solve to bring them in.
		const free = solveUpper(factor, solveLower(factor, toPlace));
		const here = conditions.length > 1 ? this.conditionsAt(x, y, z) : [1];
		const excess = Float64Array.from(conditions, (c, k) => dot(c.at, free) - here[k]!);
		const multipliers = solveUpper(normal, solveLower(normal, excess));
		let value = 0;
		let variance = totalSill(this.variogram);
		for (let i = 0; i < own.length; i++) {
			let weight = free[i]!;
			for (let k = 0; k < conditions.length; k++) weight -= multipliers[k]! * conditions[k]!.solved[i]!;
			value += weight * this.values[own[i]!]!;
			variance -= weight * toPlace[i]!;
		}
		for (let k = 0; k < conditions.length; k++) variance -= multipliers[k]! * here[k]!;
		return { value, variance };
	}
}

function dot(a: Float64Array, b: Float64Array): number {
	let s = 0;
	for (let i = 0; i < a.length; i++) s += a[i]! * b[i]!;
	return s;
}
