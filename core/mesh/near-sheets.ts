import type { Lattice } from './lattice';
import { sixfoldVolume } from './vertex-places';

const SEVERAL = -1;
const NOTHING = 0;
/** Volume of a tetrahedron that is taken for flat, as a share of the smallest cell: the last digits of coordinates decide nothing. */
const FLAT = 1e-7;
/** What lies nearer to a wall between cubes, as a share of one, may lie on either side of it. */
const WALL = 1e-6;

/**
 * Finds whether a triangle would come through others that lie near it. Each is listed in all cubes of the lattice that it passes: when it was
 * just cut that is one. Where cubes know one sheet only, nothing is asked.
 */
export class NearSheets {
	/** The corner of the first cube, cubes in a unit of length, and how many there are, along each axis: of the layers that are looked at. */
	private readonly low: Float64Array;
	private readonly share: Float64Array;
	private readonly n: Int32Array;
	private readonly flat: number;
	/** By cube: the sheet of its triangles, counted from 1; `SEVERAL`, or `NOTHING`. */
	private readonly only: Int32Array;
	/** By cube: its triangles as chains of entries, counted from 1; the triangle of each, and the next. */
	private readonly head: Int32Array;
	private of: Int32Array;
	private next: Int32Array;
	private used = 1;
	/** What lies near, and when each triangle was met last. */
	private candidates = new Int32Array(256);
	private found = 0;
	private readonly met: Int32Array;
	private stamp = 0;
	/** Of what is looked at: its box, and the cubes. */
	private readonly box = new Float64Array(6);
	private readonly from = new Int32Array(3);
	private readonly to = new Int32Array(3);

	/**
	 * @param own the triangles that there are, by number
	 * @param fineness how many of the smallest cells there are along a cube
	 */
	constructor(
		private readonly p: Float64Array,
		private readonly tri: Uint32Array,
		own: Uint32Array,
		private readonly dead: Uint8Array,
		private readonly sheet: Int32Array,
		{ x0, y0, z0, dx, dy, dz, nx, ny, nz }: Omit<Lattice, 'finer'>,
		fineness: number
	) {
		let least = Infinity;
		let most = -Infinity;
		for (let i = 0; i < own.length; i++)
			for (let c = 3 * own[i]!, end = c + 3; c < end; c++) {
				const z = p[3 * tri[c]! + 2]!;
				if (z < least) least = z;
				if (z > most) most = z;
			}
		const below = Math.min(nz - 1, Math.max(0, Math.floor((least - z0) / dz) - 1));
		const layers = Math.min(nz - below, Math.max(1, Math.floor((most - z0) / dz) + 2 - below));
		this.low = Float64Array.of(x0, y0, z0 + below * dz);
		this.share = Float64Array.of(1 / dx, 1 / dy, 1 / dz);
		this.n = Int32Array.of(nx, ny, layers);
		this.flat = (FLAT * dx * dy * dz) / fineness ** 3;
		this.only = new Int32Array(nx * ny * layers);
		this.head = new Int32Array(nx * ny * layers);
		this.met = new Int32Array(dead.length);
		this.of = new Int32Array(Math.ceil(1.5 * own.length) + 16);
		this.next = new Int32Array(this.of.length);
		this.listAll(own);
	}

	/** Lists triangles at the start: most lie in one cube, which is told at once. */
	private listAll(own: Uint32Array): void {
		const { p, tri } = this;
		const [lowX, lowY, lowZ] = this.low as unknown as [number, number, number];
		const [shareX, shareY, shareZ] = this.share as unknown as [number, number, number];
		const [nx, ny, nz] = this.n as unknown as [number, number, number];
		for (let i = 0; i < own.length; i++) {
			const t = own[i]!;
			const a = 3 * tri[3 * t]!;
			const b = 3 * tri[3 * t + 1]!;
			const c = 3 * tri[3 * t + 2]!;
			const x = (Math.min(p[a]!, p[b]!, p[c]!) - lowX) * shareX + WALL;
			const y = (Math.min(p[a + 1]!, p[b + 1]!, p[c + 1]!) - lowY) * shareY + WALL;
			const z = (Math.min(p[a + 2]!, p[b + 2]!, p[c + 2]!) - lowZ) * shareZ + WALL;
			const atX = within(x, nx);
			const atY = within(y, ny);
			const atZ = within(z, nz);
			if (
				(Math.max(p[a]!, p[b]!, p[c]!) - lowX) * shareX - WALL < atX + 1 &&
				(Math.max(p[a + 1]!, p[b + 1]!, p[c + 1]!) - lowY) * shareY - WALL < atY + 1 &&
				(Math.max(p[a + 2]!, p[b + 2]!, p[c + 2]!) - lowZ) * shareZ - WALL < atZ + 1
			)
				this.list((atZ * ny + atY) * nx + atX, t);
			else this.add(t);
		}
	}

