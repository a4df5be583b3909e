import type { Lattice } from './lattice';

/** Part of a mesh that is to be mended. All threads have the whole, in room that they share; each changes triangles of its part only. */
export interface MendTask {
	mend: {
		positions: Float64Array;
		/** They are changed where they are. */
		triangles: Uint32Array;
		/** By triangle: 1 where it is gone. */
		gone: Uint8Array;
		/** By triangle: the part that it is in. */
		partOf: Int16Array;
		part: number;
		/** Its first triangle, and the one after its last. */
		from: number;
		to: number;
		/** By triangle: number of the sheet that it is a part of. */
		sheet: Int32Array;
		/** By sheet: 1 or -1 where it is given, with what it is given for behind or before it: that may lose next to nothing, and gain nothing. */
		given: Int8Array;
		/** By vertex: 1 where it stays, and all edges to it. */
		still: Uint8Array;
		spacing: number;
		/** That the mesh was cut on. */
		lattice: Omit<Lattice, 'finer'>;
		/** How many of the smallest cells there are along a cube of it: 1 where no part is finer. */
		fineness: number;
	};
}

export interface Mended {
	/** By sheet: volume that came behind it, from before it. */
	gained: Float64Array;
}
