import { Rows } from './rows';

/** Corners in each set of corners, in order. */
export const CORNERS_OF: readonly (readonly number[])[] = Array.from({ length: 16 }, (_, bits) =>
	[0, 1, 2, 3].filter((c) => (bits >> c) & 1)
);

/** Functions that may cut one tetrahedron, and the words that tell by bits which of them a vertex lies on. */
const MOST_FUNCTIONS = 1024;
const WORDS = MOST_FUNCTIONS / 32;

/** Loops of the faces of a tetrahedron, seen from outside, by its hand. */
const FACES = [
	[
		[1, 3, 2],
		[0, 2, 3],
		[0, 3, 1],
		[0, 1, 2]
	],
	[
		[1, 2, 3],
		[0, 3, 2],
		[0, 1, 3],
		[0, 2, 1]
	]
] as const;

/**
 * The pieces of one tetrahedron while it is cut by one linear function after the other. Pieces are convex (but for rounding); neighbours share
 * faces and faces share edges, so that a cut of one piece also puts its new vertices into the faces of the others. Nothing
 * depends on which tetrahedron a shared face is looked at from, so neighbouring tetrahedra fit exactly
 * (after the cell cases of Doi & Koide 1991, generalised to many functions).
 *
 * Corners are numbered 0–3. A vertex has four barycentric weights; its support is the set of corners with weight. Millions of tetrahedra are
 * cut one after the other: all lies in room that is kept.
 */
export class CellComplex {
	vertices = 0;
	/** Barycentric weights, 4 a vertex. */
	weights = new Float64Array(4 * 64);
	/** Bit c set: corner c has weight. */
	support = new Uint8Array(64);
	/** Of the functions whose cuts a vertex lies on: the least and the greatest. */
	leastCut = new Int32Array(64);
	greatestCut = new Int32Array(64);
	/** Vertex loops of the faces, anticlockwise seen from outside the first piece that had the face. */
	readonly loops = new Rows();
	/** By face: function of the cut that made it; −1 − c for the face of the tetrahedron opposite corner c. */
	planes = new Int32Array(64);
	/** By piece: twice the number of a face, and one more when it is seen from outside. */
	readonly pieces = new Rows();

	/** By vertex: bits of the cuts that it lies on, by their place in `functions`. */
	private cuts = new Int32Array(WORDS * 64);
	/** Functions that cut, in the order in which they came, and their values at the corners. */
	private readonly functions = new Int32Array(MOST_FUNCTIONS);
	private readonly corners = new Float64Array(4 * MOST_FUNCTIONS);
	private functionCount = 0;
	/** By function: its place in `functions`; −1 when it has not cut. */
	private readonly placeOf = new Int16Array(MOST_FUNCTIONS).fill(-1);
	private words = 1;
	/** The function that cuts now: its number, word and bit. */
	private plane = 0;
	private word = 0;
	private bit = 1;
	private value = new Float64Array(64);
	/** Number of the cut for which each vertex was last given its value. */
	private valued = new Int32Array(64);
	private serial = 0;
	/** What became of the face that was split last: the part above, −1 for none; the parts below follow each other. */
	private upper = -1;
	private lower = 0;
	private lowerCount = 0;
	/** Scratch: parts of a face, of a piece, and the edges in which a cap begins. */
	private list = new Int32Array(64);
	private run = new Int32Array(64);
	private up = new Int32Array(64);
	private edgeFrom = new Int32Array(64);
	private edgeTo = new Int32Array(64);
	private edges = 0;
	private readonly one = new Float64Array(4);
	private readonly other = new Float64Array(4);

	/** Starts again with one whole tetrahedron. `rightHanded`: corners 1, 2, 3 seen from corner 0 turn clockwise. */
	reset(rightHanded: boolean): void {
		for (let i = 0; i < this.functionCount; i++) this.placeOf[this.functions[i]!] = -1;
		this.functionCount = 0;
		this.words = 1;
		this.vertices = 4;
		for (let c = 0; c < 4; c++) {
			for (let k = 0; k < 4; k++) this.weights[4 * c + k] = k === c ? 1 : 0;
			this.support[c] = 1 << c;
			this.cuts[WORDS * c] = 0;
		}
		this.loops.clear();
		this.pieces.clear();
		this.pieces.add();
		for (let c = 0; c < 4; c++) {
			const face = this.addFace(-1 - c);
			for (const v of FACES[rightHanded ? 1 : 0]![c]!) this.loops.push(face, v);
			this.pieces.push(0, 2 * face + 1);
		}
	}

