import { CellComplex, CORNERS_OF } from './cell-complex';
import { KeyTable, VertexTable } from './key-table';
import { AIR, AIR_LEAF, FAULT, OUTSIDE, OUTSIDE_LEAF, SIDE, type Decision } from './labels';
import type { Lattice } from './lattice';
import { MeshBuilder } from './mesh-builder';
import { SIDES, SPLITS, TETRAHEDRA } from './tetrahedra';
import { triangulateLoop } from './triangulate';

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

/** The picture of a part. Where a vertex may be shared with other parts, two numbers tell which one it is; NaN elsewhere. */
export interface Chunk {
	positions: Float64Array;
	triangles: Uint32Array;
	/** Leaves on the two sides. */
	front: Uint16Array;
	back: Uint16Array;
	surface: Int16Array;
	keys: Float64Array;
	/** Volume of each label. */
	volumes: Map<number, number>;
}

/** Cuts the tetrahedra of a part. */
export const cutChunk = (task: ChunkTask): Chunk => new Cutter(task).run();

const isCubes = (part: ChunkTask['part']): part is LayersOfCubes => 'from' in part;

class Cutter {
	private readonly sx: number;
	private readonly sxy: number;
	/** From the lowest node of a cube to its corners. */
	private readonly offsets: Int32Array;
	/** Number in the whole of the first node of a part made of cubes. */
	private readonly base: number;
	private readonly mesh = new MeshBuilder();
	private readonly vertexOfKey = new KeyTable();
	private readonly vertexOfNodes = new VertexTable();
	private readonly complex = new CellComplex();
	private readonly volumes = new Map<number, number>();
	private readonly valuesOf: (Float64Array | null)[];
	private readonly levelOf: Float64Array;
	private readonly labelOfLeaf = new Int16Array(65536);
	private readonly least: number;
	/** The decision by number: the function to ask, and what follows above and below; a leaf is the complement of its number. */
	private readonly asks: number[] = [];
	private readonly above: number[] = [];
	private readonly below: number[] = [];
	private readonly root: number;

	/** The tetrahedron in work: its nodes within the part, their values of the function asked last, lattice coordinates, volume. */
	private readonly nodes = new Int32Array(4);
	private readonly value = new Float64Array(4);
	private readonly corner = new Float64Array(12);
	private volume = 0;
	private rightHanded = true;
	private sides: readonly number[] | null = null;
	/** Corner bits in its cube; null for a smaller one. */
	private bits: readonly number[] | null = null;

