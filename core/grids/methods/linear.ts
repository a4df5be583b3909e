import type { Gridder, MethodInput } from './method';
import { nearest } from './nearest';
import { sharesOf, Triangulation } from './triangulation';

export type Beyond = 'empty' | 'nearest';

/**
 * A method that weighs the corners of Delaunay triangles: those that a barrier hides do not count, and outside the hull stands what is
 * wanted.
 * @param weigh readings and their weights at a place (about the middle) in a triangle; they add up to 1
 * @throws ProblemError `in-a-line`
 */
export function overTriangles(
	input: MethodInput,
	beyond: Beyond,
	weigh: (t: Triangulation) => (triangle: number, px: number, py: number) => readonly (readonly [number, number])[]
): Gridder {
	const { points, barriers } = input;
	const t = new Triangulation(points);
	const weights = weigh(t);
	const outside = beyond === 'nearest' || barriers.any ? nearest(input, { radius: 0 }) : null;
	const mean = (parts: readonly (readonly [number, number])[]) => parts.reduce((s, [i, w]) => s + w * points.value[i]!, 0);
	return {
		rebuilt: true,
		at(x, y) {
			const [px, py] = [x - t.cx, y - t.cy];
			const k = t.locate(px, py);
			if (k < 0) return beyond === 'nearest' ? outside!.at(x, y) : NaN;
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
	overTriangles(input, beyond, (t) => (k, px, py) => {
		const w = t.shares(k, px, py);
		return [0, 1, 2].map((c) => [t.triangles[3 * k + c]!, w[c]!] as const);
	});
