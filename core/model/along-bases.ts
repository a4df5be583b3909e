import { valuesSteps } from '../fields/steps';
import type { GroundInput } from './ground';
import type { HoleDatum } from './neighbours';
import type { Held } from './vary';

/** Places along each side of the extent, and steps of Newton's method to find how deep the base lies there. */
const ASKED = 25;
const STEPS = 3;
/** How far below it is asked, too, as shares of the reach of the extent: one that runs off lies far below where the shape has it. */
const DOWN = [0, 0.08, 0.25];
/** Share of how far its contacts are off the shape in all by which a base may lie lower than all of them. */
const LOWER = 0.25;

/** Places all over the base of each unit, as the shape has it, at which it may lie no lower than its contacts show. */
export function alongBases(
	points: readonly HoleDatum[],
	{ extent: e }: GroundInput,
	block: (p: { x: number; y: number; z: number }) => number
): Held {
	const reach = Math.hypot(e.maxX - e.minX, e.maxY - e.minY) / 2;
	return {
		*places(g, shape) {
			const own = points.filter((p) => p.group === g);
			const mean = own.reduce((sum, p) => sum + p.z, 0) / Math.max(1, own.length);
			let places = Array.from({ length: ASKED * ASKED }, (_, i) => ({
				x: e.minX + ((e.maxX - e.minX) * (i % ASKED)) / (ASKED - 1),
				y: e.minY + ((e.maxY - e.minY) * Math.floor(i / ASKED)) / (ASKED - 1),
				z: mean
			})).map((p) => ({ ...p, block: block(p) }));
			const [step, most] = [1e-3 * (e.maxZ - e.minZ), e.maxZ - e.minZ];
			for (let round = 0; round < STEPS; round++) {
				const at = yield* valuesSteps(shape, places);
				const above = yield* valuesSteps(
					shape,
					places.map((p) => ({ ...p, z: p.z + step }))
				);
				places = places.flatMap((p, i) => {
					const by = ((shape.levels[g]! - at[i]!) * step) / (above[i]! - at[i]!);
					if (!(Math.abs(by) < most)) return [];
					const moved = { x: p.x, y: p.y, z: p.z + by };
					return [{ ...moved, block: block(moved) }];
				});
			}
			return DOWN.flatMap((down) =>
				places.map((p) => {
					const under = { x: p.x, y: p.y, z: p.z - down * reach };
					return { ...under, block: block(under) };
				})
			).filter((p) => p.z >= e.minZ && p.z <= e.maxZ);
		},
		sense: () => 1,
		by: (spread) => LOWER * spread,
		apart: (2 * reach) / (ASKED - 1)
	};
}