	/**
	 * Cuts a piece by the function whose values at the corners are f0…f3.
	 * @returns 1 or −1 when the piece lies wholly on that side; 0 when it was cut: the piece keeps the positive part and
	 * the negative part is the last of `pieces`
	 */
	cut(piece: number, plane: number, f0: number, f1: number, f2: number, f3: number): 1 | -1 | 0 {
		// Weights are never negative, so where the corners agree, every piece does.
		if (f0 >= 0 && f1 >= 0 && f2 >= 0 && f3 >= 0) return 1;
		if (f0 < 0 && f1 < 0 && f2 < 0 && f3 < 0) return -1;
		this.takePlane(plane, f0, f1, f2, f3);
		let positive = false;
		let negative = false;
		const serial = ++this.serial;
		const { weights, valued, value, loops, pieces } = this;
		const faces = pieces.lengths[piece]!;
		for (let f = 0, at = piece * pieces.stride; f < faces; f++, at++) {
			const face = pieces.data[at]! >> 1;
			const end = face * loops.stride + loops.lengths[face]!;
			for (let i = face * loops.stride; i < end; i++) {
				const v = loops.data[i]!;
				// A vertex stands in three faces or more.
				if (valued[v] === serial || this.isOn(v)) continue;
				valued[v] = serial;
				const w = 4 * v;
				const is = weights[w]! * f0 + weights[w + 1]! * f1 + weights[w + 2]! * f2 + weights[w + 3]! * f3;
				value[v] = is;
				if (is >= 0) positive = true;
				else negative = true;
			}
		}
		if (!negative) return 1;
		if (!positive) return -1;
		for (let f = 0; f < faces; f++) this.splitEdges(pieces.data[piece * pieces.stride + f]! >> 1);
		this.splitPiece(piece);
		return 0;
	}

	/** Takes the function that cuts, with its values at the corners. */
	private takePlane(plane: number, f0: number, f1: number, f2: number, f3: number): void {
		let place = this.placeOf[plane]!;
		if (place < 0) {
			place = this.functionCount++;
			this.placeOf[plane] = place;
			this.functions[place] = plane;
			this.corners[4 * place] = f0;
			this.corners[4 * place + 1] = f1;
			this.corners[4 * place + 2] = f2;
			this.corners[4 * place + 3] = f3;
			if (place >> 5 === this.words) {
				for (let v = 0; v < this.vertices; v++) this.cuts[WORDS * v + this.words] = 0;
				this.words++;
			}
		}
		this.plane = plane;
		this.word = place >> 5;
		this.bit = 1 << (place & 31);
	}

	/** Whether a vertex lies on the cut. */
	private isOn(v: number): boolean {
		return (this.cuts[WORDS * v + this.word]! & this.bit) !== 0;
	}

	/** Puts a vertex on every edge of a face that changes sign, in all faces that have the edge. */
	private splitEdges(face: number): void {
		const { loops, value } = this;
		for (let i = 0; i < loops.lengths[face]!; i++) {
			const start = face * loops.stride;
			const a = loops.data[start + i]!;
			const b = loops.data[start + (i + 1 === loops.lengths[face]! ? 0 : i + 1)]!;
			if (this.isOn(a) || this.isOn(b) || value[a]! >= 0 === value[b]! >= 0) continue;
			this.insertVertex(a, b, this.addVertex(a, b));
			i++;
		}
	}

	private addVertex(a: number, b: number): number {
		const v = this.vertices++;
		if (v === this.support.length) this.makeRoomForVertices();
		const { cuts, weights, value } = this;
		let least = this.plane;
		let greatest = this.plane;
		for (let word = 0; word < this.words; word++) {
			let bits = cuts[WORDS * a + word]! & cuts[WORDS * b + word]!;
			cuts[WORDS * v + word] = word === this.word ? bits | this.bit : bits;
			while (bits) {
				const f = this.functions[32 * word + 31 - Math.clz32(bits & -bits)]!;
				if (f < least) least = f;
				if (f > greatest) greatest = f;
				bits &= bits - 1;
			}
		}
		this.leastCut[v] = least;
		this.greatestCut[v] = greatest;
		const support = this.support[a]! | this.support[b]!;
		this.support[v] = support;
		const on = CORNERS_OF[support]!;
		if (on.length === 2) this.onEdge(this.plane, on[0]!, on[1]!, weights, 4 * v);
		else if (on.length === 3) this.onFace(least, greatest, on, 4 * v);
		else {
			const t = value[a]! / (value[a]! - value[b]!);
			for (let c = 0; c < 4; c++) weights[4 * v + c] = weights[4 * a + c]! * (1 - t) + weights[4 * b + c]! * t;
		}
		return v;
	}

