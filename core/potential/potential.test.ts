import { describe, expect, it } from 'vitest';
import type { Raster } from '../grids/raster';
import {
	analyticSignal,
	continued,
	horizontalDerivatives,
	horizontalGradient,
	lineNoise,
	lowPass,
	regional,
	tilt,
	toPole,
	verticalDerivative
} from './filters';
import {
	dipoleAnomaly,
	freeAir,
	normalGravity,
	prismGravity,
	prismMagnetic,
	slabGravity,
	stepGravity,
	type Field,
	type Prism
} from './prism';

const made = (f: (x: number, y: number) => number, n = 128, d = 25): Raster => ({
	x0: 0,
	y0: 0,
	dx: d,
	dy: d,
	nx: n,
	ny: n,
	values: Float32Array.from({ length: n * n }, (_, k) => f((k % n) * d, Math.floor(k / n) * d))
});
const MIDDLE = 1600;
const UP: Field = { inclination: 90, declination: 0 };
const HERE: Field = { inclination: 62, declination: -7 };
/** A dipole 300 m below the middle. */
const dipole =
	(field: Field, height = 0) =>
	(x: number, y: number) =>
		dipoleAnomaly([x - MIDDLE, y - MIDDLE, 300 + height], 1e8, field);

/** Greatest difference within the middle half, as a share of the greatest value. */
function apart(got: Float32Array, wanted: (x: number, y: number) => number, n = 128, d = 25): number {
	let [most, scale] = [0, 0];
	for (let j = n >> 2; j < n - (n >> 2); j++)
		for (let i = n >> 2; i < n - (n >> 2); i++) {
			const w = wanted(i * d, j * d);
			most = Math.max(most, Math.abs(got[j * n + i]! - w));
			scale = Math.max(scale, Math.abs(w));
		}
	return most / scale;
}
const numeric = (f: (h: number) => number, h = 0.5) => (f(h) - f(-h)) / (2 * h);

describe('the field of a buried dipole', () => {
	it('goes on upwards and downwards to where it is computed directly', () => {
		const r = made(dipole(HERE));
		expect(apart(continued(r, 100), dipole(HERE, 100))).toBeLessThan(0.01);
		expect(apart(continued(made(dipole(HERE, 100)), -75), dipole(HERE, 25))).toBeLessThan(0.01);
		expect(apart(continued(r, 0), dipole(HERE))).toBeLessThan(1e-5);
	});
	it('reduced to the pole stands upright over it, also where it is magnetised another way', () => {
		// Its long waves need ground around: 10 km of it.
		const [n, d] = [256, 40];
		const over =
			(field: Field, along = field) =>
			(x: number, y: number) =>
				dipoleAnomaly([x - 5120, y - 5120, 300], 1e8, field, along);
		expect(apart(toPole(made(over(HERE), n, d), HERE), over(UP), n, d)).toBeLessThan(0.01);
		const along: Field = { inclination: 30, declination: 20 };
		expect(apart(toPole(made(over(HERE, along), n, d), HERE, along), over(UP), n, d)).toBeLessThan(0.01);
	});
	it('near the equator it stays finite', () => {
		const flat: Field = { inclination: 2, declination: 15 };
		expect([...toPole(made(dipole(flat)), flat)].every(Number.isFinite)).toBe(true);
	});
	it('has the derivatives that it has', () => {
		const r = made(dipole(HERE));
		const down = (x: number, y: number) => -numeric((h) => dipole(HERE, h)(x, y));
		const east = (x: number, y: number) => numeric((h) => dipole(HERE)(x + h, y));
		const north = (x: number, y: number) => numeric((h) => dipole(HERE)(x, y + h));
		expect(apart(verticalDerivative(r), down)).toBeLessThan(0.01);
		const [e, n] = horizontalDerivatives(r);
		expect(apart(e, east)).toBeLessThan(0.01);
		expect(apart(n, north)).toBeLessThan(0.01);
		expect(apart(horizontalGradient(r), (x, y) => Math.hypot(east(x, y), north(x, y)))).toBeLessThan(0.01);
		expect(apart(analyticSignal(r), (x, y) => Math.hypot(down(x, y), east(x, y), north(x, y)))).toBeLessThan(0.01);
		const t = tilt(r);
		const k = 70 * 128 + 55;
		const [x, y] = [55 * 25, 70 * 25];
		expect(t[k]).toBeCloseTo((Math.atan2(down(x, y), Math.hypot(east(x, y), north(x, y))) * 180) / Math.PI, 0);
	});
	it('with a gap is the same away from it, and the gap stays one', () => {
		const r = made(dipole(HERE));
		for (let k = 0; k < 128 * 6; k++) r.values[k] = NaN;
		expect(apart(continued(r, 50), dipole(HERE, 50))).toBeLessThan(0.02);
		expect(continued(r, 50)[5]).toBeNaN();
		expect(() =>
			continued(
				made(() => NaN),
				5
			)
		).toThrow('without values');
	});
});

