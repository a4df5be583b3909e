import { solvePositive } from '../kernels/cholesky-kernel';
import { fail } from '../problem';
import { throughMask } from './bounded';
import type { FieldData } from './data';
import { gradientAt, inBlock, type BlockField, type Field } from './field';
import { flat, framed, gradientInto } from './frame';
import { BLEND, type LocalPart } from './local';
import { fillCovariance } from './system';
import { valuesAt } from './values-at';

/** Data that a patch should hold on average, and cells that a grid of patches may have. */
const PER_PATCH = 250;
const MOST_CELLS = 60_000;
/** Quarters of a cell by which the data of a patch reach beyond its cell: enough that what lies farther away hardly counts. */
const BEYOND = 2;
/** Range of the covariance of the residuals, in cells. */
const RANGE = 30;
/** Errors that are tried, one after the other, where a patch can not be solved as it is. */
const NUGGETS = [0, 1e-8, 1e-6, 1e-4];

/**
 * Adds to a field that was fitted to a part of the data what brings it onto all of them: in overlapping patches of a regular grid,
 * simple kriging of the residuals, blended by a partition of unity (Wendland 2002; Wendland 2005, ch. 15). Honours every datum
 * like a fit of all of them would; cost and memory grow linearly with their number.
 * @param data points of groups that the field has a level for
 * @throws ProblemError `singular-field` that names the place
 */
export function fitLocal(field: Field, data: Pick<FieldData, 'points' | 'values' | 'gradients'>, orientationNugget: number): Field {
	const located = [...data.points, ...data.values];
	const { points, values, gradients } = data;
	const [n, m] = [located.length, gradients.length];
	const xyz = framed(field, flat(located));
	const gxyz = framed(field, flat(gradients));
	const through = throughMask(field.bounded);
	const blocks = Int32Array.from(located, (p) => p.block & through);
	const gblocks = Int32Array.from(gradients, (p) => p.block & through);
	const nuggets = Float64Array.from(located, (p) => p.nugget ?? 0);
	const residuals = valuesAt(field, located).map((f, i) => (i < points.length ? field.levels[points[i]!.group]! + (points[i]!.offset ?? 0) / field.unit : values[i - points.length]!.value / field.unit) - f);
	const prepared = new Map<number, BlockField>();
	const gradientResiduals = new Float64Array(3 * m);
	gradients.forEach((g, j) => {
		let b = prepared.get(g.block);
		if (!b) prepared.set(g.block, (b = inBlock(field, g.block)));
		const now = gradientAt(b, g.x, g.y, g.z);
		gradientResiduals.set(gradientInto(field, [g.gradient[0] - now[0], g.gradient[1] - now[1], g.gradient[2] - now[2]], g.x, g.y), 3 * j);
	});

	const grid = gridFor(xyz, n, gxyz, m);
	const bins = new Bins(grid, xyz, n);
	const gradientBins = new Bins(grid, gxyz, m);
	const [nx, ny, nz] = grid.size;
	const patchOf = new Int32Array(nx * ny * nz).fill(-1);
	const pointStart: number[] = [0];
	const gradientStart: number[] = [0];
	const parts: { points: Uint32Array; gradients: Uint32Array; weights: Float64Array }[] = [];
	const range = RANGE * grid.cell;
	for (let k = 0, cell = 0; k < nz; k++)
		for (let j = 0; j < ny; j++)
			for (let i = 0; i < nx; i++, cell++) {
				const own = bins.around(i, j, k);
				const ownGradients = gradientBins.around(i, j, k);
				if (own.length === 0 && ownGradients.length === 0) continue;
				patchOf[cell] = parts.length;
				const weights = solvePatch(own, ownGradients);
				parts.push({ points: own, gradients: ownGradients, weights });
				pointStart.push(pointStart[pointStart.length - 1]! + own.length);
				gradientStart.push(gradientStart[gradientStart.length - 1]! + ownGradients.length);
			}

	function solvePatch(own: Uint32Array, ownGradients: Uint32Array): Float64Array {
		const pick = (from: Float64Array, list: Uint32Array) => {
			const out = new Float64Array(3 * list.length);
			list.forEach((p, q) => out.set(from.subarray(3 * p, 3 * p + 3), 3 * q));
			return out;
		};
		const [p, g] = [pick(xyz, own), pick(gxyz, ownGradients)];
		const [pb, gb] = [Int32Array.from(own, (q) => blocks[q]!), Int32Array.from(ownGradients, (q) => gblocks[q]!)];
		const right = new Float64Array(own.length + 3 * ownGradients.length);
		own.forEach((q, i) => (right[i] = residuals[q]!));
		right.set(pick(gradientResiduals, ownGradients), own.length);
		for (const extra of NUGGETS) {
			const errors = Float64Array.from(own, (q) => nuggets[q]! + extra);
			const solved = solvePositive(right.length, (a, stride) => fillCovariance(a, stride, p, pb, own.length, g, gb, ownGradients.length, range, orientationNugget, errors), right);
			if (solved) return solved;
		}
		const at = own.length ? located[own[0]!]! : gradients[ownGradients[0]!]!;
		return fail('singular-field', `the contacts and orientations near ${at.x.toFixed(0)}, ${at.y.toFixed(0)}, ${at.z.toFixed(0)} can not be told apart by the solver`, 'Look for contacts or orientations at nearly the same place that say different things.');
	}

	const local: LocalPart = {
		...grid,
		range,
		patchOf,
		pointStart: Uint32Array.from(pointStart),
		gradientStart: Uint32Array.from(gradientStart),
		points: new Float64Array(3 * pointStart[parts.length]!),
		pointBlocks: new Int32Array(pointStart[parts.length]!),
		weights: new Float64Array(pointStart[parts.length]!),
		gradientPoints: new Float64Array(3 * gradientStart[parts.length]!),
		gradientBlocks: new Int32Array(gradientStart[parts.length]!),
		gradientWeights: new Float64Array(3 * gradientStart[parts.length]!)
	};
	parts.forEach((part, k) => {
		const [p0, g0] = [pointStart[k]!, gradientStart[k]!];
		part.points.forEach((q, i) => {
			local.points.set(xyz.subarray(3 * q, 3 * q + 3), 3 * (p0 + i));
			local.pointBlocks[p0 + i] = blocks[q]!;
		});
		local.weights.set(part.weights.subarray(0, part.points.length), p0);
		part.gradients.forEach((q, i) => {
			local.gradientPoints.set(gxyz.subarray(3 * q, 3 * q + 3), 3 * (g0 + i));
			local.gradientBlocks[g0 + i] = gblocks[q]!;
		});
		local.gradientWeights.set(part.weights.subarray(part.points.length), 3 * g0);
	});
	return { ...field, local };
}

