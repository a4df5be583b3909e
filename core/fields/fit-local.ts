import { sharedDeep } from '../kernels/shared';
import { throughMask } from './bounded';
import type { FieldData } from './data';
import { gradientAt, inBlock, type BlockField, type Field } from './field';
import { flat, framed, gradientInto } from './frame';
import { BLEND, type LocalPart } from './local';
import type { PatchesTask } from './patches';
import { gradientErrors, type FitOptions } from './solve-field';
import { orThrow, valuesSteps, type Steps } from './steps';

/** Data that a patch should hold on average, and cells that a grid of patches may have. */
const PER_PATCH = 250;
const MOST_CELLS = 60_000;
/** Quarters of a cell by which the data of a patch reach beyond its cell: enough that what lies farther away hardly counts. */
const BEYOND = 2;
/** Range of the covariance of the residuals, in cells. */
const RANGE = 30;
/** Patches that are solved in one piece of work. */
const TASK = 64;

/** The data of a patch, and what was found for them. */
interface Patch {
	points: Uint32Array;
	gradients: Uint32Array;
	weights: Float64Array;
}

/**
 * Adds to a field that was fitted to a part of the data what brings it onto all of them: in overlapping patches of a regular grid,
 * simple kriging of the residuals, blended by a partition of unity (Wendland 2002; Wendland 2005, ch. 15). Honours every datum
 * like a fit of all of them would; cost and memory grow linearly with their number. Patches whose data are still the same when
 * others are added are not solved again.
 */
export class LocalFit {
	private grid: Grid | null = null;
	/** By cell: its patch, and its data themselves. */
	private readonly known = new Map<number, { data: readonly unknown[]; weights: Float64Array }>();

	constructor(
		private readonly field: Field,
		private readonly options: Pick<FitOptions, 'orientationNugget' | 'lengthNugget'>
	) {}

	/**
	 * @param data points of groups that the field has a level for
	 * @throws ProblemError `singular-field` that names the place
	 */
	*onto(data: Pick<FieldData, 'points' | 'values' | 'gradients'>): Steps<Field> {
		const { field } = this;
		const located = [...data.points, ...data.values];
		const { points, values, gradients } = data;
		const [n, m] = [located.length, gradients.length];
		const xyz = framed(field, flat(located));
		const gxyz = framed(field, flat(gradients));
		const through = throughMask(field.bounded);
		const blocks = Int32Array.from(located, (p) => p.block & through);
		const gblocks = Int32Array.from(gradients, (p) => p.block & through);
		const gradientResiduals = new Float64Array(3 * m);
		const prepared = new Map<number, BlockField>();
		gradients.forEach((g, j) => {
			let b = prepared.get(g.block);
			if (!b) prepared.set(g.block, (b = inBlock(field, g.block)));
			const now = gradientAt(b, g.x, g.y, g.z);
			gradientResiduals.set(gradientInto(field, [g.gradient[0] - now[0], g.gradient[1] - now[1], g.gradient[2] - now[2]], g.x, g.y), 3 * j);
		});
		const now = yield* valuesSteps(field, located);
		const grid = (this.grid ??= gridFor(xyz, n, gxyz, m));
		const residuals = sharedDeep({
			xyz,
			blocks,
			nuggets: Float64Array.from(located, (p) => p.nugget ?? 0),
			values: now.map(
				(f, i) =>
					(i < points.length
						? field.levels[points[i]!.group]! + (points[i]!.offset ?? 0) / field.unit
						: values[i - points.length]!.value / field.unit) - f
			),
			gradientXyz: gxyz,
			gradientBlocks: gblocks,
			gradients: gradientResiduals,
			range: RANGE * grid.cell,
			gradientErrors: gradientErrors(this.options, Float64Array.from(gradients.flatMap((g) => gradientInto(field, g.gradient, g.x, g.y))))
		});

		const bins = new Bins(grid, xyz, n);
		const gradientBins = new Bins(grid, gxyz, m);
		const [nx, ny, nz] = grid.size;
		const patchOf = new Int32Array(nx * ny * nz).fill(-1);
		const patches: Patch[] = [];
		const missing: { cell: number; patch: Patch; data: unknown[] }[] = [];
		for (let k = 0, cell = 0; k < nz; k++)
			for (let j = 0; j < ny; j++)
				for (let i = 0; i < nx; i++, cell++) {
					const patch: Patch = { points: bins.around(i, j, k), gradients: gradientBins.around(i, j, k), weights: NONE };
					if (patch.points.length === 0 && patch.gradients.length === 0) continue;
					patchOf[cell] = patches.length;
					patches.push(patch);
					const own = [...Array.from(patch.points, (q) => located[q]!), ...Array.from(patch.gradients, (q) => gradients[q]!)];
					const before = this.known.get(cell);
					if (before && before.data.length === own.length && own.every((d, q) => d === before.data[q])) patch.weights = before.weights;
					else missing.push({ cell, patch, data: own });
				}
		const tasks: PatchesTask[] = [];
		for (let from = 0; from < missing.length; from += TASK) {
			const some = missing.slice(from, from + TASK);
			tasks.push({
				residuals,
				patches: some.map(({ patch }) => ({ points: patch.points, gradients: patch.gradients })),
				places: some.map(({ data: [d] }) =>
					((p) => `${p.x.toFixed(0)}, ${p.y.toFixed(0)}, ${p.z.toFixed(0)}`)(d as { x: number; y: number; z: number })
				)
			});
		}
		let next = 0;
		for (const solved of yield tasks) {
			const weights = orThrow<Float64Array>(solved);
			for (let from = 0; from < weights.length;) {
				const { cell, patch, data: own } = missing[next++]!;
				patch.weights = weights.slice(from, (from += patch.points.length + 3 * patch.gradients.length));
				this.known.set(cell, { data: own, weights: patch.weights });
			}
		}
		return { ...field, local: localPart(grid, residuals, patchOf, patches) };
	}
}

