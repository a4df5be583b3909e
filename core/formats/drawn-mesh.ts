import { drawingOrder } from '../mesh/drawing-order';
import type { BlockMesh } from '../model/blocks';
import { damaged, numberReader, Numbers } from './small-numbers';
import type { Pack } from './pack';

/** Labels of a triangle, in the order in which they are written. */
export const LABELS = ['front', 'back', 'surface', 'frontBlock', 'backBlock'] as const;
/** Places are kept to this share of the spacing. */
export const DRAWN_PRECISION = 1 / 1000;

/**
 * A model as panes draw it, a tenth of its size: triangles in runs of one label, their vertices in the order of first use as
 * differences, places in whole steps. Which vertices are shared is kept, so solids stay closed and sections of them, too.
 * @param step length of a step, length units; places are off by half of it at most
 */
export function encodeDrawnMesh(mesh: BlockMesh, step: number): Pack {
	const count = mesh.front.length;
	const keys = LABELS.map((l) => mesh[l]);
	const { triangles: order, vertices: number } = drawingOrder(mesh, keys);
	const runs = new Numbers();
	const corners = new Numbers();
	const places = new Numbers();
	const origin = [0, 1, 2].map((c) => least(mesh.positions, c));
	const last = [0, 0, 0];
	let next = 0;
	let before = 0;
	let length = 0;
	order.forEach((t, i) => {
		if (i > 0 && keys.some((k) => k[t] !== k[order[i - 1]!])) {
			runs.push(length);
			length = 0;
		}
		if (length === 0) for (const k of keys) runs.push(k[t]!);
		length++;
		// Turned so that the newest vertex comes first: the others often follow the triangle before.
		for (let c = 0; c < 3; c++) {
			const v = mesh.triangles[3 * t + c]!;
			if (number[v] === next) {
				next++;
				for (let axis = 0; axis < 3; axis++) {
					const at = Math.round((mesh.positions[3 * v + axis]! - origin[axis]!) / step);
					places.push(at - last[axis]!);
					last[axis] = at;
				}
			}
			corners.push(number[v]! - before);
			before = number[v]!;
		}
	});
	if (count) runs.push(length);
	return {
		info: { drawn: { step, origin, triangles: count, vertices: next } },
		arrays: { runs: runs.done, corners: corners.done, places: places.done }
	};
}

function least(positions: Float64Array, axis: number): number {
	let low = Infinity;
	for (let i = axis; i < positions.length; i += 3) low = Math.min(low, positions[i]!);
	return Number.isFinite(low) ? low : 0;
}

/** @throws ProblemError `damaged-data` */
export function decodeDrawnMesh(pack: Pack): Omit<BlockMesh, 'volumes'> {
	const {
		step,
		origin,
		triangles: count,
		vertices
	} = pack.info['drawn'] as { step: number; origin: number[]; triangles: number; vertices: number };
	const [runs, corners, places] = ['runs', 'corners', 'places'].map((n) => numberReader(pack.arrays[n] as Uint8Array)) as [
		() => number,
		() => number,
		() => number
	];
	const positions = new Float64Array(3 * vertices);
	const last = [0, 0, 0];
	for (let i = 0; i < positions.length; i++) {
		const axis = i % 3;
		last[axis]! += places();
		positions[i] = origin[axis]! + last[axis]! * step;
	}
	const triangles = new Uint32Array(3 * count);
	for (let i = 0, before = 0; i < triangles.length; i++) {
		before += corners();
		if (before < 0 || before >= vertices) damaged();
		triangles[i] = before;
	}
	const labels = LABELS.map(() => new Int16Array(count));
	for (let t = 0; t < count;) {
		const values = LABELS.map(() => runs());
		const end = t + runs();
		if (!(end > t && end <= count)) damaged();
		labels.forEach((l, k) => l.fill(values[k]!, t, end));
		t = end;
	}
	const [front, back, surface, frontBlock, backBlock] = labels as [Int16Array, Int16Array, Int16Array, Int16Array, Int16Array];
	return { positions, triangles, front, back, surface, frontBlock, backBlock };
}
