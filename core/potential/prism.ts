/** Newton's constant, m³ kg⁻¹ s⁻² (CODATA 2018). */
const G = 6.6743e-11;
/** mGal of one m s⁻². */
const MGAL = 1e5;

/** A rectangular block. Elevations positive up. */
export interface Prism {
	x1: number;
	x2: number;
	y1: number;
	y2: number;
	/** Base and top. */
	z1: number;
	z2: number;
}

/**
 * Downward attraction of a rectangular block at a place (Nagy 1966), mGal.
 * @param density kg/m³
 */
export function prismGravity(p: Prism, density: number, x: number, y: number, z: number): number {
	let sum = 0;
	for (let i = 0; i < 2; i++)
		for (let j = 0; j < 2; j++)
			for (let k = 0; k < 2; k++) {
				const a = (i ? p.x2 : p.x1) - x;
				const b = (j ? p.y2 : p.y1) - y;
				// Depths below the place, positive down.
				const c = z - (k ? p.z1 : p.z2);
				const r = Math.sqrt(a * a + b * b + c * c);
				const term = part(a, b + r) + part(b, a + r) - (c === 0 ? 0 : c * Math.atan2(a * b, c * r));
				sum += (i + j + k) % 2 === 0 ? term : -term;
			}
	return G * density * sum * MGAL;
}

/** v ln w, nothing where v is. */
const part = (v: number, w: number): number => (v === 0 ? 0 : v * Math.log(Math.max(w, 1e-300)));

/** Attraction of an endless slab under a place (Bouguer), mGal. @param thickness m @param density kg/m³ */
export const slabGravity = (thickness: number, density: number): number => 2 * Math.PI * G * density * thickness * MGAL;

/**
 * Attraction of a half slab that ends at a vertical step, along a line across it, mGal (Telford, Geldart & Sheriff 1990, 2.61).
 * @param x from the step, above 0 over the slab @param top depth of its top below the place @param base of its base
 */
export function stepGravity(x: number, top: number, base: number, density: number): number {
	const corner = (d: number) => (d === 0 && x === 0 ? 0 : d * (Math.PI / 2 + Math.atan2(x, d)) + (x / 2) * Math.log(x * x + d * d));
	return 2 * G * density * (corner(base) - corner(top)) * MGAL;
}

/**
 * Normal gravity on the ellipsoid GRS80 (Somigliana; Moritz 2000), mGal.
 * @param latitude degrees
 */
export function normalGravity(latitude: number): number {
	const s = Math.sin((latitude * Math.PI) / 180) ** 2;
	return (978_032.67715 * (1 + 0.001931851353 * s)) / Math.sqrt(1 - 0.0066943800229 * s);
}

/** What height takes off gravity, to second order (Heiskanen & Moritz 1967), mGal. @param height m above the ellipsoid or sea level */
export const freeAir = (latitude: number, height: number): number =>
	(0.3087691 - 0.0004398 * Math.sin((latitude * Math.PI) / 180) ** 2) * height - 7.2125e-8 * height * height;

/**
 * Anomaly of the strength of the earth's field over a magnetic dipole (Blakely 1995, 4.13), nT.
 * @param at place of measurement less place of the dipole: east, north, up
 * @param moment A m²
 * @param field direction of the earth's field, magnetised along it: inclination down from horizontal, declination clockwise from north
 */
export function dipoleAnomaly(at: readonly [number, number, number], moment: number, field: Field, along: Field = field): number {
	const m = directionOf(along);
	const f = directionOf(field);
	const r2 = at[0] ** 2 + at[1] ** 2 + at[2] ** 2;
	const r = Math.sqrt(r2);
	const dot = (a: readonly number[], b: readonly number[]) => a[0]! * b[0]! + a[1]! * b[1]! + a[2]! * b[2]!;
	return (100 * moment * ((3 * dot(m, at) * dot(f, at)) / r2 - dot(m, f))) / (r2 * r);
}

/** A direction of a magnetic field, degrees. */
export interface Field {
	inclination: number;
	declination: number;
}

/** East, north, up. */
function directionOf({ inclination, declination }: Field): [number, number, number] {
	const [i, d] = [(inclination * Math.PI) / 180, (declination * Math.PI) / 180];
	return [Math.cos(i) * Math.sin(d), Math.cos(i) * Math.cos(d), -Math.sin(i)];
}

/**
 * Anomaly of the strength of the earth's field over a magnetised block (Bhattacharyya 1964, in the form of Blakely 1995, 9.3: a
 * top and a base that go down endlessly, one less the other), nT.
 * @param magnetisation A/m
 */
export function prismMagnetic(p: Prism, magnetisation: number, field: Field, along: Field, x: number, y: number, z: number): number {
	const [me, mn, mu] = directionOf(along);
	const [fe, fn, fu] = directionOf(field);
	// In north, east, down.
	const [mx, my, mz, fx, fy, fz] = [mn, me, -mu, fn, fe, -fu];
	const fm1 = my * fz + mz * fy;
	const fm2 = mx * fz + mz * fx;
	const fm3 = mx * fy + my * fx;
	const fm4 = mx * fx;
	const fm5 = my * fy;
	const fm6 = mz * fz;
	const endless = (depth: number): number => {
		const alpha = [p.y1 - y, p.y2 - y];
		const beta = [p.x1 - x, p.x2 - x];
		const h2 = depth * depth;
		let t = 0;
		for (let i = 0; i < 2; i++)
			for (let j = 0; j < 2; j++) {
				const sign = i === j ? 1 : -1;
				const [a, b] = [alpha[i]!, beta[j]!];
				const r2 = a * a + b * b + h2;
				const r0 = Math.sqrt(r2);
				const r0h = r0 * depth;
				const ab = a * b;
				t +=
					sign *
					(0.5 * fm1 * Math.log((r0 - a) / (r0 + a)) +
						0.5 * fm2 * Math.log((r0 - b) / (r0 + b)) -
						fm3 * Math.log(r0 + depth) -
						fm4 * Math.atan2(ab, a * a + r0h + h2) -
						fm5 * Math.atan2(ab, r0h + r2 - a * a) +
						fm6 * Math.atan2(ab, r0h));
			}
		return t * magnetisation * 100;
	};
	return endless(z - p.z2) - endless(z - p.z1);
}
