import { bitCount } from '../fields/field';
import { nodeCount, regularCount, type Lattice } from '../mesh/lattice';

/** A set of nodes that holds all corners of each cell that it reaches. Nodes along x share words of 32 bits; each row begins a new word. */
export interface NodeSet {
	bits: Uint32Array;
	/** By row of nodes along x (the nodes of smaller tetrahedra are one more row): 1 where the row may have some. */
	rows: Uint8Array;
}

/** Words of a row of nodes along x. */
export const wordsOfRow = (l: Lattice): number => (l.nx + 32) >> 5;

/** Puts the nodes of a row from one to another, both included, into a set. @param row first word of the row */
export function markNodes(bits: Uint32Array, row: number, from: number, to: number): void {
	for (let word = from >> 5; word <= to >> 5; word++) {
		const [low, high] = [Math.max(0, from - 32 * word), Math.min(31, to - 32 * word)];
		if (high >= low) bits[row + word]! |= (0xffffffff >>> (31 - high + low)) << low;
	}
}

/** Makes sets of nodes of a lattice. */
export class NodeSets {
	private readonly count: number;
	private readonly regular: number;
	private readonly rowCount: number;
	/** Words of a row, and where the row of smaller tetrahedra starts. */
	private readonly words: number;
	private readonly further: number;
	private readonly length: number;
	/** Bits on the wanted side, while cells are looked at. */
	private readonly wanted: Uint32Array;
	/** Cubes that smaller tetrahedra stand for, laid out like nodes. */
	private readonly opened: Uint32Array | null;
	/** Where the bits of the corners of the smaller tetrahedra are. */
	private readonly corners: Uint32Array;

	constructor(private readonly l: Lattice) {
		this.count = nodeCount(l);
		this.regular = regularCount(l);
		this.rowCount = (l.ny + 1) * (l.nz + 1) + 1;
		this.words = wordsOfRow(l);
		this.further = (this.rowCount - 1) * this.words;
		this.length = NodeSets.lengthOf(l);
		this.wanted = new Uint32Array(this.length);
		this.corners = Uint32Array.from(l.finer?.tetrahedra ?? [], (node) => this.bitOf(node));
		this.opened = l.finer ? new Uint32Array(this.further) : null;
		l.finer?.opened.forEach((is, cube) => {
			if (!is) return;
			const i = cube % l.nx;
			const row = (cube - i) / l.nx;
			const [j, k] = [row % l.ny, Math.floor(row / l.ny)];
			this.opened![(k * (l.ny + 1) + j) * this.words + (i >> 5)]! |= 1 << (i & 31);
		});
	}

	/** Words of a set. */
	static lengthOf(l: Lattice): number {
		return (l.ny + 1) * (l.nz + 1) * wordsOfRow(l) + ((nodeCount(l) - regularCount(l) + 31) >> 5);
	}

	private bitOf(node: number): number {
		if (node >= this.regular) return 32 * this.further + node - this.regular;
		const row = Math.floor(node / (this.l.nx + 1));
		return 32 * this.words * row + node - row * (this.l.nx + 1);
	}

	all(): NodeSet {
		const bits = this.none();
		for (let row = 0; row < this.rowCount; row++) this.eachWord(row, (word, from, to) => (bits[word] = 0xffffffff >>> (32 - (to - from))));
		return { bits, rows: new Uint8Array(this.rowCount).fill(1) };
	}

	/** The set of no nodes, as bits. */
	none(): Uint32Array {
		return new Uint32Array(this.length);
	}

	/** Bits of the nodes whose value is a number. */
	known(values: Float64Array): Uint32Array {
		const bits = this.none();
		for (let row = 0; row < this.rowCount; row++)
			this.eachWord(row, (word, from, to) => {
				let some = 0;
				for (let node = from; node < to; node++) if (values[node] === values[node]) some |= 1 << (node - from);
				bits[word] = some;
			});
		return bits;
	}

	/** The words of a row, each with its first node and one past its last. */
	private eachWord(row: number, found: (word: number, from: number, to: number) => void): void {
		const last = row === this.rowCount - 1;
		const end = last ? this.count : (row + 1) * (this.l.nx + 1);
		for (let word = row * this.words, from = row * (this.l.nx + 1); from < end; word++, from += 32)
			found(word, from, Math.min(end, from + 32));
	}

