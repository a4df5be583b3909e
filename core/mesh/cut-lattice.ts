import { CellComplex, CORNERS_OF } from './cell-complex';
import { KeyTable } from './key-table';
import { MeshBuilder } from './mesh-builder';
import type { Lattice } from './lattice';
import { nodeCount } from './lattice';
import { triangulateLoop } from './triangulate';

/** Label of what lies above the terrain, and outside the box. Units have labels from 0. */
export const AIR = -1;
export const OUTSIDE = -2;

/** Surface numbers of the terrain and of the limits of the model; a contact has the number of its unit, fault k has FAULT + k, side s of the box SIDE + s. */
export const TERRAIN = 1000;
export const LIMIT = 1001;
export const FAULT = 2000;
export const SIDE = 3000;

/** A linear-in-each-cell function: node values less a level. */
export interface LatticeFunction {
	values: Float64Array;
	level: number;
	/** Which surface its zero set is, see `TERRAIN`, `FAULT`. */
	surface: number;
}

/** A decision: a function to ask, with what follows on either side; or a leaf with a label and a number of its own. */
export type Decision =
	| { leaf: number; label: number }
	| { function: number; above: Decision; below: Decision };

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

/** The six tetrahedra of a cube (Kuhn 1960), each as corner bits (1 east, 2 north, 4 up), and whether it is right-handed. */
const TETRAHEDRA: readonly { corners: readonly [number, number, number, number]; rightHanded: boolean }[] = [
	{ corners: [0, 1, 3, 7], rightHanded: true },
	{ corners: [0, 2, 6, 7], rightHanded: true },
	{ corners: [0, 4, 5, 7], rightHanded: true },
	{ corners: [0, 1, 5, 7], rightHanded: false },
	{ corners: [0, 2, 3, 7], rightHanded: false },
	{ corners: [0, 4, 6, 7], rightHanded: false }
];

/**
 * By the sides of the box that a cube touches (bits: west, east, south, north, bottom, top) and by tetrahedron: for each corner the
 * side that the face opposite to it lies on, or −1; null when no face lies on a side.
 */
const SIDES: readonly (readonly (readonly number[] | null)[])[] = Array.from({ length: 64 }, (_, touched) =>
	TETRAHEDRA.map(({ corners }) => {
		const sides = corners.map((_, c) => {
			const others = corners.filter((_, x) => x !== c);
			for (let side = 0; side < 6; side++) {
				const axis = 1 << (side >> 1);
				if ((touched >> side) & 1 && others.every((b) => ((b & axis) !== 0) === (side % 2 === 1))) return side;
			}
			return -1;
		});
		return sides.some((s) => s >= 0) ? sides : null;
	})
);

/**
 * For each set of positive corners, the corners in an even order with the lone corner first, or one pair before the other.
 */
const SPLITS: readonly (readonly [number, number, number, number])[] = Array.from({ length: 16 }, (_, positive) => {
	const inside = [0, 1, 2, 3].filter((c) => (positive >> c) & 1);
	const outside = [0, 1, 2, 3].filter((c) => !((positive >> c) & 1));
	const order = inside.length === 3 ? [...outside, ...inside] : [...inside, ...outside];
	let swaps = 0;
	for (let i = 0; i < 4; i++) for (let j = 0; j < i; j++) if (order[j]! > order[i]!) swaps++;
	if (swaps % 2) [order[2], order[3]] = [order[3]!, order[2]!];
	return order as [number, number, number, number];
});

const MOST_FUNCTIONS = 1023;

/**
 * Cuts the tetrahedra of a lattice by the functions of a decision tree and collects the boundaries between different labels.
 * Node values within `least` of zero count as ±`least`, so that no cut goes through a node.
 *
 * @param progress called with a share from 0 to 1
 */
