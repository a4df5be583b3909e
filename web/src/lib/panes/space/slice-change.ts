import { planeAngles } from '#core/geometry/angles';
import type { Vec3 } from '#core/geometry/vector';
import type { Box } from '#core/geometry/box';
import type { Slice } from '$lib/workbench/state';

/** A slice after it was dragged in space. @param normal of its plane; a slice that lies freely turns with it */
export function movedSlice(now: Slice, at: Slice['at'], normal: Vec3): Slice {
	if (now.kind !== 'free') return { ...now, at };
	const angles = planeAngles(now.flipped ? normal : [-normal[0], -normal[1], -normal[2]]);
	const round = (v: number) => Math.round(v * 10) / 10;
	return { ...now, at, dip: round(angles.dip), azimuth: round(angles.dipAzimuth) };
}

/** A slice after something of it was chosen: the first one goes through the middle of the model. */
export function changedSlice(now: Slice, part: Partial<Slice>, extent: Box | null): Slice {
	const isFirst = now.kind === 'none' && extent && part.kind;
	return {
		...now,
		...(isFirst ? { at: [(extent.minX + extent.maxX) / 2, (extent.minY + extent.maxY) / 2, (extent.minZ + extent.maxZ) / 2] } : {}),
		...part
	};
}
