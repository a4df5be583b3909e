import type { Decision } from './labels';
import type { Lattice } from './lattice';

/** Part of a lattice that is to be cut, complete in itself, so that a thread can do it. */
export interface ChunkTask {
	/** The regular lattice. */
	chunk: Omit<Lattice, 'finer'>;
	/** Layers of cubes, the last one not included; or the smaller tetrahedra that stand for some cubes. */
	part: LayersOfCubes | SmallTetrahedra;
	root: Decision;
	/** Node values of each function for the nodes of the part; null where it is never asked. */
	functions: { values: Float64Array | null; level: number; surface: number }[];
	least: number;
	/** Cubes beside smaller tetrahedra share vertices with them anywhere. */
	sharesAll: boolean;
}

export interface LayersOfCubes {
	from: number;
	to: number;
	/** By cube of these layers: 1 where smaller tetrahedra stand for it; null when there are none. */
	opened: Uint8Array | null;
}

export interface SmallTetrahedra {
	/** Numbers of the nodes in the whole, ascending, and their lattice coordinates, 3 each. */
	nodes: Uint32Array;
	places: Float64Array;
	/** 4 each, in ascending order: indexes into `nodes`. */
	tetrahedra: Uint32Array;
}

/** The picture of a part. */
export interface Chunk {
	positions: Float64Array;
	triangles: Uint32Array;
	/** Leaves on the two sides. */
	front: Uint16Array;
	back: Uint16Array;
	surface: Int16Array;
	/** Vertices that other parts may have, too, in ascending order: the vertex, and two numbers that tell which one it is. */
	keys: Float64Array;
	/** Volume of each label. */
	volumes: Map<number, number>;
}
