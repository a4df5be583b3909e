import { fail } from '../problem';
import { totalSill, type Variogram } from '../grades/variogram';
import { Barriers, type Segments } from './barriers';
import type { Frame } from './frame';
import { inverseDistance } from './methods/inverse-distance';
import { kriged, variogramOf } from './methods/kriged';
import { linear, type Beyond } from './methods/linear';
import type { Gridder, MethodInput } from './methods/method';
import { minimumCurvature } from './methods/minimum-curvature';
import { naturalNeighbour } from './methods/natural-neighbour';
import { nearest } from './methods/nearest';
import { trend } from './methods/trend';
import type { Points } from './points';
import { shrinkingOf, shrunkPoints, shrunkSegments } from './shrinking';
import { sampleRaster, type Raster } from './raster';

/** Ways from readings to a grid. */
export const METHODS = {
	'inverse-distance': 'inverse distance',
	nearest: 'nearest reading',
	linear: 'linear between triangles',
	'natural-neighbour': 'natural neighbour',
	'minimum-curvature': 'minimum curvature',
	kriging: 'ordinary kriging',
	'kriging-trend': 'kriging with a trend',
	'kriging-drift': 'kriging along a grid',
	'kriging-indicator': 'chance of being above a value (indicator kriging)',
	trend: 'polynomial'
} as const;
export type Method = keyof typeof METHODS;

/** A method with all that it may be told; each takes what concerns it. */
export interface Gridding {
	method: Method;
	/** How many times farther readings count along a direction than across it, and that direction, degrees clockwise from north. */
	stretch: number;
	azimuth: number;
	/** Of inverse distance. */
	power: number;
	smoothing: number;
	/** Of methods that look for neighbours: 0 readings is all that there are, radius 0 is without limit. */
	most: number;
	least: number;
	radius: number;
	sectors: '1' | '4' | '8';
	/** Of methods that end at the hull of the readings. */
	beyond: Beyond;
	tension: number;
	degree: number;
	/** Of kriging: the model is fitted to the readings, or typed. */
	variogram: 'fitted' | 'typed';
	shape: Variogram['structures'][number]['shape'];
	nugget: number;
	sill: number;
	range: number;
	drift: 'plane' | 'quadratic';
	/** Of indicator kriging. */
	above: number;
}

/** What is gridded, and what stands in its way. */
export interface GriddingInput {
	points: Points;
	barriers: Segments;
	/** What the mean follows where the method is kriging along a grid. */
	along?: Raster;
	/** Of kriging, once it is known. */
	variogram?: Variogram;
}

/** Methods that take readings along a direction for nearer. The others have no distance, or no place to put one. */
export const STRETCHED: readonly Method[] = [
	'inverse-distance',
	'nearest',
	'linear',
	'natural-neighbour',
	'kriging',
	'kriging-trend',
	'kriging-drift',
	'kriging-indicator'
];

const isKriging = (m: Method): boolean => m.startsWith('kriging');

/** The readings as a method takes them: of indicator kriging, 1 above the value and 0 else. */
const valuesFor = (g: Gridding, points: Points): Points =>
	g.method === 'kriging-indicator' ? { ...points, value: points.value.map((v) => (v > g.above ? 1 : 0)) } : points;

/** The variogram that kriging works with: typed, or fitted to all readings. */
export function variogramFor(g: Gridding, points: Points): ReturnType<typeof variogramOf> | null {
	if (!isKriging(g.method)) return null;
	const own = shrunkPoints(shrinkingOf(g.stretch, g.azimuth, points), valuesFor(g, points));
	if (g.variogram === 'typed')
		return {
			lags: variogramOf(own, g.shape).lags,
			variogram: { nugget: g.nugget, structures: [{ shape: g.shape, sill: g.sill, range: g.range }] },
			fitted: false
		};
	return variogramOf(own, g.shape);
}

/**
 * A method made ready to be asked at places; null for minimum curvature, which makes all of a grid at once.
 * @throws ProblemError when the readings are too few, or lie so that the method has nothing to go by
 */
export function gridder(g: Gridding, input: GriddingInput): Gridder | null {
	const shrinking = STRETCHED.includes(g.method) ? shrinkingOf(g.stretch, g.azimuth, input.points) : null;
	const points = shrunkPoints(shrinking, valuesFor(g, input.points));
	const own = { points, barriers: new Barriers(shrunkSegments(shrinking, input.barriers)) };
	const made = plainGridder(g, input, own, (x, y) => (shrinking ? shrinking.back(x, y) : [x, y]));
	if (!made || !shrinking) return made;
	const { varianceAt } = made;
	return {
		...(made.rebuilt ? { rebuilt: true } : {}),
		at: (x, y, without) => made.at(...shrinking.there(x, y), without),
		...(varianceAt
			? { varianceAt: (x: number, y: number, without?: number) => varianceAt.call(made, ...shrinking.there(x, y), without) }
			: {})
	};
}

