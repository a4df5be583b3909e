import type { HolePaths } from '#core/datasets/hole-paths';
import type { Box } from '#core/geometry/box';
import { outlying } from '#core/geometry/outlying';
import { rasterRange, type Raster } from '#core/grids/raster';

/** What a view frames before there is an extent: all holes but those far from all others; without any, the terrain. Null when there is nothing to see. */
export function boxOfData(paths: HolePaths | null | undefined, terrain: Raster | null): Box | null {
	const low = [Infinity, Infinity, Infinity];
	const high = [-Infinity, -Infinity, -Infinity];
	// A hole with a digit lost in its place would make all others too small to be seen.
	const far = outlying((paths?.holes ?? []).map((h) => [h.collar[0], h.collar[1]] as const));
	paths?.holes.forEach((_, h) => {
		if (far[h]) return;
		for (let i = 3 * paths.start[h]!; i < 3 * paths.start[h + 1]!; i++) {
			const v = paths.xyz[i]!;
			if (!Number.isFinite(v)) continue;
			low[i % 3] = Math.min(low[i % 3]!, v);
			high[i % 3] = Math.max(high[i % 3]!, v);
		}
	});
	if (low.every(Number.isFinite)) {
		// One hole, or holes in a row, have no width.
		const least = Math.max(1, ...high.map((h, c) => h - low[c]!)) / 10;
		const [a, b] = [low.map((v) => v - least / 2), high.map((v) => v + least / 2)];
		return { minX: a[0]!, minY: a[1]!, minZ: a[2]!, maxX: b[0]!, maxY: b[1]!, maxZ: b[2]! };
	}
	if (!terrain) return null;
	const { min, max } = rasterRange(terrain);
	if (!Number.isFinite(min)) return null;
	const [x1, y1] = [terrain.x0 + (terrain.nx - 1) * terrain.dx, terrain.y0 + (terrain.ny - 1) * terrain.dy];
	return { minX: terrain.x0, minY: terrain.y0, minZ: min - 1, maxX: x1, maxY: y1, maxZ: max + 1 };
}

/** Whether a view that was kept looks at a box: its target lies in it or near it, and it is not many times farther away than the box is large. */
export function seesBox(view: { position: readonly number[]; target: readonly number[] }, b: Box): boolean {
	const size = Math.hypot(b.maxX - b.minX, b.maxY - b.minY, b.maxZ - b.minZ);
	const off = Math.hypot(
		(b.minX + b.maxX) / 2 - view.target[0]!,
		(b.minY + b.maxY) / 2 - view.target[1]!,
		(b.minZ + b.maxZ) / 2 - view.target[2]!
	);
	const far = Math.hypot(...[0, 1, 2].map((c) => view.position[c]! - view.target[c]!));
	return off <= 2 * size && far > 1e-6 * size && far <= 20 * size;
}
