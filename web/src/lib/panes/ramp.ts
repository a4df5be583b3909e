import { interpolateCividis } from 'd3-scale-chromatic';

/** Colour of a value on a perceptually even ramp that is safe for colour-blind readers, by rank on a log scale where values spread widely. */
export function rampOf(values: ArrayLike<number>): { color: (v: number) => string; low: number; high: number; log: boolean } {
	const sorted = Float64Array.from(values).sort();
	const at = (q: number) => sorted[Math.min(sorted.length - 1, Math.floor(q * sorted.length))] ?? 0;
	const [low, high] = [at(0.02), at(0.98)];
	const log = low > 0 && high / low > 50;
	const scale = (v: number) => (log ? Math.log(v / low) / Math.log(high / low) : (v - low) / (high - low || 1));
	return { color: (v) => interpolateCividis(Math.min(1, Math.max(0, v <= 0 && log ? 0 : scale(v)))), low, high, log };
}
