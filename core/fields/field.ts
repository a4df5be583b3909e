import { addHalfJumpSlope, halfJump, throughMask, type BoundedJump } from './bounded';
import type { Raster } from '../grids/raster';
import { addSourcesGradient, sourcesValue, type Sources } from './sources';
import { framed, gradientFrom, type Frame } from './frame';
import { localGradient, localValue, type LocalPart } from './local';

/** How much of the field two fault blocks share: the rest of the covariance acts only within a block. */
const SHARED = 0.5;

/** Most faults that one field can be cut by: blocks are kept as bits of a 32-bit integer. */
export const MOST_FAULTS = 30;

/**
 * A fitted scalar field: f(p) = trend·p + Σ drift + Σ wᵢ C(|p − pᵢ|) + Σ gⱼ·∇C(|p − qⱼ|), all in the coordinates of its
 * frame. Only numbers and typed arrays, so that it can be stored and sent to workers as it is.
 *
 * Faults: a block is a bit mask, bit k set on the hanging-wall side of fault k. Covariance between blocks is damped by
 * `SHARED` for each fault between them (a sum of one field that all blocks share and one of each block), and each fault
 * adds a jump to the drift (Maréchal 1984; Calcagno et al. 2008).
 */
export interface Field extends Sources, Frame {
	/** Coefficients of x, y, z (scaled) and of 1. */
	drift: [number, number, number, number];
	/** Jump across each fault: half of it is added on the hanging-wall side, half taken off on the other. */
	jumps: Float64Array;
	/** Value of the field on each group of contact points; NaN for a group without points. */
	levels: Float64Array;
	/** Faults that die out, with their jumps. */
	bounded: BoundedJump[];
	/** What many data add to a field that was fitted to a part of them; null when all data are in it. */
	local: LocalPart | null;
}

/** The field as seen from one fault block: damping applied to the weights, jumps added to the constant. */
export interface BlockField {
	field: Field;
	weights: Float64Array;
	gradientWeights: Float64Array;
	constant: number;
	/** 1 in the hanging wall of each bounded fault, −1 in its footwall. */
	signs: number[];
	/** Weights of the local part, damped likewise. */
	localWeights: Float64Array;
	localGradientWeights: Float64Array;
}

export function bitCount(v: number): number {
	v -= (v >>> 1) & 0x55555555;
	v = (v & 0x33333333) + ((v >>> 2) & 0x33333333);
	return (((v + (v >>> 4)) & 0x0f0f0f0f) * 0x01010101) >>> 24;
}

/** Damping of the covariance between two fault blocks. */
export const blockDamping = (a: number, b: number): number => (a === b ? 1 : DAMPING[bitCount(a ^ b)]!);
/** By the number of faults between. */
const DAMPING = Float64Array.from({ length: 33 }, (_, faults) => SHARED ** faults);

/** The height above given elevations as a field, with its level on them. @param range scales it like fields of data */
export function surfaceField(elevations: Raster, range: number): Field {
	const none = new Float64Array(0);
	const blocks = new Int32Array(0);
	return {
		center: [0, 0, 0],
		unit: range / 2,
		metric: null,
		follow: elevations,
		range: 2,
		points: none,
		pointBlocks: blocks,
		weights: none,
		gradientPoints: none,
		gradientBlocks: blocks,
		gradientWeights: none,
		drift: [0, 0, 1, 0],
		jumps: none,
		levels: Float64Array.of(0),
		bounded: [],
		local: null
	};
}

/**
 * A field plus a multiple of another one, which has no faults that die out and the same frame and range; one of them may have a local
 * part, the other one only when the factor is 1. Levels stay those of the first.
 */
