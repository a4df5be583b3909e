import { histogramOf, quantileSorted, sortedValues } from '../statistics/spread';
import type { Raster } from './raster';
import { resample } from './resample';

/** Pairs of a scatter chart at most. */
const MOST_PAIRS = 2000;

/** One grid less another, at the cells of the first, with what tells about both. */
interface Compared {
	difference: Raster;
	count: number;
	mean: number;
	rms: number;
	meanAbsolute: number;
	median: number;
	correlation: number;
	/** Volume where the first lies above the second, and where it lies below: area × difference. */
	above: { area: number; volume: number };
	below: { area: number; volume: number };
	histogram: { limits: number[]; counts: number[] };
	/** Values of both at the same cells, evenly spread over the grid. */
	pairs: [number, number][];
}

export function compareGrids(a: Raster, b: Raster): Compared {
	const other = resample(b, a, 'straight').values;
	const values = a.values.map((v, k) => v - other[k]!);
	const cell = Math.abs(a.dx * a.dy);
	const c = { count: 0, sum: 0, squares: 0, absolute: 0, sa: 0, sb: 0 };
	const [above, below] = [
		{ area: 0, volume: 0 },
		{ area: 0, volume: 0 }
	];
	values.forEach((d, k) => {
		if (Number.isNaN(d)) return;
		c.count++;
		c.sum += d;
		c.squares += d * d;
		c.absolute += Math.abs(d);
		c.sa += a.values[k]!;
		c.sb += other[k]!;
		if (d === 0) return;
		const side = d > 0 ? above : below;
		side.area += cell;
		side.volume += Math.abs(d) * cell;
	});
	const n = c.count;
	let [saa, sbb, sab] = [0, 0, 0];
	const pairs: [number, number][] = [];
	const every = Math.max(1, Math.floor(n / MOST_PAIRS));
	let seen = 0;
	values.forEach((d, k) => {
		if (Number.isNaN(d)) return;
		const [p, q] = [a.values[k]! - c.sa / n, other[k]! - c.sb / n];
		[saa, sbb, sab] = [saa + p * p, sbb + q * q, sab + p * q];
		if (seen++ % every === 0 && pairs.length < MOST_PAIRS) pairs.push([a.values[k]!, other[k]!]);
	});
	const sorted = sortedValues(values);
	return {
		difference: { ...a, values },
		count: n,
		mean: n ? c.sum / n : NaN,
		rms: n ? Math.sqrt(c.squares / n) : NaN,
		meanAbsolute: n ? c.absolute / n : NaN,
		median: quantileSorted(sorted, 0.5),
		correlation: saa > 0 && sbb > 0 ? sab / Math.sqrt(saa * sbb) : NaN,
		above,
		below,
		histogram: histogramOf(sorted, 40, { trimmed: true }),
		pairs
	};
}
