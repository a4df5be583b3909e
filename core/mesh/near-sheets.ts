/** Cells along an axis, at most: beyond, cells are wider. */
const MOST_ACROSS = 1024;
const SEVERAL = -2;
const NOTHING = -1;
/** Volume of a tetrahedron that is taken for flat, as a share of a cell: the last digits of coordinates decide nothing. */
const FLAT = 1e-7;

/** Finds whether a triangle would come through others that lie near it. Cells that only one sheet passes are told at once. */
export class NearSheets {
	private readonly low = Float64Array.of(Infinity, Infinity, Infinity);
	private readonly n = Int32Array.of(1, 1, 1);
	private readonly size: number;
	private readonly flat: number;
	/** By vertex: the cell that it lies in, along each axis. */
	private readonly at: Int16Array;
	/** By cell: the sheet that passes it, `SEVERAL`, or `NOTHING`. */
	private readonly only: Int32Array;
	/** By cell: 1 where several sheets pass it or come near, so that its triangles are listed; and these as chains. */
	private readonly listed: Uint8Array;
	private readonly head: Int32Array;
	private of: Int32Array;
	private next: Int32Array;
	private used = 0;
	/** What lies near, and when each triangle was met last. */
	private candidates = new Int32Array(256);
	private found = 0;
	private readonly met: Int32Array;
	private stamp = 0;
	/** Cells into which a triangle came as the second sheet. */
	private readonly fresh: number[] = [];
	/** Of what is looked at: its box, and the cells. */
	private readonly box = new Float64Array(6);
	private readonly from = new Int32Array(3);
	private readonly to = new Int32Array(3);

	constructor(
		private readonly p: Float64Array,
		private readonly tri: Uint32Array,
		private readonly own: Uint32Array,
		private readonly dead: Uint8Array,
		private readonly sheet: Int32Array,
		vertices: Uint32Array,
		spacing: number
	) {
		const { low, n } = this;
		const high = Float64Array.of(-Infinity, -Infinity, -Infinity);
		for (const v of vertices)
			for (let k = 0; k < 3; k++) {
				const x = p[3 * v + k]!;
				if (x < low[k]!) low[k] = x;
				if (x > high[k]!) high[k] = x;
			}
		const widest = Math.max(high[0]! - low[0]!, high[1]! - low[1]!, high[2]! - low[2]!, 0);
		this.size = Math.max(spacing, widest / MOST_ACROSS) || 1;
		this.flat = FLAT * this.size ** 3;
		this.at = new Int16Array(p.length);
		for (let k = 0; k < 3; k++) {
			// Nodes of a lattice would lie on the walls of cells.
			low[k]! -= 0.377 * this.size;
			n[k] = Math.max(1, Math.floor((high[k]! - low[k]!) / this.size) + 1) || 1;
			const [least, last, share] = [low[k]!, n[k]! - 1, this.size];
			for (const v of vertices) this.at[3 * v + k] = Math.min(last, Math.floor((p[3 * v + k]! - least) / share));
		}
		const cells = n[0]! * n[1]! * n[2]!;
		this.only = new Int32Array(cells).fill(NOTHING);
		this.head = new Int32Array(cells).fill(-1);
		this.met = new Int32Array(dead.length);
		this.of = new Int32Array(own.length + 16);
		this.next = new Int32Array(own.length + 16);
		for (let i = 0; i < own.length; i++) this.pass(own[i]!);
		this.listed = this.between();
		for (let i = 0; i < own.length; i++) this.list(own[i]!);
	}

	/** A triangle that is new, or reaches farther than before. */
	add(t: number): void {
		const { fresh, listed } = this;
		fresh.length = 0;
		this.pass(t, fresh);
		for (const cell of fresh) listed[cell] = 1;
		// Where a second sheet came into a cell, the triangles of the first are wanted, too.
		if (fresh.length) for (const other of this.own) if (other !== t && !this.dead[other]) this.list(other, fresh);
		this.list(t);
	}

	/** Tells the cells of a triangle its sheet. @param fresh gets those not listed in which it is the second */
	private pass(t: number, fresh?: number[]): void {
		const own = this.sheet[t]!;
		const { from, to, only, n } = this;
		this.cellsOf(t);
		for (let z = from[2]!; z <= to[2]!; z++)
			for (let y = from[1]!; y <= to[1]!; y++)
				for (let x = from[0]!; x <= to[0]!; x++) {
					const cell = (z * n[1]! + y) * n[0]! + x;
					const known = only[cell]!;
					if (known === own || known === SEVERAL) continue;
					only[cell] = known === NOTHING ? own : SEVERAL;
					if (known !== NOTHING && fresh && !this.listed[cell]) fresh.push(cell);
				}
	}

	/** Lists a triangle in those of its cells that several sheets pass or come near. @param among these alone */
	private list(t: number, among?: readonly number[]): void {
		const { from, to, listed, n } = this;
		this.cellsOf(t);
		for (let z = from[2]!; z <= to[2]!; z++)
			for (let y = from[1]!; y <= to[1]!; y++)
				for (let x = from[0]!; x <= to[0]!; x++) {
					const cell = (z * n[1]! + y) * n[0]! + x;
					if (listed[cell] && (!among || among.includes(cell))) this.hang(cell, t);
				}
	}

