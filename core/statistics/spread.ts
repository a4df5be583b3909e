/** Finite values in ascending order. */
export function sortedValues(values: ArrayLike<number>): Float32Array | Float64Array {
	const out = values instanceof Float32Array ? new Float32Array(values.length) : new Float64Array(values.length);
	let n = 0;
	for (let i = 0; i < values.length; i++) if (Number.isFinite(values[i]!)) out[n++] = values[i]!;
	return out.subarray(0, n).sort();
}

/** Value below which a share of the sorted values lies, between neighbours in proportion (Hyndman & Fan 1996, type 7). */
export function quantileSorted(sorted: ArrayLike<number>, share: number): number {
	if (sorted.length === 0) return NaN;
	const at = share * (sorted.length - 1);
	const low = Math.floor(at);
	const a = sorted[low]!;
	return low + 1 < sorted.length ? a + (at - low) * (sorted[low + 1]! - a) : a;
}

/** Count, middle and spread of the values in a window. */
export interface WindowStatistics {
	count: number;
	mean: number;
	median: number;
	/** Standard deviation of the sample (divided by n − 1). */
	deviation: number;
	least: number;
	greatest: number;
}

/** Statistics of sorted values from `low` to `high`, both included. Two passes, so that large offsets lose no digits. */
export function statisticsOf(sorted: ArrayLike<number>, low = -Infinity, high = Infinity): WindowStatistics {
	let start = lowerBound(sorted, low);
	let end = lowerBound(sorted, high);
	while (end < sorted.length && sorted[end] === high) end++;
	if (end < start) [start, end] = [end, start];
	const count = end - start;
	if (count === 0) return { count, mean: NaN, median: NaN, deviation: NaN, least: NaN, greatest: NaN };
	let sum = 0;
	for (let i = start; i < end; i++) sum += sorted[i]!;
	const mean = sum / count;
	let squares = 0;
	for (let i = start; i < end; i++) squares += (sorted[i]! - mean) ** 2;
	const middle = start + (count - 1) / 2;
	return {
		count,
		mean,
		median: (sorted[Math.floor(middle)]! + sorted[Math.ceil(middle)]!) / 2,
		deviation: count > 1 ? Math.sqrt(squares / (count - 1)) : 0,
		least: sorted[start]!,
		greatest: sorted[end - 1]!
	};
}

/** Number of values less than `v`. */
export function lowerBound(sorted: ArrayLike<number>, v: number): number {
	let low = 0;
	let high = sorted.length;
	while (low < high) {
		const middle = (low + high) >> 1;
		if (sorted[middle]! < v) low = middle + 1;
		else high = middle;
	}
	return low;
}

export interface Histogram {
	/** Limits of the bins; one more than counts. */
	limits: number[];
	counts: number[];
}

/**
 * Bins of equal width, or of equal ratio on a logarithmic axis (then from the first value above zero on). One wild value does not
 * flatten the rest: with `trimmed`, the axis ends at the percentiles 0.5 and 99.5 and the last bins take what lies beyond.
 */
export function histogramOf(sorted: ArrayLike<number>, bins: number, options: { log?: boolean; trimmed?: boolean } = {}): Histogram {
	const n = sorted.length;
	if (n === 0) return { limits: [0, 1], counts: [0] };
	const first = options.log ? Math.min(n - 1, lowerBound(sorted, Number.MIN_VALUE)) : 0;
	let low = sorted[first]!;
	let high = sorted[n - 1]!;
	if (options.trimmed && n > 200) {
		low = Math.max(low, quantileSorted(sorted, 0.005));
		high = Math.min(high, quantileSorted(sorted, 0.995));
	}
	const log = options.log === true && low > 0;
	if (!(high > low)) {
		const width = Math.abs(low) * 0.05 || 0.5;
		return { limits: [low - width, low + width], counts: [n - first] };
	}
	const limits = Array.from({ length: bins + 1 }, (_, i) => (log ? low * (high / low) ** (i / bins) : low + ((high - low) * i) / bins));
	const counts: number[] = [];
	let before = first;
	for (let b = 0; b < bins; b++) {
		const after = b + 1 === bins ? n : lowerBound(sorted, limits[b + 1]!);
		counts.push(after - before);
		before = after;
	}
	return { limits, counts };
}
