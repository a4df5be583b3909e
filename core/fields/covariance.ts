/**
 * The cubic covariance used for potential fields of geology (Lajaunie, Courrioux & Manuel 1997; Chilès et al. 2004):
 * C(u) = 1 − 7u² + 35/4 u³ − 7/2 u⁵ + 3/4 u⁷ for u = r / range < 1, else 0. Twice differentiable at the origin, so that
 * gradients can be data; positive definite in three dimensions.
 */
export function cubic(u: number): number {
	if (u >= 1) return 0;
	const u2 = u * u;
	return 1 + u2 * (-7 + u * (8.75 + u2 * (-3.5 + 0.75 * u2)));
}

/** C′(u) / u, finite at the origin. */
export function cubicSlope(u: number): number {
	if (u >= 1) return 0;
	const u2 = u * u;
	return -14 + u * (26.25 + u2 * (-17.5 + 5.25 * u2));
}

/** (C″(u) − C′(u)/u) / u², multiplied by u so that it stays finite at the origin. */
export function cubicBend(u: number): number {
	if (u >= 1) return 0;
	const s = 1 - u * u;
	return 26.25 * s * s;
}