export function cutLattice(
	lattice: Lattice,
	root: Decision,
	functions: readonly LatticeFunction[],
	least: number,
	progress: (share: number) => void = () => {}
): SolidMesh {
	const leaves = new Set<number>();
	const look = (d: Decision): void => {
		if ('leaf' in d) {
			if (leaves.has(d.leaf)) throw new RangeError(`two leaves have the number ${d.leaf}`);
			leaves.add(d.leaf);
		} else {
			look(d.above);
			look(d.below);
		}
	};
	look(root);
	if (functions.length > MOST_FUNCTIONS) throw new RangeError(`${functions.length} functions; the most is ${MOST_FUNCTIONS}`);
	return new Cutter(lattice, root, functions, least).run(progress);
}

class Cutter {
	private readonly sx: number;
	private readonly sxy: number;
	private readonly offsets: Int32Array;
	private readonly mesh = new MeshBuilder();
	private readonly nodeVertex: Int32Array;
	private readonly vertexOfKey = new KeyTable();
	private readonly nodes = new Int32Array(4);
	private readonly value = new Float64Array(4);
	private readonly complex = new CellComplex();
	private readonly volumes = new Map<number, number>();
	private readonly leafOfNode: Uint16Array;
	private readonly valuesOf: Float64Array[];
	private readonly levelOf: Float64Array;
	private readonly labelOfLeaf: number[] = [];

	constructor(
		private readonly l: Lattice,
		private readonly root: Decision,
		private readonly functions: readonly LatticeFunction[],
		private readonly least: number
	) {
		this.valuesOf = functions.map((f) => f.values);
		this.levelOf = Float64Array.from(functions, (f) => f.level);
		this.sx = l.nx + 1;
		this.sxy = this.sx * (l.ny + 1);
		this.offsets = Int32Array.from({ length: 8 }, (_, b) => (b & 1) + ((b >> 1) & 1) * this.sx + (b >> 2) * this.sxy);
		this.nodeVertex = new Int32Array(nodeCount(l)).fill(-1);
		this.leafOfNode = new Uint16Array(nodeCount(l));
	}

	run(progress: (share: number) => void): SolidMesh {
		const { l, offsets } = this;
		for (let node = 0; node < this.leafOfNode.length; node++) this.leafOfNode[node] = this.walk(node);
		const cubeVolume = l.dx * l.dy * l.dz;
		for (let k = 0; k < l.nz; k++) {
			for (let j = 0; j < l.ny; j++)
				for (let i = 0; i < l.nx; i++) {
					const node = k * this.sxy + j * this.sx + i;
					const leaf = this.leafOfNode[node]!;
					let same = true;
					for (let b = 1; b < 8 && same; b++) same = this.leafOfNode[node + offsets[b]!] === leaf;
					const onSides = (i === 0 ? 1 : 0) | (i === l.nx - 1 ? 2 : 0) | (j === 0 ? 4 : 0) | (j === l.ny - 1 ? 8 : 0) | (k === 0 ? 16 : 0) | (k === l.nz - 1 ? 32 : 0);
					if (same && onSides === 0) this.addVolume(this.labelOfLeaf[leaf]!, cubeVolume);
					else
						TETRAHEDRA.forEach((t, n) => {
							const sides = SIDES[onSides]![n]!;
							if (!this.cutOnce(node, t.corners, t.rightHanded, sides)) this.cutFully(node, t.corners, t.rightHanded, sides);
						});
				}
			progress((k + 1) / l.nz);
		}
		return { ...this.mesh.finish(), volumes: this.volumes };
	}

	private valueAt(f: number, node: number): number {
		const v = this.valuesOf[f]![node]! - this.levelOf[f]!;
		if (v >= 0) return v > this.least ? v : this.least;
		return v < -this.least ? v : -this.least;
	}

	/** The leaf a node is in. */
	private walk(node: number): number {
		let at = this.root;
		while (!('leaf' in at)) at = this.valueAt(at.function, node) >= 0 ? at.above : at.below;
		this.labelOfLeaf[at.leaf] = at.label;
		return at.leaf;
	}