/** @param onMap where a place of the readings lies on the map */
function plainGridder(
	g: Gridding,
	input: GriddingInput,
	own: MethodInput,
	onMap: (x: number, y: number) => [number, number]
): Gridder | null {
	const { points } = own;
	const n = points.value.length;
	const search = { most: g.most > 0 ? g.most : n, least: g.least, radius: g.radius, sectors: Number(g.sectors) as 1 | 4 | 8 };
	switch (g.method) {
		case 'inverse-distance':
			return inverseDistance(own, { ...search, power: g.power, smoothing: g.smoothing });
		case 'nearest':
			return nearest(own, g);
		case 'linear':
			return linear(own, g);
		case 'natural-neighbour':
			return naturalNeighbour(own, g);
		case 'trend':
			return trend(points, g);
		case 'minimum-curvature':
			return null;
		default: {
			const variogram = input.variogram ?? variogramFor(g, input.points)!.variogram;
			if (!(totalSill(variogram) > 0))
				return fail('no-sill', 'nugget and sill are both 0: such a variogram tells nothing', 'Raise the sill.', 'sill');
			const { along } = input;
			if (g.method === 'kriging-drift' && !along)
				return fail('input-missing', 'kriging along a grid needs the grid that the mean follows', 'Choose it as "Along".', 'along');
			const k = kriged(own, variogram, {
				...search,
				most: Math.min(search.most, MOST_KRIGED),
				drift: g.method === 'kriging-trend' ? g.drift : g.method === 'kriging-drift' ? 'grid' : 'none',
				...(along ? { driftAt: (x: number, y: number) => sampleRaster(along, ...onMap(x, y)) } : {})
			});
			if (g.method !== 'kriging-indicator') return k;
			return { ...k, at: (x, y, without) => Math.min(1, Math.max(0, k.at(x, y, without))) };
		}
	}
}

/** Neighbours of one estimate of kriging, at most: its work grows with their cube. */
export const MOST_KRIGED = 200;

/** One piece of work for a thread: rows of a grid. */
export interface RowsTask {
	gridding: Gridding;
	input: GriddingInput;
	frame: Frame;
	/** First row, and the one after the last. */
	from: number;
	to: number;
	/** The variance of the error instead of the value. */
	variance?: boolean;
}

/** Values of some rows of a grid. */
export function gridRows({ gridding, input, frame, from, to, variance }: RowsTask): Float32Array {
	const g = gridder(gridding, input)!;
	const out = new Float32Array((to - from) * frame.nx);
	if (g.row && !variance) {
		for (let j = from; j < to; j++)
			g.row(frame.y0 + j * frame.dy, frame.x0, frame.dx, out.subarray((j - from) * frame.nx, (j + 1 - from) * frame.nx));
		return out;
	}
	const at = variance ? g.varianceAt!.bind(g) : g.at.bind(g);
	for (let j = from, k = 0; j < to; j++)
		// To and fro, so that each place is beside the one before it.
		for (let i = 0; i < frame.nx; i++, k++) {
			const column = (j & 1) === 0 ? i : frame.nx - 1 - i;
			out[(j - from) * frame.nx + column] = at(frame.x0 + column * frame.dx, frame.y0 + j * frame.dy);
		}
	return out;
}

/** Rows of one piece. */
const PIECES = 16;

/** A grid, with what tells about how it was made. */
interface Gridded {
	raster: Raster;
	/** Of kriging. */
	variogram: ReturnType<typeof variogramFor>;
	/** Root mean square of what readings are missed by, where the method may miss them; units of the readings. */
	misfit: number | null;
}

/**
 * Grids readings.
 * @param run does one piece of work, perhaps in a thread
 * @throws ProblemError from the method
 */
export async function grid(
	g: Gridding,
	input: GriddingInput,
	frame: Frame,
	run: (task: RowsTask) => Float32Array | Promise<Float32Array> = gridRows,
	progress: (share: number) => void = () => {},
	variance = false
): Promise<Gridded> {
	const points = valuesFor(g, input.points);
	if (g.method === 'minimum-curvature') {
		const { values, misfit } = minimumCurvature({ points, barriers: new Barriers(input.barriers) }, frame, g, progress);
		return { raster: { ...frame, values }, variogram: null, misfit };
	}
	const variogram = variogramFor(g, input.points);
	const own: GriddingInput = variogram ? { ...input, variogram: variogram.variogram } : input;
	// What can not be gridded is refused here, and not sixteen times in threads.
	const first = gridder(g, own)!;
	const values = new Float32Array(frame.nx * frame.ny);
	const rows = Math.max(1, Math.ceil(frame.ny / PIECES));
	let done = 0;
	const pieces: Promise<void>[] = [];
	for (let from = 0; from < frame.ny; from += rows) {
		const to = Math.min(frame.ny, from + rows);
		pieces.push(
			(async () => {
				values.set(await run({ gridding: g, input: own, frame, from, to, ...(variance ? { variance } : {}) }), from * frame.nx);
				progress((done += to - from) / frame.ny);
			})()
		);
	}
	await Promise.all(pieces);
	let misfit: number | null = null;
	if (!variance && (g.method === 'trend' || g.method === 'inverse-distance' || isKriging(g.method))) {
		let [s, n] = [0, 0];
		for (let i = 0; i < points.value.length && i < 5000; i++) {
			const d = first.at(points.x[i]!, points.y[i]!) - points.value[i]!;
			if (Number.isFinite(d)) [s, n] = [s + d * d, n + 1];
		}
		misfit = n ? Math.sqrt(s / n) : null;
	}
	return { raster: { ...frame, values }, variogram, misfit };
}
