import { seededRandom } from '../statistics/random';

/** What is known of one age: a normal, or anything between two limits, or both. */
export interface AgeBelief {
	/** Mean and standard deviation, million years; an infinite deviation says that only the limits count. */
	mean: number;
	sd: number;
	low?: number | undefined;
	high?: number | undefined;
}

interface OrderedAges {
	/** Draws, one array of ages for each. */
	draws: Float64Array[];
	mean: Float64Array;
	sd: Float64Array;
	median: Float64Array;
	/** 5 and 95 of 100. */
	low: Float64Array;
	high: Float64Array;
}

/**
 * Draws of ages that grow from each to the next: Gibbs sampling of normals under the constraint of order (Gelfand, Smith & Lee 1992), each
 * drawn from its normal between the neighbours and its own limits. The same beliefs give the same draws.
 * @param beliefs from the youngest to the oldest
 * @param count of draws that are kept, after a tenth more that are not
 */
export function orderedAges(beliefs: readonly AgeBelief[], count = 2000, seed = 1, thin = 2): OrderedAges {
	const n = beliefs.length;
	const random = seededRandom(seed);
	const limits = beliefs.map((b) => [Math.max(0, b.low ?? 0), b.high ?? Infinity] as const);
	// Begin in order: means, pushed apart where they are not.
	const x = new Float64Array(n);
	const centre = (i: number) => {
		const b = beliefs[i]!;
		const [low, high] = limits[i]!;
		return Number.isFinite(b.sd) ? Math.min(high, Math.max(low, b.mean)) : Number.isFinite(high) ? (low + high) / 2 : low;
	};
	isotonic(
		beliefs.map((b, i) => [centre(i), Number.isFinite(b.sd) && b.sd > 0 ? 1 / b.sd ** 2 : 1e-6]),
		x
	);
	const draws: Float64Array[] = [];
	for (let round = -Math.ceil(count / 10); round < count; round++) {
		for (let pass = 0; pass < thin; pass++)
			for (let i = 0; i < n; i++) {
				const [lowest, highest] = limits[i]!;
				const below = i > 0 ? x[i - 1]! : 0;
				const above = i + 1 < n ? x[i + 1]! : Infinity;
				let [low, high] = [Math.max(lowest, below), Math.min(highest, above)];
				// Limits that the order breaks give way.
				if (!(low < high)) [low, high] = [below, above];
				x[i] = low < high ? normalBetween(beliefs[i]!.mean, beliefs[i]!.sd, low, high, random) : low;
			}
		if (round >= 0) draws.push(x.slice());
	}
	const of = (f: (v: Float64Array) => number) =>
		Float64Array.from({ length: n }, (_, i) => f(Float64Array.from(draws, (d) => d[i]!).sort()));
	const mean = of((v) => v.reduce((a, b) => a + b, 0) / v.length);
	return {
		draws,
		mean,
		sd: of((v) => {
			const m = v.reduce((a, b) => a + b, 0) / v.length;
			return Math.sqrt(v.reduce((a, b) => a + (b - m) ** 2, 0) / v.length);
		}),
		median: of((v) => v[v.length >> 1]!),
		low: of((v) => v[Math.floor(v.length * 0.05)]!),
		high: of((v) => v[Math.min(v.length - 1, Math.floor(v.length * 0.95))]!)
	};
}

/** Pool adjacent violators: the growing values that lie nearest by weight. */
function isotonic(points: readonly (readonly [number, number])[], into: Float64Array): void {
	const pools: { value: number; weight: number; count: number }[] = [];
	for (const [value, weight] of points) {
		pools.push({ value, weight, count: 1 });
		for (let k = pools.length - 1; k > 0 && pools[k - 1]!.value > pools[k]!.value; k--) {
			const [a, b] = [pools[k - 1]!, pools.pop()!];
			a.value = (a.value * a.weight + b.value * b.weight) / (a.weight + b.weight);
			a.weight += b.weight;
			a.count += b.count;
		}
	}
	let i = 0;
	for (const p of pools) for (let k = 0; k < p.count; k++) into[i++] = p.value;
}

/** One draw of a normal between two limits: by rejection from the normal, the uniform or an exponential tail (Robert 1995). */
export function normalBetween(
	mean: number,
	sd: number,
	low: number,
	high: number,
	random: { uniform(): number; normal(): number }
): number {
	if (!(sd > 0)) return Math.min(high, Math.max(low, mean));
	if (!Number.isFinite(sd)) return Number.isFinite(high) ? low + (high - low) * random.uniform() : low - Math.log(1 - random.uniform());
	let [a, b] = [(low - mean) / sd, (high - mean) / sd];
	// The farther tail is drawn as the nearer one, mirrored.
	const mirrored = b < 0 || (a <= 0 && b < -a && b < 0);
	if (mirrored) [a, b] = [-b, -a];
	let z: number;
	if (a <= 0) {
		if (b - a < 1.2) {
			// A narrow window about the middle: uniform draws, kept as the density says.
			do z = a + (b - a) * random.uniform();
			while (random.uniform() > Math.exp(-(z * z) / 2));
		} else
			do z = random.normal();
			while (z < a || z > b);
	} else if (b - a < 1 / Math.max(a, 1)) {
		do z = a + (b - a) * random.uniform();
		while (random.uniform() > Math.exp((a * a - z * z) / 2));
	} else {
		const rate = (a + Math.sqrt(a * a + 4)) / 2;
		do z = a - Math.log(1 - random.uniform()) / rate;
		while (z > b || random.uniform() > Math.exp(-((z - rate) ** 2) / 2));
	}
	return mean + sd * (mirrored ? -z : z);
}
