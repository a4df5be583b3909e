import type { Chunk, ChunkTask, SmallTetrahedra } from './chunk';
import { cutChunk } from './cut-chunk';
import { VertexTable } from './key-table';
import { OUTSIDE, OUTSIDE_LEAF, type Decision } from './labels';
import { latticePlaces, type Lattice } from './lattice';

export { AIR, FAULT, LIMIT, OUTSIDE, SIDE, TERRAIN, type Decision } from './labels';

/** A linear-in-each-cell function: node values less a level. */
export interface LatticeFunction {
	values: Float64Array;
	level: number;
	/** Which surface its zero set is, see `TERRAIN`, `FAULT`. */
	surface: number;
}

/**
 * The picture of a model: triangles, each with the label on both sides. A triangle's normal points to its front. All triangles
 * with a unit on one side make the closed surface of that unit; neighbours share triangles and vertices.
 */
export interface SolidMesh {
	/** Project coordinates, 3 a vertex. */
	positions: Float64Array;
	/** 3 vertex numbers a triangle. */
	triangles: Uint32Array;
	front: Int16Array;
	back: Int16Array;
	surface: Int16Array;
	/** Volume of each label, cubic length units, summed over the pieces of the cells. */
	volumes: Map<number, number>;
}

/** A model as it was cut, with the leaves of the decision on both sides: `AIR_LEAF` and `OUTSIDE_LEAF` are none. */
export interface CutMesh extends SolidMesh {
	frontLeaf: Uint16Array;
	backLeaf: Uint16Array;
}

const MOST_FUNCTIONS = 1023;

/**
 * A part has so many layers of cubes at least, and cubes or tetrahedra at most. Parts do not depend on the number of threads, so neither
 * does the result.
 */
const LAYERS = 2;
const PARTS = 16;
const CUBES = 500_000;
const TETRAHEDRA_OF_A_PART = 60_000;

/** Cuts one part; hosts give one that uses threads. */
export type CutPart = (task: ChunkTask) => Chunk | Promise<Chunk>;

/**
 * Cuts the tetrahedra of a lattice by the functions of a decision tree and collects the boundaries between different labels
 * (after the cell cases of Doi & Koide 1991). Node values within `least` of zero count as ±`least`, so that no cut goes through a node.
 *
 * @param progress called with a share from 0 to 1
 * @throws RangeError when two leaves have one number or there are too many functions
 */
export async function cutLattice(
	lattice: Lattice,
	root: Decision,
	functions: readonly LatticeFunction[],
	least: number,
	progress: (share: number) => void = () => {},
	cut: CutPart = cutChunk
): Promise<CutMesh> {
	const labels = new Map<number, number>([[OUTSIDE_LEAF, OUTSIDE]]);
	const look = (d: Decision): void => {
		if ('leaf' in d) {
			if (labels.has(d.leaf) && d.leaf !== OUTSIDE_LEAF) throw new RangeError(`two leaves have the number ${d.leaf}`);
			labels.set(d.leaf, d.label);
		} else {
			look(d.above);
			look(d.below);
		}
	};
	look(root);
	if (functions.length > MOST_FUNCTIONS) throw new RangeError(`${functions.length} functions; the most is ${MOST_FUNCTIONS}`);
	const tasks = [...partsOfCubes(lattice, root, functions, least), ...partsOfTetrahedra(lattice, root, functions, least)];
	let done = 0;
	const chunks: Chunk[] = [];
	const shared = new SharedVertices();
	await Promise.all(
		tasks.map(async (make, part) => {
			chunks[part] = await cut(make());
			progress(++done / tasks.length);
			// In the order of the parts, whichever is cut first.
			while (chunks[shared.known.length]) shared.add(chunks[shared.known.length]!);
		})
	);
	return join(chunks, shared, labels);
}

function partsOfCubes(lattice: Lattice, root: Decision, functions: readonly LatticeFunction[], least: number): (() => ChunkTask)[] {
	const { finer, ...chunk } = lattice;
	const layer = lattice.nx * lattice.ny;
	const layerNodes = (lattice.nx + 1) * (lattice.ny + 1);
	const thick = Math.max(LAYERS, Math.min(Math.ceil(lattice.nz / PARTS), Math.floor(CUBES / layer)));
	const out: (() => ChunkTask)[] = [];
	for (let from = 0; from < lattice.nz; from += thick) {
		const to = Math.min(lattice.nz, from + thick);
		out.push(() => ({
			chunk,
			part: { from, to, opened: finer ? finer.opened.subarray(from * layer, to * layer) : null },
			root,
			functions: functions.map((f) => ({ ...f, values: orNull(f.values.subarray(from * layerNodes, (to + 1) * layerNodes)) })),
			least,
			sharesAll: finer !== undefined
		}));
	}
	return out;
}

function partsOfTetrahedra(lattice: Lattice, root: Decision, functions: readonly LatticeFunction[], least: number): (() => ChunkTask)[] {
	const { finer, ...chunk } = lattice;
	if (!finer) return [];
	const out: (() => ChunkTask)[] = [];
	for (let from = 0; from < finer.tetrahedra.length; from += 4 * TETRAHEDRA_OF_A_PART)
		out.push(() => {
			const tetrahedra = finer.tetrahedra.subarray(from, from + 4 * TETRAHEDRA_OF_A_PART);
			const nodes = Uint32Array.from(new Set(tetrahedra)).sort();
			const index = new Map<number, number>();
			nodes.forEach((n, i) => index.set(n, i));
			const part: SmallTetrahedra = { nodes, places: latticePlaces(lattice, nodes), tetrahedra: tetrahedra.map((n) => index.get(n)!) };
			return {
				chunk,
				part,
				root,
				functions: functions.map((f) => ({ ...f, values: orNull(Float64Array.from(nodes, (n) => f.values[n]!)) })),
				least,
				sharesAll: true
			};
		});
	return out;
}

