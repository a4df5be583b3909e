// Sums of the cubic covariance and of its slope over sources, two at a time. AssemblyScript; compiled by scripts/kernels.mjs.
// Plain twin: core/fields/field.ts. All arrays are f64. Sources are padded to an even number with weight 0.
//
// points:    n × (x0 x1 | y0 y1 | z0 z1 | w0 w1), pairs side by side, coordinates divided by the range
// gradients: n × (x x | y y | z z | gx gx | gy gy | gz gz), likewise; weights divided by the range
// targets:   count × (x, y, z), scaled like the field (not divided by the range)

export function evaluate(
	points: usize, pointPairs: i32, gradients: usize, gradientPairs: i32,
	inverseRange: f64, driftX: f64, driftY: f64, driftZ: f64, constant: f64,
	targets: usize, count: i32, out: usize
): void {
	// Two targets at a time: sources are read once for both.
	let t = 0;
	for (; t + 1 < count; t += 2) {
		two(points, pointPairs, gradients, gradientPairs, inverseRange, driftX, driftY, driftZ, constant, targets + 24 * t, targets + 24 * (t + 1), out + 8 * t, out + 8 * (t + 1));
	}
	if (t < count) two(points, pointPairs, gradients, gradientPairs, inverseRange, driftX, driftY, driftZ, constant, targets + 24 * t, targets + 24 * t, out + 8 * t, out + 8 * t);
}

// @ts-ignore: decorator
@inline
function covariance(dx: v128, dy: v128, dz: v128): v128 {
	const one = f64x2.splat(1.0);
	const r2 = f64x2.pmin(f64x2.add(f64x2.mul(dx, dx), f64x2.add(f64x2.mul(dy, dy), f64x2.mul(dz, dz))), one);
	const r = f64x2.sqrt(r2);
	// 1 + r²(−7 + r(8.75 + r²(−3.5 + 0.75 r²)))
	let c = f64x2.add(f64x2.splat(-3.5), f64x2.mul(r2, f64x2.splat(0.75)));
	c = f64x2.add(f64x2.splat(8.75), f64x2.mul(r2, c));
	c = f64x2.add(f64x2.splat(-7.0), f64x2.mul(r, c));
	return f64x2.add(one, f64x2.mul(r2, c));
}

// @ts-ignore: decorator
@inline
function slopeOf(dx: v128, dy: v128, dz: v128): v128 {
	const r2 = f64x2.pmin(f64x2.add(f64x2.mul(dx, dx), f64x2.add(f64x2.mul(dy, dy), f64x2.mul(dz, dz))), f64x2.splat(1.0));
	const r = f64x2.sqrt(r2);
	// −14 + r(26.25 + r²(−17.5 + 5.25 r²))
	let s = f64x2.add(f64x2.splat(-17.5), f64x2.mul(r2, f64x2.splat(5.25)));
	s = f64x2.add(f64x2.splat(26.25), f64x2.mul(r2, s));
	return f64x2.add(f64x2.splat(-14.0), f64x2.mul(r, s));
}

// @ts-ignore: decorator
@inline
function two(
	points: usize, pointPairs: i32, gradients: usize, gradientPairs: i32,
	inverseRange: f64, driftX: f64, driftY: f64, driftZ: f64, constant: f64,
	a: usize, b: usize, outA: usize, outB: usize
): void {
	const ax = load<f64>(a);
	const ay = load<f64>(a, 8);
	const az = load<f64>(a, 16);
	const bx = load<f64>(b);
	const by = load<f64>(b, 8);
	const bz = load<f64>(b, 16);
	const pax = f64x2.splat(ax * inverseRange);
	const pay = f64x2.splat(ay * inverseRange);
	const paz = f64x2.splat(az * inverseRange);
	const pbx = f64x2.splat(bx * inverseRange);
	const pby = f64x2.splat(by * inverseRange);
	const pbz = f64x2.splat(bz * inverseRange);
	let sumA = f64x2.splat(0.0);
	let sumB = f64x2.splat(0.0);
	let p = points;
	for (let i = 0; i < pointPairs; i++, p += 64) {
		const x = v128.load(p);
		const y = v128.load(p, 16);
		const z = v128.load(p, 32);
		const w = v128.load(p, 48);
		sumA = f64x2.add(sumA, f64x2.mul(covariance(f64x2.sub(pax, x), f64x2.sub(pay, y), f64x2.sub(paz, z)), w));
		sumB = f64x2.add(sumB, f64x2.mul(covariance(f64x2.sub(pbx, x), f64x2.sub(pby, y), f64x2.sub(pbz, z)), w));
	}
	let g = gradients;
	for (let i = 0; i < gradientPairs; i++, g += 96) {
		const x = v128.load(g);
		const y = v128.load(g, 16);
		const z = v128.load(g, 32);
		const gx = v128.load(g, 48);
		const gy = v128.load(g, 64);
		const gz = v128.load(g, 80);
		let dx = f64x2.sub(pax, x);
		let dy = f64x2.sub(pay, y);
		let dz = f64x2.sub(paz, z);
		sumA = f64x2.sub(sumA, f64x2.mul(f64x2.add(f64x2.mul(dx, gx), f64x2.add(f64x2.mul(dy, gy), f64x2.mul(dz, gz))), slopeOf(dx, dy, dz)));
		dx = f64x2.sub(pbx, x);
		dy = f64x2.sub(pby, y);
		dz = f64x2.sub(pbz, z);
		sumB = f64x2.sub(sumB, f64x2.mul(f64x2.add(f64x2.mul(dx, gx), f64x2.add(f64x2.mul(dy, gy), f64x2.mul(dz, gz))), slopeOf(dx, dy, dz)));
	}
	store<f64>(outA, f64x2.extract_lane(sumA, 0) + f64x2.extract_lane(sumA, 1) + constant + driftX * ax + driftY * ay + driftZ * az);
	store<f64>(outB, f64x2.extract_lane(sumB, 0) + f64x2.extract_lane(sumB, 1) + constant + driftX * bx + driftY * by + driftZ * bz);
}