	/** By cell: 1 where it and the cells around it have several sheets. */
	private between(): Uint8Array {
		const { only, n } = this;
		const [nx, ny, nz] = n as unknown as [number, number, number];
		const near = new Int32Array(only.length).fill(NOTHING);
		for (let z = 0, cell = 0; z < nz; z++)
			for (let y = 0; y < ny; y++)
				for (let x = 0; x < nx; x++, cell++) {
					const sheet = only[cell]!;
					if (sheet === NOTHING) continue;
					for (let k = Math.max(0, z - 1); k <= z + 1 && k < nz; k++)
						for (let j = Math.max(0, y - 1); j <= y + 1 && j < ny; j++)
							for (let i = Math.max(0, x - 1); i <= x + 1 && i < nx; i++) {
								const at = (k * ny + j) * nx + i;
								near[at] = near[at] === NOTHING || near[at] === sheet ? sheet : SEVERAL;
							}
				}
		const out = new Uint8Array(only.length);
		for (let cell = 0; cell < out.length; cell++) if (near[cell] === SEVERAL) out[cell] = 1;
		return out;
	}

	private hang(cell: number, t: number): void {
		if (this.used === this.of.length) {
			this.of = longer(this.of);
			this.next = longer(this.next);
		}
		this.of[this.used] = t;
		this.next[this.used] = this.head[cell]!;
		this.head[cell] = this.used++;
	}

	/** Finds the cells that a triangle may touch. */
	private cellsOf(t: number): void {
		const { tri } = this;
		this.cellsBetween(tri[3 * t]!, tri[3 * t + 1]!, tri[3 * t + 2]!);
	}

	private cellsBetween(a: number, b: number, c: number): void {
		const { at, from, to } = this;
		for (let k = 0; k < 3; k++) {
			const x = at[3 * a + k]!;
			const y = at[3 * b + k]!;
			const z = at[3 * c + k]!;
			from[k] = x < y ? (x < z ? x : z) : y < z ? y : z;
			to[k] = x > y ? (x > z ? x : z) : y > z ? y : z;
		}
	}

	/** Whether the cells of a triangle hold another one with two of its corners, too. */
	covers(a: number, b: number, c: number, instead: number): boolean {
		const { from, to } = this;
		this.cellsBetween(a, b, c);
		const [x0, y0, z0, x1, y1, z1] = [from[0]!, from[1]!, from[2]!, to[0]!, to[1]!, to[2]!];
		this.cellsBetween(instead, b, c);
		return x0 <= from[0]! && y0 <= from[1]! && z0 <= from[2]! && x1 >= to[0]! && y1 >= to[1]! && z1 >= to[2]!;
	}

	/** Whether a triangle comes through another one. @param one two that it takes the place of */
	crossed(a: number, b: number, c: number, one: number, two: number): boolean {
		this.frame(a, b, c);
		this.gather(-1, one, two);
		return this.meets(a, b, c);
	}

	/** Whether the triangles round a vertex come through others when it goes into its neighbour. */
	crossedRound(u: number, v: number, count: number, first: Int32Array, second: Int32Array): boolean {
		this.frame(u, v, v);
		for (let i = 0; i < count; i++) {
			this.widen(first[i]!);
			this.widen(second[i]!);
		}
		this.cells();
		this.gather(u, -1, -1);
		if (this.found === 0) return false;
		for (let i = 0; i < count; i++) {
			const a = first[i]!;
			const b = second[i]!;
			if (a !== v && b !== v && this.meets(v, a, b)) return true;
		}
		return false;
	}

	/** Finds the triangles that lie near what is framed, but for those with a vertex, and two others. */
	private gather(vertex: number, one: number, two: number): void {
		const { p, tri, box } = this;
		this.found = 0;
		const stamp = ++this.stamp;
		for (let z = this.from[2]!; z <= this.to[2]!; z++)
			for (let y = this.from[1]!; y <= this.to[1]!; y++)
				for (let x = this.from[0]!; x <= this.to[0]!; x++) {
					const cell = (z * this.n[1]! + y) * this.n[0]! + x;
					if (this.only[cell] !== SEVERAL) continue;
					for (let e = this.head[cell]!; e >= 0; e = this.next[e]!) {
						const t = this.of[e]!;
						if (this.met[t] === stamp) continue;
						this.met[t] = stamp;
						if (this.dead[t] || t === one || t === two) continue;
						const i = tri[3 * t]!;
						const j = tri[3 * t + 1]!;
						const k = tri[3 * t + 2]!;
						if (i === vertex || j === vertex || k === vertex) continue;
						if (outside(p[3 * i]!, p[3 * j]!, p[3 * k]!, box[0]!, box[3]!)) continue;
						if (outside(p[3 * i + 1]!, p[3 * j + 1]!, p[3 * k + 1]!, box[1]!, box[4]!)) continue;
						if (outside(p[3 * i + 2]!, p[3 * j + 2]!, p[3 * k + 2]!, box[2]!, box[5]!)) continue;
						if (this.found === this.candidates.length) this.candidates = longer(this.candidates);
						this.candidates[this.found++] = t;
					}
				}
	}