	/** A triangle that is new. */
	add(t: number): void {
		const { tri, n, from, to } = this;
		this.cubesOf(tri[3 * t]!, tri[3 * t + 1]!, tri[3 * t + 2]!);
		for (let z = from[2]!; z <= to[2]!; z++)
			for (let y = from[1]!; y <= to[1]!; y++) for (let x = from[0]!; x <= to[0]!; x++) this.list((z * n[1]! + y) * n[0]! + x, t);
	}

	/** A triangle that had another vertex in the place of one that it has now. It is listed in what it did not pass before. */
	moved(t: number, before: number, now: number, a: number, b: number): void {
		const { n, from, to } = this;
		this.cubesOf(before, a, b);
		const x0 = from[0]!;
		const y0 = from[1]!;
		const z0 = from[2]!;
		const x1 = to[0]!;
		const y1 = to[1]!;
		const z1 = to[2]!;
		this.cubesOf(now, a, b);
		for (let z = from[2]!; z <= to[2]!; z++)
			for (let y = from[1]!; y <= to[1]!; y++) {
				const known = z >= z0 && z <= z1 && y >= y0 && y <= y1;
				for (let x = from[0]!; x <= to[0]!; x++) if (!known || x < x0 || x > x1) this.list((z * n[1]! + y) * n[0]! + x, t);
			}
	}

	private list(cube: number, t: number): void {
		const { only } = this;
		const sheet = this.sheet[t]! + 1;
		const known = only[cube]!;
		if (known !== sheet) only[cube] = known === NOTHING ? sheet : SEVERAL;
		if (this.used === this.of.length) {
			this.of = longer(this.of);
			this.next = longer(this.next);
		}
		this.of[this.used] = t;
		this.next[this.used] = this.head[cube]!;
		this.head[cube] = this.used++;
	}

	/** Finds the cubes that a triangle passes. */
	private cubesOf(a: number, b: number, c: number): void {
		const { p, low, share, n, from, to } = this;
		for (let k = 0; k < 3; k++) {
			const x = p[3 * a + k]!;
			const y = p[3 * b + k]!;
			const z = p[3 * c + k]!;
			const first = (Math.min(x, y, z) - low[k]!) * share[k]! + WALL;
			const last = (Math.max(x, y, z) - low[k]!) * share[k]! - WALL;
			from[k] = within(first, n[k]!);
			to[k] = within(Math.max(first, last), n[k]!);
		}
	}

	/** Whether a triangle comes through another one. @param one two that it takes the place of */
	crossed(a: number, b: number, c: number, one: number, two: number): boolean {
		this.frame(a, b, c);
		this.gather(-1, one, two);
		return this.meets(a, b, c);
	}

	/** Whether the triangles round a vertex come through others when it goes into its neighbour. */
	crossedRound(u: number, v: number, count: number, first: Int32Array, second: Int32Array): boolean {
		this.begin(v);
		for (let i = 0; i < count; i++) {
			this.widen(first[i]!);
			this.widen(second[i]!);
		}
		this.cubes();
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
		this.found = 0;
		if (!this.severalSheets()) return;
		const { p, tri, box, from, to, n, head, next, of, met, dead } = this;
		const stamp = ++this.stamp;
		for (let z = from[2]!; z <= to[2]!; z++)
			for (let y = from[1]!; y <= to[1]!; y++) {
				const row = (z * n[1]! + y) * n[0]!;
				for (let cube = row + from[0]!; cube <= row + to[0]!; cube++)
					for (let e = head[cube]!; e > 0; e = next[e]!) {
						const t = of[e]!;
						if (met[t] === stamp) continue;
						met[t] = stamp;
						if (dead[t] || t === one || t === two) continue;
						const i = tri[3 * t]!;
						const j = tri[3 * t + 1]!;
						const k = tri[3 * t + 2]!;
						if (i === vertex || j === vertex || k === vertex) continue;
						if (outside(p[3 * i + 2]!, p[3 * j + 2]!, p[3 * k + 2]!, box[2]!, box[5]!)) continue;
						if (outside(p[3 * i]!, p[3 * j]!, p[3 * k]!, box[0]!, box[3]!)) continue;
						if (outside(p[3 * i + 1]!, p[3 * j + 1]!, p[3 * k + 1]!, box[1]!, box[4]!)) continue;
						if (this.found === this.candidates.length) this.candidates = longer(this.candidates);
						this.candidates[this.found++] = t;
					}
			}
	}

	/** Whether the cubes that are looked at know more than one sheet. */
	private severalSheets(): boolean {
		const { from, to, n, only } = this;
		let sheet = NOTHING;
		for (let z = from[2]!; z <= to[2]!; z++)
			for (let y = from[1]!; y <= to[1]!; y++) {
				const row = (z * n[1]! + y) * n[0]!;
				for (let cube = row + from[0]!; cube <= row + to[0]!; cube++) {
					const own = only[cube]!;
					if (own === NOTHING || own === sheet) continue;
					if (own === SEVERAL || sheet !== NOTHING) return true;
					sheet = own;
				}
			}
		return false;
	}

