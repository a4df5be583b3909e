import { leastBetween } from './least-angle';

/** Triangles that point farther than 62° from their mean are folds; these stay as they are. */
const LEAST_TURN = Math.cos((62 * Math.PI) / 180);
/** Least share of a corner at a place that still counts as within a triangle. */
const SLACK = -1e-7;
/** What `fan` gives for a vertex with the sheet all around, and where it can not be said. */
export const CLOSED = -1;
export const NO = -2;
/** Triangles that a vertex may have: beyond, it stays. */
export const MOST_ROUND = 64;

/** The triangles round a vertex, and what comes of them when it goes into a neighbour. */
export class Star {
	u = -1;
	v = -1;
	/** How many; their numbers, and their other two corners in order. */
	count = 0;
	readonly round = new Int32Array(MOST_ROUND);
	readonly first = new Int32Array(MOST_ROUND);
	readonly second = new Int32Array(MOST_ROUND);
	/** Square of the sine of the least angle: the least of all, and of each once the vertex has gone. */
	worst = 1;
	readonly after = new Float64Array(MOST_ROUND);
	/** How many are needles. */
	needles = 0;
	/** Square of its longest edge. */
	longest = 0;
	/** Distance that the surface may move, and by how much it would. */
	tolerance = 0;
	moved = 0;
	/** Least sine once the vertex has gone; −1 where it may not, or where that is no better. */
	least = -1;
}

/** The triangles of one sheet round a vertex, or two beside each other, seen along their mean normal. */
export class StarPlane {
	/** By how much the sheet would move. */
	moved = 0;
	/** How many triangles the sheet has here. */
	n = 0;
	/** Corners beside the vertex, by triangle: first and second; places relative to the vertex, then in the plane and above it. */
	private readonly a = new Int32Array(MOST_ROUND);
	private readonly b = new Int32Array(MOST_ROUND);
	private readonly ax = new Float64Array(MOST_ROUND);
	private readonly ay = new Float64Array(MOST_ROUND);
	private readonly az = new Float64Array(MOST_ROUND);
	private readonly bx = new Float64Array(MOST_ROUND);
	private readonly by = new Float64Array(MOST_ROUND);
	private readonly bz = new Float64Array(MOST_ROUND);
	private v = -1;
	private vx = 0;
	private vy = 0;
	private vz = 0;

	constructor(private readonly p: Float64Array) {}

	/**
	 * Takes the triangles of one sheet round a vertex, which is to go into a neighbour.
	 * @param sheets by triangle
	 * @returns the neighbour beyond, where the sheet ends on a line through both; `CLOSED`; `NO` when it may not, or is folded
	 */
	fan({ u, v, count, round, first, second }: Star, sheet: number, sheets: Int32Array): number {
		const { a, b, p, ax, ay, az, bx, by, bz } = this;
		const ux = p[3 * u]!;
		const uy = p[3 * u + 1]!;
		const uz = p[3 * u + 2]!;
		let n = 0;
		for (let i = 0; i < count; i++) {
			if (sheets[round[i]!] !== sheet) continue;
			const c = first[i]!;
			const d = second[i]!;
			a[n] = c;
			b[n] = d;
			ax[n] = p[3 * c]! - ux;
			ay[n] = p[3 * c + 1]! - uy;
			az[n] = p[3 * c + 2]! - uz;
			bx[n] = p[3 * d]! - ux;
			by[n] = p[3 * d + 1]! - uy;
			bz[n] = p[3 * d + 2]! - uz;
			n++;
		}
		this.n = n;
		this.v = v;
		let beside = false;
		for (let i = 0; i < n; i++) if (a[i] === v || b[i] === v) beside = true;
		if (!beside) return NO;
		// From one triangle to the next that begins where it ends, all round or to both ends.
		let met = 1;
		let to = b[0]!;
		for (let i = this.beginning(to); i > 0; i = this.beginning(to)) {
			if (++met > n) return NO;
			to = b[i]!;
		}
		let from = a[0]!;
		if (to !== from)
			for (let i = this.ending(from); i > 0; i = this.ending(from)) {
				if (++met > n) return NO;
				from = a[i]!;
			}
		if (met !== n || !this.lay()) return NO;
		if (to === from) return CLOSED;
		return from === v ? to : to === v ? from : NO;
	}

