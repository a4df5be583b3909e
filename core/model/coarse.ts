import type { Field } from '../fields/field';
import { nodePositions, regularCount, type Lattice } from '../mesh/lattice';
import type { Evaluate } from './build';
import type { FieldSource } from './walk';

/** Cells of the lattice along the edge of a coarse one. */
const STEP = 4;

/** A lattice of fewer nodes is evaluated as a whole. */
const FEW = 30_000;

/** The field bends most at its data; the same safety as for many places. */
const SAFETY = 4;

/** Fields that die out at faults or follow a rough surface may turn within a coarse cell. */
const canBeScreened = (f: Field): boolean => f.bounded.length === 0 && !f.follow && !f.metric;

/** Where along an axis the coarse nodes are. */
const stepsOf = (n: number): number[] => Array.from({ length: Math.ceil(n / STEP) + 1 }, (_, i) => Math.min(n, i * STEP));

/**
 * Tells for the coarse cells of a lattice whether a field may reach a level in them: it is evaluated at their corners, and how far it
 * may stray between them follows from its second differences (the error of linear interpolation is at most an eighth of them). Cells
 * with data of the field always count. In the others each node has the side of its corner, so the value of the corner stands for it:
 * no edge that changes sign touches such a node, and what is built is the same as if all nodes had been evaluated.
 *
 * @param values gets the stand-ins, one a node of the lattice
 * @param asked gets 1 where a stand-in was set
 */
export async function standIn(source: FieldSource, levels: readonly number[], l: Lattice, values: Float64Array, asked: Uint8Array, evaluate: Evaluate): Promise<number> {
	if (regularCount(l) < FEW || !canBeScreened(source.field)) return 0;
	const steps = [stepsOf(l.nx), stepsOf(l.ny), stepsOf(l.nz)] as const;
	const [cx, cy, cz] = steps.map((s) => s.length) as [number, number, number];
	const [sx, sxy] = [l.nx + 1, (l.nx + 1) * (l.ny + 1)];
	const corners = new Uint32Array(cx * cy * cz);
	let n = 0;
	for (const k of steps[2]) for (const j of steps[1]) for (const i of steps[0]) corners[n++] = k * sxy + j * sx + i;
	const coarse = await evaluate(source.field, source.block, nodePositions(l, corners));
	const active = activeCells(coarse, [cx, cy, cz], levels);
	markData(source.field, l, steps, active);
	const cell = (i: number, j: number, k: number) => (k * (cy - 1) + j) * (cx - 1) + i;
	for (let k = 0; k < cz - 1; k++)
		for (let j = 0; j < cy - 1; j++)
			for (let i = 0; i < cx - 1; i++)
				if (!active[cell(i, j, k)])
					rows(l, steps, i, j, k, (from, to) => {
						values.fill(coarse[(k * cy + j) * cx + i]!, from, to);
						asked.fill(1, from, to);
					});
	for (let k = 0; k < cz - 1; k++) for (let j = 0; j < cy - 1; j++) for (let i = 0; i < cx - 1; i++) if (active[cell(i, j, k)]) rows(l, steps, i, j, k, (from, to) => asked.fill(0, from, to));
	corners.forEach((node, c) => {
		values[node] = coarse[c]!;
		asked[node] = 1;
	});
	return corners.length;
}

/** Runs of nodes of a coarse cell, its sides included. */
function rows(l: Lattice, steps: readonly (readonly number[])[], i: number, j: number, k: number, found: (from: number, to: number) => void): void {
	const sx = l.nx + 1;
	const sxy = sx * (l.ny + 1);
	for (let z = steps[2]![k]!; z <= steps[2]![k + 1]!; z++) for (let y = steps[1]![j]!; y <= steps[1]![j + 1]!; y++) found(z * sxy + y * sx + steps[0]![i]!, z * sxy + y * sx + steps[0]![i + 1]! + 1);
}

/** Cells in which a level may be reached. The last step along an axis may be shorter; its differences count as they are. */
function activeCells(values: Float64Array, [cx, cy, cz]: readonly [number, number, number], levels: readonly number[]): Uint8Array {
	const strides = [1, cx, cx * cy] as const;
	const bend = new Float64Array(values.length);
	for (let k = 0; k < cz; k++)
		for (let j = 0; j < cy; j++)
			for (let i = 0; i < cx; i++) {
				const o = (k * cy + j) * cx + i;
				let sum = 0;
				for (const [c, at, count] of [[0, i, cx], [1, j, cy], [2, k, cz]] as const) {
					if (count < 3) continue;
					const p = o + strides[c] * (at === 0 ? 1 : at === count - 1 ? -1 : 0);
					sum += Math.abs(values[p - strides[c]]! - 2 * values[p]! + values[p + strides[c]]!);
				}
				bend[o] = sum;
			}
	const active = new Uint8Array(Math.max(0, (cx - 1) * (cy - 1) * (cz - 1)));
	const corners = [0, 1, cx, cx + 1, cx * cy, cx * cy + 1, cx * cy + cx, cx * cy + cx + 1];
	for (let k = 0, cell = 0; k < cz - 1; k++)
		for (let j = 0; j < cy - 1; j++)
			for (let i = 0; i < cx - 1; i++, cell++) {
				const o = (k * cy + j) * cx + i;
				let [low, high, most] = [Infinity, -Infinity, 0];
				for (const d of corners) {
					low = Math.min(low, values[o + d]!);
					high = Math.max(high, values[o + d]!);
					most = Math.max(most, bend[o + d]!);
				}
				const stray = (SAFETY * most) / 8;
				// Not "<" and ">": what is not a number counts as reached.
				active[cell] = levels.some((v) => !(low - stray > v || high + stray < v)) ? 1 : 0;
			}
	return active;
}

/** Marks the cells that hold data of the field. */
function markData(f: Field, l: Lattice, steps: readonly (readonly number[])[], active: Uint8Array): void {
	const origin = [l.x0, l.y0, l.z0];
	const size = [l.dx, l.dy, l.dz];
	const [cx, cy] = [steps[0]!.length - 1, steps[1]!.length - 1];
	for (const points of [f.points, f.gradientPoints, f.local?.points ?? [], f.local?.gradientPoints ?? []])
		for (let p = 0; p < points.length; p += 3) {
			const at = [0, 1, 2].map((c) => Math.floor((f.center[c]! + points[p + c]! * f.unit - origin[c]!) / size[c]! / STEP));
			if (at.every((v, c) => v >= 0 && v < steps[c]!.length - 1)) active[(at[2]! * cy + at[1]!) * cx + at[0]!] = 1;
		}
}