	/** Nodes of a set that were not asked yet, in ascending order; they count as asked from now on. */
	ask(set: NodeSet, asked: Uint32Array): Uint32Array {
		const { bits } = set;
		let count = 0;
		for (let row = 0; row < this.rowCount; row++)
			if (set.rows[row]) this.eachWord(row, (word) => (count += bitCount(bits[word]! & ~asked[word]!)));
		const out = new Uint32Array(count);
		let at = 0;
		for (let row = 0; row < this.rowCount; row++) {
			if (!set.rows[row]) continue;
			this.eachWord(row, (word, from) => {
				let missing = bits[word]! & ~asked[word]!;
				asked[word]! |= missing;
				while (missing) {
					out[at++] = from + 31 - Math.clz32(missing & -missing);
					missing &= missing - 1;
				}
			});
		}
		return out;
	}

	/**
	 * All corners of the cells of the set that have a corner at or above the level, and of those that have one below it; null for none,
	 * and for a side that is not wanted.
	 */
	sides(
		set: NodeSet,
		values: Float64Array,
		level: number,
		aboveWanted: boolean,
		belowWanted: boolean
	): { above: NodeSet | null; below: NodeSet | null } {
		const { wanted } = this;
		for (let row = 0; row < this.rowCount; row++) {
			if (!set.rows[row]) continue;
			this.eachWord(row, (word, from, to) => {
				let up = 0;
				if (set.bits[word]) for (let node = from; node < to; node++) if (values[node]! >= level) up |= 1 << (node - from);
				wanted[word] = up & set.bits[word]!;
			});
		}
		const above = aboveWanted ? this.cellsWith(set) : null;
		if (!belowWanted) return { above, below: null };
		for (let word = 0; word < wanted.length; word++) wanted[word] = set.bits[word]! & ~wanted[word]!;
		return { above, below: this.cellsWith(set) };
	}

	/** All corners of the cells of the set with a wanted corner. */
	private cellsWith(set: NodeSet): NodeSet | null {
		const { ny, nz } = this.l;
		const { wanted, words, opened } = this;
		const { bits, rows } = set;
		const out: NodeSet = { bits: new Uint32Array(this.length), rows: new Uint8Array(this.rowCount) };
		let any = false;
		const up = (ny + 1) * words;
		for (let k = 0; k < nz; k++)
			for (let j = 0; j < ny; j++) {
				const row = k * (ny + 1) + j;
				if (!rows[row] || !rows[row + 1] || !rows[row + ny + 1] || !rows[row + ny + 2]) continue;
				let found = 0;
				let before = 0;
				// Four nodes square to x have a bit each; a cube joins those of two places along x.
				let w = row * words;
				const end = w + words;
				let inside = bits[w]! & bits[w + words]! & bits[w + up]! & bits[w + up + words]!;
				let some = wanted[w]! | wanted[w + words]! | wanted[w + up]! | wanted[w + up + words]!;
				for (; w < end; w++) {
					const n = w + 1;
					const more = n < end;
					const nextInside = more ? bits[n]! & bits[n + words]! & bits[n + up]! & bits[n + up + words]! : 0;
					const nextSome = more ? wanted[n]! | wanted[n + words]! | wanted[n + up]! | wanted[n + up + words]! : 0;
					let cubes = inside & ((inside >>> 1) | (nextInside << 31)) & (some | (some >>> 1) | (nextSome << 31));
					if (opened) cubes &= ~opened[w]!;
					const nodes = cubes | (cubes << 1) | (before >>> 31);
					before = cubes;
					inside = nextInside;
					some = nextSome;
					if (nodes === 0) continue;
					found |= nodes;
					out.bits[w]! |= nodes;
					out.bits[w + words]! |= nodes;
					out.bits[w + up]! |= nodes;
					out.bits[w + up + words]! |= nodes;
				}
				if (found === 0) continue;
				out.rows[row] = out.rows[row + 1] = out.rows[row + ny + 1] = out.rows[row + ny + 2] = 1;
				any = true;
			}
		const { corners } = this;
		const has = (list: Uint32Array, bit: number) => (list[bit >>> 5]! >>> (bit & 31)) & 1;
		for (let t = 0; t < corners.length; t += 4) {
			let [all, some] = [1, 0];
			for (let c = 0; c < 4; c++) {
				all &= has(bits, corners[t + c]!);
				some |= has(wanted, corners[t + c]!);
			}
			if (!(all & some)) continue;
			any = true;
			for (let c = 0; c < 4; c++) {
				const word = corners[t + c]! >>> 5;
				out.bits[word]! |= 1 << (corners[t + c]! & 31);
				out.rows[Math.min(this.rowCount - 1, Math.floor(word / words))] = 1;
			}
		}
		return any ? out : null;
	}
}
