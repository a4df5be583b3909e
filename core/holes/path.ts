import { add, cross, dot, length, normalize, scale, subtract, type Vec3 } from '../geometry/vector';
import { lineAngles, lineDirection } from '../geometry/angles';

/** Depths that are nearer to each other are the same one. */
export const SAME_DEPTH = 1e-6;

/** One station of a deviation survey. */
export interface Station {
	/** Measured depth, project length units. */
	depth: number;
	/** Degrees clockwise from north. */
	azimuth: number;
	/** Signed degrees from horizontal; −90 is straight down. */
	inclination: number;
}

interface Leg {
	depth: number;
	length: number;
	start: Vec3;
	from: Vec3;
	to: Vec3;
	/** Angle between the two directions, radians. */
	dogleg: number;
}

/** A hole in space. */
export interface Path {
	collar: Vec3;
	totalDepth: number;
	legs: readonly Leg[];
}

/** One row of the path table of a hole. */
interface PathRow {
	measuredDepth: number;
	azimuth: number;
	inclination: number;
	trueVerticalDepth: number;
	easting: number;
	northing: number;
	elevation: number;
	/** Degrees per 30 length units. */
	doglegSeverity: number;
}

/**
 * The path of a hole by minimum curvature (Taylor & Mason 1972; Sawaryn & Thorogood 2005): each leg between two stations is
 * an arc of a circle that is tangent to both directions. Above the first and below the last station the hole goes straight on.
 * Without stations it is straight along `fallback`, vertical by default.
 *
 * @param collar easting, northing, elevation
 * @param totalDepth measured depth of the end, length units
 * @param stations in any order; two at one depth: the first in the list counts
 * @throws RangeError when two neighbouring stations point in opposite directions (no arc exists)
 */
export function holePath(
	collar: Vec3,
	totalDepth: number,
	stations: readonly Station[],
	fallback: { azimuth: number; inclination: number } = { azimuth: 0, inclination: -90 }
): Path {
	const sorted = [...stations].sort((a, b) => a.depth - b.depth).filter((s, i, all) => i === 0 || s.depth > all[i - 1]!.depth);
	const directions = sorted.map((s) => lineDirection(s.azimuth, s.inclination));
	const legs: Leg[] = [];
	let depth = 0;
	let start = collar;
	const push = (to: number, from: Vec3, until: Vec3) => {
		const legLength = to - depth;
		if (legLength <= 0) return;
		const dogleg = Math.atan2(length(cross(from, until)), dot(from, until));
		if (dogleg > Math.PI - 1e-6) throw new RangeError(`the hole turns straight back on itself at ${depth} along the hole`);
		const leg = { depth, length: legLength, start, from, to: until, dogleg };
		legs.push(leg);
		start = pointOnLeg(leg, legLength);
		depth = to;
	};
	if (sorted.length === 0) {
		const direction = lineDirection(fallback.azimuth, fallback.inclination);
		push(totalDepth, direction, direction);
	} else {
		push(sorted[0]!.depth, directions[0]!, directions[0]!);
		for (let i = 1; i < sorted.length; i++) push(sorted[i]!.depth, directions[i - 1]!, directions[i]!);
		const last = directions[directions.length - 1]!;
		push(totalDepth, last, last);
	}
	return { collar, totalDepth, legs };
}

/**
 * The path of a hole through measured points, straight from one to the next.
 * @param points in order down the hole; `depth` may be missing, then the length along the points counts
 */
export function pathThrough(collar: Vec3, totalDepth: number, points: readonly { at: Vec3; depth?: number }[]): Path {
	const legs: Leg[] = [];
	let start = collar;
	let depth = 0;
	for (const p of points) {
		const chord = subtract(p.at, start);
		const l = length(chord);
		const to = p.depth ?? depth + l;
		if (l < 1e-9 || to <= depth) continue;
		const direction = scale(chord, 1 / l);
		// A stated depth that is not the length of the chord stretches the leg: positions stay on the points.
		legs.push({ depth, length: to - depth, start, from: scale(chord, 1 / (to - depth)), to: direction, dogleg: 0 });
		start = p.at;
		depth = to;
	}
	const last = legs[legs.length - 1]?.to ?? ([0, 0, -1] as const);
	if (totalDepth > depth) legs.push({ depth, length: totalDepth - depth, start, from: last, to: last, dogleg: 0 });
	return { collar, totalDepth, legs };
}