	private meets(a: number, b: number, c: number): boolean {
		const { p, tri } = this;
		const z0 = Math.min(p[3 * a + 2]!, p[3 * b + 2]!, p[3 * c + 2]!);
		const z1 = Math.max(p[3 * a + 2]!, p[3 * b + 2]!, p[3 * c + 2]!);
		const x0 = Math.min(p[3 * a]!, p[3 * b]!, p[3 * c]!);
		const x1 = Math.max(p[3 * a]!, p[3 * b]!, p[3 * c]!);
		for (let n = 0; n < this.found; n++) {
			const t = this.candidates[n]!;
			const i = tri[3 * t]!;
			const j = tri[3 * t + 1]!;
			const k = tri[3 * t + 2]!;
			if (outside(p[3 * i + 2]!, p[3 * j + 2]!, p[3 * k + 2]!, z0, z1) || outside(p[3 * i]!, p[3 * j]!, p[3 * k]!, x0, x1)) continue;
			if (this.cross(a, b, c, i, j, k)) return true;
		}
		return false;
	}

	/** Finds the box of a triangle, and the cells that it may touch. */
	private frame(a: number, b: number, c: number): void {
		for (let k = 0; k < 3; k++) this.box[k] = this.box[k + 3] = this.p[3 * a + k]!;
		this.widen(b);
		this.widen(c);
		this.cells();
	}

	private widen(v: number): void {
		const { p, box } = this;
		for (let k = 0; k < 3; k++) {
			const x = p[3 * v + k]!;
			if (x < box[k]!) box[k] = x;
			else if (x > box[k + 3]!) box[k + 3] = x;
		}
	}

	private cells(): void {
		const { box, low, n, size, from, to } = this;
		for (let k = 0; k < 3; k++) {
			from[k] = Math.min(n[k]! - 1, Math.max(0, Math.floor((box[k]! - low[k]!) / size)));
			to[k] = Math.min(n[k]! - 1, Math.max(0, Math.floor((box[k + 3]! - low[k]!) / size)));
		}
	}

	/** Whether two triangles meet beyond what they share. */
	private cross(a: number, b: number, c: number, i: number, j: number, k: number): boolean {
		const [ofI, ofJ, ofK] = [i === a || i === b || i === c, j === a || j === b || j === c, k === a || k === b || k === c];
		if ((ofI && (ofJ || ofK)) || (ofJ && ofK)) return false;
		// Most lie on one side of the other's plane.
		const x = ofI ? 0 : this.side(i, a, b, c);
		const y = ofJ ? 0 : this.side(j, a, b, c);
		const z = ofK ? 0 : this.side(k, a, b, c);
		if ((x >= 0 && y >= 0 && z >= 0) || (x <= 0 && y <= 0 && z <= 0)) return false;
		return (
			this.pierces(a, b, i, j, k) ||
			this.pierces(b, c, i, j, k) ||
			this.pierces(c, a, i, j, k) ||
			this.pierces(i, j, a, b, c) ||
			this.pierces(j, k, a, b, c) ||
			this.pierces(k, i, a, b, c)
		);
	}

	/** Whether an edge goes through a triangle with which it shares no corner. */
	private pierces(u: number, v: number, i: number, j: number, k: number): boolean {
		if (u === i || u === j || u === k || v === i || v === j || v === k) return false;
		if (this.side(u, i, j, k) * this.side(v, i, j, k) >= 0) return false;
		const [x, y, z] = [this.side(u, v, i, j), this.side(u, v, j, k), this.side(u, v, k, i)];
		return (x >= 0 && y >= 0 && z >= 0) || (x <= 0 && y <= 0 && z <= 0);
	}

	/** Six times the volume of a tetrahedron: its sign tells the side; 0 where it is too flat to tell. */
	private side(o: number, a: number, b: number, c: number): number {
		const { p } = this;
		const ox = p[3 * o]!;
		const oy = p[3 * o + 1]!;
		const oz = p[3 * o + 2]!;
		const ax = p[3 * a]! - ox;
		const ay = p[3 * a + 1]! - oy;
		const az = p[3 * a + 2]! - oz;
		const bx = p[3 * b]! - ox;
		const by = p[3 * b + 1]! - oy;
		const bz = p[3 * b + 2]! - oz;
		const cx = p[3 * c]! - ox;
		const cy = p[3 * c + 1]! - oy;
		const cz = p[3 * c + 2]! - oz;
		const volume = ax * (by * cz - bz * cy) + ay * (bz * cx - bx * cz) + az * (bx * cy - by * cx);
		return Math.abs(volume) > this.flat ? volume : 0;
	}
}

function longer(a: Int32Array): Int32Array<ArrayBuffer> {
	const out = new Int32Array(2 * a.length);
	out.set(a);
	return out;
}

const outside = (a: number, b: number, c: number, low: number, high: number): boolean =>
	(a < low && b < low && c < low) || (a > high && b > high && c > high);
