import { gradientAt, inBlock, valueAt, type Field } from '../fields/field';
import type { GradientDatum, GroupDatum } from '../fields/data';
import type { Box } from '../geometry/box';
import { normalize } from '../geometry/vector';
import type { Observation } from '../units/contacts';
import type { OpenEnd } from '../units/column';

/** Directions in which the boundary is looked for, and levels to which it is carried on. */
const DIRECTIONS = 32;
const LEVELS = 4;
const STEPS = 200;

/** Where holes end (or begin) inside a body: below (or above) that nothing says where it goes. */
export function endsInside(seen: readonly Observation[], unit: number, down: boolean): Observation[] {
	const last = new Map<string, Observation>();
	for (const o of seen) {
		const known = last.get(o.hole);
		if (!known || (down ? o.depth > known.depth : o.depth < known.depth)) last.set(o.hole, o);
	}
	return [...last.values()].filter((o) => o.unit === unit);
}

/**
 * Carries a body on beyond where holes end inside it: its outline on the level of those ends (their median) is repeated down, or up, to
 * beyond the box, with its boundary upright.
 * @returns places on the boundary and how it lies there; nothing where no hole ends inside
 */
export function carriedOn(
	field: Field,
	seen: readonly Observation[],
	unit: number,
	opens: OpenEnd,
	box: Box,
	reach: number
): { points: GroupDatum[]; gradients: GradientDatum[] } {
	const out = { points: [] as GroupDatum[], gradients: [] as GradientDatum[] };
	const b = inBlock(field, 0);
	const level = field.levels[0]!;
	const inside = (x: number, y: number, z: number) => valueAt(b, x, y, z) >= level;
	for (const down of [true, false]) {
		if (opens !== 'both' && (opens === 'down') !== down) continue;
		const ends = endsInside(seen, unit, down);
		if (ends.length === 0) continue;
		const heights = ends.map((o) => o.z).sort((p, q) => p - q);
		// A little inside what was seen: at the very end the body begins to close.
		const z0 = heights[heights.length >> 1]! + (down ? 1 : -1) * 0.1 * reach;
		const [cx, cy] = [ends.reduce((s, o) => s + o.x, 0) / ends.length, ends.reduce((s, o) => s + o.y, 0) / ends.length];
		if (!inside(cx, cy, z0)) continue;
		const far = Math.hypot(box.maxX - box.minX, box.maxY - box.minY);
		const end = down ? box.minZ - reach : box.maxZ + reach;
		for (let d = 0; d < DIRECTIONS; d++) {
			const [ux, uy] = [Math.cos((2 * Math.PI * d) / DIRECTIONS), Math.sin((2 * Math.PI * d) / DIRECTIONS)];
			let r = 0;
			while (r < far && inside(cx + r * ux, cy + r * uy, z0)) r += far / STEPS;
			let low = Math.max(0, r - far / STEPS);
			for (let k = 0; k < 20; k++) {
				const middle = (low + r) / 2;
				if (inside(cx + middle * ux, cy + middle * uy, z0)) low = middle;
				else r = middle;
			}
			if (r >= far) continue;
			const [x, y] = [cx + r * ux, cy + r * uy];
			const [gx, gy] = gradientAt(b, x, y, z0);
			const gradient = Math.hypot(gx, gy) > 1e-9 ? normalize([gx, gy, 0]) : ([-ux, -uy, 0] as const);
			for (let k = 1; k <= LEVELS; k++) {
				const z = z0 + ((end - z0) * k) / LEVELS;
				out.points.push({ x, y, z, group: 0, block: 0 });
				out.gradients.push({ x, y, z, gradient: [gradient[0]!, gradient[1]!, 0], block: 0 });
			}
		}
	}
	return out;
}
