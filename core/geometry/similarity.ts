/** A map from one plane grid to another: turned, scaled, moved; x′ = a x − b y + c, y′ = b x + a y + d. */
export interface Similarity {
	a: number;
	b: number;
	/** Centre of the points in the first grid, and where it comes to lie. */
	from: readonly [number, number];
	to: readonly [number, number];
}

/** A point known in both grids: x, y there, x, y here. */
export type CommonPoint = readonly [number, number, number, number];

/**
 * The similarity that fits common points best by least squares (Helmert); exact for two.
 * @throws RangeError when there are fewer than two different points
 */
export function fitSimilarity(points: readonly CommonPoint[]): Similarity {
	const n = points.length;
	const mean = (k: 0 | 1 | 2 | 3) => points.reduce((s, p) => s + p[k], 0) / n;
	const from = [mean(0), mean(1)] as const;
	const to = [mean(2), mean(3)] as const;
	let size = 0;
	let a = 0;
	let b = 0;
	for (const p of points) {
		const [x, y, u, v] = [p[0] - from[0], p[1] - from[1], p[2] - to[0], p[3] - to[1]];
		size += x * x + y * y;
		a += x * u + y * v;
		b += x * v - y * u;
	}
	if (n < 2 || !(size > 1e-9)) throw new RangeError('at least two different points are needed');
	return { a: a / size, b: b / size, from, to };
}

/** Where a point comes to lie. */
export function applySimilarity(s: Similarity, x: number, y: number): [number, number] {
	const [u, v] = [x - s.from[0], y - s.from[1]];
	return [s.a * u - s.b * v + s.to[0], s.b * u + s.a * v + s.to[1]];
}

/** Scale, and rotation in degrees anticlockwise. */
export const similarityParts = (s: Similarity): { scale: number; rotation: number } => ({
	scale: Math.hypot(s.a, s.b),
	rotation: (Math.atan2(s.b, s.a) * 180) / Math.PI
});

/** How far each common point lies from where the similarity puts it. */
export const residuals = (s: Similarity, points: readonly CommonPoint[]): number[] =>
	points.map((p) => {
		const [x, y] = applySimilarity(s, p[0], p[1]);
		return Math.hypot(x - p[2], y - p[3]);
	});
