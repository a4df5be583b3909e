import type { ChunkTask, LayersOfCubes } from './chunk';
import { TetrahedronCutter } from './cut-tetrahedron';
import { CubeVertices } from './cut-vertices';
import type { DecisionTree, Parting } from './decision-tree';
import { FAULT, OUTSIDE_LEAF, SIDE } from './labels';
import type { MeshBuilder } from './mesh-builder';
import { CUBE_SPLITS, shareOfA, SIDES, TETRAHEDRA } from './tetrahedra';

/**
 * Cuts layers of cubes, each cube as six tetrahedra. Cubes of one leaf, and cubes inside the box with one surface through them, are
 * done at once; all others tetrahedron by tetrahedron. The pieces are the same either way.
 */
export class CubesCutter {
	private readonly sx: number;
	private readonly sxy: number;
	/** From the lowest node of a cube to its corners. */
	private readonly offsets: Int32Array;
	private readonly slow: TetrahedronCutter;
	private readonly vertices: CubeVertices;
	/** Volume of a tetrahedron. */
	private readonly volume: number;
	/** Values of the function that cuts, at the corners of the cube in work. */
	private readonly value = new Float64Array(8);
	/** The cube in work: its lowest node within the part, its layer there, its place in the lattice. */
	private node = 0;
	private layer = 0;
	private readonly place = new Int32Array(3);

	constructor(
		private readonly task: ChunkTask,
		private readonly part: LayersOfCubes,
		private readonly tree: DecisionTree,
		private readonly mesh: MeshBuilder,
		private readonly volumes: Float64Array
	) {
		const { chunk: l } = task;
		this.sx = l.nx + 1;
		this.sxy = this.sx * (l.ny + 1);
		this.volume = (l.dx * l.dy * l.dz) / 6;
		this.offsets = Int32Array.from({ length: 8 }, (_, b) => (b & 1) + ((b >> 1) & 1) * this.sx + (b >> 2) * this.sxy);
		this.slow = new TetrahedronCutter(task, tree, mesh, volumes);
		const shared = [...(part.from > 0 ? [0] : []), ...(part.to < l.nz ? [part.to - part.from] : [])];
		this.vertices = new CubeVertices(this.slow, mesh, this.sxy, part.from * this.sxy, shared, task.sharesAll);
		this.slow.vertices = this.vertices;
		this.slow.volume = this.volume;
	}

	run(): void {
		const { part } = this;
		const { nx, ny, nz } = this.task.chunk;
		const { ofNode, ofRow } = this.tree.leavesOf((part.to - part.from + 1) * (ny + 1), nx + 1);
		for (let k = part.from; k < part.to; k++) {
			this.layer = k - part.from;
			this.vertices.startLayer(this.layer);
			for (let j = 0; j < ny; j++) {
				const row = this.layer * (ny + 1) + j;
				const onRow = (j === 0 ? 4 : 0) | (j === ny - 1 ? 8 : 0) | (k === 0 ? 16 : 0) | (k === nz - 1 ? 32 : 0);
				const all = ofRow[row]!;
				if (
					onRow === 0 &&
					nx > 1 &&
					all >= 0 &&
					!part.opened &&
					ofRow[row + 1] === all &&
					ofRow[row + ny + 1] === all &&
					ofRow[row + ny + 2] === all
				) {
					this.volumes[all]! += 6 * nx * this.volume;
					this.take(0, j, k, row * this.sx);
					this.emitSides(all, 1);
					this.take(nx - 1, j, k, row * this.sx + nx - 1);
					this.emitSides(all, 2);
				} else this.cutRow(j, k, row * this.sx, onRow, ofNode);
			}
		}
	}

	/** Takes a cube into work. */
	private take(i: number, j: number, k: number, node: number): void {
		this.node = node;
		this.place[0] = i;
		this.place[1] = j;
		this.place[2] = k;
	}

	private cutRow(j: number, k: number, start: number, onRow: number, ofNode: Uint16Array): void {
		const { volumes, sx, sxy, part } = this;
		const { nx, ny } = this.task.chunk;
		const cube = (this.layer * ny + j) * nx;
		let westSame =
			ofNode[start + sx] === ofNode[start] && ofNode[start + sxy] === ofNode[start] && ofNode[start + sxy + sx] === ofNode[start];
		for (let i = 0, node = start; i < nx; i++, node++) {
			const [leaf, east] = [ofNode[node]!, ofNode[node + 1]!];
			const eastSame = ofNode[node + sx + 1] === east && ofNode[node + sxy + 1] === east && ofNode[node + sxy + sx + 1] === east;
			const same = westSame && eastSame && east === leaf;
			westSame = eastSame;
			const onSides = onRow | (i === 0 ? 1 : 0) | (i === nx - 1 ? 2 : 0);
			if (part.opened?.[cube + i]) continue;
			if (same) volumes[leaf]! += 6 * this.volume;
			if (same && onSides === 0) continue;
			this.take(i, j, k, node);
			if (same) this.emitSides(leaf, onSides);
			else if (onSides !== 0 || !this.cutBetween(leaf, ofNode)) this.cutFully(onSides);
		}
	}

