import type { DataSet } from '../datasets/dataset';
import { placeAt, type HolePaths } from '../datasets/hole-paths';

/** Rows of a data set by hole and depth: `order[start[h]] … order[start[h + 1] - 1]` are the rows of hole `h`. */
interface HoleIndex {
	start: Uint32Array;
	order: Uint32Array;
}

const known = new WeakMap<Uint32Array, HoleIndex>();

/** Made once for a data set; costs little where its rows stand in order already. */
export function holeIndex(set: Pick<DataSet, 'hole' | 'from' | 'rowCount'>, holes: number): HoleIndex {
	const had = known.get(set.hole);
	if (had && had.start.length === holes + 1) return had;
	const { hole, from, rowCount } = set;
	const start = new Uint32Array(holes + 1);
	for (let i = 0; i < rowCount; i++) start[hole[i]! + 1]!++;
	for (let h = 0; h < holes; h++) start[h + 1]! += start[h]!;
	const next = start.slice();
	const order = new Uint32Array(rowCount);
	for (let i = 0; i < rowCount; i++) order[next[hole[i]!]!++] = i;
	for (let h = 0; h < holes; h++) {
		const part = order.subarray(start[h]!, start[h + 1]!);
		for (let k = 1; k < part.length; k++)
			if (from[part[k]!]! < from[part[k - 1]!]!) {
				part.sort((a, b) => from[a]! - from[b]! || a - b);
				break;
			}
	}
	const index = { start, order };
	known.set(set.hole, index);
	return index;
}

/** Row of hole `h` that holds a depth; −1 where none does. */
export function rowAtDepth(set: Pick<DataSet, 'hole' | 'from' | 'to' | 'rowCount'>, index: HoleIndex, h: number, depth: number): number {
	let best = -1;
	for (let k = index.start[h]!; k < index.start[h + 1]!; k++) {
		const i = index.order[k]!;
		if (set.from[i]! > depth) break;
		if (set.to[i]! >= depth) best = i;
	}
	return best;
}

/** Parts of holes as they are drawn. */
export interface TubeSegments {
	count: number;
	/** Both ends, 6 numbers each, less the origin. */
	ends: Float32Array;
	/** Red, green, blue of each, 0–255. */
	colors: Uint8Array;
	/** Size of each as a share. */
	sizes: Float32Array;
}

interface TubeOptions {
	origin: readonly [number, number, number];
	/** 0xRRGGBB of a row. */
	rgb: (row: number) => number;
	/** Which rows are drawn; null is all. */
	shown: ((row: number) => boolean) | null;
	size: (row: number) => number;
	/** Least length that is worth a segment of hole `h`, project units; shorter rows are put together. */
	resolution: (h: number) => number;
	/** Holes that are drawn. */
	wanted: (h: number) => boolean;
	/** Greatest number of segments; the resolution is coarsened until they fit. */
	most: number;
}

/**
 * Segments of the shown rows. Rows shorter than the resolution are put together with those below them; the segment then looks like the
 * longest of them, so that what is drawn is always a row, never a mean. Segments follow the bends of the path.
 */
export function tubeSegments(
	set: Pick<DataSet, 'hole' | 'from' | 'to' | 'rowCount'>,
	paths: HolePaths,
	options: TubeOptions
): TubeSegments {
	const holes = paths.holes.length;
	const index = holeIndex(set, holes);
	let coarser = 1;
	for (;;) {
		const result = attempt(set, paths, index, options, coarser);
		if (result) return result;
		coarser *= 1.6;
	}
}

function attempt(
	set: Pick<DataSet, 'hole' | 'from' | 'to' | 'rowCount'>,
	paths: HolePaths,
	index: HoleIndex,
	o: TubeOptions,
	coarser: number
): TubeSegments | null {
	let capacity = Math.min(o.most, 4096);
	let ends = new Float32Array(6 * capacity);
	let colors = new Uint8Array(3 * capacity);
	let sizes = new Float32Array(capacity);
	let count = 0;
	const at = new Float64Array(3);
	const put = (h: number, from: number, to: number, color: number, size: number): boolean => {
		if (count === o.most) return false;
		if (count === capacity) {
			capacity = Math.min(o.most, capacity * 2);
			const grown = [new Float32Array(6 * capacity), new Uint8Array(3 * capacity), new Float32Array(capacity)] as const;
			grown[0].set(ends);
			grown[1].set(colors);
			grown[2].set(sizes);
			[ends, colors, sizes] = grown;
		}
		placeAt(paths, h, from, at);
		for (let c = 0; c < 3; c++) ends[6 * count + c] = at[c]! - o.origin[c]!;
		placeAt(paths, h, to, at);
		for (let c = 0; c < 3; c++) ends[6 * count + 3 + c] = at[c]! - o.origin[c]!;
		colors[3 * count] = color >> 16;
		colors[3 * count + 1] = (color >> 8) & 255;
		colors[3 * count + 2] = color & 255;
		sizes[count++] = size;
		return true;
	};
	for (let h = 0; h < paths.holes.length; h++) {
		if (!o.wanted(h)) continue;
		const bin = o.resolution(h) * coarser;
		let open = false;
		let start = 0;
		let end = 0;
		let longest = 0;
		let row = -1;
		const flush = (): boolean => {
			if (!open) return true;
			open = false;
			const color = o.rgb(row);
			const size = o.size(row);
			// Along the bends of the path, where they are worth showing.
			let from = start;
			for (let v = firstVertexAfter(paths, h, start, bin); v < paths.start[h + 1]! && paths.depths[v]! < end - bin; v++) {
				if (paths.depths[v]! - from < bin) continue;
				if (!put(h, from, paths.depths[v]!, color, size)) return false;
				from = paths.depths[v]!;
			}
			return put(h, from, end, color, size);
		};
		for (let k = index.start[h]!; k < index.start[h + 1]!; k++) {
			const i = index.order[k]!;
			if (o.shown && !o.shown(i)) continue;
			const [f, t] = [set.from[i]!, set.to[i]!];
			// Rows that leave a gap wider than the resolution are not put together.
			if (open && (f - end > bin || end - start >= bin)) if (!flush()) return null;
			if (!open) {
				open = true;
				start = f;
				end = t;
				longest = -1;
			}
			end = Math.max(end, t);
			if (t - f > longest) {
				longest = t - f;
				row = i;
			}
		}
		if (!flush()) return null;
	}
	return { count, ends: ends.subarray(0, 6 * count), colors: colors.subarray(0, 3 * count), sizes: sizes.subarray(0, count) };
}

function firstVertexAfter(paths: HolePaths, h: number, depth: number, bin: number): number {
	let low = paths.start[h]!;
	let high = paths.start[h + 1]!;
	// A straight hole has no vertex between its ends.
	if (high - low <= 2) return high;
	while (low < high) {
		const middle = (low + high) >> 1;
		if (paths.depths[middle]! <= depth + bin * 0.5) low = middle + 1;
		else high = middle;
	}
	return low;
}
