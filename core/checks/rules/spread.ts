/** Middle and spread of numbers that a few wild ones do not move: median and median absolute deviation (times 1.4826). */
export function middleOf(values: Float64Array): { middle: number; spread: number; low: number; high: number } | null {
	const v = values.filter((x) => !Number.isNaN(x)).sort();
	if (v.length === 0) return null;
	const middle = v[v.length >> 1]!;
	const off = v.map((x) => Math.abs(x - middle)).sort();
	return {
		middle,
		spread: 1.4826 * off[off.length >> 1]!,
		low: v[Math.floor(0.05 * (v.length - 1))]!,
		high: v[Math.ceil(0.95 * (v.length - 1))]!
	};
}
