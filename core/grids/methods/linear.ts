import type { Gridder, MethodInput } from './method';
import { nearest } from './nearest';
import { sharesOf, Triangulation } from './triangulation';

export type Beyond = 'empty' | 'nearest';

/**
 * Straight between the corners of Delaunay triangles.
 * @param beyond what stands outside the hull of the readings
 * @throws ProblemError `in-a-line`
 */
export function linear(input: MethodInput, { beyond }: { beyond: Beyond }): Gridder {
	const { points, barriers } = input;
	const t = new Triangulation(points);
	const outside = beyond === 'nearest' || barriers.any ? nearest(input, { radius: 0 }) : null;
	return {
		rebuilt: true,
		at(x, y) {
			const [px, py] = [x - t.cx, y - t.cy];
			const k = t.locate(px, py);
			if (k < 0) return beyond === 'nearest' ? outside!.at(x, y) : NaN;
			const w = t.shares(k, px, py);
			const corners = [0, 1, 2].map((c) => [t.triangles[3 * k + c]!, w[c]!] as const);
			if (!barriers.any) return corners.reduce((s, [i, share]) => s + share * points.value[i]!, 0);
			const seen = sharesOf(corners, (i) => !barriers.between(x, y, points.x[i]!, points.y[i]!));
			return seen ? seen.reduce((s, [i, share]) => s + share * points.value[i]!, 0) : outside!.at(x, y);
		}
	};
}
