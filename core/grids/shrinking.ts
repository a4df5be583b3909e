import type { Segments } from './barriers';
import type { Points } from './points';

/** A map made shorter along a direction, about a place that stays. */
interface Shrinking {
	there(x: number, y: number): [number, number];
	back(x: number, y: number): [number, number];
}

/**
 * Makes the map shorter along a direction, so that readings along it count as nearer: what runs on that way (across the lines of a survey,
 * along a channel) is carried on. Distances across the direction stay as they are.
 * @param ratio how many times farther things reach along the direction than across it; 1 gives null
 * @param azimuth of the direction, degrees clockwise from north
 */
export function shrinkingOf(ratio: number, azimuth: number, about: Points): Shrinking | null {
	if (ratio === 1) return null;
	const n = about.x.length;
	let [cx, cy] = [0, 0];
	for (let i = 0; i < n; i++) [cx, cy] = [cx + about.x[i]! / n, cy + about.y[i]! / n];
	const a = (azimuth * Math.PI) / 180;
	const [s, c] = [Math.sin(a), Math.cos(a)];
	const by =
		(k: number) =>
		(x: number, y: number): [number, number] => {
			const [dx, dy] = [x - cx, y - cy];
			// What lies along the direction, times k − 1, is added.
			const more = (dx * s + dy * c) * (k - 1);
			return [x + more * s, y + more * c];
		};
	return { there: by(1 / ratio), back: by(ratio) };
}

export function shrunkPoints(s: Shrinking | null, points: Points): Points {
	if (!s) return points;
	const [x, y] = [points.x.slice(), points.y.slice()];
	for (let i = 0; i < x.length; i++) [x[i], y[i]] = s.there(x[i]!, y[i]!);
	return { ...points, x, y };
}

export function shrunkSegments(s: Shrinking | null, segments: Segments): Segments {
	if (!s) return segments;
	const out = segments.slice();
	for (let i = 0; i < out.length; i += 2) [out[i], out[i + 1]] = s.there(out[i]!, out[i + 1]!);
	return out;
}
