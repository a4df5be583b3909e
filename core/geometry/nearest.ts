/** Up to so many places are all asked: that costs less than looking for their cells. */
const FEW = 64;

/** Cells far from each other may share a key: their places are looked at, and are too far. */
const keyOf = (i: number, j: number, k: number): number => (Math.imul(i, 73856093) ^ Math.imul(j, 19349663) ^ Math.imul(k, 83492791)) | 0;

/** Places by cells of a regular grid, to find the nearest one without asking them all. */
export class NearestPoint {
	private readonly cells = new Map<number, number[]>();
	private readonly side: number;
	private readonly reach: number;
	/** Coordinates, 3 a place. */
	private readonly at: Float64Array;
	private readonly count: number;
	/** Of what is looked for now: its place, who counts, and the nearest so far with its distance squared. */
	private x = 0;
	private y = 0;
	private z = 0;
	private counts: ((i: number) => boolean) | undefined;
	private best = Infinity;
	private index = -1;

	constructor(points: readonly { x: number; y: number; z: number }[]) {
		const low = [Infinity, Infinity, Infinity];
		const high = [-Infinity, -Infinity, -Infinity];
		this.count = points.length;
		this.at = new Float64Array(3 * points.length);
		points.forEach((p, i) => {
			this.at.set([p.x, p.y, p.z], 3 * i);
			for (let c = 0; c < 3; c++) {
				low[c] = Math.min(low[c]!, this.at[3 * i + c]!);
				high[c] = Math.max(high[c]!, this.at[3 * i + c]!);
			}
		});
		const longest = Math.max(...[0, 1, 2].map((c) => high[c]! - low[c]!), 1e-9);
		// As many cells along the longest side as makes about one place in each that is not empty, for places that lie on a sheet.
		this.side = longest / Math.max(1, Math.round(Math.sqrt(points.length)));
		this.reach = Math.ceil(longest / this.side) + 1;
		if (this.count <= FEW) return;
		for (let i = 0; i < this.count; i++) {
			const key = keyOf(this.cell(this.at[3 * i]!), this.cell(this.at[3 * i + 1]!), this.cell(this.at[3 * i + 2]!));
			const list = this.cells.get(key);
			if (list) list.push(i);
			else this.cells.set(key, [i]);
		}
	}

	private cell(coordinate: number): number {
		return Math.floor(coordinate / this.side);
	}

	/**
	 * Distance to the nearest place that counts; Infinity when there is none.
	 * @param counts leaves places out
	 */
	distance(x: number, y: number, z: number, counts?: (i: number) => boolean): number {
		return this.nearest(x, y, z, counts).distance;
	}

	/** The nearest place that counts, with its distance; −1 when there is none. */
	nearest(x: number, y: number, z: number, counts?: (i: number) => boolean): { index: number; distance: number } {
		[this.x, this.y, this.z, this.counts] = [x, y, z, counts];
		this.best = Infinity;
		this.index = -1;
		if (this.count <= FEW || !this.lookAround()) for (let i = 0; i < this.count; i++) this.look(i);
		const { at, index } = this;
		return { index, distance: index < 0 ? Infinity : Math.hypot(at[3 * index]! - x, at[3 * index + 1]! - y, at[3 * index + 2]! - z) };
	}

	private look(i: number): void {
		const { at } = this;
		const x = at[3 * i]! - this.x;
		const y = at[3 * i + 1]! - this.y;
		const z = at[3 * i + 2]! - this.z;
		const d = x * x + y * y + z * z;
		// What has no place is no nearer than anything.
		if (!(d < this.best) || (this.counts && !this.counts(i))) return;
		this.best = d;
		this.index = i;
	}

	/** Looks at cells ring by ring. @returns false when all places have to be asked instead */
	private lookAround(): boolean {
		const { cells, side } = this;
		const [x, y, z] = [this.cell(this.x), this.cell(this.y), this.cell(this.z)];
		for (let ring = 0; ring <= this.reach; ring++) {
			// What lies in the next ring is at least a ring away.
			if (ring > 0 && this.best <= ((ring - 1) * side) ** 2) return true;
			// Rings that hold more cells than there are places cost more than asking all.
			if (ring > 3 && (2 * ring + 1) ** 3 > this.count) return false;
			for (let k = -ring; k <= ring; k++)
				for (let j = -ring; j <= ring; j++) {
					const step = k === ring || k === -ring || j === ring || j === -ring ? 1 : 2 * ring || 1;
					for (let i = -ring; i <= ring; i += step) {
						const list = cells.get(keyOf(x + i, y + j, z + k));
						if (list) for (let n = 0; n < list.length; n++) this.look(list[n]!);
					}
				}
		}
		return false;
	}
}

/** Tells whether any of some places is within a fixed distance, by cells of that size. */
export class Nearby {
	private readonly cells = new Map<number, number[]>();
	/** The cell that was asked last, and the places in it and around it. */
	private readonly cell = [NaN, NaN, NaN];
	private readonly around: number[] = [];

	constructor(
		private readonly points: readonly { x: number; y: number; z: number }[],
		private readonly distance: number
	) {
		points.forEach((p, i) => {
			const key = keyOf(Math.floor(p.x / distance), Math.floor(p.y / distance), Math.floor(p.z / distance));
			const list = this.cells.get(key);
			if (list) list.push(i);
			else this.cells.set(key, [i]);
		});
	}

	isNear(x: number, y: number, z: number): boolean {
		const d = this.distance;
		this.lookIn(Math.floor(x / d), Math.floor(y / d), Math.floor(z / d));
		for (const n of this.around) {
			const p = this.points[n]!;
			if ((p.x - x) ** 2 + (p.y - y) ** 2 + (p.z - z) ** 2 <= d * d) return true;
		}
		return false;
	}

	/** Gathers the places in a cell and around it. Who asks for many places goes from one to the next: the cell is often that of the last. */
	private lookIn(ci: number, cj: number, ck: number): void {
		const { cell, around } = this;
		if (cell[0] === ci && cell[1] === cj && cell[2] === ck) return;
		[cell[0], cell[1], cell[2]] = [ci, cj, ck];
		around.length = 0;
		for (let k = -1; k <= 1; k++)
			for (let j = -1; j <= 1; j++)
				for (let i = -1; i <= 1; i++) for (const n of this.cells.get(keyOf(ci + i, cj + j, ck + k)) ?? []) around.push(n);
	}
}