/** Position on the arc, not on the chord; the quotients stay exact for doglegs down to the smallest number. */
function pointOnLeg(leg: Leg, along: number): Vec3 {
	const { dogleg } = leg;
	if (dogleg < 1e-12) return add(leg.start, scale(leg.from, along));
	const angle = (dogleg * along) / leg.length;
	const half = Math.sin(angle / 2);
	const common = (2 * half * leg.length) / (dogleg * Math.sin(dogleg));
	return add(leg.start, add(scale(leg.from, common * Math.sin(dogleg - angle / 2)), scale(leg.to, common * half)));
}

function legAt(path: Path, depth: number): Leg {
	let low = 0;
	let high = path.legs.length - 1;
	while (low < high) {
		const middle = (low + high + 1) >> 1;
		if (path.legs[middle]!.depth <= depth) low = middle;
		else high = middle - 1;
	}
	return path.legs[low]!;
}

/** Position at a measured depth. Depths outside the hole continue straight. */
export function positionAt(path: Path, depth: number): Vec3 {
	if (path.legs.length === 0) return path.collar;
	const leg = legAt(path, depth);
	const along = depth - leg.depth;
	if (along > leg.length) return add(pointOnLeg(leg, leg.length), scale(leg.to, along - leg.length));
	if (along < 0) return add(leg.start, scale(leg.from, along));
	return pointOnLeg(leg, along);
}

/** Unit vector down the hole at a measured depth. */
export function directionAt(path: Path, depth: number): Vec3 {
	if (path.legs.length === 0) return [0, 0, -1];
	const leg = legAt(path, depth);
	if (leg.dogleg < 1e-12) return normalize(leg.from);
	const angle = leg.dogleg * Math.min(1, Math.max(0, (depth - leg.depth) / leg.length));
	const s = Math.sin(leg.dogleg);
	return add(scale(leg.from, Math.sin(leg.dogleg - angle) / s), scale(leg.to, Math.sin(angle) / s));
}

/** The path table: one row per station and one for the end of the hole. */
export function pathTable(path: Path): PathRow[] {
	const rows: PathRow[] = [];
	const row = (depth: number, doglegSeverity: number) => {
		const [easting, northing, elevation] = positionAt(path, depth);
		const { azimuth, inclination } = lineAngles(directionAt(path, depth));
		rows.push({
			measuredDepth: depth,
			azimuth,
			inclination,
			trueVerticalDepth: path.collar[2] - elevation,
			easting,
			northing,
			elevation,
			doglegSeverity
		});
	};
	row(0, 0);
	for (const leg of path.legs) row(leg.depth + leg.length, (leg.dogleg / leg.length) * 30 * (180 / Math.PI));
	return rows;
}

/** Points along the hole for drawing, at most `step` apart, flat xyz of length 3 × n. */
export function samplePath(path: Path, step: number): { depths: Float64Array; xyz: Float64Array } {
	const depths: number[] = [];
	for (const leg of path.legs) {
		if (leg.depth >= path.totalDepth) break;
		const end = Math.min(leg.length, path.totalDepth - leg.depth);
		const n = leg.dogleg < 1e-9 ? 1 : Math.max(1, Math.ceil(end / step));
		for (let i = 0; i < n; i++) depths.push(leg.depth + (end * i) / n);
	}
	depths.push(path.totalDepth);
	const xyz = new Float64Array(depths.length * 3);
	depths.forEach((d, i) => xyz.set(positionAt(path, d), 3 * i));
	return { depths: Float64Array.from(depths), xyz };
}
