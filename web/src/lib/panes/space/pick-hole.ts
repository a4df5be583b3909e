import * as THREE from 'three';
import { placeAt, type HolePaths } from '#core/datasets/hole-paths';
import type { Stage } from './stage';

/** Pixels from a hole at which it is still met. */
const NEAR = 6;

/**
 * The hole near a place of the canvas (−1 … 1 both ways) that lies nearest to the viewer, with the depth that is met.
 * @param wanted holes that are shown
 * @param visible whether a place is not cut away
 */
export function pickHole(
	stage: Stage,
	paths: HolePaths,
	[nx, ny]: readonly [number, number],
	wanted: (h: number) => boolean,
	visible: (p: THREE.Vector3) => boolean
): { x: number; y: number; z: number; hole: number; depth: number } | null {
	const px = ((nx + 1) / 2) * stage.width;
	const py = ((1 - ny) / 2) * stage.height;
	let best: { h: number; depth: number; far: number } | null = null;
	const p = new THREE.Vector3();
	for (let h = 0; h < paths.holes.length; h++) {
		if (!wanted(h)) continue;
		let before: { x: number; y: number; depth: number } | null = null;
		for (let v = paths.start[h]!; v < paths.start[h + 1]!; v++) {
			p.copy(stage.toScene(paths.xyz[3 * v]!, paths.xyz[3 * v + 1]!, paths.xyz[3 * v + 2]!));
			const q = stage.project(p);
			if (before && q.depth < 1 && before.depth < 1) {
				const [dx, dy] = [q.x - before.x, q.y - before.y];
				const square = dx * dx + dy * dy;
				const t = square === 0 ? 0 : Math.min(1, Math.max(0, ((px - before.x) * dx + (py - before.y) * dy) / square));
				const off = Math.hypot(px - before.x - t * dx, py - before.y - t * dy);
				const far = before.depth + t * (q.depth - before.depth);
				if (off < NEAR && (!best || far < best.far))
					best = { h, depth: paths.depths[v - 1]! + t * (paths.depths[v]! - paths.depths[v - 1]!), far };
			}
			before = q;
		}
	}
	if (!best) return null;
	const at: [number, number, number] = [0, 0, 0];
	placeAt(paths, best.h, best.depth, at);
	if (!visible(stage.toScene(...at))) return null;
	return { x: at[0], y: at[1], z: at[2], hole: best.h, depth: best.depth };
}
