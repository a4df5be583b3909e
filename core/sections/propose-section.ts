import type { Box } from '../geometry/box';

/** A line through as many holes as one straight line can meet. */
export interface ProposedSection {
	trace: [[number, number], [number, number]];
	/** Width on both sides together, length units. */
	corridor: number;
	/** Holes in it. */
	holes: number;
}

const DIRECTIONS = 36;
/** What a hole less is worth for a line that runs across the trend rather than along it. */
const ACROSS = 0.15;

/**
 * A first section: the straight line with the most holes in its corridor, of lines with almost as many the one that runs most
 * across the trend.
 * @param places collars on the map
 * @param extent the line ends at its sides
 * @param trend azimuth of the strike, degrees, where it is known; else the long axis of the holes is taken for it
 * @returns null without two holes at different places
 */
export function proposeSection(places: readonly (readonly [number, number])[], extent: Box, trend: number | null): ProposedSection | null {
	const inside = places.filter(([x, y]) => x >= extent.minX && x <= extent.maxX && y >= extent.minY && y <= extent.maxY);
	const width = extent.maxX - extent.minX;
	const height = extent.maxY - extent.minY;
	if (inside.length < 2 || !(width > 0) || !(height > 0)) return null;
	// Holes on an even net would stand so far apart.
	const corridor = Math.sqrt((width * height) / inside.length) / 2;
	const strike = ((trend ?? longAxis(inside)) * Math.PI) / 180;
	let best = { score: -Infinity, angle: 0, offset: 0, holes: 0 };
	for (let d = 0; d < DIRECTIONS; d++) {
		const angle = (d * Math.PI) / DIRECTIONS;
		// Distance of each hole from the line through the origin.
		const sides = inside.map(([x, y]) => x * Math.cos(angle) - y * Math.sin(angle)).sort((a, b) => a - b);
		const across = Math.abs(Math.sin(angle - strike));
		for (let i = 0, k = 0; i < sides.length; i++) {
			while (k < sides.length && sides[k]! - sides[i]! <= corridor) k++;
			const score = (k - i) * (1 - ACROSS + ACROSS * across);
			if (score > best.score + 1e-9) best = { score, angle, offset: (sides[i]! + sides[k - 1]!) / 2, holes: k - i };
		}
	}
	const trace = clipped(best.angle, best.offset, extent);
	return trace && { trace, corridor: Number(corridor.toPrecision(2)), holes: best.holes };
}

/** Azimuth of the long axis of places, degrees. */
function longAxis(places: readonly (readonly [number, number])[]): number {
	const mean = [0, 1].map((k) => places.reduce((s, p) => s + p[k]!, 0) / places.length);
	let [xx, yy, xy] = [0, 0, 0];
	for (const [x, y] of places) {
		xx += (x - mean[0]!) ** 2;
		yy += (y - mean[1]!) ** 2;
		xy += (x - mean[0]!) * (y - mean[1]!);
	}
	return 90 - (Math.atan2(2 * xy, xx - yy) * 90) / Math.PI;
}

/** The line of an azimuth (radians) at a distance from the origin, within a box; from the west, or from the south. */
function clipped(angle: number, offset: number, b: Box): [[number, number], [number, number]] | null {
	const [dx, dy] = [Math.sin(angle), Math.cos(angle)];
	const [x0, y0] = [offset * Math.cos(angle), -offset * Math.sin(angle)];
	let [from, to] = [-Infinity, Infinity];
	for (const [at, step, least, most] of [
		[x0, dx, b.minX, b.maxX],
		[y0, dy, b.minY, b.maxY]
	] as const) {
		if (Math.abs(step) < 1e-12) {
			if (at < least || at > most) return null;
			continue;
		}
		const ends = [(least - at) / step, (most - at) / step];
		from = Math.max(from, Math.min(...ends));
		to = Math.min(to, Math.max(...ends));
	}
	if (!(to > from)) return null;
	const tidy = (v: number) => Math.round(v * 10) / 10;
	return [
		[tidy(x0 + from * dx), tidy(y0 + from * dy)],
		[tidy(x0 + to * dx), tidy(y0 + to * dy)]
	];
}
