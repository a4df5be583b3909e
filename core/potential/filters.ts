import type { Raster } from '../grids/raster';
import { fitPolynomial, polynomialAt } from '../grids/methods/trend';
import type { Field } from './prism';
import { multiply, spectrumOf } from './spectrum';

type Values = Float32Array;

/** What is left of a filter on the plane that was taken off first. */
const withPlane = (r: Raster, values: Values, plane: (i: number, j: number) => number): Values =>
	values.map((v, k) => v + plane(k % r.nx, Math.floor(k / r.nx)));

/** The field at another height: above 0 upwards (Blakely 1995, 12.1). Downwards grows what is noise; a cosine taper ends it at the shortest waves. */
export function continued(r: Raster, height: number): Values {
	const { spectrum, plane } = spectrumOf(r);
	const shortest = Math.PI / Math.max(Math.abs(r.dx), Math.abs(r.dy));
	multiply(spectrum, (_x, _y, k) => {
		const taper =
			height >= 0 || k < 0.6 * shortest ? 1 : k > shortest ? 0 : 0.5 + 0.5 * Math.cos((Math.PI * (k - 0.6 * shortest)) / (0.4 * shortest));
		return [taper === 0 ? 0 : taper * Math.exp(-k * height), 0];
	});
	return withPlane(r, spectrum.back(), plane);
}

/** Derivative downwards, of any order, per length unit to that power. */
export function verticalDerivative(r: Raster, order = 1): Values {
	const { spectrum } = spectrumOf(r);
	multiply(spectrum, (_x, _y, k) => [k ** order, 0]);
	return spectrum.back();
}

/** Derivatives to the east and to the north, by waves; the slope of the plane comes back. */
export function horizontalDerivatives(r: Raster): [Values, Values] {
	const along = (way: 0 | 1): Values => {
		const { spectrum, slopes } = spectrumOf(r);
		multiply(spectrum, (kx, ky) => [0, way === 0 ? kx : ky]);
		return spectrum.back().map((v) => v + slopes[way]);
	};
	return [along(0), along(1)];
}

/** Size of the slope. */
export function horizontalGradient(r: Raster): Values {
	const [east, north] = horizontalDerivatives(r);
	return east.map((v, k) => Math.hypot(v, north[k]!));
}

/** Length of all three derivatives together (Nabighian 1972; Roest, Verhoef & Pilkington 1992). */
export function analyticSignal(r: Raster): Values {
	const [east, north] = horizontalDerivatives(r);
	const down = verticalDerivative(r);
	return east.map((v, k) => Math.hypot(v, north[k]!, down[k]!));
}

/** Angle of the vertical derivative over the slope, degrees (Miller & Singh 1994). */
export function tilt(r: Raster): Values {
	const flat = horizontalGradient(r);
	return verticalDerivative(r).map((v, k) => (Math.atan2(v, flat[k]!) * 180) / Math.PI);
}

/**
 * The field as it would be at the pole, where it stands upright (Baranov 1957; Blakely 1995, 12.3.1).
 * @param along direction in which the ground is magnetised; that of the field when nothing is said
 * @param least inclination that amplitudes are reckoned with: lower ones would blow noise up along the declination (MacLeod et al. 1993)
 */
export function toPole(r: Raster, field: Field, along: Field = field, least = 20): Values {
	const { spectrum, plane } = spectrumOf(r);
	const theta = (f: Field, inclination: number) => {
		const [i, d] = [(inclination * Math.PI) / 180, (f.declination * Math.PI) / 180];
		return { down: Math.sin(i), flat: Math.cos(i), east: Math.sin(d), north: Math.cos(d) };
	};
	const raised = (f: Field) => (Math.abs(f.inclination) < least ? Math.sign(f.inclination || 1) * least : f.inclination);
	const [a, b] = [theta(field, raised(field)), theta(along, raised(along))];
	multiply(spectrum, (kx, ky, k) => {
		if (k === 0) return [1, 0];
		// down + i flat cos(…), for the field and for the magnetisation.
		const side = (t: ReturnType<typeof theta>) => (t.flat * (t.east * kx + t.north * ky)) / k;
		const [p, q] = [side(a), side(b)];
		const [re, im] = [a.down * b.down - p * q, a.down * q + b.down * p];
		const size = re * re + im * im;
		return [re / size, -im / size];
	});
	return withPlane(r, spectrum.back(), plane);
}

/** A polynomial through all cells: what lies deep and wide. @param degree 0 to 6 */
export function regional(r: Raster, degree: number): Values {
	const known: number[] = [];
	const every = Math.max(1, Math.floor(r.values.length / 200_000));
	for (let k = 0; k < r.values.length; k += every) if (Number.isFinite(r.values[k]!)) known.push(k);
	const p = fitPolynomial(
		known.map((k) => k % r.nx),
		known.map((k) => Math.floor(k / r.nx)),
		known.map((k) => r.values[k]!),
		degree
	);
	return r.values.map((v, k) => (Number.isNaN(v) ? NaN : polynomialAt(p, k % r.nx, Math.floor(k / r.nx))));
}

/** Waves longer than a length, with a soft edge (Butterworth of order 4). @param longest what is shorter goes, length units */
export function lowPass(r: Raster, length: number): Values {
	const { spectrum, plane } = spectrumOf(r);
	const edge = (2 * Math.PI) / length;
	multiply(spectrum, (_x, _y, k) => [1 / (1 + (k / edge) ** 8), 0]);
	return withPlane(r, spectrum.back(), plane);
}

/**
 * What survey lines leave in a grid: waves that run across the lines and are about as long as four line spacings or shorter, and long
 * along them (Minty 1991, micro-levelling). Taking it off a grid levels that.
 * @param azimuth of the lines, degrees clockwise from north @param spacing between lines, length units
 */
export function lineNoise(r: Raster, azimuth: number, spacing: number): Values {
	const { spectrum } = spectrumOf(r);
	const a = (azimuth * Math.PI) / 180;
	const edge = (2 * Math.PI) / (4 * spacing);
	multiply(spectrum, (kx, ky) => {
		const along = kx * Math.sin(a) + ky * Math.cos(a);
		const across = Math.abs(kx * Math.cos(a) - ky * Math.sin(a));
		// High across the lines, and long along them.
		const high = 1 - 1 / (1 + (across / edge) ** 8);
		const long = 1 / (1 + (along / (edge / 3)) ** 8);
		return [high * long, 0];
	});
	return spectrum.back();
}
