/** An axis-aligned box in project coordinates. */
export interface Box {
	minX: number;
	minY: number;
	minZ: number;
	maxX: number;
	maxY: number;
	maxZ: number;
}

export const boxVolume = (b: Box): number => (b.maxX - b.minX) * (b.maxY - b.minY) * (b.maxZ - b.minZ);

export const boxDiagonal = (b: Box): number => Math.hypot(b.maxX - b.minX, b.maxY - b.minY, b.maxZ - b.minZ);

/** True when every edge of the box is a finite, positive length. */
export const boxIsSolid = (b: Box): boolean =>
	[b.maxX - b.minX, b.maxY - b.minY, b.maxZ - b.minZ].every((e) => Number.isFinite(e) && e > 0);

export const boxContains = (b: Box, x: number, y: number, z: number): boolean =>
	x >= b.minX && x <= b.maxX && y >= b.minY && y <= b.maxY && z >= b.minZ && z <= b.maxZ;
