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

	/** Whether there is a place within a distance. */
	isWithin(x: number, y: number, z: number, distance: number): boolean {
		const rings = Math.ceil(distance / this.side);
		if ((2 * rings + 1) ** 3 > this.points.length) return this.points.some((p) => Math.hypot(p.x - x, p.y - y, p.z - z) <= distance);
		for (let k = -rings; k <= rings; k++)
			for (let j = -rings; j <= rings; j++)
				for (let i = -rings; i <= rings; i++)
					for (const n of this.cells.get(this.keyOf(x, y, z, i, j, k)) ?? []) {
						const p = this.points[n]!;
						if (Math.hypot(p.x - x, p.y - y, p.z - z) <= distance) return true;
					}
		return false;
	}

	/**
	 * Distance to the nearest place that counts; Infinity when there is none.
	 * @param counts leaves places out
	 */
	distance(x: number, y: number, z: number, counts: (i: number) => boolean = () => true): number {
		let best = Infinity;
		const look = (i: number) => {
			const p = this.points[i]!;
			const d = Math.hypot(p.x - x, p.y - y, p.z - z);
			if (d < best && counts(i)) best = d;
		};
		for (let ring = 0; ring <= this.reach; ring++) {
			// What lies in the next ring is at least a ring away.
			if (best <= (ring - 1) * this.side) return best;
			// Rings that hold more cells than there are places cost more than asking all.
			if (ring > 3 && (2 * ring + 1) ** 3 > this.points.length) break;
			for (let k = -ring; k <= ring; k++)
				for (let j = -ring; j <= ring; j++)
					for (let i = -ring; i <= ring; i += Math.abs(k) === ring || Math.abs(j) === ring ? 1 : 2 * ring || 1) for (const p of this.cells.get(this.keyOf(x, y, z, i, j, k)) ?? []) look(p);
		}
		for (let i = 0; i < this.points.length; i++) look(i);
		return best;
	}
}
