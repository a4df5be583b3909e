import { CellComplex, CORNERS_OF } from './cell-complex';
import type { ChunkTask } from './chunk';
import type { CutVertices } from './cut-vertices';
import type { DecisionTree } from './decision-tree';
import { FAULT, OUTSIDE_LEAF, SIDE } from './labels';
import type { MeshBuilder } from './mesh-builder';
import { shareOfA, SPLITS } from './tetrahedra';
import { Rows } from './rows';
import { triangulateLoop } from './triangulate';

/** Cuts one tetrahedron after the other, whatever cuts them. Its fields are set for each. */
export class TetrahedronCutter {
	/** Nodes within the part, ascending. */
	readonly nodes = new Int32Array(4);
	/** Lattice coordinates of the corners. */
	readonly corner = new Float64Array(12);
	/** Cubic length units. */
	volume = 0;
	rightHanded = true;
	/** For each corner the side of the box that the face opposite to it lies on, or −1; null when no face lies on a side. */
	sides: readonly number[] | null = null;
	vertices!: CutVertices;
	/** Values of the function asked last at the corners. */
	private readonly value = new Float64Array(4);
	private readonly complex = new CellComplex();
	/** By piece of the complex: its leaf; pieces that wait with where the tree goes on; by face: leaves on both sides, and its triangles. */
	private readonly leaves: number[] = [];
	private readonly waiting: number[] = [];
	private readonly behind: number[] = [];
	private readonly before: number[] = [];
	private readonly triangles = new Rows();
	/** By vertex of the complex: its place seen from the first corner, length units; and its number in the mesh, −1 where it has none yet. */
	private local = new Float64Array(3 * 64);
	private readonly known: number[] = [];

	/** @param volumes gets the volume of each leaf */
	constructor(
		private readonly task: ChunkTask,
		private readonly tree: DecisionTree,
		private readonly mesh: MeshBuilder,
		private readonly volumes: Float64Array
	) {}

	cut(): void {
		if (this.cutOnce()) return;
		this.cutPieces();
		this.collect();
	}

	/**
	 * The common case, done without the general machinery: no cut, or one function that changes sign and a single leaf on either
	 * side of it. @returns false when the tetrahedron needs more than that
	 */
	private cutOnce(): boolean {
		const { tree, nodes, value, mesh, sides, rightHanded, volume, volumes } = this;
		let at = tree.root;
		let positive = 0;
		let f = 0;
		while (at >= 0) {
			f = tree.asks[at]!;
			positive = 0;
			for (let c = 0; c < 4; c++) if ((value[c] = tree.valueAt(f, nodes[c]!)) >= 0) positive |= 1 << c;
			if (positive !== 0 && positive !== 15) break;
			at = positive ? tree.above[at]! : tree.below[at]!;
		}
		if (at < 0) {
			volumes[~at]! += volume;
			for (let c = 0; c < 4; c++) if (sides && sides[c]! >= 0) this.emitSide(c, ~at);
			return true;
		}
		const above = tree.singleLeaf(tree.above[at]!, nodes);
		const below = tree.singleLeaf(tree.below[at]!, nodes);
		if (above < 0 || below < 0) return false;
		const split = SPLITS[rightHanded ? 1 : 0]![positive]!;
		if (split.kind === 'none') return false;
		const [a, b, c, d] = split.corners;
		const share = shareOfA(split.kind, value[a]!, value[b]!, value[c]!, value[d]!);
		volumes[above]! += volume * (split.positive ? share : 1 - share);
		volumes[below]! += volume * (split.positive ? 1 - share : share);
		const { surface } = this.task.functions[f]!;
		if (tree.labelOfLeaf[above] !== tree.labelOfLeaf[below] || surface >= FAULT) {
			const p = this.vertexOnEdge(a, c, f);
			const q = this.vertexOnEdge(a, d, f);
			if (split.kind === 'corner') mesh.facing(split.turned, this.vertexOnEdge(a, b, f), p, q, above, below, surface);
			else {
				const r = this.vertexOnEdge(b, d, f);
				mesh.facing(split.turned, p, q, r, above, below, surface);
				mesh.facing(split.turned, p, r, this.vertexOnEdge(b, c, f), above, below, surface);
			}
		}
		for (let c = 0; c < 4; c++) if (sides && sides[c]! >= 0) this.emitCutSide(c, f, positive, above, below);
		return true;
	}

	/** An uncut face that lies on a side of the box, as a boundary of a leaf. */
	private emitSide(c: number, leaf: number): void {
		if (this.tree.labelOfLeaf[leaf]! < 0) return;
		const [a, b, d] = OPPOSITE[c]!;
		this.mesh.facing(
			(c % 2 === 0) !== this.rightHanded,
			this.vertexOnCorner(a),
			this.vertexOnCorner(b),
			this.vertexOnCorner(d),
			OUTSIDE_LEAF,
			leaf,
			SIDE + this.sides![c]!
		);
	}

