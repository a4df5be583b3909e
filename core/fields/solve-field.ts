import type { Raster } from '../grids/raster';
import { factorCholesky } from '../kernels/cholesky-kernel';
import { solveBordered } from '../linear/bordered';
import type { Vec3 } from '../geometry/vector';
import { fail } from '../problem';
import { framedZone, SHAPES, shapesAt, shapeSlopes, throughMask, type BoundedJump, type BoundedZone } from './bounded';
import type { FieldData } from './data';
import type { Field } from './field';
import { flat, framed, gradientInto, inverseOf, times, type Frame } from './frame';
import { fillCovariance, type GradientErrors } from './system';

export interface FitOptions {
	/** Range of the covariance, length units. */
	range: number;
	/** Values alone are interpolated about a constant, unless they have a trend. */
	drift?: 'linear' | 'none';
	/** Share of the prior variance of a gradient that is taken as its error. */
	orientationNugget?: number;
	/** The same of their length: orientations tell where they point, and how thick the layers are there only loosely. The same as the other when it is not given. */
	lengthNugget?: number;
	/** Stretches space so that what lies along the layers is near (see `metricOf`). */
	metric?: number[] | null;
	/** Elevations that the layers follow. */
	follow?: Raster | null;
	/** Takes the frame of another field, so that the two can be added. */
	frame?: Frame;
}

/** A field that was solved for, without a look at bounds. */
export interface Solved {
	field: Field;
	/** Estimate of the condition number of the system. */
	condition: number;
	/** Parts of the drift that the data could not settle, for example `jump 0`. */
	unsettled: string[];
}

interface DriftColumn {
	name: string;
	values: Float64Array;
}

/** Above this condition a solution is refused: double precision has no digit left. */
const WORST_CONDITION = 1e15;
const ORIENTATION_NUGGET = 0.01;

/** Errors of gradients as the options have them. @param gradients in the frame, 3 each */
export function gradientErrors(o: Pick<FitOptions, 'orientationNugget' | 'lengthNugget'>, gradients: Float64Array): GradientErrors {
	const direction = o.orientationNugget ?? ORIENTATION_NUGGET;
	return { direction, length: o.lengthNugget ?? direction, gradients };
}

/**
 * Solves for a field with all data at once; bounds are not looked at.
 * @throws ProblemError `no-data`, `singular-field`
 */
