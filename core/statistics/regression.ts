/** A straight line through points by least squares, y = intercept + slope · x. */
interface Regression {
	slope: number;
	intercept: number;
	/** Pearson's correlation. */
	correlation: number;
	count: number;
}

/** Points with a coordinate that is no number are left out; null for fewer than two, or when all x are alike. */
export function regression(x: ArrayLike<number>, y: ArrayLike<number>): Regression | null {
	let [n, mx, my] = [0, 0, 0];
	for (let i = 0; i < x.length; i++)
		if (Number.isFinite(x[i]!) && Number.isFinite(y[i]!)) {
			n++;
			mx += x[i]!;
			my += y[i]!;
		}
	if (n < 2) return null;
	mx /= n;
	my /= n;
	let [sxx, sxy, syy] = [0, 0, 0];
	for (let i = 0; i < x.length; i++)
		if (Number.isFinite(x[i]!) && Number.isFinite(y[i]!)) {
			const [dx, dy] = [x[i]! - mx, y[i]! - my];
			sxx += dx * dx;
			sxy += dx * dy;
			syy += dy * dy;
		}
	if (!(sxx > 0)) return null;
	const slope = sxy / sxx;
	return { slope, intercept: my - slope * mx, correlation: syy > 0 ? sxy / Math.sqrt(sxx * syy) : NaN, count: n };
}
