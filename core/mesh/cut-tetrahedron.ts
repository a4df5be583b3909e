import { CellComplex, CORNERS_OF } from './cell-complex';
import type { ChunkTask } from './chunk';
import type { CutVertices } from './cut-vertices';
import type { DecisionTree } from './decision-tree';
import { FAULT, OUTSIDE_LEAF, SIDE } from './labels';
import type { MeshBuilder } from './mesh-builder';
import { shareOfA, SPLITS } from './tetrahedra';
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
	/** Vertices inside the tetrahedron, by their number in the complex. */
	private readonly insideVertices = new Map<number, number>();

	/** @param volumes gets the volume of each leaf */
	constructor(
		private readonly task: ChunkTask,
		private readonly tree: DecisionTree,
		private readonly mesh: MeshBuilder,
		private readonly volumes: Float64Array
	) {}

	cut(): void {
		if (!this.cutOnce()) this.collect(this.cutPieces());
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

	/** Runs the decision tree over the tetrahedron. @returns the leaf of each piece */
	private cutPieces(): number[] {
		const { complex, nodes, tree } = this;
		complex.reset(this.rightHanded);
		const leaves: number[] = [];
		const waiting: [number, number][] = [[0, tree.root]];
		while (waiting.length) {
			const [piece, start] = waiting.pop()!;
			let at = start;
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
				if (side === 0) waiting.push([complex.pieces.length - 1, tree.below[at]!]);
				at = side < 0 ? tree.below[at]! : tree.above[at]!;
			}
			leaves[piece] = ~at;
		}
		return leaves;
	}

	/** Puts volumes and boundary triangles of the cut tetrahedron away. */
	private collect(leaves: readonly number[]): void {
		const { complex, corner, sides } = this;
		const { labelOfLeaf } = this.tree;
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
		// Loops are flat but for rounding: volumes are those of the triangles that come of them.
		const triangles = complex.loops.map((loop) => triangulateLoop(local, loop));
		complex.pieces.forEach((piece, p) => {
			let volume = 0;
			piece.faces.forEach((face, f) => {
				const out = piece.outward[f]!;
				(out ? behind : before)[face] = leaves[p]!;
				volume += (out ? 1 : -1) * volumeUnder(local, triangles[face]!);
			});
			this.volumes[leaves[p]!]! += volume;
		});
		this.insideVertices.clear();
		complex.planes.forEach((plane, face) => {
			const own = triangles[face]!;
			const [inside, outside] = [behind[face]!, before[face]!];
			if (plane < 0) {
				const side = sides?.[-1 - plane] ?? -1;
				if (side >= 0 && labelOfLeaf[inside]! >= 0) this.emit(own, false, OUTSIDE_LEAF, inside, SIDE + side);
				return;
			}
			const { surface } = functions[plane]!;
			if (labelOfLeaf[inside] === labelOfLeaf[outside] && surface < FAULT) return;
			// The piece above the cut has the face outward: turned round, the normal points up to it.
			this.emit(own, true, inside, outside, surface);
		});
	}

	private emit(t: readonly number[], turned: boolean, front: number, back: number, surface: number): void {
		for (let i = 0; i < t.length; i += 3) {
			const [a, b, c] = [this.vertexOf(t[i]!), this.vertexOf(t[turned ? i + 2 : i + 1]!), this.vertexOf(t[turned ? i + 1 : i + 2]!)];
			// Where functions all but coincide, vertices that are one in the mesh can follow each other.
			if (a !== b && b !== c && c !== a) this.mesh.triangle(a, b, c, front, back, surface);
		}
	}

	private vertexOnCorner(c: number): number {
		return this.known(CORNERS_OF[1 << c]!, 0, 0, () => this.add(this.corner[3 * c]!, this.corner[3 * c + 1]!, this.corner[3 * c + 2]!));
	}

	/** Number of a vertex of the complex in the mesh: shared by all tetrahedra that have its node, edge or face. */
	private vertexOf(v: number): number {
		const { complex } = this;
		const on = CORNERS_OF[complex.support[v]!]!;
		if (on.length === 1) return this.vertexOnCorner(on[0]!);
		if (on.length === 4) {
			// Inside the tetrahedron: known to this tetrahedron only.
			let vertex = this.insideVertices.get(v);
			if (vertex === undefined) this.insideVertices.set(v, (vertex = this.place(v)));
			return vertex;
		}
		const cuts = complex.cuts[v]!;
		return this.known(on, Math.min(...cuts), on.length === 3 ? Math.max(...cuts) : 0, () => this.place(v));
	}

	/** The vertex on corners of the tetrahedron where functions cut; made when it is new. */
	private known(on: readonly number[], f1: number, f2: number, make: () => number): number {
		const found = this.vertices.find(on, f1, f2);
		if (found >= 0) return found;
		const vertex = make();
		this.vertices.add(vertex, on, f1, f2);
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

/** Volume of the cone from the origin over triangles, positive when they turn anticlockwise seen from outside. */
function volumeUnder(xyz: readonly number[], triangles: readonly number[]): number {
	let sum = 0;
	for (let i = 0; i < triangles.length; i += 3) {
		const [a, b, c] = [3 * triangles[i]!, 3 * triangles[i + 1]!, 3 * triangles[i + 2]!];
		sum +=
			xyz[a]! * (xyz[b + 1]! * xyz[c + 2]! - xyz[b + 2]! * xyz[c + 1]!) +
			xyz[a + 1]! * (xyz[b + 2]! * xyz[c]! - xyz[b]! * xyz[c + 2]!) +
			xyz[a + 2]! * (xyz[b]! * xyz[c + 1]! - xyz[b + 1]! * xyz[c]!);
	}
	return sum / 6;
}
