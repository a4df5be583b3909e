import type { TriangleMesh } from './extract';

/** Triangles in the columns of a horizontal grid. */
export class TriangleGrid {
	private readonly cells = new Map<number, number[]>();
	private readonly minX: number;
	private readonly minY: number;
	private readonly columns: number;
	private readonly rows: number;

	constructor(
		private readonly mesh: TriangleMesh,
		private readonly size: number
	) {
		let minX = Infinity;
		let minY = Infinity;
		let maxX = -Infinity;
		let maxY = -Infinity;
		for (let i = 0; i < mesh.positions.length; i += 3) {
			minX = Math.min(minX, mesh.positions[i]!);
			maxX = Math.max(maxX, mesh.positions[i]!);
			minY = Math.min(minY, mesh.positions[i + 1]!);
			maxY = Math.max(maxY, mesh.positions[i + 1]!);
		}
		this.minX = minX;
		this.minY = minY;
		this.columns = Math.floor((maxX - minX) / size) + 1;
		this.rows = Math.floor((maxY - minY) / size) + 1;
		for (let t = 0; t < mesh.triangles.length; t += 3) {
			const cx = (this.x(t) + this.x(t + 1) + this.x(t + 2)) / 3;
			const cy = (this.y(t) + this.y(t + 1) + this.y(t + 2)) / 3;
			const key = this.row(cy) * this.columns + this.column(cx);
			const list = this.cells.get(key);
			if (list) list.push(t);
			else this.cells.set(key, [t]);
		}
	}

	private x = (i: number) => this.mesh.positions[3 * this.mesh.triangles[i]!]!;
	private y = (i: number) => this.mesh.positions[3 * this.mesh.triangles[i]! + 1]!;
	private column = (x: number) => Math.min(this.columns - 1, Math.max(0, Math.floor((x - this.minX) / this.size)));
	private row = (y: number) => Math.min(this.rows - 1, Math.max(0, Math.floor((y - this.minY) / this.size)));

	distance(x: number, y: number, z: number): number {
		return this.nearest(x, y, z).distance;
	}

	/**
	 * The nearest triangle, as the place of its first corner among the corners, with its distance; −1 when there is none.
	 * @param most distance beyond which nothing is looked for
	 */
	nearest(x: number, y: number, z: number, most = Infinity): { distance: number; corner: number } {
		const c = this.column(x);
		const r = this.row(y);
		let best = most;
		let corner = -1;
		for (let ring = 0; ring <= Math.max(this.columns, this.rows); ring++) {
			// Triangles reach at most one cell out of the cell of their centre.
			if (best <= (ring - 2) * this.size) break;
			for (let j = r - ring; j <= r + ring; j++)
				for (let i = c - ring; i <= c + ring; i++) {
					if (Math.max(Math.abs(i - c), Math.abs(j - r)) !== ring || i < 0 || j < 0 || i >= this.columns || j >= this.rows) continue;
					for (const t of this.cells.get(j * this.columns + i) ?? []) {
						const d = this.toTriangle(t, x, y, z);
						if (d < best) [best, corner] = [d, t];
					}
				}
		}
		return { distance: best, corner };
	}

	private toTriangle(t: number, x: number, y: number, z: number): number {
		const p = this.mesh.positions;
		const [a, b, c] = [0, 1, 2].map((i) => {
			const v = 3 * this.mesh.triangles[t + i]!;
			return [p[v]!, p[v + 1]!, p[v + 2]!] as const;
		});
		return pointTriangleDistance([x, y, z], a!, b!, c!);
	}
}

type P = readonly [number, number, number];
const minus = (a: P, b: P): P => [a[0] - b[0], a[1] - b[1], a[2] - b[2]];
const inner = (a: P, b: P) => a[0] * b[0] + a[1] * b[1] + a[2] * b[2];

/** Distance of a point from a triangle. */
export function pointTriangleDistance(p: P, a: P, b: P, c: P): number {
	const ab = minus(b, a);
	const ac = minus(c, a);
	const at = (v: number, w: number) => {
		const d = [p[0] - a[0] - v * ab[0] - w * ac[0], p[1] - a[1] - v * ab[1] - w * ac[1], p[2] - a[2] - v * ab[2] - w * ac[2]] as const;
		return Math.sqrt(inner(d, d));
	};
	const ap = minus(p, a);
	const d1 = inner(ab, ap);
	const d2 = inner(ac, ap);
	if (d1 <= 0 && d2 <= 0) return at(0, 0);
	const bp = minus(p, b);
	const d3 = inner(ab, bp);
	const d4 = inner(ac, bp);
	if (d3 >= 0 && d4 <= d3) return at(1, 0);
	const vc = d1 * d4 - d3 * d2;
	if (vc <= 0 && d1 >= 0 && d3 <= 0) return at(d1 / (d1 - d3), 0);
	const cp = minus(p, c);
	const d5 = inner(ab, cp);
	const d6 = inner(ac, cp);
	if (d6 >= 0 && d5 <= d6) return at(0, 1);
	const vb = d5 * d2 - d1 * d6;
	if (vb <= 0 && d2 >= 0 && d6 <= 0) return at(0, d2 / (d2 - d6));
	const va = d3 * d6 - d5 * d4;
	if (va <= 0 && d4 - d3 >= 0 && d5 - d6 >= 0) {
		const w = (d4 - d3) / (d4 - d3 + d5 - d6);
		return at(1 - w, w);
	}
	const sum = va + vb + vc;
	return sum === 0 ? at(0, 0) : at(vb / sum, vc / sum);
}
