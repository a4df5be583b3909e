import { Kriging } from '../../grades/kriging';
import { experimentalVariogram, fitVariogram, totalSill, type Variogram } from '../../grades/variogram';
import { seededRandom } from '../../statistics/random';
import type { Points } from '../points';
import { frameBoxOf } from './box';
import type { Gridder, MethodInput } from './method';
import { Neighbours, type Search } from './neighbours';

interface KrigedOptions extends Search {
	/** What the mean follows: nothing, a plane, a second-degree surface, or a grid. */
	drift: 'none' | 'plane' | 'quadratic' | 'grid';
	/** Values of the grid that the mean follows; NaN where it has none. */
	driftAt?: (x: number, y: number) => number;
}

/** Readings that a variogram is worked out from, at most: pairs grow with their square. */
const MOST_FOR_VARIOGRAM = 3000;

/**
 * A variogram of readings: 15 classes of distance up to a third of the diagonal (Journel & Huijbregts 1978 take no more than half),
 * and the model of a shape that fits it.
 * @returns the classes, and the model; with too few pairs a sill of the variance and a range of a third of the diagonal
 */
export function variogramOf(points: Points, shape: Variogram['structures'][number]['shape'], values: ArrayLike<number> = points.value) {
	const n = points.x.length;
	const { uniform } = seededRandom(7);
	const chosen =
		n <= MOST_FOR_VARIOGRAM
			? Array.from({ length: n }, (_, i) => i)
			: Array.from({ length: n }, (_, i) => [uniform(), i] as const)
					.sort((a, b) => a[0] - b[0])
					.slice(0, MOST_FOR_VARIOGRAM)
					.map(([, i]) => i);
	const box = frameBoxOf(points);
	const reach = Math.hypot(box.maxX - box.minX, box.maxY - box.minY) / 3;
	const xyz = Float64Array.from({ length: 3 * chosen.length }, (_, k) => {
		const i = chosen[Math.floor(k / 3)]!;
		return k % 3 === 0 ? points.x[i]! - box.minX : k % 3 === 1 ? points.y[i]! - box.minY : 0;
	});
	const own = Float64Array.from(chosen, (i) => values[i]!);
	const mean = own.reduce((a, b) => a + b, 0) / own.length;
	const variance = own.reduce((a, b) => a + (b - mean) ** 2, 0) / Math.max(1, own.length - 1);
	const lags = reach > 0 ? experimentalVariogram(xyz, own, { lag: reach / 15, count: 15 }) : [];
	const plain: Variogram = { nugget: 0, structures: [{ shape, sill: variance || 1, range: reach || 1 }] };
	if (lags.length < 3 || variance === 0) return { lags, variogram: plain, fitted: false };
	const variogram = fitVariogram(lags, shape);
	return totalSill(variogram) > 0 ? { lags, variogram, fitted: true } : { lags, variogram: plain, fitted: false };
}

/** Kriging of readings on the map, with the variance of its error. */
export function kriged({ points, barriers }: MethodInput, variogram: Variogram, o: KrigedOptions): Gridder {
	const box = frameBoxOf(points);
	const [cx, cy] = [(box.minX + box.maxX) / 2, (box.minY + box.maxY) / 2];
	const xyz = new Float64Array(3 * points.x.length);
	for (let i = 0; i < points.x.length; i++) [xyz[3 * i], xyz[3 * i + 1]] = [points.x[i]! - cx, points.y[i]! - cy];
	const near = new Neighbours(points, barriers, o);
	// A model without any nugget that begins flat can not be told apart in numbers.
	const flat = variogram.structures.some((s) => s.shape === 'gaussian') && variogram.nugget < 1e-6 * totalSill(variogram);
	const driftAt = o.driftAt;
	const drift =
		o.drift === 'plane'
			? (x: number, y: number) => [x, y]
			: o.drift === 'quadratic'
				? (x: number, y: number) => [x, y, x * x, x * y, y * y]
				: o.drift === 'grid' && driftAt
					? (x: number, y: number) => [driftAt(x + cx, y + cy)]
					: null;
	const kriging = new Kriging(xyz, points.value, flat ? { ...variogram, nugget: 1e-6 * totalSill(variogram) } : variogram, {
		// Neighbours of a place change in order, not in what they are, from one place to the next: in one order their system is the same.
		around: (x, y, _z, without) => near.around(x + cx, y + cy, without).sort((a, b) => a - b),
		...(drift ? { drift } : {})
	});
	return {
		at: (x, y, without = -1) =>
			o.drift === 'grid' && !Number.isFinite(driftAt?.(x, y) ?? NaN) ? NaN : kriging.valueAt(x - cx, y - cy, 0, without),
		varianceAt: (x, y, without = -1) => kriging.at(x - cx, y - cy, 0, without).variance
	};
}