	private addVolume(label: number, volume: number): void {
		this.volumes.set(label, (this.volumes.get(label) ?? 0) + volume);
	}

	/**
	 * The common case, done without the general machinery: no cut, or one function that changes sign and a single leaf on either
	 * side of it. @returns false when the tetrahedron needs more than that
	 */
	private cutOnce(node: number, corners: readonly number[], rightHanded: boolean, sides: readonly number[] | null): boolean {
		const { nodes, value, offsets } = this;
		for (let c = 0; c < 4; c++) nodes[c] = node + offsets[corners[c]!]!;
		let at = this.root;
		let positive = 0;
		while (!('leaf' in at)) {
			positive = 0;
			for (let c = 0; c < 4; c++) if ((value[c] = this.valueAt(at.function, nodes[c]!)) >= 0) positive |= 1 << c;
			if (positive !== 0 && positive !== 15) break;
			at = positive ? at.above : at.below;
		}
		const whole = (this.l.dx * this.l.dy * this.l.dz) / 6;
		if ('leaf' in at) {
			this.addVolume(at.label, whole);
			if (sides && at.label >= 0) this.emitSides(rightHanded, sides, at.label);
			return true;
		}
		if (sides) return false;
		const above = this.singleLeaf(at.above);
		const below = this.singleLeaf(at.below);
		if (!above || !below) return false;
		const [a, b, c, d] = SPLITS[positive]!;
		const [va, vb, vc, vd] = [value[a]!, value[b]!, value[c]!, value[d]!];
		const triangle = positive === 1 << a || positive === (15 ^ (1 << a));
		const edge = (from: number, to: number) => this.vertexOnEdge(corners, from, to, at.function);
		const { surface } = this.functions[at.function]!;
		const shown = above.label !== below.label || surface >= FAULT;
		// Corners a, b, c, d stand in an even order; the cut is seen anticlockwise from the side of a (or of a and b) when right-handed.
		let share: number;
		if (triangle) {
			share = (va / (va - vb)) * (va / (va - vc)) * (va / (va - vd));
			if (shown) this.seen(rightHanded === va > 0, edge(a, b), edge(a, c), edge(a, d), above.label, below.label, surface);
		} else {
			// A wedge over edge ab: three tetrahedra.
			const [ac, ad, bc, bd] = [va / (va - vc), va / (va - vd), vb / (vb - vc), vb / (vb - vd)];
			share = ac * ad + (1 - ad) * ac * bd + bd * bc * (1 - ac);
			if (shown) {
				const [p, q, r, s] = [edge(a, c), edge(a, d), edge(b, d), edge(b, c)];
				this.seen(rightHanded === va > 0, p, q, r, above.label, below.label, surface);
				this.seen(rightHanded === va > 0, p, r, s, above.label, below.label, surface);
			}
		}
		this.addVolume(va > 0 ? above.label : below.label, whole * share);
		this.addVolume(va > 0 ? below.label : above.label, whole * (1 - share));
		return true;
	}

	private seen(turned: boolean, a: number, b: number, c: number, front: number, back: number, surface: number): void {
		if (turned) this.mesh.triangle(a, c, b, front, back, surface);
		else this.mesh.triangle(a, b, c, front, back, surface);
	}

	/** The leaf that all corners of the current tetrahedron agree on below a decision, or null. */
	private singleLeaf(start: Decision): { label: number } | null {
		let at = start;
		while (!('leaf' in at)) {
			const side = this.valueAt(at.function, this.nodes[0]!) >= 0;
			for (let c = 1; c < 4; c++) if (this.valueAt(at.function, this.nodes[c]!) >= 0 !== side) return null;
			at = side ? at.above : at.below;
		}
		return at;
	}