/** Null for values that are all missing. */
function orNull(values: Float64Array): Float64Array | null {
	for (let i = 0; i < values.length; i++) if (values[i] === values[i]) return values;
	return null;
}

/** Parts put together: each vertex that several of them have becomes one. */
function join(chunks: readonly Chunk[], { known, doubled }: SharedVertices, labels: ReadonlyMap<number, number>): CutMesh {
	const labelOf = new Int16Array(65536);
	for (const [leaf, label] of labels) labelOf[leaf] = label;
	const count = (of: (c: Chunk) => { length: number }) => chunks.reduce((n, c) => n + of(c).length, 0);
	const triangleCount = count((c) => c.front);
	const positions = new Float64Array(count((c) => c.positions) - 3 * doubled);
	const triangles = new Uint32Array(3 * triangleCount);
	const [frontLeaf, backLeaf, surface] = [new Uint16Array(triangleCount), new Uint16Array(triangleCount), new Int16Array(triangleCount)];
	const volumes = new Map<number, number>();
	let [vertices, at] = [0, 0];
	/** Numbers in the whole of the vertices that came first. */
	const firsts: number[] = [];
	chunks.forEach((c, part) => {
		const number = new Uint32Array(c.positions.length / 3);
		// From one vertex that is known already to the next, all are new.
		let next = 0;
		const takeUntil = (end: number): void => {
			positions.set(c.positions.subarray(3 * next, 3 * end), 3 * vertices);
			countUp(number, next, end, vertices);
			vertices += end - next;
			next = end;
		};
		known[part]!.forEach((first, k) => {
			const vertex = c.keys[3 * k]!;
			if (first < 0) firsts.push(vertices + vertex - next);
			else {
				takeUntil(vertex);
				number[next++] = firsts[first]!;
			}
		});
		takeUntil(number.length);
		renumber(c.triangles, number, triangles, 3 * at);
		frontLeaf.set(c.front, at);
		backLeaf.set(c.back, at);
		surface.set(c.surface, at);
		at += c.front.length;
		for (const [label, volume] of c.volumes) volumes.set(label, (volumes.get(label) ?? 0) + volume);
	});
	return {
		positions,
		triangles,
		front: labelsOf(frontLeaf, labelOf),
		back: labelsOf(backLeaf, labelOf),
		surface,
		frontLeaf,
		backLeaf,
		volumes
	};
}

/** Finds the vertices that several parts have. */
class SharedVertices {
	/** By part and keyed vertex: −1 when it comes first, or which of those that came first it is. */
	readonly known: Int32Array[] = [];
	doubled = 0;
	private firsts = 0;
	private readonly table = new VertexTable();

	/** The next part. */
	add({ keys }: Chunk): void {
		const out = new Int32Array(keys.length / 3);
		for (let k = 0; k < out.length; k++) {
			const [first, second] = [keys[3 * k + 1]!, keys[3 * k + 2]!];
			out[k] = this.table.get(first, second);
			if (out[k]! >= 0) this.doubled++;
			else this.table.add(first, second, this.firsts++);
		}
		this.known.push(out);
	}
}

function countUp(into: Uint32Array, from: number, to: number, first: number): void {
	for (let i = from; i < to; i++) into[i] = first + i - from;
}

// One loop for each type of array: a loop for several types is several times as slow.

function renumber(corners: Uint32Array, number: Uint32Array, into: Uint32Array, at: number): void {
	for (let c = 0; c < corners.length; c++) into[at + c] = number[corners[c]!]!;
}

function labelsOf(leaves: Uint16Array, labelOf: Int16Array): Int16Array {
	const out = new Int16Array(leaves.length);
	for (let t = 0; t < out.length; t++) out[t] = labelOf[leaves[t]!]!;
	return out;
}

/** Those of some numbers that are kept, of either type of 16 bits. */
function taken16<T extends Int16Array | Uint16Array>(of: T, kept: Uint32Array): T {
	const out = new (of.constructor as new (length: number) => T)(kept.length);
	const from = new Int16Array(of.buffer, of.byteOffset, of.length);
	const into = new Int16Array(out.buffer, out.byteOffset, out.length);
	for (let t = 0; t < into.length; t++) into[t] = from[kept[t]!]!;
	return out;
}

/** A mesh with only some of its triangles, in the order given; vertices and volumes stay. */
export function withTriangles<M extends SolidMesh>(mesh: M, kept: ArrayLike<number>): M {
	const taken = kept instanceof Uint32Array ? kept : Uint32Array.from(kept);
	const triangles = new Uint32Array(3 * taken.length);
	const before = mesh.triangles;
	for (let i = 0; i < taken.length; i++) {
		const t = taken[i]!;
		triangles[3 * i] = before[3 * t]!;
		triangles[3 * i + 1] = before[3 * t + 1]!;
		triangles[3 * i + 2] = before[3 * t + 2]!;
	}
	const out = { ...mesh, triangles };
	// All that is told by triangle: labels, surfaces, leaves, blocks.
	for (const [key, value] of Object.entries(mesh)) {
		if (value instanceof Int16Array || value instanceof Uint16Array) Object.assign(out, { [key]: taken16(value, taken) });
	}
	return out;
}
