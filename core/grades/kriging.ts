import { factorPlain, solveLower, solveUpper, strideOf } from '../linear/cholesky';
import { covarianceAt, totalSill, type Variogram } from './variogram';

/** An estimate with its variance; both NaN where there is nothing to estimate from. */
export interface Estimate {
	value: number;
	variance: number;
}

/**
 * Ordinary kriging of a place from samples around it (Matheron 1963; Journel & Huijbregts 1978, V.A): weights that add up to 1 and
 * make the variance of the error least.
 */
export class Kriging {
	private readonly cells = new Map<string, number[]>();
	private readonly side: number;

	/**
	 * @param xyz places of the samples, 3 × n
	 * @param values n values
	 * @param most samples that an estimate takes: the nearest ones
	 */
	constructor(
		private readonly xyz: Float64Array,
		private readonly values: ArrayLike<number>,
		private readonly variogram: Variogram,
		private readonly most = 24
	) {
		const span = [0, 1, 2].map((c) => {
			let [low, high] = [Infinity, -Infinity];
			for (let i = c; i < xyz.length; i += 3) [low, high] = [Math.min(low, xyz[i]!), Math.max(high, xyz[i]!)];
			return Math.max(0, high - low);
		});
		const wide = span.filter((s) => s > 0);
		// Cells that hold a few samples each, over the directions in which the samples spread.
		this.side = Math.max(
			1e-9,
			wide.length ? Math.pow(wide.reduce((a, b) => a * b, 1) / Math.max(1, values.length / 4), 1 / wide.length) : 1
		);
		for (let i = 0; i < values.length; i++) {
			const key = this.key(xyz[3 * i]!, xyz[3 * i + 1]!, xyz[3 * i + 2]!, 0, 0, 0);
			const list = this.cells.get(key);
			if (list) list.push(i);
			else this.cells.set(key, [i]);
		}
	}

	private key(x: number, y: number, z: number, i: number, j: number, k: number): string {
		return `${Math.floor(x / this.side) + i},${Math.floor(y / this.side) + j},${Math.floor(z / this.side) + k}`;
	}

	private apart(i: number, x: number, y: number, z: number): number {
		return Math.hypot(this.xyz[3 * i]! - x, this.xyz[3 * i + 1]! - y, this.xyz[3 * i + 2]! - z);
	}

	/** The nearest samples, the nearest first. */
	private around(x: number, y: number, z: number, without: number): number[] {
		let found: number[] = [];
		for (let ring = 0; ; ring++) {
			// Beyond some rings asking all samples costs less.
			if (ring > 8) {
				found = Array.from({ length: this.values.length }, (_, s) => s).filter((s) => s !== without);
				break;
			}
			for (let k = -ring; k <= ring; k++)
				for (let j = -ring; j <= ring; j++)
					for (let i = -ring; i <= ring; i++) {
						if (Math.max(Math.abs(i), Math.abs(j), Math.abs(k)) !== ring) continue;
						for (const s of this.cells.get(this.key(x, y, z, i, j, k)) ?? []) if (s !== without) found.push(s);
					}
			// What is in the next ring may still be nearer than the last of these.
			if (found.filter((s) => this.apart(s, x, y, z) <= ring * this.side).length >= this.most) break;
		}
		found = found
			.map((s) => [s, this.apart(s, x, y, z)] as const)
			.sort((a, b) => a[1] - b[1] || a[0] - b[0])
			.map(([s]) => s);
		return found.slice(0, this.most);
	}

	/** Estimate at a place. @param without number of a sample that is left out, for cross-validation */
	at(x: number, y: number, z: number, without = -1): Estimate {
		const own = this.around(x, y, z, without);
		const n = own.length;
		if (n === 0) return { value: NaN, variance: NaN };
		const stride = strideOf(n);
		const matrix = new Float64Array(n * stride);
		const v = this.variogram;
		for (let i = 0; i < n; i++)
			for (let j = 0; j <= i; j++) {
				const s = own[j]!;
				matrix[i * stride + j] = covarianceAt(
					v,
					i === j ? 0 : this.apart(own[i]!, this.xyz[3 * s]!, this.xyz[3 * s + 1]!, this.xyz[3 * s + 2]!)
				);
			}
		if (factorPlain(matrix, n, stride) >= 0) return { value: NaN, variance: NaN };
		const factored = { n, stride, l: matrix, norm: 0 };
		const solve = (right: Float64Array) => solveUpper(factored, solveLower(factored, right));
		const toPlace = Float64Array.from(own, (s) => covarianceAt(v, this.apart(s, x, y, z)));
		// Without the condition on their sum the weights would be `free`; what brings the sum to 1 is a multiple of `level`.
		const free = solve(toPlace);
		const level = solve(new Float64Array(n).fill(1));
		const sum = (w: Float64Array) => w.reduce((a, b) => a + b, 0);
		const multiplier = (sum(free) - 1) / sum(level);
		let value = 0;
		let variance = totalSill(v) - multiplier;
		for (let i = 0; i < n; i++) {
			const weight = free[i]! - multiplier * level[i]!;
			value += weight * this.values[own[i]!]!;
			variance -= weight * toPlace[i]!;
		}
		return { value, variance };
	}
}
