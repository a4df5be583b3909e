/**
 * The pieces of one tetrahedron while it is cut by one linear function after the other. Pieces are convex (but for rounding); neighbours share
 * faces and faces share edges, so that a cut of one piece also puts its new vertices into the faces of the others. Nothing
 * depends on which tetrahedron a shared face is looked at from, so neighbouring tetrahedra fit exactly
 * (after the cell cases of Doi & Koide 1991, generalised to many functions).
 *
 * Corners are numbered 0–3. A vertex has four barycentric weights; its support is the set of corners with weight.
 */
export interface Piece {
	/** Faces by index; a face is seen from outside when `outward`. */
	faces: number[];
	outward: boolean[];
	/** What the caller keeps about a piece. */
	state: number;
}

type Weights = [number, number, number, number];

/** Corners in each set of corners, in order. */
export const CORNERS_OF: readonly (readonly number[])[] = Array.from({ length: 16 }, (_, bits) =>
	[0, 1, 2, 3].filter((c) => (bits >> c) & 1)
);

export class CellComplex {
	/** Barycentric weights, 4 a vertex. */
	readonly weights: number[] = [];
	/** Bit c set: corner c has weight. */
	readonly support: number[] = [];
	/** The functions whose cuts each vertex lies on. */
	readonly cuts: number[][] = [];
	/** Vertex loops, anticlockwise seen from outside the first piece that had the face. */
	readonly loops: number[][] = [];
	/** Function of the cut that made the face; −1 − c for the face of the tetrahedron opposite corner c. */
	readonly planes: number[] = [];
	readonly pieces: Piece[] = [];
	private value: number[] = [];
	/** Number of the cut for which each vertex was last given its value. */
	private valued: number[] = [];
	private serial = 0;
	/** Corner values of each function that was cut by. */
	private readonly corners = new Map<number, readonly [number, number, number, number]>();

	/** Starts again with one whole tetrahedron. `rightHanded`: corners 1, 2, 3 seen from corner 0 turn clockwise. */
	reset(rightHanded: boolean): void {
		this.weights.length = this.support.length = this.cuts.length = 0;
		this.loops.length = this.planes.length = this.pieces.length = 0;
		this.corners.clear();
		for (let c = 0; c < 4; c++) {
			for (let k = 0; k < 4; k++) this.weights.push(k === c ? 1 : 0);
			this.support.push(1 << c);
			this.cuts.push([]);
		}
		const loops = rightHanded
			? [
					[1, 2, 3],
					[0, 3, 2],
					[0, 1, 3],
					[0, 2, 1]
				]
			: [
					[1, 3, 2],
					[0, 2, 3],
					[0, 3, 1],
					[0, 1, 2]
				];
		loops.forEach((loop, c) => {
			this.loops.push(loop);
			this.planes.push(-1 - c);
		});
		this.pieces.push({ faces: [0, 1, 2, 3], outward: [true, true, true, true], state: 0 });
	}

	/**
	 * Cuts a piece by the function whose values at the corners are f0…f3.
	 * @returns 1 or −1 when the piece lies wholly on that side; 0 when it was cut: the piece keeps the positive part and
	 * the negative part is the last of `pieces`
	 */
	cut(pieceIndex: number, plane: number, f0: number, f1: number, f2: number, f3: number): 1 | -1 | 0 {
		// Weights are never negative, so where the corners agree, every piece does.
		if (f0 >= 0 && f1 >= 0 && f2 >= 0 && f3 >= 0) return 1;
		if (f0 < 0 && f1 < 0 && f2 < 0 && f3 < 0) return -1;
		const piece = this.pieces[pieceIndex]!;
		let positive = false;
		let negative = false;
		this.serial++;
		for (const face of piece.faces)
			for (const v of this.loops[face]!) {
				// A vertex stands in three faces or more.
				if (this.valued[v] === this.serial || this.isOn(v, plane)) continue;
				this.valued[v] = this.serial;
				const w = 4 * v;
				const value = this.weights[w]! * f0 + this.weights[w + 1]! * f1 + this.weights[w + 2]! * f2 + this.weights[w + 3]! * f3;
				this.value[v] = value;
				if (value >= 0) positive = true;
				else negative = true;
			}
		if (!negative) return 1;
		if (!positive) return -1;
		if (!this.corners.has(plane)) this.corners.set(plane, [f0, f1, f2, f3]);
		for (const face of [...piece.faces]) this.splitEdges(face, plane);
		this.splitPiece(piece, plane);
		return 0;
	}