	/** Cuts a cube that has one leaf more than that of its lowest node. @returns false when there are others, too */
	private cutBetween(leaf: number, ofNode: Uint16Array): boolean {
		let other = leaf;
		for (let b = 1; b < 8; b++) {
			const next = ofNode[this.node + this.offsets[b]!]!;
			if (next === leaf || next === other) continue;
			if (other !== leaf) return false;
			other = next;
		}
		return this.cutOnce(this.tree.parting(leaf, other));
	}

	/** The faces of an uncut cube that lie on the sides of the box. */
	private emitSides(leaf: number, onSides: number): void {
		if (this.tree.labelOfLeaf[leaf]! < 0) return;
		for (let n = 0; n < 6; n++) {
			const sides = SIDES[onSides]![n];
			if (!sides) continue;
			const { corners, rightHanded } = TETRAHEDRA[n]!;
			for (let c = 0; c < 4; c++) {
				if (sides[c]! < 0) continue;
				const a = this.vertexOnCorner(corners[c === 0 ? 1 : 0]!);
				const b = this.vertexOnCorner(corners[c <= 1 ? 2 : 1]!);
				const d = this.vertexOnCorner(corners[c <= 2 ? 3 : 2]!);
				this.mesh.facing((c % 2 === 0) !== rightHanded, a, b, d, OUTSIDE_LEAF, leaf, SIDE + sides[c]!);
			}
		}
	}

	/** Cuts a cube that one function parts between two leaves. @returns false when others cut there, too */
	private cutOnce(p: Parting): boolean {
		const { tree, node, offsets, value, volumes, volume, mesh } = this;
		for (const f of p.further)
			for (let b = 0; b < 8; b++) if (tree.valueAt(f.function, node + offsets[b]!) >= 0 !== f.positive) return false;
		const f = p.function;
		let positive = 0;
		for (let b = 0; b < 8; b++) if ((value[b] = tree.valueAt(f, node + offsets[b]!)) >= 0) positive |= 1 << b;
		const { above, below } = p;
		const { surface } = this.task.functions[f]!;
		const shown = tree.labelOfLeaf[above] !== tree.labelOfLeaf[below] || surface >= FAULT;
		let share = 0;
		for (let n = 0; n < 6; n++) {
			const cut = CUBE_SPLITS[n]![positive]!;
			if (cut.kind === 'none') {
				if (cut.positive) share++;
				continue;
			}
			const [a, b, c, d] = cut.corners;
			const part = shareOfA(cut.kind, value[a]!, value[b]!, value[c]!, value[d]!);
			share += cut.positive ? part : 1 - part;
			if (!shown) continue;
			if (cut.kind === 'corner')
				mesh.facing(cut.turned, this.vertexOnEdge(a, b, f), this.vertexOnEdge(a, c, f), this.vertexOnEdge(a, d, f), above, below, surface);
			else {
				const p = this.vertexOnEdge(a, c, f);
				const q = this.vertexOnEdge(a, d, f);
				const r = this.vertexOnEdge(b, d, f);
				const s = this.vertexOnEdge(b, c, f);
				mesh.facing(cut.turned, p, q, r, above, below, surface);
				mesh.facing(cut.turned, p, r, s, above, below, surface);
			}
		}
		volumes[above]! += share * volume;
		volumes[below]! += (6 - share) * volume;
		return true;
	}

	private vertexOnCorner(b: number): number {
		return this.vertexAt(b, b, 0, 0);
	}

	/** The vertex where a function cuts the edge between two corners of the cube. */
	private vertexOnEdge(one: number, two: number, f: number): number {
		const low = one < two ? one : two;
		const high = one < two ? two : one;
		return this.vertexAt(low, high, f, this.value[low]! / (this.value[low]! - this.value[high]!));
	}

	private vertexAt(low: number, high: number, f: number, t: number): number {
		const { vertices, node, offsets, place } = this;
		const layer = this.layer + (low >> 2);
		const at = node + offsets[low]!;
		const direction = high ^ low;
		const found = vertices.findOnEdge(at, layer, direction, f);
		if (found >= 0) return found;
		const { chunk: l } = this.task;
		const x = place[0]! + (low & 1) + t * (direction & 1);
		const y = place[1]! + ((low >> 1) & 1) + t * ((direction >> 1) & 1);
		const z = place[2]! + (low >> 2) + t * (direction >> 2);
		const vertex = this.mesh.vertex(l.x0 + x * l.dx, l.y0 + y * l.dy, l.z0 + z * l.dz);
		vertices.addOnEdge(vertex, at, node + offsets[high]!, layer, direction, f);
		return vertex;
	}

	private cutFully(onSides: number): void {
		const { slow, node, offsets, place } = this;
		for (let n = 0; n < 6; n++) {
			const { corners, rightHanded } = TETRAHEDRA[n]!;
			for (let c = 0; c < 4; c++) {
				const b = corners[c]!;
				slow.nodes[c] = node + offsets[b]!;
				slow.corner[3 * c] = place[0]! + (b & 1);
				slow.corner[3 * c + 1] = place[1]! + ((b >> 1) & 1);
				slow.corner[3 * c + 2] = place[2]! + (b >> 2);
			}
			this.vertices.bits = corners;
			slow.rightHanded = rightHanded;
			slow.sides = SIDES[onSides]![n]!;
			slow.cut();
		}
	}
}
