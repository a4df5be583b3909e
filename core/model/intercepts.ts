import { orientationTensor } from '../directions/stereonet';
import { dot, scale, subtract, type Vec3 } from '../geometry/vector';
import { SAME_DEPTH } from '../holes/path';
import type { ContactPoint, Observation, Stretch } from '../units/contacts';

/** Intercepts around one that tell how a sheet lies there. */
const NEIGHBOURS = 6;

/** Where a hole crosses an intrusion. */
export interface Intercept {
	middle: Vec3;
	/** Midway of what was seen of it, where that goes on from the one contact that was met. */
	centre?: Vec3;
	/** Both ends, or the one that was met. */
	contacts: ContactPoint[];
	/** Rows of the log that agree on it one after the other, at most; none where it is not of a log. */
	rows?: number;
}
/** Where the sheet is, nearest to what is known. */
export const centreOf = (i: Intercept): Vec3 => i.centre ?? i.middle;
/** Length of what was seen of it along its hole, length units. */
export function extentOf(i: Intercept): number {
	const { x, y, z } = i.contacts[0]!;
	return 2 * Math.hypot(...subtract(centreOf(i), [x, y, z]));
}

/**
 * Contacts of one hole by the run of the intrusion that they bound; contacts without one (traces on the map) are runs of their own. Where one
 * end of a run was not logged it is not taken to the next run: older rock was seen on the way there.
 */
export function interceptsOf(contacts: readonly ContactPoint[], seen: readonly Observation[], unit: number): Intercept[] {
	const byHole = new Map<string, { contacts: ContactPoint[]; inside: Observation[]; older: Observation[] }>();
	const of = (hole: string) => {
		let h = byHole.get(hole);
		if (!h) byHole.set(hole, (h = { contacts: [], inside: [], older: [] }));
		return h;
	};
	for (const c of contacts) of(c.hole).contacts.push(c);
	for (const o of seen) if (o.unit >= unit) byHole.get(o.hole)?.[o.unit === unit ? 'inside' : 'older'].push(o);
	const out: Intercept[] = [];
	for (const h of byHole.values()) {
		h.contacts.sort((a, b) => a.depth - b.depth);
		for (let i = 0; i < h.contacts.length; i++) {
			const [a, b] = [h.contacts[i]!, h.contacts[i + 1]];
			const between = (o: Observation) => b !== undefined && o.depth > a.depth + SAME_DEPTH && o.depth < b.depth - SAME_DEPTH;
			if (b && h.inside.some(between) && !h.older.some(between)) {
				out.push({
					middle: [(a.x + b.x) / 2, (a.y + b.y) / 2, (a.z + b.z) / 2],
					contacts: [a, b],
					...rowsOf(h.inside.filter(between))
				});
				i++;
			} else {
				const last = lastInside(h, a.depth, h.contacts[i - 1]?.depth ?? -Infinity, b?.depth ?? Infinity);
				out.push({
					middle: [a.x, a.y, a.z],
					contacts: [a],
					...(last
						? {
								centre: [(a.x + last.x) / 2, (a.y + last.y) / 2, (a.z + last.z) / 2],
								...rowsOf(h.inside.filter((o) => (o.depth - a.depth) * (last.depth - o.depth) >= 0))
							}
						: {})
				});
			}
		}
	}
	return out.sort((a, b) => a.middle[0] - b.middle[0] || a.middle[1] - b.middle[1] || a.middle[2] - b.middle[2]);
}

function rowsOf(inside: readonly Observation[]): { rows?: number } {
	const rows = inside.flatMap((o) => o.rows ?? []);
	return rows.length ? { rows: Math.max(...rows) } : {};
}

