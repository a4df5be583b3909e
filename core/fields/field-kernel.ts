import { inBlock, type BlockField, type Field } from './field';
import { halfJump } from './bounded';
import { framed } from './frame';
import { eachPatch, type LocalPart } from './local';
import type { SourcePart } from './sources';
import { field as module } from '../kernels/generated/field';
import { BASE, instantiate, reach } from '../kernels/wasm';

interface FieldExports {
	memory: WebAssembly.Memory;
	evaluate(
		points: number,
		pointPairs: number,
		gradients: number,
		gradientPairs: number,
		inverseRange: number,
		driftX: number,
		driftY: number,
		driftZ: number,
		constant: number,
		targets: number,
		count: number,
		out: number
	): void;
}

const CHUNK = 2048;

/** Where the parts of a call lie in the memory of the kernel. */
interface Layout {
	points: number;
	gradients: number;
	targets: number;
	out: number;
	pointPairs: number;
	gradientPairs: number;
}

let loaded: FieldExports | null = null;

/**
 * Values of a field, seen from a fault block, at many points. The kernel of `evaluatePlain`, to which tests hold it.
 * @param xyz project coordinates, 3 × n
 * @returns n values
 */
export const evaluateField = (field: Field, block: number, xyz: Float64Array): Float64Array => evaluateInBlock(inBlock(field, block), xyz);

/** The same, for a field that is prepared already. */
export function evaluateInBlock(b: BlockField, xyz: Float64Array): Float64Array {
	const kernel = (loaded ??= instantiate<FieldExports>(module));
	const { field } = b;
	const count = xyz.length / 3;
	const scaled = framed(field, xyz);
	const result = new Float64Array(count);
	const layout = load(kernel, field.range, field.points, b.weights, field.gradientPoints, b.gradientWeights, [
		0,
		b.weights.length,
		0,
		b.gradientWeights.length / 3
	]);
	const memory = new Float64Array(kernel.memory.buffer);
	for (let from = 0; from < count; from += CHUNK) {
		const size = Math.min(CHUNK, count - from);
		memory.set(scaled.subarray(3 * from, 3 * (from + size)), layout.targets / 8);
		run(kernel, layout, field.range, field.drift, b.constant, size);
		result.set(memory.subarray(layout.out / 8, layout.out / 8 + size), from);
	}
	field.bounded.forEach((j, k) => {
		for (let t = 0; t < count; t++)
			result[t] = result[t]! + b.signs[k]! * halfJump(j, scaled[3 * t]!, scaled[3 * t + 1]!, scaled[3 * t + 2]!);
	});
	if (field.local) addLocal(kernel, field.local, b, scaled, result);
	return result;
}

/** Adds the local part of a field, patch by patch. */
function addLocal(kernel: FieldExports, l: LocalPart, b: BlockField, scaled: Float64Array, result: Float64Array): void {
	// Which patches reach which points, sorted by patch.
	const patches = l.pointStart.length - 1;
	const start = new Uint32Array(patches + 1);
	for (let t = 0; t < result.length; t++) eachPatch(l, scaled[3 * t]!, scaled[3 * t + 1]!, scaled[3 * t + 2]!, (p) => void start[p + 1]!++);
	for (let p = 0; p < patches; p++) start[p + 1]! += start[p]!;
	const next = start.slice();
	const targets = new Uint32Array(start[patches]!);
	const shares = new Float64Array(start[patches]!);
	for (let t = 0; t < result.length; t++)
		eachPatch(l, scaled[3 * t]!, scaled[3 * t + 1]!, scaled[3 * t + 2]!, (p, weight) => {
			targets[next[p]!] = t;
			shares[next[p]!++] = weight;
		});
	for (let p = 0; p < patches; p++) {
		if (start[p] === start[p + 1]) continue;
		const layout = load(kernel, l.range, l.points, b.localWeights, l.gradientPoints, b.localGradientWeights, [
			l.pointStart[p]!,
			l.pointStart[p + 1]!,
			l.gradientStart[p]!,
			l.gradientStart[p + 1]!
		]);
		const memory = new Float64Array(kernel.memory.buffer);
		for (let from = start[p]!; from < start[p + 1]!; from += CHUNK) {
			const size = Math.min(CHUNK, start[p + 1]! - from);
			for (let i = 0; i < size; i++)
				for (let c = 0; c < 3; c++) memory[layout.targets / 8 + 3 * i + c] = scaled[3 * targets[from + i]! + c]!;
			run(kernel, layout, l.range, [0, 0, 0], 0, size);
			for (let i = 0; i < size; i++) {
				const t = targets[from + i]!;
				result[t] = result[t]! + shares[from + i]! * memory[layout.out / 8 + i]!;
			}
		}
	}
}

/** Writes sources into the memory of the kernel. */
function load(
	kernel: FieldExports,
	range: number,
	points: Float64Array,
	weights: Float64Array,
	gradientPoints: Float64Array,
	gradientWeights: Float64Array,
	part: SourcePart
): Layout {
	const [p0, p1, g0, g1] = part;
	const [pointCount, gradientCount] = [p1 - p0, g1 - g0];
	const pointPairs = (pointCount + 1) >> 1;
	const gradientPairs = (gradientCount + 1) >> 1;
	const atPoints = BASE;
	const gradients = atPoints + pointPairs * 64;
	const targets = gradients + gradientPairs * 96;
	const out = targets + CHUNK * 24;
	reach(kernel.memory, out + CHUNK * 8);
	const memory = new Float64Array(kernel.memory.buffer);
	const inverse = 1 / range;
	for (let i = 0; i < 2 * pointPairs; i++) {
		const o = atPoints / 8 + (i >> 1) * 8 + (i & 1);
		const real = i < pointCount;
		for (let c = 0; c < 3; c++) memory[o + 2 * c] = real ? points[3 * (p0 + i) + c]! * inverse : 0;
		memory[o + 6] = real ? weights[p0 + i]! : 0;
	}
	for (let i = 0; i < 2 * gradientPairs; i++) {
		const o = gradients / 8 + (i >> 1) * 12 + (i & 1);
		const real = i < gradientCount;
		for (let c = 0; c < 3; c++) {
			memory[o + 2 * c] = real ? gradientPoints[3 * (g0 + i) + c]! * inverse : 0;
			memory[o + 6 + 2 * c] = real ? gradientWeights[3 * (g0 + i) + c]! * inverse : 0;
		}
	}
	return { points: atPoints, gradients, targets, out, pointPairs, gradientPairs };
}

const run = (kernel: FieldExports, l: Layout, range: number, drift: readonly number[], constant: number, count: number): void =>
	kernel.evaluate(
		l.points,
		l.pointPairs,
		l.gradients,
		l.gradientPairs,
		1 / range,
		drift[0]!,
		drift[1]!,
		drift[2]!,
		constant,
		l.targets,
		count,
		l.out
	);
