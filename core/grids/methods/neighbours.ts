import Flatbush from 'flatbush';
import type { Barriers } from '../barriers';
import type { Points } from '../points';

/** Which readings count for a place. */
export interface Search {
	/** Most and least readings; a place that has fewer gets no value. */
	most: number;
	least: number;
	/** Length units; 0 is without limit. */
	radius: number;
	/** Readings are looked for in each of so many sectors; 1 does not part them. */
	sectors: 1 | 4 | 8;
}

/** The nearest readings of a place, by an index of rectangles (flatbush). */
export class Neighbours {
	private readonly index: Flatbush;

	constructor(
		private readonly points: Points,
		private readonly barriers: Barriers,
		private readonly search: Search
	) {
		this.index = new Flatbush(points.x.length);
		for (let i = 0; i < points.x.length; i++) this.index.add(points.x[i]!, points.y[i]!, points.x[i]!, points.y[i]!);
		this.index.finish();
	}

	/** Numbers of the readings, the nearest first; empty when there are fewer than the least. */
	around(x: number, y: number, without = -1): number[] {
		const { most, least, radius, sectors } = this.search;
		const reach = radius > 0 ? radius : Infinity;
		const visible = (i: number) => i !== without && !this.barriers.between(x, y, this.points.x[i]!, this.points.y[i]!);
		const plain = !this.barriers.any && without < 0;
		const count = this.points.x.length;
		let found: number[];
		if (sectors === 1) found = this.index.neighbors(x, y, Math.min(most, count), reach, plain ? undefined : visible);
		else {
			const room = Math.max(1, Math.ceil(most / sectors));
			const taken = new Uint32Array(sectors);
			found = [];
			// The nearest come first, and each sector takes what it has room for.
			for (let ask = Math.min(count, 4 * most); ; ask = Math.min(count, 4 * ask)) {
				const near = this.index.neighbors(x, y, ask, reach, plain ? undefined : visible);
				taken.fill(0);
				found = near.filter((i) => {
					const turn = (Math.atan2(this.points.y[i]! - y, this.points.x[i]! - x) / (2 * Math.PI) + 1) % 1;
					const sector = Math.min(sectors - 1, Math.floor(turn * sectors));
					return taken[sector]!++ < room;
				});
				if (near.length < ask || ask === count || found.length >= sectors * room || ask >= 64 * most) break;
			}
		}
		return found.length < least ? [] : found;
	}
}
