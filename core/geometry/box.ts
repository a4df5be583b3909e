/** An axis-aligned box in project coordinates. */
export interface Box {
	minX: number;
	minY: number;
	minZ: number;
	maxX: number;
	maxY: number;
	maxZ: number;
}

export const boxDiagonal = (b: Box): number => Math.hypot(b.maxX - b.minX, b.maxY - b.minY, b.maxZ - b.minZ);

/** True when every edge of the box is a finite, positive length. */
export const boxIsSolid = (b: Box): boolean =>
	[b.maxX - b.minX, b.maxY - b.minY, b.maxZ - b.minZ].every((e) => Number.isFinite(e) && e > 0);