	/** A face on a side of the box that a function may cut off a corner of. */
	private emitCutSide(c: number, f: number, positive: number, above: number, below: number): void {
		const face = OPPOSITE[c]!;
		const first = face.filter((x) => (positive >> x) & 1).length;
		if (first === 0 || first === 3) return this.emitSide(c, first ? above : below);
		const lone = face.findIndex((x) => ((positive >> x) & 1) === (first === 1 ? 1 : 0));
		const [a, b, d] = [face[lone]!, face[(lone + 1) % 3]!, face[(lone + 2) % 3]!];
		const [ofA, other] = first === 1 ? [above, below] : [below, above];
		const turned = (c % 2 === 0) !== this.rightHanded;
		const surface = SIDE + this.sides![c]!;
		const p = this.vertexOnEdge(a, b, f);
		const q = this.vertexOnEdge(a, d, f);
		if (this.tree.labelOfLeaf[ofA]! >= 0) this.mesh.facing(turned, this.vertexOnCorner(a), p, q, OUTSIDE_LEAF, ofA, surface);
		if (this.tree.labelOfLeaf[other]! < 0) return;
		const r = this.vertexOnCorner(d);
		this.mesh.facing(turned, p, this.vertexOnCorner(b), r, OUTSIDE_LEAF, other, surface);
		this.mesh.facing(turned, p, r, q, OUTSIDE_LEAF, other, surface);
	}

	/** The vertex where the function that was asked last cuts an edge. */
	private vertexOnEdge(from: number, to: number, f: number): number {
		const [low, high] = from < to ? [from, to] : [to, from];
		const { corner, value, vertices } = this;
		const on = CORNERS_OF[(1 << low) | (1 << high)]!;
		const found = vertices.find(on, f, 0);
		if (found >= 0) return found;
		const t = value[low]! / (value[low]! - value[high]!);
		const between = (x: number) => corner[3 * low + x]! + t * (corner[3 * high + x]! - corner[3 * low + x]!);
		const vertex = this.add(between(0), between(1), between(2));
		vertices.add(vertex, on, f, 0);
		return vertex;
	}

	/** Runs the decision tree over the tetrahedron, and tells the leaf of each piece. */
	private cutPieces(): void {
		const { complex, nodes, tree, leaves, waiting } = this;
		complex.reset(this.rightHanded);
		waiting.length = 0;
		waiting.push(0, tree.root);
		while (waiting.length) {
			let at = waiting.pop()!;
			const piece = waiting.pop()!;
			while (at >= 0) {
				const f = tree.asks[at]!;
				const side = complex.cut(
					piece,
					f,
					tree.valueAt(f, nodes[0]!),
					tree.valueAt(f, nodes[1]!),
					tree.valueAt(f, nodes[2]!),
					tree.valueAt(f, nodes[3]!)
				);
				if (side === 0) waiting.push(complex.pieces.count - 1, tree.below[at]!);
				at = side < 0 ? tree.below[at]! : tree.above[at]!;
			}
			leaves[piece] = ~at;
		}
	}

	/** Puts volumes and boundary triangles of the cut tetrahedron away. */
	private collect(): void {
		const { complex, sides, leaves, volumes, behind, before, triangles } = this;
		const { labelOfLeaf } = this.tree;
		const { functions } = this.task;
		const { loops, pieces, planes } = complex;
		this.placeLocally();
		triangles.clear();
		for (let face = 0; face < loops.count; face++) {
			behind[face] = before[face] = OUTSIDE_LEAF;
			// Loops are flat but for rounding: volumes are those of the triangles that come of them.
			triangulateLoop(this.local, loops.data, face * loops.stride, loops.lengths[face]!, triangles);
		}
		for (let p = 0; p < pieces.count; p++) {
			let volume = 0;
			const leaf = leaves[p]!;
			for (let f = 0; f < pieces.lengths[p]!; f++) {
				const entry = pieces.data[p * pieces.stride + f]!;
				const out = (entry & 1) === 1;
				(out ? behind : before)[entry >> 1] = leaf;
				volume += (out ? 1 : -1) * volumeUnder(this.local, triangles, entry >> 1);
			}
			volumes[leaf]! += volume;
		}
		this.known.length = 0;
		for (let face = 0; face < loops.count; face++) {
			const plane = planes[face]!;
			const inside = behind[face]!;
			const outside = before[face]!;
			if (plane < 0) {
				const side = sides?.[-1 - plane] ?? -1;
				if (side >= 0 && labelOfLeaf[inside]! >= 0) this.emit(face, false, OUTSIDE_LEAF, inside, SIDE + side);
				continue;
			}
			const { surface } = functions[plane]!;
			if (labelOfLeaf[inside] === labelOfLeaf[outside] && surface < FAULT) continue;
			// The piece above the cut has the face outward: turned round, the normal points up to it.
			this.emit(face, true, inside, outside, surface);
		}
	}