	/** Puts a vertex on every edge of a face that changes sign, in all faces that have the edge. */
	private splitEdges(face: number, plane: number): void {
		const loop = this.loops[face]!;
		for (let i = 0; i < loop.length; i++) {
			const a = loop[i]!;
			const b = loop[(i + 1) % loop.length]!;
			if (this.isOn(a, plane) || this.isOn(b, plane) || this.value[a]! >= 0 === this.value[b]! >= 0) continue;
			this.insertVertex(a, b, this.addVertex(a, b, plane));
			i++;
		}
	}

	private addVertex(a: number, b: number, plane: number): number {
		const v = this.support.length;
		const support = this.support[a]! | this.support[b]!;
		const cuts = this.cuts[a]!.filter((c) => this.cuts[b]!.includes(c));
		cuts.push(plane);
		this.support.push(support);
		this.cuts.push(cuts);
		const on = CORNERS_OF[support]!;
		if (on.length === 2) this.weights.push(...this.onEdge(plane, on));
		else if (on.length === 3) this.weights.push(...this.onFace(Math.min(...cuts), Math.max(...cuts), on));
		else {
			const t = this.value[a]! / (this.value[a]! - this.value[b]!);
			for (let c = 0; c < 4; c++) this.weights.push(this.weights[4 * a + c]! * (1 - t) + this.weights[4 * b + c]! * t);
		}
		return v;
	}

	/**
	 * Weights of the zero of a function on an edge of the tetrahedron. They come from the corners alone, in corner order, so that
	 * every tetrahedron with this edge gets the same bits, and with them the same sign of every other function there.
	 */
	private onEdge(plane: number, [i, j]: readonly number[]): Weights {
		const f = this.corners.get(plane)!;
		const t = f[i!]! / (f[i!]! - f[j!]!);
		const w: Weights = [0, 0, 0, 0];
		w[i!] = 1 - t;
		w[j!] = t;
		return w;
	}

	/**
	 * Weights of the common zero of two functions on a face of the tetrahedron, for the same reason from the corners alone: where the second
	 * is zero along the zero line of the first. Where the two all but coincide that is hardly determined, but it stays on the line.
	 */
	private onFace(p: number, q: number, corners: readonly number[]): Weights {
		const f = this.corners.get(p)!;
		const g = this.corners.get(q)!;
		const [i, j, k] = corners as [number, number, number];
		const edges = (
			[
				[i, j],
				[i, k],
				[j, k]
			] as const
		).filter(([a, b]) => f[a]! >= 0 !== f[b]! >= 0);
		const [from, to] = edges.map((e) => this.onEdge(p, e)) as [Weights, Weights];
		const at = (w: Weights) => w[i]! * g[i]! + w[j]! * g[j]! + w[k]! * g[k]!;
		const [g0, g1] = [at(from), at(to)];
		const t = Math.min(1, Math.max(0, g0 === g1 ? 0.5 : g0 / (g0 - g1)));
		return from.map((w, c) => w * (1 - t) + to[c]! * t) as Weights;
	}

	private insertVertex(a: number, b: number, v: number): void {
		for (const loop of this.loops)
			for (let i = 0; i < loop.length; i++) {
				const p = loop[i]!;
				const q = loop[(i + 1) % loop.length]!;
				if ((p === a && q === b) || (p === b && q === a)) {
					loop.splice(i + 1, 0, v);
					break;
				}
			}
	}

	private isOn(v: number, plane: number): boolean {
		return this.cuts[v]!.includes(plane);
	}