/** The farthest place inside that is seen from the one contact of a run, between the contacts next to it. */
function lastInside(
	h: { inside: readonly Observation[]; older: readonly Observation[] },
	at: number,
	above: number,
	below: number
): Observation | undefined {
	const away = (o: Observation) => Math.abs(o.depth - at);
	const [down, up] = [true, false].map((isDown) => {
		const side = (o: Observation) => (isDown ? o.depth > at + SAME_DEPTH && o.depth < below : o.depth < at - SAME_DEPTH && o.depth > above);
		const end = Math.min(Infinity, ...h.older.filter(side).map(away));
		return h.inside.filter((o) => side(o) && away(o) < end).sort((a, b) => away(b) - away(a))[0];
	});
	return down && up ? undefined : (down ?? up);
}

/** Mean of places. */
export const meanOf = (list: readonly Vec3[]): Vec3 =>
	scale(
		list.reduce<Vec3>((a, b) => [a[0] + b[0], a[1] + b[1], a[2] + b[2]], [0, 0, 0]),
		1 / list.length
	);

/** Normal of the plane through places. */
export function planeOf(places: readonly Vec3[]): Vec3 {
	const center = meanOf(places);
	return orientationTensor(places.map((p) => subtract(p, center))).axes[2];
}

/** Those nearest to a place, all that are as near as the last one, so that rounding chooses none. */
export function nearestOf<T>(list: readonly T[], to: Vec3, at: (item: T) => Vec3, count = NEIGHBOURS): T[] {
	const distances = list.map((o) => Math.hypot(...subtract(at(o), to)));
	const far = [...distances].sort((a, b) => a - b)[Math.min(count, list.length - 1)]! * (1 + 1e-6);
	return list.filter((_, i) => distances[i]! <= far);
}

/** An intercept of a hole, to choose from. Lengths in the unit of the project; where one end was not met, it ends with what was seen inside. */
export interface ListedIntercept extends Stretch {
	middle: Vec3;
	/** Distance of its middle from the plane through its neighbours in other holes; null where there are fewer than three. */
	off: number | null;
	/** How many intercepts the hole has. */
	ofHole: number;
	/** The nearest to its neighbours, of those of its hole. */
	nearest: boolean;
}

/**
 * Where holes cross a sheet, by hole and depth. How far each is off is told by holes that cross it once only, where there are enough.
 */
export function listIntercepts(contacts: readonly ContactPoint[], observations: readonly Observation[], unit: number): ListedIntercept[] {
	const inside = observations.filter((o) => o.unit === unit);
	const inHoles = new Set(inside.map((o) => o.hole));
	const found = interceptsOf(
		contacts.filter((c) => c.surface === unit && inHoles.has(c.hole)),
		observations,
		unit
	);
	const counts = new Map<string, number>();
	for (const i of found) counts.set(i.contacts[0]!.hole, (counts.get(i.contacts[0]!.hole) ?? 0) + 1);
	const single = found.filter((i) => counts.get(i.contacts[0]!.hole) === 1);
	const sure = single.length >= 4 ? single : found;
	const out = found.map((i): ListedIntercept => {
		const { hole } = i.contacts[0]!;
		const depths = i.contacts.map((c) => c.depth);
		// One end only: the run goes on from it as far as the hole was seen to lie inside.
		if (depths.length === 1)
			depths.push(
				...inside
					.filter((o) => o.hole === hole && Math.abs(o.depth - depths[0]!) > SAME_DEPTH)
					.map((o) => o.depth)
					.sort((a, b) => Math.abs(a - depths[0]!) - Math.abs(b - depths[0]!))
					.slice(0, 2)
			);
		const others = sure.filter((o) => o.contacts[0]!.hole !== hole);
		const near = others.length >= 3 ? nearestOf(others, i.middle, (o) => o.middle).map((o) => o.middle) : [];
		const off = near.length >= 3 ? Math.abs(dot(subtract(i.middle, meanOf(near)), planeOf(near))) : null;
		return { hole, from: Math.min(...depths), to: Math.max(...depths), middle: i.middle, off, ofHole: counts.get(hole)!, nearest: true };
	});
	for (const i of out) i.nearest = !out.some((o) => o !== i && o.hole === i.hole && (o.off ?? Infinity) < (i.off ?? Infinity));
	return out.sort((a, b) => (a.hole < b.hole ? -1 : a.hole > b.hole ? 1 : a.from - b.from));
}
