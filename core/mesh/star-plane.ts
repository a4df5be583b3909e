import { sineBetween } from './least-angle';

/** Triangles that point farther than 62° from their mean are folds; these stay as they are. */
const LEAST_TURN = Math.cos((62 * Math.PI) / 180);
/** Triangles whose least angle has a smaller sine are needles: 1°. */
export const NEEDLE = Math.sin(Math.PI / 180);
/** Least share of a corner at a place that still counts as within a triangle. */
const SLACK = -1e-7;

/** The triangles of one sheet round a vertex, or two beside each other, seen along their mean normal. */
export class StarPlane {
	/** What `fan` gives for a vertex with the sheet all around, and where it can not be said. */
	static readonly CLOSED = -1;
	static readonly NO = -2;
	/** By how much the sheet would move. */
	moved = 0;
	/** How many needles there would be. */
	needles = 0;
	/** Corners beside the vertex, by triangle: first and second; places relative to the vertex, then in the plane and above it. */
	private n = 0;
	private readonly a: Int32Array;
	private readonly b: Int32Array;
	private readonly ax: Float64Array;
	private readonly ay: Float64Array;
	private readonly az: Float64Array;
	private readonly bx: Float64Array;
	private readonly by: Float64Array;
	private readonly bz: Float64Array;
	private v = -1;
	private vx = 0;
	private vy = 0;
	private vz = 0;

	constructor(
		private readonly p: Float64Array,
		most: number
	) {
		[this.a, this.b] = [new Int32Array(most), new Int32Array(most)];
		[this.ax, this.ay, this.az] = [new Float64Array(most), new Float64Array(most), new Float64Array(most)];
		[this.bx, this.by, this.bz] = [new Float64Array(most), new Float64Array(most), new Float64Array(most)];
	}

	/**
	 * Takes the triangles of one sheet round a vertex, which is to go into a neighbour.
	 * @returns the neighbour beyond, where the sheet ends on a line through both; `CLOSED`; `NO` when it may not, or is folded
	 */
	fan(
		u: number,
		v: number,
		sheet: number,
		count: number,
		round: Int32Array,
		sheets: Int32Array,
		first: Int32Array,
		second: Int32Array
	): number {
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
		if (!beside) return StarPlane.NO;
		// From one triangle to the next that begins where it ends, all round or to both ends.
		let met = 1;
		let to = b[0]!;
		for (let i = this.beginning(to); i > 0; i = this.beginning(to)) {
			if (++met > n) return StarPlane.NO;
			to = b[i]!;
		}
		let from = a[0]!;
		if (to !== from)
			for (let i = this.ending(from); i > 0; i = this.ending(from)) {
				if (++met > n) return StarPlane.NO;
				from = a[i]!;
			}
		if (met !== n || !this.lay()) return StarPlane.NO;
		if (to === from) return StarPlane.CLOSED;
		return from === v ? to : to === v ? from : StarPlane.NO;
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
	 * Least sine of what is left when the vertex of the fan has gone into its neighbour; −1 where the sheet would fold or that is no better.
	 * Sets `moved` and `needles`.
	 * @param open the vertex lies at the end of the sheet, which need not go on over its place
	 * @param worst sine that is to be passed
	 * @param tolerance distance that the sheet may move
	 */
	without(open: boolean, worst: number, tolerance: number): number {
		const { n, a, b, ax, ay, az, bx, by, bz, v, vx, vy, vz } = this;
		let least = 1;
		let within = false;
		let steep = Math.abs(vz);
		this.moved = 0;
		this.needles = 0;
		for (let i = 0; i < n; i++) {
			if (a[i] === v || b[i] === v) continue;
			const px = ax[i]! - vx;
			const py = ay[i]! - vy;
			const pz = az[i]! - vz;
			const qx = bx[i]! - vx;
			const qy = by[i]! - vy;
			const qz = bz[i]! - vz;
			const whole = px * qy - py * qx;
			if (!(whole > 0)) return -1;
			const sine = sineOf(px, py, pz, qx, qy, qz);
			least = Math.min(least, sine);
			if (least <= worst) return -1;
			if (sine < NEEDLE) this.needles++;
			steep = Math.max(steep, Math.abs(az[i]!), Math.abs(bz[i]!));
			// The vertex is the origin; seen from v it is a sum of shares of both edges.
			const s = (qx * vy - qy * vx) / whole;
			const t = (py * vx - px * vy) / whole;
			if (s < SLACK || t < SLACK || 1 - s - t < SLACK) continue;
			within = true;
			this.moved = Math.max(this.moved, Math.abs(vz + s * pz + t * qz));
			if (this.moved > tolerance) return -1;
		}
		if (!within && !open) return -1;
		// All lies between two heights, and so does whatever is made of it.
		if (2 * steep <= tolerance) {
			this.moved = 2 * steep;
			return least;
		}
		// New edges, from v to the others, lie over old ones.
		for (let i = 0; i < n; i++) {
			if (a[i] === v || b[i] === v) continue;
			for (let k = 0; k < n; k++) {
				if (k !== i && a[k] !== v) this.over(ax[i]!, ay[i]!, az[i]!, ax[k]!, ay[k]!, az[k]!);
				if (b[k] !== v && b[k] !== a[i]) this.over(ax[i]!, ay[i]!, az[i]!, bx[k]!, by[k]!, bz[k]!);
			}
			if (this.moved > tolerance) return -1;
		}
		return least;
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

	/** Least sine of a d c and d b c, which are to take the place of a b c and b a d; −1 where they would fold. Sets `moved`. */
	turned(a: number, b: number, c: number, d: number): number {
		const { p, ax, ay, az, bx, by, bz } = this;
		// Seen from a: b c, and d b.
		const put = (v: number, x: Float64Array, y: Float64Array, z: Float64Array, i: number) => {
			[x[i], y[i], z[i]] = [p[3 * v]! - p[3 * a]!, p[3 * v + 1]! - p[3 * a + 1]!, p[3 * v + 2]! - p[3 * a + 2]!];
		};
		put(b, ax, ay, az, 0);
		put(c, bx, by, bz, 0);
		put(d, ax, ay, az, 1);
		put(b, bx, by, bz, 1);
		[this.n, this.v] = [2, -1];
		if (!this.lay()) return -1;
		const [qx, qy, qz] = [ax[0]!, ay[0]!, az[0]!];
		const [cx, cy, cz] = [bx[0]!, by[0]!, bz[0]!];
		const [dx, dy, dz] = [ax[1]!, ay[1]!, az[1]!];
		if (!(dx * cy - dy * cx > 0) || !((qx - dx) * (cy - dy) - (qy - dy) * (cx - dx) > 0)) return -1;
		[this.vx, this.vy, this.vz, this.moved] = [dx, dy, dz, 0];
		this.over(cx, cy, cz, qx, qy, qz);
		return Math.min(sineOf(dx, dy, dz, cx, cy, cz), sineOf(qx - dx, qy - dy, qz - dz, cx - dx, cy - dy, cz - dz));
	}
}

/** Sine of the least angle of a triangle with two edges from one corner. */
function sineOf(px: number, py: number, pz: number, qx: number, qy: number, qz: number): number {
	const x = py * qz - pz * qy;
	const y = pz * qx - px * qz;
	const z = px * qy - py * qx;
	return sineBetween(
		x * x + y * y + z * z,
		px * px + py * py + pz * pz,
		qx * qx + qy * qy + qz * qz,
		(px - qx) * (px - qx) + (py - qy) * (py - qy) + (pz - qz) * (pz - qz)
	);
}
