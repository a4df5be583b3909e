import { overTriangles, type Beyond } from './linear';
import type { Gridder, MethodInput } from './method';
import type { Triangulation } from './triangulation';

/**
 * Mean of the natural neighbours, each weighted by the area that the place would take from its Voronoi cell (Sibson 1981). The cells
 * are found by taking out the triangles whose circumcircle holds the place (Bowyer 1981; Watson 1981). Exact for linear data.
 * @throws ProblemError `in-a-line`
 */
export const naturalNeighbour = (input: MethodInput, { beyond }: { beyond: Beyond }): Gridder =>
	overTriangles(input, beyond, (t) => {
		const centres = circumcentres(t);
		return (k, px, py) => sibson(t, centres, k, px, py);
	});

/** Centre of the circle through three places; [NaN, NaN] when they lie in a line. */
function circumcentre(ax: number, ay: number, bx: number, by: number, cx: number, cy: number): [number, number] {
	const [dx, dy, ex, ey] = [bx - ax, by - ay, cx - ax, cy - ay];
	const d = 2 * (dx * ey - dy * ex);
	if (d === 0) return [NaN, NaN];
	const [b, c] = [dx * dx + dy * dy, ex * ex + ey * ey];
	return [ax + (ey * b - dy * c) / d, ay + (dx * c - ex * b) / d];
}

/** Centre and squared radius of the circle of each triangle: 3 numbers each. */
function circumcentres({ triangles: t, x, y }: Triangulation): Float64Array {
	const out = new Float64Array(t.length);
	for (let k = 0; k < t.length; k += 3) {
		const a = t[k]!;
		const [cx, cy] = circumcentre(x[a]!, y[a]!, x[t[k + 1]!]!, y[t[k + 1]!]!, x[t[k + 2]!]!, y[t[k + 2]!]!);
		out[k] = cx;
		out[k + 1] = cy;
		out[k + 2] = (x[a]! - cx) ** 2 + (y[a]! - cy) ** 2;
	}
	return out;
}

/** Readings and their weights, which add up to 1. @param k triangle that the place lies in */
function sibson(t: Triangulation, centres: Float64Array, k: number, px: number, py: number): [number, number][] {
	const { triangles, halfedges, x, y } = t;
	const cavity = new Set([k]);
	for (const open = [k]; open.length;) {
		const at = open.pop()!;
		for (let e = 3 * at; e < 3 * at + 3; e++) {
			const other = halfedges[e]! < 0 ? -1 : Math.floor(halfedges[e]! / 3);
			if (other < 0 || cavity.has(other)) continue;
			const [cx, cy, r] = [centres[3 * other]!, centres[3 * other + 1]!, centres[3 * other + 2]!];
			if ((px - cx) ** 2 + (py - cy) ** 2 < r * (1 - 1e-12)) {
				cavity.add(other);
				open.push(other);
			}
		}
	}
	// The rim of the cavity by the corner that each edge begins at.
	const edgeFrom = new Map<number, number>();
	for (const at of cavity)
		for (let e = 3 * at; e < 3 * at + 3; e++) {
			const other = halfedges[e]! < 0 ? -1 : Math.floor(halfedges[e]! / 3);
			if (!cavity.has(other)) edgeFrom.set(triangles[e]!, e);
		}
	const next = (e: number) => (e % 3 === 2 ? e - 2 : e + 1);
	const cornerOf = (e: number) => triangles[e]!;
	const plain = (): [number, number][] => {
		const w = t.shares(k, px, py);
		return [0, 1, 2].map((c) => [triangles[3 * k + c]!, w[c]!]);
	};
	const weights: [number, number][] = [];
	let sum = 0;
	for (const [b, e] of edgeFrom) {
		// The rim comes to b along `into` and leaves it along `e`.
		const c = cornerOf(next(e));
		let turn = e;
		const ring: number[] = [];
		const second = circumcentre(px, py, x[b]!, y[b]!, x[c]!, y[c]!);
		ring.push(...second);
		let a = -1;
		for (let guard = 0; guard < 1000; guard++) {
			const at = Math.floor(turn / 3);
			ring.push(centres[3 * at]!, centres[3 * at + 1]!);
			// The edge of the triangle that ends at b.
			const into = turn % 3 === 0 ? turn + 2 : turn - 1;
			const across = halfedges[into]!;
			if (across < 0 || !cavity.has(Math.floor(across / 3))) {
				a = cornerOf(into);
				break;
			}
			turn = across;
		}
		const first = circumcentre(px, py, x[a]!, y[a]!, x[b]!, y[b]!);
		ring.push(...first);
		let area = 0;
		for (let i = 0, j = ring.length - 2; i < ring.length; j = i, i += 2)
			area += (ring[j]! - px) * (ring[i + 1]! - py) - (ring[i]! - px) * (ring[j + 1]! - py);
		if (!Number.isFinite(area)) return plain();
		area = Math.abs(area);
		sum += area;
		weights.push([b, area]);
	}
	if (!(sum > 0)) return plain();
	return weights.map(([i, w]) => [i, w / sum]);
}
