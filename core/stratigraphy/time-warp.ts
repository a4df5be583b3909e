/** How two curves fit onto each other. */
interface Warp {
	/** Pairs of indexes, from both starts to both ends, neither ever going back. */
	path: [number, number][];
	/** Correlation of the values along the path, −1 to 1; 0 where one of them does not vary. */
	score: number;
}

const scaled = (v: ArrayLike<number>): Float64Array => {
	const known = Array.from(v).filter(Number.isFinite);
	const mean = known.reduce((a, b) => a + b, 0) / Math.max(1, known.length);
	const spread = Math.sqrt(known.reduce((a, b) => a + (b - mean) ** 2, 0) / Math.max(1, known.length)) || 1;
	return Float64Array.from(v, (x) => (Number.isFinite(x) ? (x - mean) / spread : 0));
};

/**
 * Lays one curve onto the other by dynamic time warping (Sakoe & Chiba 1978): the path of least summed distance, with symmetric
 * weights (2 along both, 1 along one), within a band about the straight way between anchors. Values are compared by their own mean and spread.
 * @param a values at even distances; gaps count as the mean
 * @param b values of the other curve
 * @param options.anchors pairs of indexes that must lie on the path, growing in both
 * @param options.band greatest distance from the straight way, as a share of the longer part (0.25)
 */
export function timeWarp(
	a: ArrayLike<number>,
	b: ArrayLike<number>,
	options: { anchors?: readonly (readonly [number, number])[]; band?: number } = {}
): Warp {
	if (a.length === 0 || b.length === 0) return { path: [], score: 0 };
	const [x, y] = [scaled(a), scaled(b)];
	const fixed: (readonly [number, number])[] = [[0, 0]];
	for (const [i, j] of [...(options.anchors ?? [])].sort((p, q) => p[0] - q[0])) {
		const [pi, pj] = fixed[fixed.length - 1]!;
		if (i > pi && j > pj && i < a.length - 1 && j < b.length - 1) fixed.push([i, j]);
	}
	fixed.push([a.length - 1, b.length - 1]);
	const path: [number, number][] = [[0, 0]];
	for (let k = 1; k < fixed.length; k++) {
		const [i0, j0] = fixed[k - 1]!;
		const [i1, j1] = fixed[k]!;
		path.push(
			...part(x.subarray(i0, i1 + 1), y.subarray(j0, j1 + 1), options.band ?? 0.25)
				.slice(1)
				.map(([i, j]): [number, number] => [i + i0, j + j0])
		);
	}
	return {
		path,
		score: correlation(
			path.map(([i]) => x[i]!),
			path.map(([, j]) => y[j]!)
		)
	};
}

function part(x: Float64Array, y: Float64Array, band: number): [number, number][] {
	const [n, m] = [x.length, y.length];
	// The band holds at least what the two lengths differ by, so that the ends can be reached.
	const reach = Math.max(1, Math.ceil(band * Math.max(n, m)));
	const cost = new Float64Array(n * m).fill(Infinity);
	const from = new Uint8Array(n * m);
	cost[0] = Math.abs(x[0]! - y[0]!) * 2;
	for (let i = 0; i < n; i++) {
		const middle = n > 1 ? (i * (m - 1)) / (n - 1) : 0;
		const [low, high] = n > 1 ? [Math.max(0, Math.floor(middle - reach)), Math.min(m - 1, Math.ceil(middle + reach))] : [0, m - 1];
		for (let j = low; j <= high; j++) {
			if (i === 0 && j === 0) continue;
			const d = Math.abs(x[i]! - y[j]!);
			let best = Infinity;
			let way = 0;
			if (i > 0 && j > 0 && cost[(i - 1) * m + j - 1]! + 2 * d < best) [best, way] = [cost[(i - 1) * m + j - 1]! + 2 * d, 0];
			if (i > 0 && cost[(i - 1) * m + j]! + d < best) [best, way] = [cost[(i - 1) * m + j]! + d, 1];
			if (j > 0 && cost[i * m + j - 1]! + d < best) [best, way] = [cost[i * m + j - 1]! + d, 2];
			cost[i * m + j] = best;
			from[i * m + j] = way;
		}
	}
	const back: [number, number][] = [];
	for (let [i, j] = [n - 1, m - 1]; ;) {
		back.push([i, j]);
		if (i === 0 && j === 0) break;
		const way = i === 0 ? 2 : j === 0 ? 1 : from[i * m + j]!;
		if (way !== 2) i--;
		if (way !== 1) j--;
	}
	return back.reverse();
}

/** Correlation of pairs of values; 0 where one of them does not vary. */
export function correlation(a: readonly number[], b: readonly number[]): number {
	const mean = (v: readonly number[]) => v.reduce((s, x) => s + x, 0) / v.length;
	const [ma, mb] = [mean(a), mean(b)];
	let [ab, aa, bb] = [0, 0, 0];
	a.forEach((v, i) => {
		ab += (v - ma) * (b[i]! - mb);
		aa += (v - ma) ** 2;
		bb += (b[i]! - mb) ** 2;
	});
	return aa > 1e-12 && bb > 1e-12 ? ab / Math.sqrt(aa * bb) : 0;
}

/** Where an index of the first curve lies on the second, the mean of all it is laid onto. */
export function warped(path: readonly (readonly [number, number])[], i: number): number {
	const own = path.filter(([k]) => k === Math.round(i)).map(([, j]) => j);
	return own.length ? own.reduce((a, b) => a + b, 0) / own.length : NaN;
}