	/** The triangle whose first corner is a vertex; −1 if there is none. */
	private beginning(vertex: number): number {
		for (let i = 0; i < this.n; i++) if (this.a[i] === vertex) return i;
		return -1;
	}

	private ending(vertex: number): number {
		for (let i = 0; i < this.n; i++) if (this.b[i] === vertex) return i;
		return -1;
	}

	/** Turns all places into the plane. @returns whether the triangles are seen from one side */
	private lay(): boolean {
		const { n, ax, ay, az, bx, by, bz } = this;
		let x = 0;
		let y = 0;
		let z = 0;
		for (let i = 0; i < n; i++) {
			x += ay[i]! * bz[i]! - az[i]! * by[i]!;
			y += az[i]! * bx[i]! - ax[i]! * bz[i]!;
			z += ax[i]! * by[i]! - ay[i]! * bx[i]!;
		}
		const length = Math.sqrt(x * x + y * y + z * z);
		if (!(length > 0)) return false;
		x /= length;
		y /= length;
		z /= length;
		for (let i = 0; i < n; i++) {
			const cx = ay[i]! * bz[i]! - az[i]! * by[i]!;
			const cy = az[i]! * bx[i]! - ax[i]! * bz[i]!;
			const cz = ax[i]! * by[i]! - ay[i]! * bx[i]!;
			const along = cx * x + cy * y + cz * z;
			if (!(along >= 0) || along * along < LEAST_TURN * LEAST_TURN * (cx * cx + cy * cy + cz * cz)) return false;
		}
		// Two axes across the normal (Duff et al. 2017).
		const sign = z >= 0 ? 1 : -1;
		const f = -1 / (sign + z);
		const g = x * y * f;
		const ex = 1 + sign * x * x * f;
		const hy = sign + y * y * f;
		for (let i = 0; i < n; i++) {
			const px = ax[i]!;
			const py = ay[i]!;
			const pz = az[i]!;
			ax[i] = px * ex + py * sign * g - pz * sign * x;
			ay[i] = px * g + py * hy - pz * y;
			az[i] = px * x + py * y + pz * z;
			const qx = bx[i]!;
			const qy = by[i]!;
			const qz = bz[i]!;
			bx[i] = qx * ex + qy * sign * g - qz * sign * x;
			by[i] = qx * g + qy * hy - qz * y;
			bz[i] = qx * x + qy * y + qz * z;
			if (this.a[i] === this.v) this.leadsTo(ax[i]!, ay[i]!, az[i]!);
			else if (this.b[i] === this.v) this.leadsTo(bx[i]!, by[i]!, bz[i]!);
		}
		return true;
	}

	private leadsTo(x: number, y: number, z: number): void {
		this.vx = x;
		this.vy = y;
		this.vz = z;
	}