export function plus(field: Field, other: Field, factor: number): Field {
	const join = <T extends Float64Array | Int32Array>(a: T, b: T): T => {
		const out = new (a.constructor as new (n: number) => T)(a.length + b.length);
		out.set(a);
		out.set(b, a.length);
		return out;
	};
	const scaled = (w: Float64Array) => w.map((v) => factor * v);
	const jumps = Float64Array.from(
		{ length: Math.max(field.jumps.length, other.jumps.length) },
		(_, k) => (field.jumps[k] ?? 0) + factor * (other.jumps[k] ?? 0)
	);
	return {
		...field,
		points: join(field.points, other.points),
		pointBlocks: join(field.pointBlocks, other.pointBlocks),
		weights: join(field.weights, scaled(other.weights)),
		gradientPoints: join(field.gradientPoints, other.gradientPoints),
		gradientBlocks: join(field.gradientBlocks, other.gradientBlocks),
		gradientWeights: join(field.gradientWeights, scaled(other.gradientWeights)),
		drift: field.drift.map((d, k) => d + factor * other.drift[k]!) as Field['drift'],
		jumps,
		local: field.local ?? other.local
	};
}

/** Prepares a field for evaluation in one block. */
export function inBlock(field: Field, block: number): BlockField {
	const damped = (w: Float64Array, blocks: Int32Array, each: number) => w.map((v, i) => v * blockDamping(blocks[(i / each) | 0]!, own));
	const none = new Float64Array(0);
	const { local, bounded } = field;
	const own = block & throughMask(bounded);
	let constant = field.drift[3];
	field.jumps.forEach((jump, k) => (constant += (block >>> k) & 1 ? jump / 2 : -jump / 2));
	return {
		field,
		weights: damped(field.weights, field.pointBlocks, 1),
		gradientWeights: damped(field.gradientWeights, field.gradientBlocks, 3),
		constant,
		signs: bounded.map((j) => ((block >>> j.fault) & 1 ? 1 : -1)),
		localWeights: local ? damped(local.weights, local.pointBlocks, 1) : none,
		localGradientWeights: local ? damped(local.gradientWeights, local.gradientBlocks, 3) : none
	};
}

/** The field as seen from fault blocks, each prepared once. */
export function fromBlocks(field: Field): (block: number) => BlockField {
	const known = new Map<number, BlockField>();
	return (block) => {
		let b = known.get(block);
		if (!b) known.set(block, (b = inBlock(field, block)));
		return b;
	};
}

/** Value of the field at a point in project coordinates. The plain twin of the kernel in `core/kernels`. */
export function valueAt(b: BlockField, px: number, py: number, pz: number): number {
	const { field } = b;
	let x = (px - field.center[0]) / field.unit;
	let y = (py - field.center[1]) / field.unit;
	let z = (pz - field.center[2]) / field.unit;
	if (field.metric || field.follow) [x, y, z] = framed(field, [px, py, pz]) as unknown as [number, number, number];
	let linear = b.constant + field.drift[0] * x + field.drift[1] * y + field.drift[2] * z;
	for (const [k, j] of field.bounded.entries()) linear += b.signs[k]! * halfJump(j, x, y, z);
	const sum = linear + sourcesValue(field.range, field.points, b.weights, field.gradientPoints, b.gradientWeights, x, y, z);
	return field.local ? sum + localValue(field.local, b.localWeights, b.localGradientWeights, x, y, z) : sum;
}

/** Gradient of the field at a point, scaled units per scaled unit (so 1 where layers have the thickness of the trend). */
export function gradientAt(b: BlockField, px: number, py: number, pz: number): [number, number, number] {
	const { field } = b;
	const p = framed(field, [px, py, pz]) as unknown as [number, number, number];
	const out: [number, number, number] = [field.drift[0], field.drift[1], field.drift[2]];
	addSourcesGradient(out, 1, field.range, field.points, b.weights, field.gradientPoints, b.gradientWeights, p);
	for (const [k, j] of field.bounded.entries()) addHalfJumpSlope(out, b.signs[k]!, j, ...p);
	if (field.local) localGradient(out, field.local, b.localWeights, b.localGradientWeights, p);
	return gradientFrom(field, out, px, py);
}

/**
 * Values of a field at many points.
 * @param xyz project coordinates, 3 × n
 * @param out n values
 */
export function evaluatePlain(b: BlockField, xyz: Float64Array, out: Float64Array): void {
	for (let i = 0, j = 0; i < out.length; i++, j += 3) out[i] = valueAt(b, xyz[j]!, xyz[j + 1]!, xyz[j + 2]!);
}