export function solveField(data: FieldData, options: FitOptions): Solved {
	const all = [...data.points, ...data.values, ...data.gradients];
	if (all.length === 0) fail('no-data', 'a field needs at least one contact or orientation');
	const { gradients, values } = data;
	const frame = options.frame ?? frameOf(all, options);
	const { unit } = frame;
	const range = 2;
	const n = data.points.length + values.length;
	const m = gradients.length;
	const located = [...data.points, ...values];
	const xyz = framed(frame, flat(located));
	const gxyz = framed(frame, flat(gradients));
	const axesOfMap = mapAxes(frame);
	const nuggets = Float64Array.from(located, (p) => p.nugget ?? 0);
	const zones = (data.bounded ?? []).map((z) => framedZone(z, frame));
	const through = throughMask(zones);
	const blocks = Int32Array.from(located, (p) => p.block & through);
	const gblocks = Int32Array.from(gradients, (p) => p.block & through);
	const bare = options.drift === 'none';
	const freeZ = (m > 0 && !bare) || options.drift === 'linear';
	const level = bare || (data.values.length > 0 && data.points.length === 0 && options.drift !== 'linear');
	const { columns, unsettled, axes } = driftColumns(data, xyz, gxyz, located, freeZ, level, zones, axesOfMap);
	const rows = n + 3 * m;
	const size = rows + columns.length;
	const b = new Float64Array(size);
	const trendZ = freeZ || bare ? 0 : 1;
	for (let i = 0; i < n; i++)
		b[i] =
			(i < data.points.length ? (data.points[i]!.offset ?? 0) / unit : values[i - data.points.length]!.value / unit) -
			(data.values.length && !data.points.length ? 0 : trendZ * along(axesOfMap[2], xyz, i));
	gradients.forEach((g, j) => b.set(gradientInto(frame, g.gradient, g.x, g.y), n + 3 * j));
	const factor = factorCholesky(rows, (a, stride) =>
		fillCovariance(
			a,
			stride,
			xyz,
			blocks,
			n,
			gxyz,
			gblocks,
			m,
			range,
			gradientErrors(options, Float64Array.from(gradients.flatMap((g) => gradientInto(frame, g.gradient, g.x, g.y)))),
			nuggets
		)
	);
	const solved =
		typeof factor === 'number'
			? null
			: solveBordered(
					factor,
					columns.map((c) => c.values),
					b
				);
	if (!solved || solved.condition > WORST_CONDITION)
		return fail(
			'singular-field',
			'the contacts and orientations of one sequence can not be told apart by the solver',
			'Look for contacts or orientations at nearly the same place that say different things.'
		);
	const { solution, condition } = solved;
	return { field: collect(), condition, unsettled };

	function collect(): Field {
		const levels = new Float64Array(data.groupCount).fill(NaN);
		const jumps = new Float64Array(data.faultCount);
		const bounded: BoundedJump[] = zones.map((z) => ({ ...z, jumps: new Array<number>(SHAPES).fill(0) }));
		const drift: [number, number, number, number] = [0, 0, 0, 0];
		const add = (axis: Vec3, v: number) => axis.forEach((c, k) => (drift[k]! += v * c));
		add(axesOfMap[2], data.values.length && !data.points.length ? 0 : trendZ);
		columns.forEach((c, k) => {
			const v = solution[rows + k]!;
			const [kind, index, shape] = c.name.split(' ') as [string, string, string?];
			if (kind === 'level') levels[Number(index)] = -v;
			else if (kind === 'jump') jumps[Number(index)] = v;
			else if (kind === 'tip') bounded.find((z) => z.fault === Number(index))!.jumps[Number(shape)] = v;
			else if (kind === 'z') add(axesOfMap[2], v);
			else if (kind === 'constant') drift[3] = v;
			else add(axes[kind === 'major' ? 0 : 1]!, v);
		});
		return {
			...frame,
			range,
			points: xyz,
			pointBlocks: blocks,
			weights: solution.slice(0, n),
			gradientPoints: gxyz,
			gradientBlocks: gblocks,
			gradientWeights: solution.slice(n, rows),
			drift,
			jumps,
			levels,
			bounded,
			local: null
		};
	}
}

/** The frame of a fit: centred on the data, as they lie once they are measured from what they follow. */
function frameOf(places: readonly { x: number; y: number; z: number }[], options: FitOptions): Frame {
	const bare: Frame = { center: [0, 0, 0], unit: 1, metric: null, follow: options.follow ?? null };
	const xyz = framed(bare, flat(places));
	const center = [0, 1, 2].map((c) => {
		let low = Infinity;
		let high = -Infinity;
		for (let i = c; i < xyz.length; i += 3) {
			low = Math.min(low, xyz[i]!);
			high = Math.max(high, xyz[i]!);
		}
		return (low + high) / 2;
	}) as [number, number, number];
	return { ...bare, center, unit: options.range / 2, metric: options.metric ?? null };
}

/** Gradients, in the frame, of east, north and up. */
function mapAxes(f: Frame): [Vec3, Vec3, Vec3] {
	const inverse = f.metric ? inverseOf(f.metric) : null;
	const turn = (v: Vec3): Vec3 => (inverse ? times(inverse, v) : v);
	return [turn([1, 0, 0]), turn([0, 1, 0]), turn([0, 0, 1])];
}

const along = (axis: Vec3, xyz: Float64Array, i: number): number =>
	axis[0] * xyz[3 * i]! + axis[1] * xyz[3 * i + 1]! + axis[2] * xyz[3 * i + 2]!;

/**
 * Columns of the drift that the data can settle, in a fixed order: levels, constant, jumps, z, then the major and minor horizontal
 * direction of the data. A column that is nearly a sum of the ones before it (holes all on one line, a fault with data on one
 * side only) is left out and named.
 */