describe('a plane', () => {
	const r = made((x, y) => 400 + 0.02 * x - 0.05 * y);
	it('stays in continuation, low pass and regional, and has its slopes', () => {
		for (const v of [continued(r, 200), lowPass(r, 500), regional(r, 1)]) v.forEach((z, k) => expect(z).toBeCloseTo(r.values[k]!, 2));
		const [e, n] = horizontalDerivatives(r);
		expect(e[777]).toBeCloseTo(0.02, 5);
		expect(n[777]).toBeCloseTo(-0.05, 5);
		for (const v of verticalDerivative(r)) expect(Math.abs(v)).toBeLessThan(1e-4);
	});
});

it('low pass takes short waves, line noise is what runs along lines', () => {
	const wave = (length: number) => (x: number) => Math.sin((2 * Math.PI * x) / length);
	// Whole waves over the grid.
	expect(
		apart(
			lowPass(
				made((x) => wave(1600)(x) + wave(100)(x)),
				400
			),
			wave(1600)
		)
	).toBeLessThan(0.08);
	// Lines run north, 100 apart, each off by its own amount; the ground varies in both directions.
	const ground = (x: number, y: number) => 20 * Math.sin(x / 400) * Math.cos(y / 350);
	const off = (x: number) => (Math.floor(x / 100) % 2 ? 3 : -3);
	const noise = lineNoise(
		made((x, y) => ground(x, y) + off(x)),
		0,
		100
	);
	const left = made((x, y) => ground(x, y) + off(x)).values.map((v, k) => v - noise[k]!);
	let [before, after] = [0, 0];
	for (let j = 32; j < 96; j++)
		for (let i = 32; i < 96; i++) {
			const g = ground(i * 25, j * 25);
			before += (g + off(i * 25) - g) ** 2;
			after += (left[j * 128 + i]! - g) ** 2;
		}
	expect(Math.sqrt(after / before)).toBeLessThan(0.25);
});

describe('blocks', () => {
	const block: Prism = { x1: -40, x2: 60, y1: -30, y2: 50, z1: -120, z2: -20 };
	/** Gauss and Legendre over small boxes. */
	function integrated(f: (x: number, y: number, z: number) => number, parts: number): number {
		const t = [-0.906179845938664, -0.5384693101056831, 0, 0.5384693101056831, 0.906179845938664];
		const w = [0.2369268850561891, 0.4786286704993665, 0.5688888888888889, 0.4786286704993665, 0.2369268850561891];
		let sum = 0;
		const d = [(block.x2 - block.x1) / parts, (block.y2 - block.y1) / parts, (block.z2 - block.z1) / parts] as const;
		for (let i = 0; i < parts; i++)
			for (let j = 0; j < parts; j++)
				for (let k = 0; k < parts; k++)
					for (let a = 0; a < 5; a++)
						for (let b = 0; b < 5; b++)
							for (let c = 0; c < 5; c++)
								sum +=
									w[a]! *
									w[b]! *
									w[c]! *
									f(
										block.x1 + d[0] * (i + 0.5 + t[a]! / 2),
										block.y1 + d[1] * (j + 0.5 + t[b]! / 2),
										block.z1 + d[2] * (k + 0.5 + t[c]! / 2)
									);
		return (sum * d[0] * d[1] * d[2]) / 8;
	}
	it('attract as all of their mass does', () => {
		for (const [x, y, z] of [
			[0, 0, 0],
			[100, -70, 30],
			[-40, 0, 5]
		] as const) {
			const wanted =
				integrated((px, py, pz) => {
					const [dx, dy, dz] = [px - x, py - y, z - pz];
					return dz / (dx * dx + dy * dy + dz * dz) ** 1.5;
				}, 8) *
				6.6743e-11 *
				2670 *
				1e5;
			expect(prismGravity(block, 2670, x, y, z) / wanted).toBeCloseTo(1, 9);
		}
	});
	it('are magnetic as all of their dipoles are, wherever they are magnetised', () => {
		for (const along of [HERE, { inclination: -20, declination: 130 }])
			for (const [x, y, z] of [
				[0, 0, 10],
				[90, 40, 30],
				[-60, -100, 5]
			] as const) {
				const wanted = integrated((px, py, pz) => dipoleAnomaly([x - px, y - py, z - pz], 1, HERE, along), 8) * 1.5;
				expect(prismMagnetic(block, 1.5, HERE, along, x, y, z) / wanted).toBeCloseTo(1, 4);
			}
	});
	it('that is very wide is a slab, half of it a step', () => {
		const wide: Prism = { x1: -1e7, x2: 1e7, y1: -1e7, y2: 1e7, z1: -100, z2: 0 };
		expect(prismGravity(wide, 2670, 0, 0, 0)).toBeCloseTo(slabGravity(100, 2670), 3);
		expect(slabGravity(1, 2670)).toBeCloseTo(0.1119, 3);
		for (const x of [-200, -10, 0, 50, 300])
			expect(stepGravity(x, 30, 90, 300)).toBeCloseTo(
				prismGravity({ x1: -x, x2: 1e6, y1: -1e6, y2: 1e6, z1: -90, z2: -30 }, 300, 0, 0, 0),
				3
			);
	});
	it('normal gravity is that of GRS80 at the equator and the pole, and falls with height', () => {
		expect(normalGravity(0)).toBeCloseTo(978_032.677, 2);
		expect(normalGravity(90)).toBeCloseTo(983_218.637, 2);
		expect(freeAir(45, 100)).toBeCloseTo(30.854, 2);
	});
});
