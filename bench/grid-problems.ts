import { plainGridding, readingsOfFunction } from '#core/grids/for-tests';
import { frameOf } from '#core/grids/frame';
import { grid, gridder, type Gridding } from '#core/grids/gridding';
import type { Raster } from '#core/grids/raster';
import { continued, toPole, verticalDerivative } from '#core/potential/filters';
import { dipoleAnomaly, prismGravity, type Field } from '#core/potential/prism';
import { seededRandom } from '#core/statistics/random';
import { level } from '#core/surveys/levelling';
import { linesOf } from '#core/surveys/lines';
import { below, PROBLEMS, type Figure } from './figures';

const FRAME = frameOf({ minX: 400_000, minY: 4_990_000, maxX: 401_000, maxY: 4_991_000 }, 20);
const none = new Float64Array(0);
/** Greatest difference from a function over cells with a value. */
const off = (values: Float32Array, f: (x: number, y: number) => number): number =>
	values.reduce((most, v, k) => {
		if (Number.isNaN(v)) return most;
		const [x, y] = [FRAME.x0 + (k % FRAME.nx) * FRAME.dx - 400_000, FRAME.y0 + Math.floor(k / FRAME.nx) * FRAME.dy - 4_990_000];
		return Math.max(most, Math.abs(v - f(x, y)));
	}, 0);

/** Gridding: what is linear comes back, readings are kept, nothing leaks. */
PROBLEMS['P17'] = async (): Promise<Figure[]> => {
	const plane = (x: number, y: number) => 250 + 0.03 * x - 0.07 * y;
	const points = readingsOfFunction(150, 3, plane);
	const of = async (g: Partial<Gridding>, barriers = none, p = points) =>
		(await grid(plainGridding(g), { points: p, barriers }, FRAME)).raster.values;
	const rough = readingsOfFunction(120, 9, (x, y) => 40 * Math.sin(x / 170) + 30 * Math.cos(y / 130));
	const kriging = gridder(plainGridding({ method: 'kriging', most: 24 }), { points: rough, barriers: none })!;
	const kept = rough.value.reduce((most, v, i) => Math.max(most, Math.abs(kriging.at(rough.x[i]!, rough.y[i]!) - v)), 0);
	const halves = readingsOfFunction(160, 21, (x) => (x < 500 ? 10 : 90));
	const wall = Float64Array.of(400_500, 4_980_000, 400_500, 5_000_000);
	const leaks = [];
	for (const method of ['inverse-distance', 'nearest', 'linear', 'natural-neighbour', 'kriging', 'minimum-curvature'] as const)
		leaks.push(off(await of({ method, beyond: 'nearest', most: 16 }, wall, halves), (x) => (x < 500 ? 10 : 90)));
	return [
		below('P17', 'natural neighbour off a plane by', off(await of({ method: 'natural-neighbour' }), plane), 1e-4),
		below('P17', 'triangles off a plane by', off(await of({ method: 'linear' }), plane), 1e-4),
		below('P17', 'kriging off its readings by', kept, 1e-6),
		below(
			'P17',
			'weights of kriging off 1 by',
			Math.abs(
				gridder(plainGridding({ method: 'kriging', most: 24, variogram: 'typed' }), {
					points: { ...rough, value: rough.value.map(() => 1) },
					barriers: none
				})!.at(400_333, 4_990_444) - 1
			),
			1e-9
		),
		below('P17', 'leaks across a barrier, of a step of 80', Math.max(...leaks), 0.5)
	];
};

const HERE: Field = { inclination: 62, declination: -7 };
const N = 256;
const D = 40;
const over = (f: (x: number, y: number) => number): Raster => ({
	x0: 0,
	y0: 0,
	dx: D,
	dy: D,
	nx: N,
	ny: N,
	values: Float32Array.from({ length: N * N }, (_, k) => f((k % N) * D - 5120, Math.floor(k / N) * D - 5120))
});
/** Share of the greatest value by which a field is off, in the middle half. */
function share(got: Float32Array, wanted: (x: number, y: number) => number): number {
	let [most, scale] = [0, 0];
	for (let j = N / 4; j < (3 * N) / 4; j++)
		for (let i = N / 4; i < (3 * N) / 4; i++) {
			const w = wanted(i * D - 5120, j * D - 5120);
			most = Math.max(most, Math.abs(got[j * N + i]! - w));
			scale = Math.max(scale, Math.abs(w));
		}
	return (100 * most) / scale;
}

/** The field of a buried dipole and of a block. */
PROBLEMS['P18'] = async (): Promise<Figure[]> => {
	const dipole =
		(field: Field, h = 0) =>
		(x: number, y: number) =>
			dipoleAnomaly([x, y, 300 + h], 1e8, field);
	const r = over(dipole(HERE));
	const block = { x1: -40, x2: 60, y1: -30, y2: 50, z1: -120, z2: -20 };
	let halved = 0;
	for (const [a, b] of [
		[-40, 10],
		[10, 60]
	] as const)
		halved += prismGravity({ ...block, x1: a, x2: b }, 2670, 5, 7, 3);
	return [
		below('P18', 'continued 100 m upwards, off by', share(continued(r, 100), dipole(HERE, 100)), 1, '%'),
		below('P18', 'reduced to the pole, off by', share(toPole(r, HERE), dipole({ inclination: 90, declination: 0 })), 1, '%'),
		below(
			'P18',
			'vertical derivative, off by',
			share(verticalDerivative(r), (x, y) => dipole(HERE, -0.5)(x, y) - dipole(HERE, 0.5)(x, y)),
			1,
			'%'
		),
		below('P18', 'a block against its two halves, off by a share of', Math.abs(halved / prismGravity(block, 2670, 5, 7, 3) - 1), 1e-9)
	];
};

/** Forty lines and five ties, with offsets, drift and an error of heading. */
PROBLEMS['P19'] = async (): Promise<Figure[]> => {
	const { normal } = seededRandom(5);
	const [names, x, y, truth, values]: [string[], number[], number[], number[], number[]] = [[], [], [], [], []];
	const add = (name: string, px: number, py: number, error: number) => {
		names.push(name);
		x.push(px);
		y.push(py);
		truth.push(48_000 + 60 * Math.sin(px / 300) + 40 * Math.cos(py / 250));
		values.push(truth[truth.length - 1]! + error + 0.5 * normal());
	};
	for (let l = 0; l < 40; l++) {
		const offset = 12 * normal() + (l % 2 ? 6 : -6);
		for (let k = 0; k <= 100; k++) add(`L${l}`, 20 * (l % 2 ? 100 - k : k), 50 * l, offset + (15 * k) / 100);
	}
	for (let t = 0; t < 5; t++) for (let k = 0; k <= 98; k++) add(`T${t}`, 100 + 450 * t, 20 * k, 0);
	const lines = linesOf(names, x, y, null);
	const own = lines.filter((l) => l.name[0] === 'L');
	const made = level(
		own,
		lines.filter((l) => l.name[0] === 'T'),
		x,
		y,
		values,
		1
	);
	const errors = own.flatMap((l, k) => l.rows.map((row, m) => values[row]! + made.lines[k]![m]! - truth[row]!));
	const mean = errors.reduce((a, b) => a + b, 0) / errors.length;
	return [
		below('P19', `misties (${made.before.toFixed(1)} nT before) after, of a noise of 0.5 nT`, made.after, 0.75, 'nT'),
		below('P19', 'levelled lines off the field by', Math.sqrt(errors.reduce((s, e) => s + (e - mean) ** 2, 0) / errors.length), 0.8, 'nT')
	];
};
