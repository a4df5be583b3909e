// Fourier transform of two sequences side by side, of a length that is a product of 2, 3, 4 and 5. AssemblyScript; compiled by
// scripts/kernels.mjs. Stockham's order (Cochran et al. 1967): each stage reads one room and writes the other, so nothing is reordered.
//
// x, y:  n × (re re | im im), f64; what comes out lies where the returned address says
// roots: n × (cos, −sin) of 2π k / n

// @ts-ignore: decorator
@inline
function root(roots: usize, k: i32): usize {
	return roots + (<usize>k << 4);
}

// @ts-ignore: decorator
@inline
function put(at: usize, re: v128, im: v128, roots: usize, k: i32): void {
	if (k == 0) {
		v128.store(at, re);
		v128.store(at, im, 16);
		return;
	}
	const w = root(roots, k);
	const c = v128.load64_splat(w);
	const s = v128.load64_splat(w, 8);
	v128.store(at, f64x2.sub(f64x2.mul(re, c), f64x2.mul(im, s)));
	v128.store(at, f64x2.add(f64x2.mul(re, s), f64x2.mul(im, c)), 16);
}

/** @param n length of what is left, times @param s what is done @returns nothing; one stage from x to y */
// @ts-ignore: decorator
@inline
function stage(radix: i32, n: i32, s: i32, x: usize, y: usize, roots: usize): void {
	const m = n / radix;
	const apart: usize = (<usize>s * <usize>m) << 5;
	const out: usize = <usize>s << 5;
	for (let p = 0; p < m; p++) {
		const w = p * s;
		for (let q = 0; q < s; q++) {
			const a: usize = x + ((<usize>q + <usize>s * <usize>p) << 5);
			const b: usize = y + ((<usize>q + <usize>s * <usize>(radix * p)) << 5);
			const r0 = v128.load(a);
			const i0 = v128.load(a, 16);
			const r1 = v128.load(a + apart);
			const i1 = v128.load(a + apart, 16);
			if (radix == 2) {
				put(b, f64x2.add(r0, r1), f64x2.add(i0, i1), roots, 0);
				put(b + out, f64x2.sub(r0, r1), f64x2.sub(i0, i1), roots, w);
				continue;
			}
			const r2 = v128.load(a + 2 * apart);
			const i2 = v128.load(a + 2 * apart, 16);
			if (radix == 3) {
				const sr = f64x2.add(r1, r2);
				const si = f64x2.add(i1, i2);
				const half = f64x2.splat(0.5);
				const h = f64x2.splat(0.8660254037844386);
				const mr = f64x2.sub(r0, f64x2.mul(half, sr));
				const mi = f64x2.sub(i0, f64x2.mul(half, si));
				const dr = f64x2.mul(h, f64x2.sub(r1, r2));
				const di = f64x2.mul(h, f64x2.sub(i1, i2));
				put(b, f64x2.add(r0, sr), f64x2.add(i0, si), roots, 0);
				put(b + out, f64x2.add(mr, di), f64x2.sub(mi, dr), roots, w);
				put(b + 2 * out, f64x2.sub(mr, di), f64x2.add(mi, dr), roots, 2 * w);
				continue;
			}
			const r3 = v128.load(a + 3 * apart);
			const i3 = v128.load(a + 3 * apart, 16);
			if (radix == 4) {
				const ar = f64x2.add(r0, r2);
				const ai = f64x2.add(i0, i2);
				const br = f64x2.sub(r0, r2);
				const bi = f64x2.sub(i0, i2);
				const cr = f64x2.add(r1, r3);
				const ci = f64x2.add(i1, i3);
				const dr = f64x2.sub(r1, r3);
				const di = f64x2.sub(i1, i3);
				put(b, f64x2.add(ar, cr), f64x2.add(ai, ci), roots, 0);
				put(b + out, f64x2.add(br, di), f64x2.sub(bi, dr), roots, w);
				put(b + 2 * out, f64x2.sub(ar, cr), f64x2.sub(ai, ci), roots, 2 * w);
				put(b + 3 * out, f64x2.sub(br, di), f64x2.add(bi, dr), roots, 3 * w);
				continue;
			}
			const r4 = v128.load(a + 4 * apart);
			const i4 = v128.load(a + 4 * apart, 16);
			const c1 = f64x2.splat(0.30901699437494745);
			const c2 = f64x2.splat(-0.8090169943749475);
			const s1 = f64x2.splat(0.9510565162951535);
			const s2 = f64x2.splat(0.5877852522924731);
			const pr = f64x2.add(r1, r4);
			const pi = f64x2.add(i1, i4);
			const mr = f64x2.sub(r1, r4);
			const mi = f64x2.sub(i1, i4);
			const qr = f64x2.add(r2, r3);
			const qi = f64x2.add(i2, i3);
			const nr = f64x2.sub(r2, r3);
			const ni = f64x2.sub(i2, i3);
			const er = f64x2.add(r0, f64x2.add(f64x2.mul(c1, pr), f64x2.mul(c2, qr)));
			const ei = f64x2.add(i0, f64x2.add(f64x2.mul(c1, pi), f64x2.mul(c2, qi)));
			const fr = f64x2.add(r0, f64x2.add(f64x2.mul(c2, pr), f64x2.mul(c1, qr)));
			const fi = f64x2.add(i0, f64x2.add(f64x2.mul(c2, pi), f64x2.mul(c1, qi)));
			const gr = f64x2.add(f64x2.mul(s1, mr), f64x2.mul(s2, nr));
			const gi = f64x2.add(f64x2.mul(s1, mi), f64x2.mul(s2, ni));
			const hr = f64x2.sub(f64x2.mul(s2, mr), f64x2.mul(s1, nr));
			const hi = f64x2.sub(f64x2.mul(s2, mi), f64x2.mul(s1, ni));
			put(b, f64x2.add(r0, f64x2.add(pr, qr)), f64x2.add(i0, f64x2.add(pi, qi)), roots, 0);
			put(b + out, f64x2.add(er, gi), f64x2.sub(ei, gr), roots, w);
			put(b + 2 * out, f64x2.add(fr, hi), f64x2.sub(fi, hr), roots, 2 * w);
			put(b + 3 * out, f64x2.sub(fr, hi), f64x2.add(fi, hr), roots, 3 * w);
			put(b + 4 * out, f64x2.sub(er, gi), f64x2.add(ei, gr), roots, 4 * w);
		}
	}
}

/** @returns where the transform lies: x or y */
export function transform(length: i32, x: usize, y: usize, roots: usize): usize {
	let n = length;
	let s = 1;
	while (n > 1) {
		const radix = n % 4 == 0 ? 4 : n % 5 == 0 ? 5 : n % 3 == 0 ? 3 : 2;
		if (radix == 4) stage(4, n, s, x, y, roots);
		else if (radix == 5) stage(5, n, s, x, y, roots);
		else if (radix == 3) stage(3, n, s, x, y, roots);
		else stage(2, n, s, x, y, roots);
		n /= radix;
		s *= radix;
		const t = x;
		x = y;
		y = t;
	}
	return x;
}
