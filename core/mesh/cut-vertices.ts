import type { SmallTetrahedra } from './chunk';
import { KeyTable, VertexTable } from './key-table';
import type { MeshBuilder } from './mesh-builder';

/** The tetrahedron in work. */
interface Tetrahedron {
	/** Its nodes within the part, ascending. */
	nodes: Int32Array;
	/** Lattice coordinates of its corners, 3 each. */
	corner: Float64Array;
}

/**
 * Knows the vertices that tetrahedra share: by the corners of the node, edge or face that a vertex lies on and by the functions
 * (at most two, the lesser one first) that cut there. Vertices that other parts may have, too, get keys that tell which they are in the whole.
 */
export interface CutVertices {
	/** The vertex, or −1. */
	find(on: readonly number[], f1: number, f2: number): number;
	/** Puts a vertex where the last one was looked for in vain. */
	add(vertex: number, on: readonly number[], f1: number, f2: number): void;
}

/** Two numbers that tell which vertex it is in the whole. */
export const wholeKey = (a: number, b: number, c: number, f1: number, f2: number): [number, number] => [
	a * 67108864 + b,
	((c + 1) * 1024 + f1) * 1024 + f2
];

/**
 * Vertices of the tetrahedra of cubes. Edges and corners are looked up by their lower node and their direction, for two layers of
 * nodes at a time; vertices inside faces, and a second one on an edge, in a table.
 */
export class CubeVertices implements CutVertices {
	private readonly vertexAt: Int32Array;
	private readonly functionAt: Uint16Array;
	/** Room of the part before: a thread cuts one at a time. */
	private static room: { vertexAt: Int32Array; functionAt: Uint16Array } | null = null;
	private readonly others = new KeyTable();
	private free = -1;
	private key = -1;
	/** Corner bits of the tetrahedron in its cube. */
	bits: readonly number[] = [];

	/**
	 * @param layerNodes nodes of a layer
	 * @param base number in the whole of the first node of the part
	 * @param shared layers of nodes of the part that other parts have, too
	 * @param sharesAll all of its nodes may be theirs, too
	 */
	constructor(
		private readonly t: Tetrahedron,
		private readonly mesh: MeshBuilder,
		private readonly layerNodes: number,
		private readonly base: number,
		private readonly shared: readonly number[],
		private readonly sharesAll: boolean
	) {
		let room = CubeVertices.room;
		if (room?.vertexAt.length !== 16 * layerNodes)
			room = CubeVertices.room = { vertexAt: new Int32Array(16 * layerNodes), functionAt: new Uint16Array(16 * layerNodes) };
		({ vertexAt: this.vertexAt, functionAt: this.functionAt } = room);
		this.vertexAt.fill(-1);
	}

	/** Goes on to a layer of cubes: the nodes below it are done with. */
	startLayer(layer: number): void {
		const from = ((layer + 1) & 1) * 8 * this.layerNodes;
		this.vertexAt.fill(-1, from, from + 8 * this.layerNodes);
	}

	/**
	 * The vertex on an edge, or −1.
	 * @param node its lower node
	 * @param layer the layer of that node within the part
	 * @param direction corner bits that the edge adds; 0 for the node itself
	 */
	findOnEdge(node: number, layer: number, direction: number, f: number): number {
		const at = ((layer & 1) * this.layerNodes + node - layer * this.layerNodes) * 8 + direction;
		const vertex = this.vertexAt[at]!;
		this.free = at;
		if (vertex < 0 || this.functionAt[at] === f) return vertex;
		// Another function cuts the edge, too.
		this.free = -1;
		this.key = ((node * 64 + direction * 8) * 1024 + f) * 1024;
		return this.others.get(this.key);
	}

	/** Puts a vertex where the last one was looked for in vain. */
	addOnEdge(vertex: number, node: number, other: number, layer: number, direction: number, f: number): void {
		this.put(vertex, f);
		if (this.sharesAll || (direction < 4 && this.shared.includes(layer)))
			this.mesh.key(vertex, ...wholeKey(node + this.base, other + this.base, -1, f, 0));
	}

	private put(vertex: number, f: number): void {
		if (this.free < 0) this.others.add(this.key, vertex);
		else {
			this.vertexAt[this.free] = vertex;
			this.functionAt[this.free] = f;
		}
	}

	find(on: readonly number[], f1: number, f2: number): number {
		const { bits } = this;
		const { nodes } = this.t;
		const node = nodes[on[0]!]!;
		const first = bits[on[0]!]!;
		if (on.length < 3) return this.findOnEdge(node, Math.floor(node / this.layerNodes), on.length === 1 ? 0 : bits[on[1]!]! ^ first, f1);
		this.free = -1;
		this.key = ((node * 64 + (((bits[on[1]!]! ^ first) << 3) | (bits[on[2]!]! ^ first))) * 1024 + f1) * 1024 + f2;
		return this.others.get(this.key);
	}

	add(vertex: number, on: readonly number[], f1: number, f2: number): void {
		this.put(vertex, f1);
		const { nodes } = this.t;
		const number = (c: number) => nodes[on[c]!]! + this.base;
		const layerOf = (c: number) => Math.floor(nodes[on[c]!]! / this.layerNodes);
		const layer = layerOf(0);
		const flat = layerOf(on.length - 1) === layer;
		if (this.sharesAll || (flat && this.shared.includes(layer)))
			this.mesh.key(vertex, ...wholeKey(number(0), number(on.length > 1 ? 1 : 0), on.length > 2 ? number(2) : -1, f1, f2));
	}
}

/** Vertices of smaller tetrahedra. Any of them may be shared with other parts. */
export class SmallVertices implements CutVertices {
	private readonly known = new VertexTable();
	private first = 0;
	private second = 0;

	constructor(
		private readonly t: Tetrahedron,
		private readonly mesh: MeshBuilder,
		private readonly part: SmallTetrahedra
	) {}

	find(on: readonly number[], f1: number, f2: number): number {
		const number = (c: number) => this.part.nodes[this.t.nodes[on[c]!]!]!;
		[this.first, this.second] = wholeKey(number(0), number(on.length > 1 ? 1 : 0), on.length > 2 ? number(2) : -1, f1, f2);
		return this.known.get(this.first, this.second);
	}

	add(vertex: number): void {
		this.known.add(this.first, this.second, vertex);
		this.mesh.key(vertex, this.first, this.second);
	}
}