	private splitPiece(piece: Piece, plane: number): void {
		/** Edges in which the cap begins, running the other way round than in the positive faces: where each vertex leads. */
		const next = new Map<number, number[]>();
		const put = (a: number, b: number): void => {
			// An edge that two positive faces share lies in the cut, and is no edge of the cap.
			const back = next.get(b)?.indexOf(a) ?? -1;
			if (back >= 0) next.get(b)!.splice(back, 1);
			else if (next.has(a)) next.get(a)!.push(b);
			else next.set(a, [b]);
		};
		const up: Piece = { faces: [], outward: [], state: piece.state };
		const down: Piece = { faces: [], outward: [], state: piece.state };
		const faces = [...piece.faces];
		const seen = [...piece.outward];
		faces.forEach((face, f) => {
			const outward = seen[f]!;
			const [upper, lower] = this.splitFace(face, plane);
			for (const l of lower) {
				down.faces.push(l);
				down.outward.push(outward);
			}
			if (upper < 0) return;
			up.faces.push(upper);
			up.outward.push(outward);
			this.edgesOnCut(upper, plane, (a, b) => (outward ? put(b, a) : put(a, b)));
		});
		for (const [first, out] of next)
			while (out.length) {
				const cap: number[] = [];
				let v = first;
				do {
					cap.push(v);
					const to = next.get(v)?.pop();
					if (to === undefined) throw new Error('the cut of a piece is not closed');
					v = to;
				} while (v !== first);
				const capFace = this.loops.length;
				this.loops.push(cap);
				this.planes.push(plane);
				up.faces.push(capFace);
				up.outward.push(true);
				down.faces.push(capFace);
				down.outward.push(false);
			}
		piece.faces = up.faces;
		piece.outward = up.outward;
		this.pieces.push(down);
	}

	/** The edges of a face that lie on the cut, in loop order; more than one where a neighbour has put vertices between. */
	private edgesOnCut(face: number, plane: number, found: (a: number, b: number) => void): void {
		const loop = this.loops[face]!;
		for (let i = 0; i < loop.length; i++) {
			const a = loop[i]!;
			const b = loop[(i + 1) % loop.length]!;
			if (this.isOn(a, plane) && this.isOn(b, plane)) found(a, b);
		}
	}

	/**
	 * Splits a face along the cut, in every piece that has it. Where functions all but coincide, rounding makes the signs along its loop
	 * change more than twice: then each run of negative vertices is a face of its own, and what is left stays one. The loop alone says how,
	 * so that both sides of the face agree.
	 * @returns the face on the positive side, −1 for none, and those on the negative side
	 */
	private splitFace(face: number, plane: number): [number, number[]] {
		const loop = this.loops[face]!;
		const sides = loop.map((v) => (this.isOn(v, plane) ? 0 : this.value[v]! >= 0 ? 1 : -1));
		if (!sides.includes(-1)) return [face, []];
		const start = sides.indexOf(1);
		if (start < 0) return [-1, [face]];
		const upper: number[] = [];
		const lowers: number[][] = [];
		/** What came since the last positive vertex. */
		let run: number[] = [];
		let isNegative = false;
		const close = (): void => {
			if (isNegative) {
				lowers.push(run);
				upper.push(run[0]!, run.at(-1)!);
			} else upper.push(...run);
			run = [];
			isNegative = false;
		};
		for (let i = 0; i <= loop.length; i++) {
			const at = (start + i) % loop.length;
			if (sides[at] === 1) {
				close();
				if (i < loop.length) upper.push(loop[at]!);
				continue;
			}
			run.push(loop[at]!);
			if (sides[at] === -1) isNegative = true;
		}
		this.loops[face] = upper;
		const others = lowers.map((lower) => {
			this.loops.push(lower);
			this.planes.push(this.planes[face]!);
			return this.loops.length - 1;
		});
		for (const p of this.pieces) {
			const at = p.faces.indexOf(face);
			if (at < 0) continue;
			for (const other of others) {
				p.faces.push(other);
				p.outward.push(p.outward[at]!);
			}
		}
		return [face, others];
	}
}
