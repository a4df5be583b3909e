import type { BlockField, Field } from '../fields/field';
import { evaluateInBlock } from '../fields/field-kernel';
import { nodePositions, regularCount, type Lattice } from '../mesh/lattice';
import { markNodes, wordsOfRow } from './node-sets';

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
 * @param stands gets the nodes that have their stand-in, as bits of a set (see `NodeSets`)
 * @returns how often the field was evaluated; 0 when it or the lattice is not fit for it
 */
export function standIn(seen: BlockField, levels: readonly number[], l: Lattice, values: Float64Array, stands: Uint32Array): number {
	if (regularCount(l) < FEW || !canBeScreened(seen.field)) return 0;
	const steps = [stepsOf(l.nx), stepsOf(l.ny), stepsOf(l.nz)] as const;
	const [cx, cy, cz] = steps.map((s) => s.length) as [number, number, number];
	const [sx, sxy] = [l.nx + 1, (l.nx + 1) * (l.ny + 1)];
	const corners = new Uint32Array(cx * cy * cz);
	let n = 0;
	for (const k of steps[2]) for (const j of steps[1]) for (const i of steps[0]) corners[n++] = k * sxy + j * sx + i;
	const coarse = evaluateInBlock(seen, nodePositions(l, corners));
	const active = activeCells(coarse, [cx, cy, cz], levels);
	markData(seen.field, l, steps, active);
	const words = wordsOfRow(l);
	const row = new Uint8Array(cx - 1);
	for (let k = 0; k <= l.nz; k++)
		for (let j = 0; j <= l.ny; j++) {
			const [k0, k1] = cellsAt(k, steps[2]);
			const [j0, j1] = cellsAt(j, steps[1]);
			row.fill(0);
			for (let z = k0; z <= k1; z++)
				for (let y = j0; y <= j1; y++) for (let i = 0; i < cx - 1; i++) row[i]! |= active[(z * (cy - 1) + y) * (cx - 1) + i]!;
			const first = k * sxy + j * sx;
			const word = (k * (l.ny + 1) + j) * words;
			for (let i = 0; i < cx - 1; i++) {
				if (row[i]) continue;
				// A node between two cells needs both of them.
				const from = steps[0][i]! + (i > 0 ? row[i - 1]! : 0);
				const to = steps[0][i + 1]! - (i < cx - 2 ? row[i + 1]! : 0);
				values.fill(coarse[(k1 * cy + j1) * cx + i]!, first + from, first + to + 1);
				markNodes(stands, word, from, to);
			}
		}
	n = 0;
	for (const k of steps[2])
		for (const j of steps[1])
			for (const i of steps[0]) {
				values[corners[n]!] = coarse[n]!;
				n++;
				markNodes(stands, (k * (l.ny + 1) + j) * words, i, i);
			}
	return corners.length;
}

/** The first and the last coarse cell along an axis that a node lies in. */
function cellsAt(n: number, steps: readonly number[]): [number, number] {
	const last = Math.min(Math.floor(n / STEP), steps.length - 2);
	return [n === steps[last] && last > 0 ? last - 1 : last, last];
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
				for (const [c, at, count] of [
					[0, i, cx],
					[1, j, cy],
					[2, k, cz]
				] as const) {
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
	const [cx, cy, cz] = steps.map((s) => s.length - 1) as [number, number, number];
	const [ox, oy, oz] = [(f.center[0] - l.x0) / l.dx / STEP, (f.center[1] - l.y0) / l.dy / STEP, (f.center[2] - l.z0) / l.dz / STEP];
	const [ux, uy, uz] = [f.unit / l.dx / STEP, f.unit / l.dy / STEP, f.unit / l.dz / STEP];
	for (const points of [f.points, f.gradientPoints, f.local?.points ?? [], f.local?.gradientPoints ?? []])
		for (let p = 0; p < points.length; p += 3) {
			const i = Math.floor(ox + points[p]! * ux);
			const j = Math.floor(oy + points[p + 1]! * uy);
			const k = Math.floor(oz + points[p + 2]! * uz);
			if (i >= 0 && i < cx && j >= 0 && j < cy && k >= 0 && k < cz) active[(k * cy + j) * cx + i] = 1;
		}
}
