import type { Gridder, MethodInput } from './method';
import { nearest } from './nearest';
import { sharesOf, Triangulation } from './triangulation';

export type Beyond = 'empty' | 'nearest';

/**
 * A method that weighs the corners of Delaunay triangles: those that a barrier hides do not count, and outside the hull stands what is
 * wanted.
 * @param weigh readings and their weights at a place (about the middle) in a triangle; they add up to 1
 * @param whole the same as one value where nothing is hidden, for methods that are quicker so
 * @throws ProblemError `in-a-line`
 */
export function overTriangles(
	input: MethodInput,
	beyond: Beyond,
	weigh: (t: Triangulation) => (triangle: number, px: number, py: number) => readonly (readonly [number, number])[],
	whole?: (t: Triangulation) => (triangle: number, px: number, py: number) => number
): Gridder {
	const { points, barriers } = input;
	const t = new Triangulation(points);
	const weights = weigh(t);
	const quick = barriers.any ? undefined : whole?.(t);
	const outside = beyond === 'nearest' || barriers.any ? nearest(input, { radius: 0 }) : null;
	const mean = (parts: readonly (readonly [number, number])[]) => parts.reduce((s, [i, w]) => s + w * points.value[i]!, 0);
	return {
		rebuilt: true,
		at(x, y) {
			const [px, py] = [x - t.cx, y - t.cy];
			const k = t.locate(px, py);
			if (k < 0) return beyond === 'nearest' ? outside!.at(x, y) : NaN;
			if (quick) return quick(k, px, py);
			const own = weights(k, px, py);
			if (!barriers.any) return mean(own);
			const seen = sharesOf(own, (i) => !barriers.between(x, y, points.x[i]!, points.y[i]!));
			return seen ? mean(seen) : outside!.at(x, y);
		}
	};
}

/**
 * Straight between the corners of Delaunay triangles.
 * @param beyond what stands outside the hull of the readings
 * @throws ProblemError `in-a-line`
 */
export const linear = (input: MethodInput, { beyond }: { beyond: Beyond }): Gridder =>
	overTriangles(
		input,
		beyond,
		(t) => (k, px, py) => {
			const w = t.shares(k, px, py);
			return [0, 1, 2].map((c) => [t.triangles[3 * k + c]!, w[c]!] as const);
		},
		(t) => planesOf(t, input.points.value)
	);

/** The plane through the corners of each triangle. */
function planesOf(t: Triangulation, value: Float64Array): (triangle: number, px: number, py: number) => number {
	const planes = new Float64Array(t.triangles.length);
	for (let k = 0; k < planes.length; k += 3) {
		const [a, b, c] = [t.triangles[k]!, t.triangles[k + 1]!, t.triangles[k + 2]!];
		const [bx, by, cx, cy] = [t.x[b]! - t.x[a]!, t.y[b]! - t.y[a]!, t.x[c]! - t.x[a]!, t.y[c]! - t.y[a]!];
		const [u, v] = [value[b]! - value[a]!, value[c]! - value[a]!];
		const whole = bx * cy - by * cx;
		const [gx, gy] = [(u * cy - v * by) / whole, (v * bx - u * cx) / whole];
		planes.set([gx, gy, value[a]!], k);
	}
	// From a corner on, so that a steep plane of a thin triangle keeps its digits.
	return (k, px, py) => {
		const a = t.triangles[3 * k]!;
		return planes[3 * k]! * (px - t.x[a]!) + planes[3 * k + 1]! * (py - t.y[a]!) + planes[3 * k + 2]!;
	};
}