	/** Places of the vertices of the complex, seen from the first corner. */
	private placeLocally(): void {
		const { complex, corner } = this;
		const { chunk: l } = this.task;
		const { weights } = complex;
		while (this.local.length < 3 * complex.vertices) this.local = new Float64Array(2 * this.local.length);
		const { local } = this;
		for (let v = 0; v < complex.vertices; v++) {
			let x = 0;
			let y = 0;
			let z = 0;
			for (let c = 1; c < 4; c++) {
				const w = weights[4 * v + c]!;
				x += w * (corner[3 * c]! - corner[0]!);
				y += w * (corner[3 * c + 1]! - corner[1]!);
				z += w * (corner[3 * c + 2]! - corner[2]!);
			}
			local[3 * v] = x * l.dx;
			local[3 * v + 1] = y * l.dy;
			local[3 * v + 2] = z * l.dz;
		}
	}

	private emit(face: number, turned: boolean, front: number, back: number, surface: number): void {
		const { triangles } = this;
		const start = face * triangles.stride;
		const end = start + triangles.lengths[face]!;
		for (let i = start; i < end; i += 3) {
			const a = this.vertexOf(triangles.data[i]!);
			const b = this.vertexOf(triangles.data[turned ? i + 2 : i + 1]!);
			const c = this.vertexOf(triangles.data[turned ? i + 1 : i + 2]!);
			// Where functions all but coincide, vertices that are one in the mesh can follow each other.
			if (a !== b && b !== c && c !== a) this.mesh.triangle(a, b, c, front, back, surface);
		}
	}

	private vertexOnCorner(c: number): number {
		const on = CORNERS_OF[1 << c]!;
		const found = this.vertices.find(on, 0, 0);
		if (found >= 0) return found;
		const vertex = this.add(this.corner[3 * c]!, this.corner[3 * c + 1]!, this.corner[3 * c + 2]!);
		this.vertices.add(vertex, on, 0, 0);
		return vertex;
	}

	/** Number of a vertex of the complex in the mesh: shared by all tetrahedra that have its node, edge or face. */
	private vertexOf(v: number): number {
		const { known } = this;
		while (known.length <= v) known.push(-1);
		if (known[v]! < 0) known[v] = this.findOrPlace(v);
		return known[v]!;
	}

	private findOrPlace(v: number): number {
		const { complex, vertices } = this;
		const on = CORNERS_OF[complex.support[v]!]!;
		if (on.length === 1) return this.vertexOnCorner(on[0]!);
		// Inside the tetrahedron: known to this tetrahedron only.
		if (on.length === 4) return this.place(v);
		const first = complex.leastCut[v]!;
		const second = on.length === 3 ? complex.greatestCut[v]! : 0;
		const found = vertices.find(on, first, second);
		if (found >= 0) return found;
		const vertex = this.place(v);
		vertices.add(vertex, on, first, second);
		return vertex;
	}

	/** A vertex at lattice coordinates. */
	private add(x: number, y: number, z: number): number {
		const { chunk: l } = this.task;
		return this.mesh.vertex(l.x0 + x * l.dx, l.y0 + y * l.dy, l.z0 + z * l.dz);
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

/** Corners but one, in order. */
const OPPOSITE = [
	[1, 2, 3],
	[0, 2, 3],
	[0, 1, 3],
	[0, 1, 2]
] as const;

/** Volume of the cone from the origin over the triangles of a face, positive when they turn anticlockwise seen from outside. */
function volumeUnder(xyz: Float64Array, { data, stride, lengths }: Rows, face: number): number {
	let sum = 0;
	const end = face * stride + lengths[face]!;
	for (let i = face * stride; i < end; i += 3) {
		const a = 3 * data[i]!;
		const b = 3 * data[i + 1]!;
		const c = 3 * data[i + 2]!;
		sum +=
			xyz[a]! * (xyz[b + 1]! * xyz[c + 2]! - xyz[b + 2]! * xyz[c + 1]!) +
			xyz[a + 1]! * (xyz[b + 2]! * xyz[c]! - xyz[b]! * xyz[c + 2]!) +
			xyz[a + 2]! * (xyz[b]! * xyz[c + 1]! - xyz[b + 1]! * xyz[c]!);
	}
	return sum / 6;
}
