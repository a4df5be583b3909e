import { drawingOrder } from '../mesh/drawing-order';
import type { BlockMesh } from '../model/blocks';
import { damaged, numberReader, Numbers } from './small-numbers';
import type { Pack } from './pack';

/** Labels of a triangle, in the order in which they are written. */
export const LABELS = ['front', 'back', 'surface', 'frontBlock', 'backBlock'] as const;
/** Places are kept to this share of the spacing. */
export const DRAWN_PRECISION = 1 / 1000;

/** Raised when what is written changes, so that nobody takes what was kept of another layout for this one. */
export const DRAWN_LAYOUT = 2;
/** Triangles of a part of a large model: a few seconds on a slow line, so that a cut costs no more than these. */
export const PART_TRIANGLES = 200_000;

/** What a part says of itself and of the whole. */
interface DrawnPart {
	step: number;
	origin: number[];
	/** Of the whole. */
	triangles: number;
	vertices: number;
	/** This part, of so many. */
	part: number;
	parts: number;
	/** Where it begins, and how many there are in it. */
	from: { triangle: number; vertex: number };
	count: { triangles: number; vertices: number };
}

/**
 * A model as panes draw it, a tenth of its size: triangles in runs of one label, their vertices in the order of first use as
 * differences, places in whole steps. Which vertices are shared is kept, so solids stay closed and sections of them, too.
 * @param step length of a step, length units; places are off by half of it at most
 * @param most triangles of a part
 * @returns one or more parts, each of which can be read by itself; a vertex stands in the first that uses it
 */
export function encodeDrawnMesh(mesh: BlockMesh, step: number, most = Infinity): Pack[] {
	const keys = LABELS.map((l) => mesh[l]);
	const { triangles: order, vertices: number, count: vertices } = drawingOrder(mesh, keys);
	const origin = [0, 1, 2].map((c) => least(mesh.positions, c));
	const parts = Math.max(1, Math.ceil(order.length / most));
	let next = 0;
	return Array.from({ length: parts }, (_, part) => {
		const [start, end] = [part, part + 1].map((k) => Math.round((k * order.length) / parts)) as [number, number];
		const from = { triangle: start, vertex: next };
		const runs = new Numbers();
		const corners = new Numbers();
		const places = new Numbers();
		const last = [0, 0, 0];
		let before = 0;
		let length = 0;
		for (let i = start; i < end; i++) {
			const t = order[i]!;
			if (i > start && keys.some((k) => k[t] !== k[order[i - 1]!])) {
				runs.push(length);
				length = 0;
			}
			if (length === 0) for (const k of keys) runs.push(k[t]!);
			length++;
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
		}
		if (end > start) runs.push(length);
		const count = { triangles: end - start, vertices: next - from.vertex };
		const drawn: DrawnPart = { step, origin, triangles: order.length, vertices, part, parts, from, count };
		return { info: { drawn }, arrays: { runs: runs.done, corners: corners.done, places: places.done } };
	});
}

function least(positions: Float64Array, axis: number): number {
	let low = Infinity;
	for (let i = axis; i < positions.length; i += 3) low = Math.min(low, positions[i]!);
	return Number.isFinite(low) ? low : 0;
}

/** In how many parts a drawn model comes, as each of them says. */
export const partsOfDrawn = (pack: Pack): number => (pack.info['drawn'] as DrawnPart).parts;

/** @param packs all parts, in any order @throws ProblemError `damaged-data`, where one is missing or was cut, too */
export function decodeDrawnMesh(packs: readonly Pack[]): Omit<BlockMesh, 'volumes'> {
	const said = packs.map((p) => p.info['drawn'] as DrawnPart);
	const { triangles: count, vertices } = said[0]!;
	const positions = new Float64Array(3 * vertices);
	const triangles = new Uint32Array(3 * count);
	const labels = LABELS.map(() => new Int16Array(count));
	const ordered = said.map((d, i) => ({ ...d, arrays: packs[i]!.arrays })).sort((a, b) => a.part - b.part);
	let [triangle, vertex] = [0, 0];
	for (const [i, { part, parts, step, origin, from, count: own, arrays }] of ordered.entries()) {
		if (part !== i || parts !== packs.length || from.triangle !== triangle || from.vertex !== vertex) damaged();
		triangle += own.triangles;
		vertex += own.vertices;
		if (!(triangle <= count && vertex <= vertices)) damaged();
		const [runs, corners, places] = ['runs', 'corners', 'places'].map((n) => numberReader(arrays[n] as Uint8Array)) as [
			() => number,
			() => number,
			() => number
		];
		const last = [0, 0, 0];
		for (let at = 3 * from.vertex; at < 3 * vertex; at++) {
			const axis = at % 3;
			last[axis]! += places();
			positions[at] = origin[axis]! + last[axis]! * step;
		}
		for (let at = 3 * from.triangle, before = 0; at < 3 * triangle; at++) {
			before += corners();
			if (before < 0 || before >= vertex) damaged();
			triangles[at] = before;
		}
		for (let t = from.triangle; t < triangle;) {
			const values = LABELS.map(() => runs());
			const end = t + runs();
			if (!(end > t && end <= triangle)) damaged();
			labels.forEach((l, k) => l.fill(values[k]!, t, end));
			t = end;
		}
	}
	if (triangle !== count || vertex !== vertices) damaged();
	const [front, back, surface, frontBlock, backBlock] = labels as [Int16Array, Int16Array, Int16Array, Int16Array, Int16Array];
	return { positions, triangles, front, back, surface, frontBlock, backBlock };
}