	/**
	 * Weights of the zero of a function on an edge of the tetrahedron. They come from the corners alone, in corner order, so that
	 * every tetrahedron with this edge gets the same bits, and with them the same sign of every other function there.
	 */
	private onEdge(plane: number, i: number, j: number, out: Float64Array, at: number): void {
		const f = 4 * this.placeOf[plane]!;
		const t = this.corners[f + i]! / (this.corners[f + i]! - this.corners[f + j]!);
		out[at] = out[at + 1] = out[at + 2] = out[at + 3] = 0;
		out[at + i] = 1 - t;
		out[at + j] = t;
	}

	/**
	 * Weights of the common zero of two functions on a face of the tetrahedron, for the same reason from the corners alone: where the second
	 * is zero along the zero line of the first. Where the two all but coincide that is hardly determined, but it stays on the line.
	 */
	private onFace(p: number, q: number, on: readonly number[], at: number): void {
		const { one, other, weights, corners } = this;
		const f = 4 * this.placeOf[p]!;
		const g = 4 * this.placeOf[q]!;
		const [i, j, k] = [on[0]!, on[1]!, on[2]!];
		const [ofI, ofJ, ofK] = [corners[f + i]! >= 0, corners[f + j]! >= 0, corners[f + k]! >= 0];
		// Two of the three edges change sign.
		if (ofI !== ofJ) {
			this.onEdge(p, i, j, one, 0);
			if (ofI !== ofK) this.onEdge(p, i, k, other, 0);
			else this.onEdge(p, j, k, other, 0);
		} else {
			this.onEdge(p, i, k, one, 0);
			this.onEdge(p, j, k, other, 0);
		}
		const [gi, gj, gk] = [corners[g + i]!, corners[g + j]!, corners[g + k]!];
		const g0 = one[i]! * gi + one[j]! * gj + one[k]! * gk;
		const g1 = other[i]! * gi + other[j]! * gj + other[k]! * gk;
		const t = Math.min(1, Math.max(0, g0 === g1 ? 0.5 : g0 / (g0 - g1)));
		for (let c = 0; c < 4; c++) weights[at + c] = one[c]! * (1 - t) + other[c]! * t;
	}

	/** Puts a vertex between two in all faces where they follow each other. */
	private insertVertex(a: number, b: number, v: number): void {
		const { loops } = this;
		for (let face = 0; face < loops.count; face++) {
			const { data } = loops;
			const start = face * loops.stride;
			const length = loops.lengths[face]!;
			let p = data[start + length - 1]!;
			// The edge from the last to the first comes last.
			let found = -1;
			for (let i = 0; i < length; i++) {
				const q = data[start + i]!;
				if ((p === a && q === b) || (p === b && q === a)) {
					found = i;
					if (i > 0) break;
				}
				p = q;
			}
			if (found >= 0) loops.insert(face, found === 0 ? length : found, v);
		}
	}

	private splitPiece(piece: number): void {
		const { pieces } = this;
		const count = pieces.lengths[piece]!;
		const below = pieces.add();
		let above = 0;
		this.edges = 0;
		for (let f = 0; f < count; f++) {
			const entry = pieces.data[piece * pieces.stride + f]!;
			const outward = entry & 1;
			this.splitFace(entry >> 1, below);
			for (let k = 0; k < this.lowerCount; k++) pieces.push(below, 2 * (this.lower + k) + outward);
			if (this.upper < 0) continue;
			if (above === this.up.length) this.up = longer(this.up);
			this.up[above++] = 2 * this.upper + outward;
			this.edgesOnCut(this.upper, outward === 1);
		}
		for (let e = 0; e < this.edges; e++)
			while (this.leadsOn(this.edgeFrom[e]!) >= 0) {
				const cap = this.addCap(this.edgeFrom[e]!);
				if (above === this.up.length) this.up = longer(this.up);
				this.up[above++] = 2 * cap + 1;
				pieces.push(below, 2 * cap);
			}
		pieces.replace(piece, this.up, above);
	}

	/** A face of the cut that begins in a vertex, along edges that are not taken yet. */
	private addCap(first: number): number {
		const cap = this.addFace(this.plane);
		let v = first;
		do {
			this.loops.push(cap, v);
			const e = this.leadsOn(v);
			if (e < 0) throw new Error('the cut of a piece is not closed');
			v = this.edgeTo[e]!;
			this.edgeTo[e] = -1;
		} while (v !== first);
		return cap;
	}

	/** The last edge of the cap that goes from a vertex and is not taken, −1 for none. */
	private leadsOn(v: number): number {
		for (let e = this.edges - 1; e >= 0; e--) if (this.edgeFrom[e] === v && this.edgeTo[e]! >= 0) return e;
		return -1;
	}

