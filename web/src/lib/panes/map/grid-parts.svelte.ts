import { rasterOf } from '#core/formats/raster-pack';
import { readPack } from '#core/formats/pack';
import type { NumberColumn } from '#core/datasets/dataset';
import { dataSetOfGrid } from '#core/datasets/readings';
import { frameBox, type Rectangle } from '#core/grids/frame';
import { rankedAs } from '#core/styles/style';
import type { Thing } from '$lib/workspace-parts';

type Grid = Extract<Thing, { kind: 'grid' }>;

/** Cells of a part that is read at a time, at most: more than a screen has points. */
const MOST_CELLS = 2_000_000;
/** Milliseconds that the map stands still before a part is read. */
const PAUSE = 150;

/** The part of a large grid that a map looks at, with cells as fine as the map can show. */
export class GridParts {
	/** By the id of the grid. */
	private found = $state.raw<ReadonlyMap<string, Grid>>(new Map());
	private timer: ReturnType<typeof setTimeout> | null = null;
	private asked = 0;

	/** The part that was read of a grid; null where its wider cells do. */
	of(g: Grid): Grid | null {
		const part = this.found.get(g.id);
		return part && part.part === g.part && part.every < g.every ? part : null;
	}

	/**
	 * Reads what is looked at, once the map stands still. What is there and fine enough is kept.
	 * @param box what the map shows @param resolution length units of a point of the screen
	 */
	look(grids: readonly Grid[], box: Rectangle, resolution: number): void {
		if (this.timer) clearTimeout(this.timer);
		const wanted = grids.filter((g) => needsPart(g, resolution) && meets(frameBox(g.raster), box));
		if (wanted.length === 0) return;
		this.timer = setTimeout(() => void this.read(wanted, box, resolution), PAUSE);
	}

	private async read(grids: readonly Grid[], box: Rectangle, resolution: number): Promise<void> {
		const asked = ++this.asked;
		for (const g of grids) {
			const known = this.found.get(g.id);
			if (
				known &&
				known.part === g.part &&
				covers(frameBox(known.raster), within(box, frameBox(g.raster))) &&
				!needsPart(known, resolution)
			)
				continue;
			// A margin, so that a small move shows no rim.
			const [w, h] = [(box.maxX - box.minX) / 4, (box.maxY - box.minY) / 4];
			const wide = { minX: box.minX - w, minY: box.minY - h, maxX: box.maxX + w, maxY: box.maxY + h };
			try {
				const pack = readPack(await g.part!(wide, MOST_CELLS));
				if (asked !== this.asked) return;
				const raster = rasterOf(pack);
				const every = Number(pack.info['every']);
				if (raster.values.length === 0) continue;
				const set = dataSetOfGrid(raster, g.id, g.name);
				rankedAs(set.columns[0] as NumberColumn, g.set.columns[0] as NumberColumn);
				this.found = new Map(this.found).set(g.id, { ...g, raster, every, set });
			} catch {
				// The wider cells stay; the next move asks again.
			}
		}
	}

	end(): void {
		if (this.timer) clearTimeout(this.timer);
		this.asked++;
	}
}

/** Whether a map shows more than the cells of a grid hold: a cell covers more than two points of the screen, and there are finer ones. */
export const needsPart = (g: Pick<Grid, 'every' | 'part' | 'raster'>, resolution: number): boolean =>
	g.part !== null && g.every > 1 && Math.abs(g.raster.dx) > 2 * resolution;

const meets = (a: Rectangle, b: Rectangle) => a.minX < b.maxX && b.minX < a.maxX && a.minY < b.maxY && b.minY < a.maxY;
const within = (a: Rectangle, b: Rectangle): Rectangle => ({
	minX: Math.max(a.minX, b.minX),
	minY: Math.max(a.minY, b.minY),
	maxX: Math.min(a.maxX, b.maxX),
	maxY: Math.min(a.maxY, b.maxY)
});
const covers = (a: Rectangle, b: Rectangle) => a.minX <= b.minX && a.minY <= b.minY && a.maxX >= b.maxX && a.maxY >= b.maxY;