	constructor(private readonly task: ChunkTask) {
		const { chunk: l, part } = task;
		this.least = task.least;
		this.valuesOf = task.functions.map((f) => f.values);
		this.levelOf = Float64Array.from(task.functions, (f) => f.level);
		this.sx = l.nx + 1;
		this.sxy = this.sx * (l.ny + 1);
		this.offsets = Int32Array.from({ length: 8 }, (_, b) => (b & 1) + ((b >> 1) & 1) * this.sx + (b >> 2) * this.sxy);
		this.base = isCubes(part) ? part.from * this.sxy : 0;
		this.root = this.number(task.root);
		this.labelOfLeaf[OUTSIDE_LEAF] = OUTSIDE;
		this.labelOfLeaf[AIR_LEAF] = AIR;
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

	run(): Chunk {
		const { part } = this.task;
		if (isCubes(part)) this.cutCubes(part);
		else this.cutTetrahedra(part);
		return { ...this.mesh.finish(), volumes: this.volumes };
	}

	private cutCubes(part: LayersOfCubes): void {
		const { chunk: l } = this.task;
		const leafOfNode = this.leavesOf((part.to - part.from + 1) * this.sxy);
		const cubeVolume = l.dx * l.dy * l.dz;
		const o = this.offsets;
		const [o1, o2, o3, o4, o5, o6, o7] = [o[1]!, o[2]!, o[3]!, o[4]!, o[5]!, o[6]!, o[7]!];
		let cube = 0;
		for (let k = part.from; k < part.to; k++)
			for (let j = 0; j < l.ny; j++) {
				let node = (k - part.from) * this.sxy + j * this.sx;
				const onRow = (j === 0 ? 4 : 0) | (j === l.ny - 1 ? 8 : 0) | (k === 0 ? 16 : 0) | (k === l.nz - 1 ? 32 : 0);
				// Whole cubes of one leaf in a row are put away together.
				let run = 0;
				let runLeaf = 0;
				for (let i = 0; i < l.nx; i++, node++, cube++) {
					if (part.opened?.[cube]) continue;
					const leaf = leafOfNode[node]!;
					const onSides = onRow | (i === 0 ? 1 : 0) | (i === l.nx - 1 ? 2 : 0);
					if (
						onSides === 0 && leafOfNode[node + o1] === leaf && leafOfNode[node + o2] === leaf && leafOfNode[node + o3] === leaf &&
						leafOfNode[node + o4] === leaf && leafOfNode[node + o5] === leaf && leafOfNode[node + o6] === leaf && leafOfNode[node + o7] === leaf
					) {
						if (run > 0 && leaf !== runLeaf) {
							this.addVolume(this.labelOfLeaf[runLeaf]!, run * cubeVolume);
							run = 0;
						}
						runLeaf = leaf;
						run++;
						continue;
					}
					this.cutCube(node, i, j, k, onSides, cubeVolume / 6);
				}
				if (run > 0) this.addVolume(this.labelOfLeaf[runLeaf]!, run * cubeVolume);
			}
	}

	private cutCube(node: number, i: number, j: number, k: number, onSides: number, volume: number): void {
		const { nodes, corner, offsets } = this;
		this.volume = volume;
		for (let n = 0; n < 6; n++) {
			const { corners, rightHanded } = TETRAHEDRA[n]!;
			for (let c = 0; c < 4; c++) {
				const b = corners[c]!;
				nodes[c] = node + offsets[b]!;
				corner[3 * c] = i + (b & 1);
				corner[3 * c + 1] = j + ((b >> 1) & 1);
				corner[3 * c + 2] = k + (b >> 2);
			}
			this.rightHanded = rightHanded;
			this.bits = corners;
			this.sides = SIDES[onSides]![n]!;
			if (!this.cutOnce()) this.cutFully();
		}
	}

	private cutTetrahedra(part: SmallTetrahedra): void {
		const { chunk: l } = this.task;
		const { nodes, corner } = this;
		const most = [l.nx, l.ny, l.nz];
		this.bits = null;
		for (let t = 0; t < part.tetrahedra.length; t += 4) {
			for (let c = 0; c < 4; c++) {
				const node = (nodes[c] = part.tetrahedra[t + c]!);
				for (let x = 0; x < 3; x++) corner[3 * c + x] = part.places[3 * node + x]!;
			}
			const e = (c: number, x: number) => corner[3 * c + x]! - corner[x]!;
			const six = e(1, 0) * (e(2, 1) * e(3, 2) - e(2, 2) * e(3, 1)) + e(1, 1) * (e(2, 2) * e(3, 0) - e(2, 0) * e(3, 2)) + e(1, 2) * (e(2, 0) * e(3, 1) - e(2, 1) * e(3, 0));
			this.rightHanded = six > 0;
			this.volume = (Math.abs(six) * l.dx * l.dy * l.dz) / 6;
			let sides: number[] | null = null;
			for (let c = 0; c < 4; c++)
				for (let x = 0; x < 3; x++)
					for (const high of [0, 1]) {
						const wall = high ? most[x]! : 0;
						if (![0, 1, 2, 3].every((o) => o === c || corner[3 * o + x] === wall)) continue;
						sides ??= [-1, -1, -1, -1];
						sides[c] = 2 * x + high;
					}
			this.sides = sides;
			if (!this.cutOnce()) this.cutFully();
		}
	}

	private valueAt(f: number, node: number): number {
		const values = this.valuesOf[f];
		const v = values ? values[node]! - this.levelOf[f]! : NaN;
		if (v >= 0) return v > this.least ? v : this.least;
		return v < -this.least ? v : -this.least;
	}

	/** Values of a function at the corners. @returns bit c set where that of corner c is positive */
	private ask(f: number): number {
		const { value, nodes } = this;
		let positive = 0;
		for (let c = 0; c < 4; c++) if ((value[c] = this.valueAt(f, nodes[c]!)) >= 0) positive |= 1 << c;
		return positive;
	}

	/** The leaves that nodes are in. */
	private leavesOf(count: number): Uint16Array {
		const { asks, above, below, valuesOf, levelOf, root } = this;
		const out = new Uint16Array(count);
		for (let node = 0; node < count; node++) {
			let at = root;
			while (at >= 0) {
				const f = asks[at]!;
				const values = valuesOf[f];
				// What was not asked counts as below.
				at = values && values[node]! - levelOf[f]! >= 0 ? above[at]! : below[at]!;
			}
			out[node] = ~at;
		}
		return out;
	}

	private addVolume(label: number, volume: number): void {
		this.volumes.set(label, (this.volumes.get(label) ?? 0) + volume);
	}

	/**
	 * The common case, done without the general machinery: no cut, or one function that changes sign and a single leaf on either
	 * side of it. @returns false when the tetrahedron needs more than that
	 */
	private cutOnce(): boolean {
		const { value, sides, rightHanded, volume } = this;
		let at = this.root;
		let positive = 0;
		while (at >= 0) {
			positive = this.ask(this.asks[at]!);
			if (positive !== 0 && positive !== 15) break;
			at = positive ? this.above[at]! : this.below[at]!;
		}
		if (at < 0) {
			const label = this.labelOfLeaf[~at]!;
			this.addVolume(label, volume);
			if (sides && label >= 0) this.emitSides(~at);
			return true;
		}
		if (sides) return false;
		const above = this.singleLeaf(this.above[at]!);
		const below = this.singleLeaf(this.below[at]!);
		if (above < 0 || below < 0) return false;
		const f = this.asks[at]!;
		const [labelAbove, labelBelow] = [this.labelOfLeaf[above]!, this.labelOfLeaf[below]!];
		const [a, b, c, d] = SPLITS[positive]! as [number, number, number, number];
		const va = value[a]!;
		const vb = value[b]!;
		const vc = value[c]!;
		const vd = value[d]!;
		const { surface } = this.task.functions[f]!;
		const shown = labelAbove !== labelBelow || surface >= FAULT;
		// Corners a, b, c, d stand in an even order; the cut is seen anticlockwise from the side of a (or of a and b) when right-handed.
		const turned = rightHanded === va > 0;
		let share: number;
		if (positive === 1 << a || positive === (15 ^ (1 << a))) {
			share = (va / (va - vb)) * (va / (va - vc)) * (va / (va - vd));
			if (shown) this.seen(turned, this.vertexOnEdge(a, b, f), this.vertexOnEdge(a, c, f), this.vertexOnEdge(a, d, f), above, below, surface);
		} else {
			// A wedge over edge ab: three tetrahedra.
			const ac = va / (va - vc);
			const ad = va / (va - vd);
			const bc = vb / (vb - vc);
			const bd = vb / (vb - vd);
			share = ac * ad + (1 - ad) * ac * bd + bd * bc * (1 - ac);
			if (shown) {
				const p = this.vertexOnEdge(a, c, f);
				const q = this.vertexOnEdge(a, d, f);
				const r = this.vertexOnEdge(b, d, f);
				const s = this.vertexOnEdge(b, c, f);
				this.seen(turned, p, q, r, above, below, surface);
				this.seen(turned, p, r, s, above, below, surface);
			}
		}
		this.addVolume(va > 0 ? labelAbove : labelBelow, volume * share);
		this.addVolume(va > 0 ? labelBelow : labelAbove, volume * (1 - share));
		return true;
	}

	private seen(turned: boolean, a: number, b: number, c: number, front: number, back: number, surface: number): void {
		if (turned) this.mesh.triangle(a, c, b, front, back, surface);
		else this.mesh.triangle(a, b, c, front, back, surface);
	}

	/** The leaf that all corners of the current tetrahedron agree on below a decision, or −1. */
	private singleLeaf(start: number): number {
		const { nodes } = this;
		let at = start;
		while (at >= 0) {
			const f = this.asks[at]!;
			const side = this.valueAt(f, nodes[0]!) >= 0;
			for (let c = 1; c < 4; c++) if (this.valueAt(f, nodes[c]!) >= 0 !== side) return -1;
			at = side ? this.above[at]! : this.below[at]!;
		}
		return ~at;
	}

	private vertexOnEdge(from: number, to: number, f: number): number {
		const low = from < to ? from : to;
		const high = from < to ? to : from;
		const key = this.bits ? (this.nodes[low]! * 64 + ((this.bits[high]! ^ this.bits[low]!) << 3)) * 1048576 + f * 1024 : -1;
		if (key >= 0) {
			const vertex = this.vertexOfKey.get(key);
			if (vertex >= 0) return vertex;
		}
		const [first, second] = this.bits ? [NaN, NaN] : this.keyOfNodes([low, high], f, 0);
		if (key < 0) {
			const vertex = this.vertexOfNodes.get(first, second);
			if (vertex >= 0) return vertex;
		}
		const { corner, value } = this;
		const t = value[low]! / (value[low]! - value[high]!);
		const vertex = this.add(
			corner[3 * low]! + t * (corner[3 * high]! - corner[3 * low]!),
			corner[3 * low + 1]! + t * (corner[3 * high + 1]! - corner[3 * low + 1]!),
			corner[3 * low + 2]! + t * (corner[3 * high + 2]! - corner[3 * low + 2]!)
		);
		if (key < 0) this.vertexOfNodes.add(first, second, vertex);
		else this.vertexOfKey.add(key, vertex);
		this.share(vertex, [low, high], f, 0);
		return vertex;
	}

	/** A vertex at lattice coordinates. */
	private add(x: number, y: number, z: number): number {
		const { chunk: l } = this.task;
		return this.mesh.vertex(l.x0 + x * l.dx, l.y0 + y * l.dy, l.z0 + z * l.dz);
	}

	/** Two numbers that tell which vertex it is in the whole: the nodes of the edge or face that it lies on, and the functions that cut there. */
	private keyOfNodes(on: readonly number[], f1: number, f2: number): [number, number] {
		const number = (c: number) => this.nodeNumber(this.nodes[c]!);
		const third = on.length > 2 ? number(on[2]!) + 1 : 0;
		return [number(on[0]!) * 67108864 + (on.length > 1 ? number(on[1]!) : number(on[0]!)), (third * 1024 + f1) * 1024 + f2];
	}

	private nodeNumber(node: number): number {
		const { part } = this.task;
		return isCubes(part) ? node + this.base : part.nodes[node]!;
	}

	/** Writes down what vertex it is when other parts may have it, too. */
	private share(vertex: number, on: readonly number[], f1: number, f2: number): void {
		const { part, sharesAll } = this.task;
		if (isCubes(part) && !sharesAll) {
			// Shared with the layers below and above only.
			const z = this.corner[3 * on[0]! + 2]!;
			if ((z !== part.from && z !== part.to) || !on.every((c) => this.corner[3 * c + 2] === z)) return;
		}
		const [first, second] = this.keyOfNodes(on, f1, f2);
		this.mesh.key(vertex, first, second);
	}

	/** The faces of an uncut tetrahedron that lie on the sides of the box. */
	private emitSides(leaf: number): void {
		for (let c = 0; c < 4; c++) {
			if (this.sides![c]! < 0) continue;
			const face = [0, 1, 2, 3].filter((x) => x !== c).map((x) => this.vertexOfCorner(x));
			if ((c % 2 === 0) !== this.rightHanded) face.reverse();
			this.mesh.triangle(face[0]!, face[1]!, face[2]!, OUTSIDE_LEAF, leaf, SIDE + this.sides![c]!);
		}
	}

	private cutFully(): void {
		this.collect(this.cutPieces());
	}

	/** Runs the decision tree over the tetrahedron. @returns the leaf of each piece */
	private cutPieces(): number[] {
		const { complex, nodes } = this;
		complex.reset(this.rightHanded);
		const leaves: number[] = [];
		const waiting: [number, number][] = [[0, this.root]];
		while (waiting.length) {
			const [piece, start] = waiting.pop()!;
			let at = start;
			while (at >= 0) {
				const f = this.asks[at]!;
				const side = complex.cut(piece, f, this.valueAt(f, nodes[0]!), this.valueAt(f, nodes[1]!), this.valueAt(f, nodes[2]!), this.valueAt(f, nodes[3]!));
				if (side === 0) waiting.push([complex.pieces.length - 1, this.below[at]!]);
				at = side < 0 ? this.below[at]! : this.above[at]!;
			}
			leaves[piece] = ~at;
		}
		return leaves;
	}

	/** Puts volumes and boundary triangles of the cut tetrahedron away. */
	private collect(leaves: readonly number[]): void {
		const { complex, corner, sides, labelOfLeaf } = this;
		const { chunk: l, functions } = this.task;
		const local: number[] = [];
		for (let v = 0; v < complex.support.length; v++) {
			let x = 0;
			let y = 0;
			let z = 0;
			for (let c = 1; c < 4; c++) {
				const w = complex.weights[4 * v + c]!;
				x += w * (corner[3 * c]! - corner[0]!);
				y += w * (corner[3 * c + 1]! - corner[1]!);
				z += w * (corner[3 * c + 2]! - corner[2]!);
			}
			local.push(x * l.dx, y * l.dy, z * l.dz);
		}
		const behind = new Uint16Array(complex.loops.length).fill(OUTSIDE_LEAF);
		const before = new Uint16Array(complex.loops.length).fill(OUTSIDE_LEAF);
		complex.pieces.forEach((piece, p) => {
			let volume = 0;
			piece.faces.forEach((face, f) => {
				const out = piece.outward[f]!;
				(out ? behind : before)[face] = leaves[p]!;
				volume += (out ? 1 : -1) * fanVolume(local, complex.loops[face]!);
			});
			this.addVolume(labelOfLeaf[leaves[p]!]!, volume);
		});
		this.insideVertices.clear();
		complex.loops.forEach((loop, face) => {
			const plane = complex.planes[face]!;
			const [inside, outside] = [behind[face]!, before[face]!];
			if (plane < 0) {
				const side = sides?.[-1 - plane] ?? -1;
				if (side >= 0 && labelOfLeaf[inside]! >= 0) this.emit(local, loop, OUTSIDE_LEAF, inside, SIDE + side);
				return;
			}
			const { surface } = functions[plane]!;
			if (labelOfLeaf[inside] === labelOfLeaf[outside] && surface < FAULT) return;
			// The piece above the cut has the face outward: turned round, the normal points up to it.
			this.emit(local, [...loop].reverse(), inside, outside, surface);
		});
	}

	private emit(local: readonly number[], loop: readonly number[], front: number, back: number, surface: number): void {
		const t = triangulateLoop(local, loop);
		for (let i = 0; i < t.length; i += 3) this.mesh.triangle(this.vertexOf(t[i]!), this.vertexOf(t[i + 1]!), this.vertexOf(t[i + 2]!), front, back, surface);
	}

	private vertexOfCorner(c: number): number {
		return this.known([c], 0, 0, () => this.add(this.corner[3 * c]!, this.corner[3 * c + 1]!, this.corner[3 * c + 2]!));
	}

	/** Number of a vertex of the complex in the mesh: shared by all tetrahedra that have its node, edge or face. */
	private vertexOf(v: number): number {
		const { complex } = this;
		const on = CORNERS_OF[complex.support[v]!]!;
		if (on.length === 1) return this.vertexOfCorner(on[0]!);
		if (on.length === 4) {
			// Inside the tetrahedron: known to this tetrahedron only.
			let vertex = this.insideVertices.get(v);
			if (vertex === undefined) this.insideVertices.set(v, (vertex = this.place(v)));
			return vertex;
		}
		const cuts = complex.cuts[v]!;
		return this.known(on, Math.min(...cuts), on.length === 3 ? Math.max(...cuts) : 0, () => this.place(v));
	}

	/** Vertices inside the tetrahedron in work, by their number in the complex. */
	private readonly insideVertices = new Map<number, number>();

	/** The vertex on corners of the tetrahedron where functions cut; made when it is new. */
	private known(on: readonly number[], f1: number, f2: number, make: () => number): number {
		const { bits, nodes } = this;
		let vertex: number;
		if (bits) {
			const code = on.length === 1 ? 0 : ((bits[on[1]!]! ^ bits[on[0]!]!) << 3) | (on.length === 3 ? bits[on[2]!]! ^ bits[on[1]!]! : 0);
			const key = ((nodes[on[0]!]! * 64 + code) * 1024 + f1) * 1024 + f2;
			vertex = this.vertexOfKey.get(key);
			if (vertex >= 0) return vertex;
			this.vertexOfKey.add(key, (vertex = make()));
		} else {
			const [first, second] = this.keyOfNodes(on, f1, f2);
			vertex = this.vertexOfNodes.get(first, second);
			if (vertex >= 0) return vertex;
			this.vertexOfNodes.add(first, second, (vertex = make()));
		}
		this.share(vertex, on, f1, f2);
		return vertex;
	}

	private place(v: number): number {
		const { complex, corner } = this;
		let x = 0;
		let y = 0;
		let z = 0;
		for (let c = 0; c < 4; c++) {
			const w = complex.weights[4 * v + c]!;
			if (w === 0) continue;
			x += w * corner[3 * c]!;
			y += w * corner[3 * c + 1]!;
			z += w * corner[3 * c + 2]!;
		}
		return this.add(x, y, z);
	}
}

/** Volume of the cone from the origin over a planar loop, positive when the loop turns anticlockwise seen from outside. */
function fanVolume(xyz: readonly number[], loop: readonly number[]): number {
	let sum = 0;
	const a = 3 * loop[0]!;
	for (let i = 2; i < loop.length; i++) {
		const b = 3 * loop[i - 1]!;
		const c = 3 * loop[i]!;
		sum +=
			xyz[a]! * (xyz[b + 1]! * xyz[c + 2]! - xyz[b + 2]! * xyz[c + 1]!) +
			xyz[a + 1]! * (xyz[b + 2]! * xyz[c]! - xyz[b]! * xyz[c + 2]!) +
			xyz[a + 2]! * (xyz[b]! * xyz[c + 1]! - xyz[b + 1]! * xyz[c]!);
	}
	return sum / 6;
}