function driftColumns(
	data: FieldData,
	xyz: Float64Array,
	gxyz: Float64Array,
	located: readonly { x: number; y: number; z: number; block: number }[],
	freeZ: boolean,
	level: boolean,
	zones: readonly BoundedZone[],
	axesOfMap: readonly [Vec3, Vec3, Vec3]
) {
	const [n, m] = [located.length, data.gradients.length];
	const rows = n + 3 * m;
	const axes = principalAxes(located).map(
		([e, nn]): Vec3 => [0, 1, 2].map((c) => e * axesOfMap[0][c]! + nn * axesOfMap[1][c]!) as unknown as Vec3
	);
	const make = (name: string, at: (i: number) => number, gradient: readonly [number, number, number]): DriftColumn => {
		const values = new Float64Array(rows);
		for (let i = 0; i < n; i++) values[i] = at(i);
		for (let j = 0; j < m; j++) values.set(gradient, n + 3 * j);
		return { name, values };
	};
	const candidates: [DriftColumn, number][] = [];
	const present = new Set(data.points.map((p) => p.group));
	for (const g of [...present].sort((a, b) => a - b))
		candidates.push([make(`level ${g}`, (i) => (data.points[i]?.group === g ? 1 : 0), [0, 0, 0]), 1e-9]);
	if (data.values.length) candidates.push([make('constant', () => 1, [0, 0, 0]), 1e-9]);
	const half = (p: { block: number }, k: number) => ((p.block >>> k) & 1 ? 0.5 : -0.5);
	const dying = new Set(zones.map((z) => z.fault));
	for (let k = 0; k < data.faultCount; k++)
		if (!dying.has(k)) candidates.push([make(`jump ${k}`, (i) => half(located[i]!, k), [0, 0, 0]), 1e-3]);
	for (const z of zones) {
		const at = (i: number, from: Float64Array) => [from[3 * i]!, from[3 * i + 1]!, from[3 * i + 2]!] as const;
		const shapes = located.map((_, i) => shapesAt(z, ...at(i, xyz)));
		const slopes = data.gradients.map((_, j) => shapeSlopes(z, ...at(j, gxyz)));
		for (let k = 0; k < SHAPES; k++) {
			const values = new Float64Array(rows);
			for (let i = 0; i < n; i++) values[i] = half(located[i]!, z.fault) * shapes[i]![k]!;
			data.gradients.forEach((g, j) => slopes[j]![k]!.forEach((s, c) => (values[n + 3 * j + c] = half(g, z.fault) * s)));
			candidates.push([{ name: `tip ${z.fault} ${k}`, values }, 1e-3]);
		}
	}
	if (freeZ) candidates.push([make('z', (i) => along(axesOfMap[2], xyz, i), axesOfMap[2]), 1e-6]);
	if (!level) axes.forEach((axis, k) => candidates.push([make(k === 0 ? 'major' : 'minor', (i) => along(axis, xyz, i), axis), 0.005]));
	const columns: DriftColumn[] = [];
	const basis: Float64Array[] = [];
	const unsettled: string[] = [];
	for (const [column, least] of candidates) {
		const residual = Float64Array.from(column.values);
		for (let twice = 0; twice < 2; twice++)
			for (const q of basis) {
				let d = 0;
				for (let i = 0; i < rows; i++) d += q[i]! * residual[i]!;
				for (let i = 0; i < rows; i++) residual[i] = residual[i]! - d * q[i]!;
			}
		let norm = 0;
		for (const v of residual) norm += v * v;
		norm = Math.sqrt(norm);
		if (norm / Math.sqrt(rows) <= least || columns.length >= rows) {
			unsettled.push(column.name);
			continue;
		}
		basis.push(residual.map((v) => v / norm));
		columns.push(column);
	}
	return { columns, unsettled, axes };
}

/** Horizontal principal directions of the points: where they spread most, and across. */
function principalAxes(places: readonly { x: number; y: number }[]): [[number, number], [number, number]] {
	const n = places.length;
	let sxx = 0;
	let sxy = 0;
	let syy = 0;
	let mx = 0;
	let my = 0;
	for (let i = 0; i < n; i++) {
		mx += places[i]!.x / n;
		my += places[i]!.y / n;
	}
	for (let i = 0; i < n; i++) {
		const dx = places[i]!.x - mx;
		const dy = places[i]!.y - my;
		sxx += dx * dx;
		sxy += dx * dy;
		syy += dy * dy;
	}
	const angle = Math.atan2(2 * sxy, sxx - syy) / 2;
	return [
		[Math.cos(angle), Math.sin(angle)],
		[-Math.sin(angle), Math.cos(angle)]
	];
}
