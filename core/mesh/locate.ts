import { latticePlaces, type Lattice } from './lattice';

/** Rounding that a place inside may have fallen outside by, as a share of a tetrahedron. */
const SLACK = 1e-9;

/** Finds the tetrahedron of a lattice that a place lies in. */
export class Locator {
	/** Nodes of the tetrahedron that was found, and their shares of the place: they sum to 1. */
	readonly nodes = new Uint32Array(4);
	readonly weights = new Float64Array(4);
	/** By cube with smaller tetrahedra: where each of them begins in the list; made when it is first needed. */
	private smaller: Map<number, number[]> | null = null;

	constructor(private readonly l: Lattice) {}

	/** @returns false for a place outside the lattice */
	find(x: number, y: number, z: number): boolean {
		const { l } = this;
		const u = (x - l.x0) / l.dx;
		const v = (y - l.y0) / l.dy;
		const w = (z - l.z0) / l.dz;
		if (!(u >= 0 && u <= l.nx && v >= 0 && v <= l.ny && w >= 0 && w <= l.nz)) return false;
		const i = Math.min(l.nx - 1, Math.floor(u));
		const j = Math.min(l.ny - 1, Math.floor(v));
		const k = Math.min(l.nz - 1, Math.floor(w));
		const cube = (k * l.ny + j) * l.nx + i;
		if (l.finer?.opened[cube]) return this.findSmaller(cube, u, v, w);
		// The way from the lowest corner to the highest one, along the axes in the order of their shares (Kuhn 1960).
		const axes = [
			{ share: u - i, step: 1 },
			{ share: v - j, step: l.nx + 1 },
			{ share: w - k, step: (l.nx + 1) * (l.ny + 1) }
		].sort((a, b) => b.share - a.share);
		let node = (k * (l.ny + 1) + j) * (l.nx + 1) + i;
		let before = 1;
		for (let c = 0; c < 4; c++) {
			const next = c < 3 ? axes[c]!.share : 0;
			this.nodes[c] = node;
			this.weights[c] = before - next;
			before = next;
			if (c < 3) node += axes[c]!.step;
		}
		return true;
	}

	private findSmaller(cube: number, u: number, v: number, w: number): boolean {
		const { l } = this;
		const list = l.finer!.tetrahedra;
		if (!this.smaller) {
			this.smaller = new Map();
			const corners = latticePlaces(l, list);
			for (let t = 0; t < list.length; t += 4) {
				const [a, b, c] = [0, 1, 2].map((axis) =>
					Math.floor((corners[3 * t + axis]! + corners[3 * t + 3 + axis]! + corners[3 * t + 6 + axis]! + corners[3 * t + 9 + axis]!) / 4)
				) as [number, number, number];
				const own = (c * l.ny + b) * l.nx + a;
				const known = this.smaller.get(own);
				if (known) known.push(t);
				else this.smaller.set(own, [t]);
			}
		}
		for (const t of this.smaller.get(cube) ?? []) {
			const own = list.subarray(t, t + 4);
			const p = latticePlaces(l, own);
			const edge = (c: number): [number, number, number] => [p[3 * c]! - p[0]!, p[3 * c + 1]! - p[1]!, p[3 * c + 2]! - p[2]!];
			const [a, b, c, d] = [edge(1), edge(2), edge(3), [u - p[0]!, v - p[1]!, w - p[2]!] as [number, number, number]];
			const whole = triple(a, b, c);
			const shares = [triple(d, b, c) / whole, triple(a, d, c) / whole, triple(a, b, d) / whole];
			const first = 1 - shares[0]! - shares[1]! - shares[2]!;
			if (first < -SLACK || shares.some((s) => s < -SLACK)) continue;
			this.nodes.set(own);
			this.weights.set([first, ...shares]);
			return true;
		}
		return false;
	}
}

const triple = (a: readonly [number, number, number], b: readonly [number, number, number], c: readonly [number, number, number]): number =>
	a[0] * (b[1] * c[2] - b[2] * c[1]) - a[1] * (b[0] * c[2] - b[2] * c[0]) + a[2] * (b[0] * c[1] - b[1] * c[0]);
