import Flatbush from 'flatbush';
import type { Segments } from './barriers';
import type { Frame } from './frame';

/** Distance of a place from a segment. */
function toSegment(s: Segments, k: number, x: number, y: number): number {
	const [ax, ay, bx, by] = [s[k]!, s[k + 1]!, s[k + 2]!, s[k + 3]!];
	const [dx, dy] = [bx - ax, by - ay];
	const length = dx * dx + dy * dy;
	const t = length > 0 ? Math.min(1, Math.max(0, ((x - ax) * dx + (y - ay) * dy) / length)) : 0;
	return Math.hypot(ax + t * dx - x, ay + t * dy - y);
}

/** Distance of the middle of each cell from the nearest of some segments, length units; NaN when there are none. */
export function distanceTo(segments: Segments, f: Frame): Float32Array {
	const out = new Float32Array(f.nx * f.ny).fill(NaN);
	const n = segments.length / 4;
	if (n === 0) return out;
	const index = new Flatbush(n);
	for (let k = 0; k < segments.length; k += 4)
		index.add(
			Math.min(segments[k]!, segments[k + 2]!),
			Math.min(segments[k + 1]!, segments[k + 3]!),
			Math.max(segments[k]!, segments[k + 2]!),
			Math.max(segments[k + 1]!, segments[k + 3]!)
		);
	index.finish();
	for (let j = 0, k = 0; j < f.ny; j++)
		for (let i = 0; i < f.nx; i++, k++) {
			const [x, y] = [f.x0 + i * f.dx, f.y0 + j * f.dy];
			let best = Infinity;
			// Boxes come in the order of their distance; one whose box is farther than what was found can not be nearer.
			for (let ask = Math.min(n, 4); ; ask = Math.min(n, 4 * ask)) {
				const near = index.neighbors(x, y, ask);
				for (const s of near) best = Math.min(best, toSegment(segments, 4 * s, x, y));
				if (ask === n || index.neighbors(x, y, ask + 1, best).length <= ask) break;
			}
			out[k] = best;
		}
	return out;
}
