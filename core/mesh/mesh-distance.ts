import { openEdges, type TriangleMesh } from './extract';
import { NearestTriangle } from './nearest-triangle';

/** Upright lines through a mesh: where they meet it, from the lowest up. */
class Columns {
	private readonly cells = new Map<number, number[]>();
	private readonly size: number;
	private readonly minX: number;
	private readonly minY: number;
	private readonly columns: number;

	constructor(private readonly mesh: TriangleMesh) {
		const p = mesh.positions;
		let [minX, minY, maxX, maxY] = [Infinity, Infinity, -Infinity, -Infinity];
		for (let i = 0; i < p.length; i += 3) {
			minX = Math.min(minX, p[i]!);
			maxX = Math.max(maxX, p[i]!);
			minY = Math.min(minY, p[i + 1]!);
			maxY = Math.max(maxY, p[i + 1]!);
		}
		[this.minX, this.minY] = [minX, minY];
		this.size = Math.max(maxX - minX, maxY - minY, 1e-9) / Math.max(1, Math.ceil(Math.sqrt(mesh.triangles.length / 6)));
		this.columns = Math.floor((maxX - minX) / this.size) + 1;
		for (let t = 0; t < mesh.triangles.length; t += 3) {
			const xs = [0, 1, 2].map((c) => p[3 * mesh.triangles[t + c]!]!);
			const ys = [0, 1, 2].map((c) => p[3 * mesh.triangles[t + c]! + 1]!);
			for (let j = this.cell(Math.min(...ys), minY); j <= this.cell(Math.max(...ys), minY); j++)
				for (let i = this.cell(Math.min(...xs), minX); i <= this.cell(Math.max(...xs), minX); i++) {
					const key = j * this.columns + i;
					const list = this.cells.get(key);
					if (list) list.push(t);
					else this.cells.set(key, [t]);
				}
		}
	}

	private cell = (v: number, low: number) => Math.floor((v - low) / this.size);

	/** How many triangles lie above a place. */
	above(x: number, y: number, z: number): number {
		const [i, j] = [this.cell(x, this.minX), this.cell(y, this.minY)];
		if (i < 0 || i >= this.columns) return 0;
		const p = this.mesh.positions;
		let count = 0;
		for (const t of this.cells.get(j * this.columns + i) ?? []) {
			const [a, b, c] = [0, 1, 2].map((k) => 3 * this.mesh.triangles[t + k]!) as [number, number, number];
			// Sides are told by the edges from their lesser vertex on, so that a line through an edge meets one of its two triangles.
			const u = sideOf(p, b, c, x, y);
			const v = sideOf(p, c, a, x, y);
			const w = sideOf(p, a, b, x, y);
			if (!(u > 0 === v > 0 && v > 0 === w > 0)) continue;
			const sum = u + v + w;
			if (sum === 0) continue;
			if ((u * p[a + 2]! + v * p[b + 2]! + w * p[c + 2]!) / sum > z) count++;
		}
		return count;
	}
}

/** On which side of an edge on the map a place is; the same from both triangles of the edge, with opposite sign. */
function sideOf(p: Float64Array, a: number, b: number, x: number, y: number): number {
	if (a > b) return -sideOf(p, b, a, x, y);
	const s = (p[b]! - p[a]!) * (y - p[a + 1]!) - (p[b + 1]! - p[a + 1]!) * (x - p[a]!);
	return s === 0 ? Number.MIN_VALUE : s;
}

/** Distance of places to a mesh, with the side on which they are. */
export class MeshDistance {
	private readonly near: NearestTriangle;
	private readonly columns: Columns;
	readonly isClosed: boolean;

	constructor(mesh: TriangleMesh) {
		this.near = new NearestTriangle(mesh);
		this.columns = new Columns(mesh);
		this.isClosed = mesh.triangles.length > 0 && openEdges(mesh) === 0;
	}

	/** Distance, positive inside, negative outside. @param reach beyond it the distance is not looked for, and `reach` told */
	inside(x: number, y: number, z: number, reach = Infinity): number {
		return (this.columns.above(x, y, z) % 2 ? 1 : -1) * this.near.nearest(x, y, z, reach).distance;
	}
}