type Grid = Pick<LocalPart, 'cell' | 'origin' | 'size'>;

/** Cells of such a size that a patch holds about `PER_PATCH` data, with one ring of cells around the data. */
function gridFor(xyz: Float64Array, n: number, gxyz: Float64Array, m: number): Grid {
	const low = [Infinity, Infinity, Infinity];
	const high = [-Infinity, -Infinity, -Infinity];
	const widen = (p: Float64Array, count: number) => {
		for (let i = 0; i < 3 * count; i++) {
			const c = i % 3;
			low[c] = Math.min(low[c]!, p[i]!);
			high[c] = Math.max(high[c]!, p[i]!);
		}
	};
	widen(xyz, n);
	widen(gxyz, m);
	const side = [0, 1, 2].map((c) => high[c]! - low[c]!);
	const longest = Math.max(...side, 1e-9);
	const wide = 1 + BEYOND / 2;
	/** Data, on average over the data, in a box as large as that of the data of a patch. */
	const crowd = (cell: number): number => {
		const counts = new Map<number, number>();
		for (let i = 0; i < n; i++) {
			let key = 0;
			for (let c = 0; c < 3; c++) key = key * 1_000_003 + Math.floor((xyz[3 * i + c]! - low[c]!) / (wide * cell));
			counts.set(key, (counts.get(key) ?? 0) + 1);
		}
		let sum = 0;
		for (const v of counts.values()) sum += v * v;
		return sum / n;
	};
	let [a, b] = [longest / 4000, longest];
	for (let round = 0; round < 16; round++) {
		const middle = Math.sqrt(a * b);
		if (crowd(middle) > PER_PATCH) b = middle;
		else a = middle;
	}
	let cell = a;
	const sizeAt = (h: number) => side.map((s) => Math.floor(s / h) + 3);
	while (sizeAt(cell).reduce((p, v) => p * v, 1) > MOST_CELLS) cell *= 1.3;
	return { cell, origin: low.map((v) => v - cell) as [number, number, number], size: sizeAt(cell) as [number, number, number] };
}

/** Data by quarter cells, so that those of a patch are found at once. */
class Bins {
	private readonly start: Uint32Array;
	private readonly order: Uint32Array;
	private readonly n: [number, number, number];

	constructor(grid: Grid, xyz: Float64Array, count: number) {
		this.n = grid.size.map((s) => 4 * s) as [number, number, number];
		const [nx, ny, nz] = this.n;
		const binOf = (i: number): number => {
			const at = (c: 0 | 1 | 2) => Math.min(this.n[c] - 1, Math.max(0, Math.floor((4 * (xyz[3 * i + c]! - grid.origin[c])) / grid.cell)));
			return (at(2) * ny + at(1)) * nx + at(0);
		};
		const bins = Uint32Array.from({ length: count }, (_, i) => binOf(i));
		this.start = new Uint32Array(nx * ny * nz + 1);
		for (const b of bins) this.start[b + 1]!++;
		for (let b = 0; b < nx * ny * nz; b++) this.start[b + 1]! += this.start[b]!;
		const next = this.start.slice();
		this.order = new Uint32Array(count);
		bins.forEach((b, i) => (this.order[next[b]!++] = i));
	}

	/** Data of a patch: within a cell and around it, in their own order. */
	around(i: number, j: number, k: number): Uint32Array {
		const [nx, ny, nz] = this.n;
		const found: number[] = [];
		for (let c = Math.max(0, 4 * k - BEYOND); c <= Math.min(nz - 1, 4 * k + 3 + BEYOND); c++)
			for (let b = Math.max(0, 4 * j - BEYOND); b <= Math.min(ny - 1, 4 * j + 3 + BEYOND); b++) {
				const row = (c * ny + b) * nx;
				const [from, to] = [this.start[row + Math.max(0, 4 * i - BEYOND)]!, this.start[row + Math.min(nx - 1, 4 * i + 3 + BEYOND) + 1]!];
				for (let q = from; q < to; q++) found.push(this.order[q]!);
			}
		return Uint32Array.from(found).sort();
	}
}

// Data within reach of a patch must all be in it, or they would not be honoured.
if (BLEND > BEYOND / 4) throw new Error('patches reach beyond their data');
