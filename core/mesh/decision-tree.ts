import type { ChunkTask } from './chunk';
import { AIR, AIR_LEAF, OUTSIDE, OUTSIDE_LEAF, type Decision } from './labels';

/** What tells two leaves apart: the function that parts them, and what else has to hold between them. */
export interface Parting {
	above: number;
	below: number;
	/** The function whose zero lies between the two. */
	function: number;
	/** Functions that are asked after it on either side, and whether each has to be positive for its leaf. */
	further: readonly { function: number; positive: boolean }[];
}

/** The decision of a part, by number: the function to ask, and what follows above and below; a leaf is the complement of its number. */
export class DecisionTree {
	readonly asks: number[] = [];
	readonly above: number[] = [];
	readonly below: number[] = [];
	readonly root: number;
	readonly labelOfLeaf = new Int16Array(65536);
	private readonly valuesOf: (Float64Array | null)[];
	private readonly levelOf: Float64Array;
	private readonly least: number;
	private readonly partings = new Map<number, Parting>();

	constructor(task: Pick<ChunkTask, 'root' | 'functions' | 'least'>) {
		this.least = task.least;
		this.valuesOf = task.functions.map((f) => f.values);
		this.levelOf = Float64Array.from(task.functions, (f) => f.level);
		this.labelOfLeaf[OUTSIDE_LEAF] = OUTSIDE;
		this.labelOfLeaf[AIR_LEAF] = AIR;
		this.root = this.number(task.root);
	}

	private number(d: Decision): number {
		if ('leaf' in d) {
			this.labelOfLeaf[d.leaf] = d.label;
			return ~d.leaf;
		}
		const at = this.asks.length;
		this.asks.push(d.function);
		this.above.push(0);
		this.below.push(0);
		this.above[at] = this.number(d.above);
		this.below[at] = this.number(d.below);
		return at;
	}

	/** Value of a function at a node, less its level; never nearer to zero than the least value. What was not asked is not a number. */
	valueAt(f: number, node: number): number {
		const values = this.valuesOf[f];
		const v = values ? values[node]! - this.levelOf[f]! : NaN;
		if (v >= 0) return v > this.least ? v : this.least;
		return v < -this.least ? v : -this.least;
	}

	/**
	 * The leaves that the nodes of some rows are in.
	 * @returns `ofNode`, and `ofRow`: the leaf of all nodes of a row, −1 where there are several
	 */
	leavesOf(rows: number, length: number): { ofNode: Uint16Array; ofRow: Int32Array } {
		const { asks, above, below, valuesOf, levelOf, root } = this;
		const ofNode = new Uint16Array(rows * length);
		const ofRow = new Int32Array(rows);
		for (let row = 0, node = 0; row < rows; row++) {
			let all = -1;
			let same = true;
			for (let i = 0; i < length; i++, node++) {
				let at = root;
				while (at >= 0) {
					const f = asks[at]!;
					const values = valuesOf[f];
					// What was not asked counts as below.
					at = values && values[node]! - levelOf[f]! >= 0 ? above[at]! : below[at]!;
				}
				ofNode[node] = ~at;
				if (i === 0) all = ~at;
				else if (all !== ~at) same = false;
			}
			ofRow[row] = same ? all : -1;
		}
		return { ofNode, ofRow };
	}

	/** The leaf that all four nodes agree on below a decision, or −1. */
	singleLeaf(start: number, nodes: Int32Array): number {
		let at = start;
		while (at >= 0) {
			const f = this.asks[at]!;
			const side = this.valueAt(f, nodes[0]!) >= 0;
			for (let c = 1; c < 4; c++) if (this.valueAt(f, nodes[c]!) >= 0 !== side) return -1;
			at = side ? this.above[at]! : this.below[at]!;
		}
		return ~at;
	}

	/** What parts two different leaves of the tree. */
	parting(a: number, b: number): Parting {
		const key = a * 65536 + b;
		let p = this.partings.get(key);
		if (!p) this.partings.set(key, (p = this.makeParting(this.pathTo(this.root, a)!, this.pathTo(this.root, b)!, a, b)));
		return p;
	}

	private makeParting(toA: [number, boolean][], toB: [number, boolean][], a: number, b: number): Parting {
		let n = 0;
		while (toA[n]![1] === toB[n]![1]) n++;
		const further = [...toA.slice(n + 1), ...toB.slice(n + 1)].map(([at, positive]) => ({ function: this.asks[at]!, positive }));
		const aIsAbove = toA[n]![1];
		return { above: aIsAbove ? a : b, below: aIsAbove ? b : a, function: this.asks[toA[n]![0]]!, further };
	}

	/** The decisions on the way to a leaf, each with the side that is taken; null when it is not there. */
	private pathTo(at: number, leaf: number): [number, boolean][] | null {
		if (at < 0) return ~at === leaf ? [] : null;
		for (const positive of [true, false]) {
			const rest = this.pathTo(positive ? this.above[at]! : this.below[at]!, leaf);
			if (rest) return [[at, positive], ...rest];
		}
		return null;
	}
}
