import { seededRandom } from '../statistics/random';
import type { Gridding } from './gridding';
import type { Points } from './points';

/** Every parameter of gridding, as it is when nobody says anything. */
export const plainGridding = (own: Partial<Gridding>): Gridding => ({
	method: 'inverse-distance',
	stretch: 1,
	azimuth: 0,
	power: 2,
	smoothing: 0,
	most: 0,
	least: 1,
	radius: 0,
	sectors: '1',
	beyond: 'empty',
	tension: 0,
	degree: 1,
	variogram: 'fitted',
	shape: 'spherical',
	nugget: 0,
	sill: 1,
	range: 100,
	drift: 'plane',
	above: 0,
	...own
});

/** Seeded readings of a function over a square of a side, with an offset like that of real coordinates. */
export function readingsOfFunction(n: number, seed: number, f: (x: number, y: number) => number, side = 1000): Points {
	const { uniform } = seededRandom(seed);
	const x = Float64Array.from({ length: n }, () => 400_000 + side * uniform());
	const y = Float64Array.from({ length: n }, () => 4_990_000 + side * uniform());
	return { x, y, value: x.map((v, i) => f(v - 400_000, y[i]! - 4_990_000)), from: Uint32Array.from(x, (_, i) => i) };
}