	private vertexOnEdge(corners: readonly number[], from: number, to: number, f: number): number {
		const low = Math.min(from, to);
		const high = Math.max(from, to);
		const direction = corners[high]! ^ corners[low]!;
		const node = this.nodes[low]!;
		const key = (node * 64 + (direction << 3)) * 1048576 + f * 1024;
		let vertex = this.vertexOfKey.get(key);
		if (vertex < 0) {
			const { l } = this;
			const t = this.value[low]! / (this.value[low]! - this.value[high]!);
			const i = node % this.sx;
			const j = ((node - i) / this.sx) % (l.ny + 1);
			const k = Math.floor(node / this.sxy);
			vertex = this.mesh.vertex(
				l.x0 + (i + (direction & 1 ? t : 0)) * l.dx,
				l.y0 + (j + (direction & 2 ? t : 0)) * l.dy,
				l.z0 + (k + (direction & 4 ? t : 0)) * l.dz
			);
			this.vertexOfKey.add(key, vertex);
		}
		return vertex;
	}

	/** The faces of an uncut tetrahedron that lie on the sides of the box. */
	private emitSides(rightHanded: boolean, sides: readonly number[], label: number): void {
		for (let c = 0; c < 4; c++) {
			if (sides[c]! < 0) continue;
			const face = [0, 1, 2, 3].filter((x) => x !== c).map((x) => this.vertexOfNode(this.nodes[x]!));
			if ((c % 2 === 0) !== rightHanded) face.reverse();
			this.mesh.triangle(face[0]!, face[1]!, face[2]!, OUTSIDE, label, SIDE + sides[c]!);
		}
	}

	private cutFully(node: number, corners: readonly number[], rightHanded: boolean, sides: readonly number[] | null): void {
		const nodes = corners.map((b) => node + this.offsets[b]!);
		this.collect(nodes, corners, this.cutPieces(nodes, rightHanded), sides);
	}

	/** Runs the decision tree over the tetrahedron. @returns the label of each piece */
	private cutPieces(nodes: readonly number[], rightHanded: boolean): number[] {
		const { complex } = this;
		complex.reset(rightHanded);
		const labels: number[] = [];
		const waiting: [number, Decision][] = [[0, this.root]];
		while (waiting.length) {
			const [piece, start] = waiting.pop()!;
			let at = start;
			while (!('leaf' in at)) {
				const f = at.function;
				const side = complex.cut(
					piece,
					f,
					this.valueAt(f, nodes[0]!),
					this.valueAt(f, nodes[1]!),
					this.valueAt(f, nodes[2]!),
					this.valueAt(f, nodes[3]!)
				);
				if (side === 0) waiting.push([complex.pieces.length - 1, at.below]);
				at = side < 0 ? at.below : at.above;
			}
			labels[piece] = at.label;
		}
		return labels;
	}

	/** Puts volumes and boundary triangles of the cut tetrahedron away. */
	private collect(nodes: readonly number[], corners: readonly number[], labels: readonly number[], sides: readonly number[] | null): void {
		const { complex, l } = this;
		const local: number[] = [];
		for (let v = 0; v < complex.support.length; v++) {
			let x = 0;
			let y = 0;
			let z = 0;
			for (let c = 0; c < 4; c++) {
				const w = complex.weights[4 * v + c]!;
				if (corners[c]! & 1) x += w;
				if (corners[c]! & 2) y += w;
				if (corners[c]! & 4) z += w;
			}
			local.push(x * l.dx, y * l.dy, z * l.dz);
		}
		const behind = new Int16Array(complex.loops.length).fill(OUTSIDE);
		const before = new Int16Array(complex.loops.length).fill(OUTSIDE);
		complex.pieces.forEach((piece, p) => {
			let volume = 0;
			piece.faces.forEach((face, f) => {
				const out = piece.outward[f]!;
				(out ? behind : before)[face] = labels[p]!;
				volume += (out ? 1 : -1) * fanVolume(local, complex.loops[face]!);
			});
			this.addVolume(labels[p]!, volume);
		});
		complex.loops.forEach((loop, face) => {
			const plane = complex.planes[face]!;
			const [inside, outside] = [behind[face]!, before[face]!];
			if (plane < 0) {
				const side = sides?.[-1 - plane] ?? -1;
				if (side >= 0 && inside! >= 0) this.emit(local, loop, nodes, corners, OUTSIDE, inside, SIDE + side);
				return;
			}
			const { surface } = this.functions[plane]!;
			const isFault = surface >= FAULT;
			if (inside === outside && !isFault) return;
			// The piece above the cut has the face outward: turned round, the normal points up to it.
			this.emit(local, [...loop].reverse(), nodes, corners, inside, outside, surface);
		});
	}