	/** Whether a triangle comes through one of those that lie near. */
	private meets(a: number, b: number, c: number): boolean {
		const { p, tri, candidates, found, flat } = this;
		const ax = p[3 * a]!;
		const ay = p[3 * a + 1]!;
		const az = p[3 * a + 2]!;
		const ux = p[3 * b]! - ax;
		const uy = p[3 * b + 1]! - ay;
		const uz = p[3 * b + 2]! - az;
		const vx = p[3 * c]! - ax;
		const vy = p[3 * c + 1]! - ay;
		const vz = p[3 * c + 2]! - az;
		const nx = uy * vz - uz * vy;
		const ny = uz * vx - ux * vz;
		const nz = ux * vy - uy * vx;
		const x0 = Math.min(0, ux, vx) + ax;
		const x1 = Math.max(0, ux, vx) + ax;
		const y0 = Math.min(0, uy, vy) + ay;
		const y1 = Math.max(0, uy, vy) + ay;
		const z0 = Math.min(0, uz, vz) + az;
		const z1 = Math.max(0, uz, vz) + az;
		for (let e = 0; e < found; e++) {
			const t = candidates[e]!;
			const i = tri[3 * t]!;
			const j = tri[3 * t + 1]!;
			const k = tri[3 * t + 2]!;
			const ofI = i === a || i === b || i === c;
			const ofJ = j === a || j === b || j === c;
			const ofK = k === a || k === b || k === c;
			if ((ofI && (ofJ || ofK)) || (ofJ && ofK)) continue;
			const iz = p[3 * i + 2]!;
			const jz = p[3 * j + 2]!;
			const kz = p[3 * k + 2]!;
			if (outside(iz, jz, kz, z0, z1)) continue;
			const ix = p[3 * i]!;
			const jx = p[3 * j]!;
			const kx = p[3 * k]!;
			if (outside(ix, jx, kx, x0, x1)) continue;
			const iy = p[3 * i + 1]!;
			const jy = p[3 * j + 1]!;
			const ky = p[3 * k + 1]!;
			if (outside(iy, jy, ky, y0, y1)) continue;
			// Most lie on one side of the plane.
			const ofPlaneI = ofI ? 0 : nx * (ix - ax) + ny * (iy - ay) + nz * (iz - az);
			const ofPlaneJ = ofJ ? 0 : nx * (jx - ax) + ny * (jy - ay) + nz * (jz - az);
			const ofPlaneK = ofK ? 0 : nx * (kx - ax) + ny * (ky - ay) + nz * (kz - az);
			if (ofPlaneI <= flat && ofPlaneJ <= flat && ofPlaneK <= flat) continue;
			if (ofPlaneI >= -flat && ofPlaneJ >= -flat && ofPlaneK >= -flat) continue;
			if (this.cross(a, b, c, i, j, k)) return true;
		}
		return false;
	}

	/** Finds the box of a triangle, and the cubes in which those are listed that may touch it. */
	private frame(a: number, b: number, c: number): void {
		this.begin(a);
		this.widen(b);
		this.widen(c);
		this.cubes();
	}

	private begin(v: number): void {
		for (let k = 0; k < 3; k++) this.box[k] = this.box[k + 3] = this.p[3 * v + k]!;
	}

	private widen(v: number): void {
		const { p, box } = this;
		for (let k = 0; k < 3; k++) {
			const x = p[3 * v + k]!;
			if (x < box[k]!) box[k] = x;
			else if (x > box[k + 3]!) box[k + 3] = x;
		}
	}

	private cubes(): void {
		const { box, low, share, n, from, to } = this;
		for (let k = 0; k < 3; k++) {
			from[k] = within((box[k]! - low[k]!) * share[k]! - WALL, n[k]!);
			to[k] = within((box[k + 3]! - low[k]!) * share[k]! + WALL, n[k]!);
		}
	}

	/** Whether two triangles meet beyond what they share, which is one corner at most. */
	private cross(a: number, b: number, c: number, i: number, j: number, k: number): boolean {
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
		const x = this.side(u, v, i, j);
		const y = this.side(u, v, j, k);
		const z = this.side(u, v, k, i);
		return (x >= 0 && y >= 0 && z >= 0) || (x <= 0 && y <= 0 && z <= 0);
	}

	/** Six times the volume of a tetrahedron: its sign tells the side; 0 where it is too flat to tell. */
	private side(o: number, a: number, b: number, c: number): number {
		const volume = sixfoldVolume(this.p, o, a, b, c);
		return Math.abs(volume) > this.flat ? volume : 0;
	}
}

/** The whole number below another one, among the first so many. */
const within = (x: number, count: number): number => Math.max(0, Math.min(count - 1, x | 0));

function longer(a: Int32Array): Int32Array<ArrayBuffer> {
	const out = new Int32Array(2 * a.length);
	out.set(a);
	return out;
}

const outside = (a: number, b: number, c: number, low: number, high: number): boolean =>
	(a < low && b < low && c < low) || (a > high && b > high && c > high);