	/**
	 * Adds the edges of a face that lie on the cut to those in which the cap begins, running the other way round; more than one where a
	 * neighbour has put vertices between.
	 */
	private edgesOnCut(face: number, outward: boolean): void {
		const { loops } = this;
		const start = face * loops.stride;
		const length = loops.lengths[face]!;
		for (let i = 0; i < length; i++) {
			const a = loops.data[start + i]!;
			if (!this.isOn(a)) continue;
			const b = loops.data[start + (i + 1 === length ? 0 : i + 1)]!;
			if (this.isOn(b)) this.addEdge(outward ? b : a, outward ? a : b);
		}
	}

	/** An edge of the cap. One that two positive faces share lies in the cut, and is no edge of the cap. */
	private addEdge(from: number, to: number): void {
		for (let e = 0; e < this.edges; e++)
			if (this.edgeFrom[e] === to && this.edgeTo[e] === from) {
				this.edgeTo[e] = -1;
				return;
			}
		if (this.edges === this.edgeFrom.length) {
			this.edgeFrom = longer(this.edgeFrom);
			this.edgeTo = longer(this.edgeTo);
		}
		this.edgeFrom[this.edges] = from;
		this.edgeTo[this.edges++] = to;
	}

	/**
	 * Splits a face along the cut, in every piece that has it. Where functions all but coincide, rounding makes the signs along its loop
	 * change more than twice: then each run of negative vertices is a face of its own, and what is left stays one. The loop alone says how,
	 * so that both sides of the face agree. Leaves `upper` and `lower`.
	 * @param fresh a piece that has no faces of its own yet
	 */
	private splitFace(face: number, fresh: number): void {
		const { loops, value } = this;
		const length = loops.lengths[face]!;
		let first = -1;
		let negative = false;
		for (let i = 0, at = face * loops.stride; i < length; i++, at++) {
			const v = loops.data[at]!;
			if (this.isOn(v)) continue;
			if (!(value[v]! >= 0)) negative = true;
			else if (first < 0) first = i;
		}
		this.upper = negative && first < 0 ? -1 : face;
		this.lower = face;
		this.lowerCount = negative && first < 0 ? 1 : 0;
		if (!negative || first < 0) return;
		this.lower = loops.count;
		while (this.list.length < 2 * length) this.list = longer(this.list);
		while (this.run.length < length) this.run = longer(this.run);
		const { list, run } = this;
		let upper = 0;
		/** What came since the last positive vertex. */
		let since = 0;
		let isNegative = false;
		for (let i = 0; i <= length; i++) {
			const v = loops.data[face * loops.stride + ((first + i) % length)]!;
			if (this.isOn(v) || !(value[v]! >= 0)) {
				run[since++] = v;
				if (!this.isOn(v)) isNegative = true;
				continue;
			}
			if (isNegative) {
				const below = this.addFace(this.planes[face]!);
				loops.replace(below, run, since);
				list[upper++] = run[0]!;
				list[upper++] = run[since - 1]!;
			} else for (let k = 0; k < since; k++) list[upper++] = run[k]!;
			since = 0;
			isNegative = false;
			if (i < length) list[upper++] = v;
		}
		loops.replace(face, list, upper);
		this.lowerCount = loops.count - this.lower;
		this.shareParts(face, fresh);
	}

	/** Gives the parts of a face that was split to all pieces that have it. */
	private shareParts(face: number, fresh: number): void {
		const { pieces } = this;
		for (let p = 0; p < pieces.count; p++) {
			if (p === fresh) continue;
			const start = p * pieces.stride;
			const length = pieces.lengths[p]!;
			for (let i = 0; i < length; i++) {
				const entry = pieces.data[start + i]!;
				if (entry >> 1 !== face) continue;
				for (let k = 0; k < this.lowerCount; k++) pieces.push(p, 2 * (this.lower + k) + (entry & 1));
				break;
			}
		}
	}

	private addFace(plane: number): number {
		const face = this.loops.add();
		if (face === this.planes.length) this.planes = longer(this.planes);
		this.planes[face] = plane;
		return face;
	}

	private makeRoomForVertices(): void {
		const more = <T extends Float64Array | Int32Array | Uint8Array>(a: T): T => {
			const out = new (a.constructor as new (length: number) => T)(2 * a.length);
			out.set(a);
			return out;
		};
		this.weights = more(this.weights);
		this.support = more(this.support);
		this.cuts = more(this.cuts);
		this.leastCut = more(this.leastCut);
		this.greatestCut = more(this.greatestCut);
		this.value = more(this.value);
		this.valued = more(this.valued);
	}
}

function longer(a: Int32Array): Int32Array<ArrayBuffer> {
	const out = new Int32Array(2 * a.length);
	out.set(a);
	return out;
}
