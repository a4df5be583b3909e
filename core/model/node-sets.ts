import { nodeCount, type Lattice } from '../mesh/lattice';

/** Sets of nodes, as one byte a node. A set always holds all corners of each cell that it reaches. */
export class NodeSets {
	constructor(private readonly l: Lattice) {}

	all(): Uint8Array {
		return new Uint8Array(nodeCount(this.l)).fill(1);
	}

	/** Nodes of a set that were not asked yet; they count as asked from now on. */
	ask(set: Uint8Array, asked: Uint8Array): Uint32Array {
		let n = 0;
		for (let i = 0; i < set.length; i++) n += set[i]! & ~asked[i]!;
		const out = new Uint32Array(n);
		n = 0;
		for (let i = 0; i < set.length; i++)
			if (set[i]! & ~asked[i]!) {
				out[n++] = i;
				asked[i] = 1;
			}
		return out;
	}

	/** All corners of the cells of the set that have a corner at or above (or below) the level; null when there are none. */
	side(set: Uint8Array, values: Float64Array, level: number, above: boolean): Uint8Array | null {
		const { nx, ny, nz, finer } = this.l;
		const out = new Uint8Array(set.length);
		let any = false;
		// One byte says it all about a corner: bit 0 not in the set, bit 1 on the wanted side.
		const state = new Uint8Array(set.length);
		for (let i = 0; i < set.length; i++) state[i] = set[i] ? (values[i]! >= level === above ? 2 : 0) : 1;
		const sx = nx + 1;
		const sxy = sx * (ny + 1);
		let cube = 0;
		for (let k = 0; k < nz; k++)
			for (let j = 0; j < ny; j++) {
				let n = k * sxy + j * sx;
				// The four corners on one side of a cube serve its neighbour, too.
				let west = state[n]! | state[n + sx]! | state[n + sxy]! | state[n + sxy + sx]!;
				for (let i = 0; i < nx; i++, n++, cube++) {
					const e = n + 1;
					const east = state[e]! | state[e + sx]! | state[e + sxy]! | state[e + sxy + sx]!;
					const all = west | east;
					west = east;
					if (all !== 2 || finer?.opened[cube]) continue;
					any = true;
					out[n] = out[n + sx] = out[n + sxy] = out[n + sxy + sx] = out[e] = out[e + sx] = out[e + sxy] = out[e + sxy + sx] = 1;
				}
			}
		const small = finer?.tetrahedra ?? [];
		for (let t = 0; t < small.length; t += 4) {
			const [a, b, c, d] = [small[t]!, small[t + 1]!, small[t + 2]!, small[t + 3]!];
			if ((state[a]! | state[b]! | state[c]! | state[d]!) !== 2) continue;
			any = true;
			out[a] = out[b] = out[c] = out[d] = 1;
		}
		return any ? out : null;
	}
}
