import { nodeCount, regularCount, type Lattice } from '../mesh/lattice';

/** A set of nodes that holds all corners of each cell that it reaches. */
export interface NodeSet {
	/** 1 for each node of the set. */
	has: Uint8Array;
	/** By row of nodes along x (the nodes of smaller tetrahedra are one more row): 1 where the row may have some. */
	rows: Uint8Array;
}

/** Makes sets of nodes of a lattice. */
export class NodeSets {
	private readonly length: number;
	private readonly regular: number;
	private readonly rowCount: number;
	/** One byte says it all about a corner: bit 0 not in the set, bit 1 on the wanted side. */
	private readonly state: Uint8Array;

	constructor(private readonly l: Lattice) {
		this.length = nodeCount(l);
		this.regular = regularCount(l);
		this.rowCount = (l.ny + 1) * (l.nz + 1) + 1;
		this.state = new Uint8Array(this.length);
	}

	all(): NodeSet {
		return { has: new Uint8Array(this.length).fill(1), rows: new Uint8Array(this.rowCount).fill(1) };
	}

	/** First node of a row, and one past its last. */
	private ofRow(row: number): [number, number] {
		const from = row * (this.l.nx + 1);
		return row === this.rowCount - 1 ? [this.regular, this.length] : [from, from + this.l.nx + 1];
	}

	/** Nodes of a set that were not asked yet; they count as asked from now on. */
	ask(set: NodeSet, asked: Uint8Array): Uint32Array {
		const out: number[] = [];
		for (let row = 0; row < this.rowCount; row++) {
			if (!set.rows[row]) continue;
			const [from, to] = this.ofRow(row);
			for (let i = from; i < to; i++)
				if (set.has[i]! > asked[i]!) {
					out.push(i);
					asked[i] = 1;
				}
		}
		return Uint32Array.from(out);
	}

	/** All corners of the cells of the set that have a corner at or above (or below) the level; null when there are none. */
	side(set: NodeSet, values: Float64Array, level: number, above: boolean): NodeSet | null {
		const { nx, ny, nz, finer } = this.l;
		const { state } = this;
		const { has, rows } = set;
		const out: NodeSet = { has: new Uint8Array(this.length), rows: new Uint8Array(this.rowCount) };
		const [in0, in1] = above ? [0, 2] : [2, 0];
		let any = false;
		for (let row = 0; row < this.rowCount; row++) {
			if (!rows[row]) continue;
			const [from, to] = this.ofRow(row);
			for (let i = from; i < to; i++) state[i] = has[i] ? (values[i]! >= level ? in1 : in0) : 1;
		}
		const sx = nx + 1;
		const sxy = sx * (ny + 1);
		for (let k = 0; k < nz; k++)
			for (let j = 0; j < ny; j++) {
				const row = k * (ny + 1) + j;
				if (!rows[row] || !rows[row + 1] || !rows[row + ny + 1] || !rows[row + ny + 2]) continue;
				let n = row * sx;
				let cube = (k * ny + j) * nx;
				let found = false;
				// The four corners on one side of a cube serve its neighbour, too.
				let west = state[n]! | state[n + sx]! | state[n + sxy]! | state[n + sxy + sx]!;
				for (let i = 0; i < nx; i++, n++, cube++) {
					const e = n + 1;
					const east = state[e]! | state[e + sx]! | state[e + sxy]! | state[e + sxy + sx]!;
					const all = west | east;
					west = east;
					if (all !== 2 || finer?.opened[cube]) continue;
					found = true;
					out.has[n] = out.has[n + sx] = out.has[n + sxy] = out.has[n + sxy + sx] = out.has[e] = out.has[e + sx] = out.has[e + sxy] = out.has[e + sxy + sx] = 1;
				}
				if (found) out.rows[row] = out.rows[row + 1] = out.rows[row + ny + 1] = out.rows[row + ny + 2] = 1;
				any ||= found;
			}
		const small = finer?.tetrahedra ?? [];
		for (let t = 0; t < small.length; t += 4) {
			let all = 0;
			for (let c = 0; c < 4; c++) all |= has[small[t + c]!] ? state[small[t + c]!]! : 1;
			if (all !== 2) continue;
			any = true;
			for (let c = 0; c < 4; c++) {
				const node = small[t + c]!;
				out.has[node] = 1;
				out.rows[node < this.regular ? Math.floor(node / sx) : this.rowCount - 1] = 1;
			}
		}
		return any ? out : null;
	}
}
