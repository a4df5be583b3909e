// Means of readings, each weighted by a power of its distance, for the cells of a row, four at a time. AssemblyScript; compiled by
// scripts/kernels.mjs. Plain twin: core/grids/methods/inverse-distance.ts.
//
// points: n × (x, y, value), f64, in order

// @ts-ignore: decorator
@inline
function weight(d: v128, power: i32): v128 {
	const one = f64x2.splat(1.0);
	if (power == 1) return f64x2.div(one, f64x2.sqrt(d));
	if (power == 3) return f64x2.div(one, f64x2.mul(d, f64x2.sqrt(d)));
	if (power == 4) return f64x2.div(one, f64x2.mul(d, d));
	return f64x2.div(one, d);
}

// @ts-ignore: decorator
@inline
function cells(points: usize, n: i32, x0: f64, dx: f64, first: i32, y: f64, soft: f64, power: i32, out: usize): void {
	const step = f64x2.splat(dx);
	const origin = f64x2.splat(x0);
	const xa = f64x2.add(origin, f64x2.mul(f64x2(<f64>first, <f64>(first + 1)), step));
	const xb = f64x2.add(origin, f64x2.mul(f64x2(<f64>(first + 2), <f64>(first + 3)), step));
	const smooth = f64x2.splat(soft);
	let sumA = f64x2.splat(0.0);
	let sumB = f64x2.splat(0.0);
	let weightsA = f64x2.splat(0.0);
	let weightsB = f64x2.splat(0.0);
	for (let i = 0, p = points; i < n; i++, p += 24) {
		const px = v128.load64_splat(p);
		const dy = load<f64>(p, 8) - y;
		const dy2 = f64x2.splat(dy * dy);
		const value = v128.load64_splat(p, 16);
		const da = f64x2.sub(px, xa);
		const db = f64x2.sub(px, xb);
		const wa = weight(f64x2.add(f64x2.add(f64x2.mul(da, da), dy2), smooth), power);
		const wb = weight(f64x2.add(f64x2.add(f64x2.mul(db, db), dy2), smooth), power);
		sumA = f64x2.add(sumA, f64x2.mul(wa, value));
		sumB = f64x2.add(sumB, f64x2.mul(wb, value));
		weightsA = f64x2.add(weightsA, wa);
		weightsB = f64x2.add(weightsB, wb);
	}
	v128.store(out, f64x2.div(sumA, weightsA));
	v128.store(out, f64x2.div(sumB, weightsB), 16);
}

/**
 * @param power 1, 2, 3 or 4
 * @param count cells of the row; `out` has room for a multiple of four. A cell at a reading is NaN.
 */
export function row(points: usize, n: i32, x0: f64, dx: f64, count: i32, y: f64, soft: f64, power: i32, out: usize): void {
	if (power == 1) for (let i = 0; i < count; i += 4) cells(points, n, x0, dx, i, y, soft, 1, out + (<usize>i << 3));
	else if (power == 2) for (let i = 0; i < count; i += 4) cells(points, n, x0, dx, i, y, soft, 2, out + (<usize>i << 3));
	else if (power == 3) for (let i = 0; i < count; i += 4) cells(points, n, x0, dx, i, y, soft, 3, out + (<usize>i << 3));
	else for (let i = 0; i < count; i += 4) cells(points, n, x0, dx, i, y, soft, 4, out + (<usize>i << 3));
}
