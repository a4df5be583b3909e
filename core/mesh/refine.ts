import { fail } from '../problem';
import { KeyTable } from './key-table';
import { cubeCount, nodeOfCube, regularCount, type Finer, type Lattice } from './lattice';
import { TETRAHEDRA } from './tetrahedra';

/** Most halvings of a cell, and most tetrahedra beside the whole cubes. */
export const MOST_HALVINGS = 4;
const MOST_TETRAHEDRA = 8_000_000;

/**
 * Halves cells of a lattice where that is wanted, and as few others as it takes to fit: tetrahedra are bisected at their longest edge
 * (Maubach 1995), which starts from the six tetrahedra of a cube and knows only three shapes; no node is left in the middle of an edge.
 *
 * @param wanted how often each cube is to be halved, 0 to `MOST_HALVINGS`
 * @returns null when nothing is wanted
 * @throws ProblemError `too-fine`
 */
export function refineLattice(l: Lattice, wanted: Uint8Array): Finer | null {
	if (!wanted.some((w) => w > 0)) return null;
	return new Refiner(l, wanted).run();
}

class Refiner {
	private readonly sx: number;
	private readonly sxy: number;
	private readonly first: number;
	private readonly places: number[] = [];
	/** Corners in the order that tells the edge to be bisected, 4 a tetrahedron; its tag, generation and cube. */
	private readonly corners: number[] = [];
	private readonly tag: number[] = [];
	private readonly generation: number[] = [];
	private readonly cube: number[] = [];
	private readonly alive: boolean[] = [];
	private readonly middles = new KeyTable();
	/** Tetrahedra that were made in each cube. */
	private readonly ofCube = new Map<number, number[]>();
	private readonly dirty: number[] = [];
	private readonly isDirty: Uint8Array;

	constructor(
		private readonly l: Lattice,
		private readonly wanted: Uint8Array
	) {
		this.sx = l.nx + 1;
		this.sxy = this.sx * (l.ny + 1);
		this.first = regularCount(l);
		this.isDirty = new Uint8Array(cubeCount(l));
	}

	run(): Finer {
		for (let cube = 0; cube < this.wanted.length; cube++) if (this.wanted[cube]) this.open(cube);
		for (let t = 0; t < this.alive.length; t++) if (this.generation[t]! < 3 * this.wanted[this.cube[t]!]!) this.bisect(t);
		while (this.dirty.length) {
			const cube = this.dirty.pop()!;
			this.isDirty[cube] = 0;
			if (!this.ofCube.has(cube)) this.open(cube);
			const own = this.ofCube.get(cube)!;
			for (let i = 0; i < own.length; i++) if (this.alive[own[i]!] && this.hangs(own[i]!)) this.bisect(own[i]!);
		}
		const opened = new Uint8Array(this.wanted.length);
		const tetrahedra: number[] = [];
		for (const cube of [...this.ofCube.keys()].sort((a, b) => a - b)) {
			opened[cube] = 1;
			for (const t of this.ofCube.get(cube)!)
				if (this.alive[t]) tetrahedra.push(...this.corners.slice(4 * t, 4 * t + 4).sort((a, b) => a - b));
		}
		return { places: Float64Array.from(this.places), tetrahedra: Uint32Array.from(tetrahedra), opened };
	}

	private open(cube: number): void {
		this.ofCube.set(cube, []);
		const node = nodeOfCube(this.l, cube);
		for (const { corners } of TETRAHEDRA)
			this.add(
				cube,
				corners.map((b) => node + (b & 1) + ((b >> 1) & 1) * this.sx + (b >> 2) * this.sxy),
				3,
				0
			);
	}

	private add(cube: number, corners: readonly number[], tag: number, generation: number): void {
		if (this.alive.length > 2 * MOST_TETRAHEDRA)
			fail(
				'too-fine',
				`the finer parts of the model need more than ${MOST_TETRAHEDRA.toLocaleString('en')} tetrahedra`,
				'Ask for a wider spacing there, or for finer parts in fewer places.',
				'finer'
			);
		this.ofCube.get(cube)!.push(this.alive.length);
		this.corners.push(...corners);
		this.tag.push(tag);
		this.generation.push(generation);
		this.cube.push(cube);
		this.alive.push(true);
	}

	/** Lattice coordinate of a node along an axis. */
	private at(node: number, axis: number): number {
		if (node >= this.first) return this.places[3 * (node - this.first) + axis]!;
		const i = node % this.sx;
		return axis === 0 ? i : axis === 1 ? ((node - i) / this.sx) % (this.l.ny + 1) : Math.floor(node / this.sxy);
	}

	private keyOf = (a: number, b: number) => (a < b ? a * 67108864 + b : b * 67108864 + a);

	private hangs(t: number): boolean {
		for (let i = 0; i < 4; i++)
			for (let j = i + 1; j < 4; j++)
				if (this.middles.get(this.keyOf(this.corners[4 * t + i]!, this.corners[4 * t + j]!)) >= 0) return true;
		return false;
	}

	private bisect(t: number): void {
		const x = this.corners.slice(4 * t, 4 * t + 4);
		const k = this.tag[t]!;
		const middle = this.middleOf(x[0]!, x[k]!);
		this.alive[t] = false;
		const [tag, generation] = [k === 1 ? 3 : k - 1, this.generation[t]! + 1];
		this.add(this.cube[t]!, [...x.slice(0, k), middle, ...x.slice(k + 1)], tag, generation);
		this.add(this.cube[t]!, [...x.slice(1, k + 1), middle, ...x.slice(k + 1)], tag, generation);
	}

	private middleOf(a: number, b: number): number {
		const key = this.keyOf(a, b);
		const known = this.middles.get(key);
		if (known >= 0) return known;
		const node = this.first + this.places.length / 3;
		if (node >= 67108864) fail('too-fine', 'the finer parts of the model need too many nodes', 'Ask for a wider spacing there.', 'finer');
		this.middles.add(key, node);
		const range: [number, number][] = [];
		for (let axis = 0; axis < 3; axis++) {
			const [p, q] = [this.at(a, axis), this.at(b, axis)];
			this.places.push((p + q) / 2);
			const most = [this.l.nx, this.l.ny, this.l.nz][axis]! - 1;
			range.push([Math.max(0, Math.ceil(Math.max(p, q)) - 1), Math.min(most, Math.floor(Math.min(p, q)))]);
		}
		// All cubes that have the edge must fit to its new middle.
		const [[i0, i1], [j0, j1], [k0, k1]] = range as [[number, number], [number, number], [number, number]];
		for (let kk = k0; kk <= k1; kk++)
			for (let jj = j0; jj <= j1; jj++)
				for (let ii = i0; ii <= i1; ii++) {
					const cube = (kk * this.l.ny + jj) * this.l.nx + ii;
					if (this.isDirty[cube]) continue;
					this.isDirty[cube] = 1;
					this.dirty.push(cube);
				}
		return node;
	}
}