	/**
	 * Whether the sheet stays what it was when the vertex of the fan has gone into its neighbour: it does not fold. Sets `moved`.
	 * @param open the vertex lies at the end of the sheet, which need not go on over its place
	 * @param tolerance distance that the sheet may move
	 */
	without(open: boolean, tolerance: number): boolean {
		const { n, a, b, ax, ay, az, bx, by, bz, v, vx, vy, vz } = this;
		let within = false;
		let steep = Math.abs(vz);
		this.moved = 0;
		for (let i = 0; i < n; i++) {
			if (a[i] === v || b[i] === v) continue;
			const px = ax[i]! - vx;
			const py = ay[i]! - vy;
			const qx = bx[i]! - vx;
			const qy = by[i]! - vy;
			const whole = px * qy - py * qx;
			if (!(whole > 0)) return false;
			const pz = az[i]!;
			const qz = bz[i]!;
			steep = Math.max(steep, Math.abs(pz), Math.abs(qz));
			// The vertex is the origin; seen from v it is a sum of shares of both edges.
			const s = (qx * vy - qy * vx) / whole;
			const t = (py * vx - px * vy) / whole;
			if (s < SLACK || t < SLACK || 1 - s - t < SLACK) continue;
			within = true;
			this.moved = Math.max(this.moved, Math.abs(vz + s * (pz - vz) + t * (qz - vz)));
			if (this.moved > tolerance) return false;
		}
		if (!within && !open) return false;
		// All lies between two heights, and so does whatever is made of it.
		if (2 * steep <= tolerance) {
			this.moved = 2 * steep;
			return true;
		}
		// New edges, from v to the others, lie over old ones.
		for (let i = 0; i < n; i++) {
			if (a[i] === v || b[i] === v) continue;
			for (let k = 0; k < n; k++) {
				if (k !== i && a[k] !== v) this.over(ax[i]!, ay[i]!, az[i]!, ax[k]!, ay[k]!, az[k]!);
				if (b[k] !== v && b[k] !== a[i]) this.over(ax[i]!, ay[i]!, az[i]!, bx[k]!, by[k]!, bz[k]!);
			}
			if (this.moved > tolerance) return false;
		}
		return true;
	}

	/** How far the edge from v to a place lies from that between the vertex and another one, where they are seen to cross. */
	private over(cx: number, cy: number, cz: number, x: number, y: number, z: number): void {
		const { vx, vy, vz } = this;
		const dx = cx - vx;
		const dy = cy - vy;
		const det = x * dy - y * dx;
		if (det === 0) return;
		const s = (vx * dy - vy * dx) / det;
		const t = (vx * y - vy * x) / det;
		if (s > 0 && s < 1 && t > 0 && t < 1) this.moved = Math.max(this.moved, Math.abs(s * z - vz - t * (cz - vz)));
	}

	/** Square of the least sine of a d c and d b c, which are to take the place of a b c and b a d; −1 where they would fold. Sets `moved`. */
	turned(a: number, b: number, c: number, d: number): number {
		const { ax, ay, az, bx, by, bz } = this;
		// Seen from a: b c, and d b.
		this.put(ax, ay, az, 0, b, a);
		this.put(bx, by, bz, 0, c, a);
		this.put(ax, ay, az, 1, d, a);
		this.put(bx, by, bz, 1, b, a);
		this.n = 2;
		this.v = -1;
		if (!this.lay()) return -1;
		const qx = ax[0]!;
		const qy = ay[0]!;
		const qz = az[0]!;
		const cx = bx[0]!;
		const cy = by[0]!;
		const cz = bz[0]!;
		const dx = ax[1]!;
		const dy = ay[1]!;
		const dz = az[1]!;
		if (!(dx * cy - dy * cx > 0) || !((qx - dx) * (cy - dy) - (qy - dy) * (cx - dx) > 0)) return -1;
		this.leadsTo(dx, dy, dz);
		this.moved = 0;
		this.over(cx, cy, cz, qx, qy, qz);
		return Math.min(leastBetween(dx, dy, dz, cx, cy, cz), leastBetween(qx - dx, qy - dy, qz - dz, cx - dx, cy - dy, cz - dz));
	}

	/** The place of a vertex as it is seen from another. */
	private put(x: Float64Array, y: Float64Array, z: Float64Array, i: number, vertex: number, from: number): void {
		const { p } = this;
		x[i] = p[3 * vertex]! - p[3 * from]!;
		y[i] = p[3 * vertex + 1]! - p[3 * from + 1]!;
		z[i] = p[3 * vertex + 2]! - p[3 * from + 2]!;
	}
}