	private emit(local: readonly number[], loop: readonly number[], nodes: readonly number[], corners: readonly number[], front: number, back: number, surface: number): void {
		const t = triangulateLoop(local, loop);
		for (let i = 0; i < t.length; i += 3) {
			const [a, b, c] = [0, 1, 2].map((x) => this.vertexOf(t[i + x]!, nodes, corners));
			this.mesh.triangle(a!, b!, c!, front, back, surface);
		}
	}

	private vertexOfNode(node: number): number {
		let v = this.nodeVertex[node]!;
		if (v < 0) {
			const i = node % this.sx;
			const j = ((node - i) / this.sx) % (this.l.ny + 1);
			const k = Math.floor(node / this.sxy);
			v = this.nodeVertex[node] = this.mesh.vertex(this.l.x0 + i * this.l.dx, this.l.y0 + j * this.l.dy, this.l.z0 + k * this.l.dz);
		}
		return v;
	}

	/** Number of a vertex in the mesh: shared by all tetrahedra that have its node, edge or face. */
	private vertexOf(v: number, nodes: readonly number[], corners: readonly number[]): number {
		const { complex } = this;
		const on = CORNERS_OF[complex.support[v]!]!;
		if (on.length === 1) return this.vertexOfNode(nodes[on[0]!]!);
		if (on.length === 4) {
			// Inside the tetrahedron: known to this tetrahedron only.
			const key = -1 - v;
			return this.inside(key, v, nodes);
		}
		const bits = on.map((c) => corners[c]!);
		const code = ((bits[1]! ^ bits[0]!) << 3) | (on.length === 3 ? bits[2]! ^ bits[1]! : 0);
		const cuts = complex.cuts[v]!;
		const f1 = Math.min(...cuts);
		const f2 = on.length === 3 ? Math.max(...cuts) : 0;
		const key = ((nodes[on[0]!]! * 64 + code) * 1024 + f1) * 1024 + f2;
		let vertex = this.vertexOfKey.get(key);
		if (vertex < 0) this.vertexOfKey.add(key, (vertex = this.place(v, nodes)));
		return vertex;
	}

	private insideNodes: readonly number[] | null = null;
	private insideVertices = new Map<number, number>();

	private inside(key: number, v: number, nodes: readonly number[]): number {
		if (this.insideNodes !== nodes) {
			this.insideNodes = nodes;
			this.insideVertices.clear();
		}
		let vertex = this.insideVertices.get(key);
		if (vertex === undefined) this.insideVertices.set(key, (vertex = this.place(v, nodes)));
		return vertex;
	}

	private place(v: number, nodes: readonly number[]): number {
		const { l, complex } = this;
		let x = 0;
		let y = 0;
		let z = 0;
		for (let c = 0; c < 4; c++) {
			const w = complex.weights[4 * v + c]!;
			if (w === 0) continue;
			const node = nodes[c]!;
			const i = node % this.sx;
			x += w * i;
			y += w * (((node - i) / this.sx) % (l.ny + 1));
			z += w * Math.floor(node / this.sxy);
		}
		return this.mesh.vertex(l.x0 + x * l.dx, l.y0 + y * l.dy, l.z0 + z * l.dz);
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