const NONE = new Float64Array(0);

function localPart(grid: Grid, r: PatchesTask['residuals'], patchOf: Int32Array, patches: readonly Patch[]): LocalPart {
	const startsOf = (of: (p: Patch) => Uint32Array): Uint32Array => {
		const start = new Uint32Array(patches.length + 1);
		patches.forEach((p, k) => (start[k + 1] = start[k]! + of(p).length));
		return start;
	};
	const [pointStart, gradientStart] = [startsOf((p) => p.points), startsOf((p) => p.gradients)];
	const [n, m] = [pointStart[patches.length]!, gradientStart[patches.length]!];
	const local: LocalPart = {
		...grid,
		range: r.range,
		patchOf,
		pointStart,
		gradientStart,
		points: new Float64Array(3 * n),
		pointBlocks: new Int32Array(n),
		weights: new Float64Array(n),
		gradientPoints: new Float64Array(3 * m),
		gradientBlocks: new Int32Array(m),
		gradientWeights: new Float64Array(3 * m)
	};
	patches.forEach((patch, k) => {
		const [p0, g0] = [pointStart[k]!, gradientStart[k]!];
		patch.points.forEach((q, i) => {
			for (let c = 0; c < 3; c++) local.points[3 * (p0 + i) + c] = r.xyz[3 * q + c]!;
			local.pointBlocks[p0 + i] = r.blocks[q]!;
		});
		local.weights.set(patch.weights.subarray(0, patch.points.length), p0);
		patch.gradients.forEach((q, i) => {
			for (let c = 0; c < 3; c++) local.gradientPoints[3 * (g0 + i) + c] = r.gradientXyz[3 * q + c]!;
			local.gradientBlocks[g0 + i] = r.gradientBlocks[q]!;
		});
		local.gradientWeights.set(patch.weights.subarray(patch.points.length), 3 * g0);
	});
	return local;
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
