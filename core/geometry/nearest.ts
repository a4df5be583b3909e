/** Places by cells of a regular grid, to find the nearest one without asking them all. */
export class NearestPoint {
	private readonly cells = new Map<string, number[]>();
	private readonly side: number;
	private readonly reach: number;

	constructor(private readonly points: readonly { x: number; y: number; z: number }[]) {
		const low = [Infinity, Infinity, Infinity];
		const high = [-Infinity, -Infinity, -Infinity];
		for (const p of points)
			[p.x, p.y, p.z].forEach((v, c) => {
				low[c] = Math.min(low[c]!, v);
				high[c] = Math.max(high[c]!, v);
			});
		const longest = Math.max(...[0, 1, 2].map((c) => high[c]! - low[c]!), 1e-9);
		// As many cells along the longest side as makes about one place in each that is not empty, for places that lie on a sheet.
		this.side = longest / Math.max(1, Math.round(Math.sqrt(points.length)));
		this.reach = Math.ceil(longest / this.side) + 1;
		points.forEach((p, i) => {
			const key = this.keyOf(p.x, p.y, p.z, 0, 0, 0);
			const list = this.cells.get(key);
			if (list) list.push(i);
			else this.cells.set(key, [i]);
		});
	}

	private keyOf(x: number, y: number, z: number, i: number, j: number, k: number): string {
		return `${Math.floor(x / this.side) + i},${Math.floor(y / this.side) + j},${Math.floor(z / this.side) + k}`;
	}

	/**
	 * Distance to the nearest place that counts; Infinity when there is none.
	 * @param counts leaves places out
	 */
	distance(x: number, y: number, z: number, counts?: (i: number) => boolean): number {
		return this.nearest(x, y, z, counts).distance;
	}

	/** The nearest place that counts, with its distance; −1 when there is none. */
	nearest(x: number, y: number, z: number, counts: (i: number) => boolean = () => true): { index: number; distance: number } {
		let best = Infinity;
		let index = -1;
		const look = (i: number) => {
			const p = this.points[i]!;
			const d = Math.hypot(p.x - x, p.y - y, p.z - z);
			if (d < best && counts(i)) [best, index] = [d, i];
		};
		for (let ring = 0; ring <= this.reach; ring++) {
			// What lies in the next ring is at least a ring away.
			if (best <= (ring - 1) * this.side) return { index, distance: best };
			// Rings that hold more cells than there are places cost more than asking all.
			if (ring > 3 && (2 * ring + 1) ** 3 > this.points.length) break;
			for (let k = -ring; k <= ring; k++)
				for (let j = -ring; j <= ring; j++)
					for (let i = -ring; i <= ring; i += Math.abs(k) === ring || Math.abs(j) === ring ? 1 : 2 * ring || 1)
						for (const p of this.cells.get(this.keyOf(x, y, z, i, j, k)) ?? []) look(p);
		}
		for (let i = 0; i < this.points.length; i++) look(i);
		return { index, distance: best };
	}
}

/** Tells whether any of some places is within a fixed distance, by cells of that size. */
export class Nearby {
	private readonly cells = new Map<number, number[]>();

	constructor(
		private readonly points: readonly { x: number; y: number; z: number }[],
		private readonly distance: number
	) {
		points.forEach((p, i) => {
			const key = this.keyOf(Math.floor(p.x / distance), Math.floor(p.y / distance), Math.floor(p.z / distance));
			const list = this.cells.get(key);
			if (list) list.push(i);
			else this.cells.set(key, [i]);
		});
	}

	/** Cells far from each other may share a key: their places are looked at, and are too far. */
	private keyOf = (i: number, j: number, k: number): number =>
		(Math.imul(i, 73856093) ^ Math.imul(j, 19349663) ^ Math.imul(k, 83492791)) | 0;

	isNear(x: number, y: number, z: number): boolean {
		const d = this.distance;
		const [ci, cj, ck] = [Math.floor(x / d), Math.floor(y / d), Math.floor(z / d)];
		for (let k = -1; k <= 1; k++)
			for (let j = -1; j <= 1; j++)
				for (let i = -1; i <= 1; i++)
					for (const n of this.cells.get(this.keyOf(ci + i, cj + j, ck + k)) ?? []) {
						const p = this.points[n]!;
						if ((p.x - x) ** 2 + (p.y - y) ** 2 + (p.z - z) ** 2 <= d * d) return true;
					}
		return false;
	}
}
