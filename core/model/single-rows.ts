import { centreOf, type Intercept } from './intercepts';
import { alongHoles, bestPlane, byHole, isByChance, nearPlane, offOf, passing, planeThrough, thinnerThan, type Seen } from './sheet-planes';

/** Rows of a log that follow each other are wrong in the same way hardly ever. */
const SURE = 2;
/** Holes with as many rows or more, at least, that tell what one row is worth. */
const FEWEST_SURE = 4;

/**
 * Intercepts that only one row of a log speaks for, among others that many rows agree on and that are much longer along their holes: rows with
 * wrong codes look so, and may outnumber the holes that meet a sheet. None where they lie in a plane of their own: then it is a thin sheet.
 */
export function singleRows(intercepts: readonly Intercept[], seen: Seen): ReadonlySet<Intercept> {
	const none = new Set<Intercept>();
	const sure = intercepts.filter((i) => (i.rows ?? 0) >= SURE);
	if (byHole(sure).size < FEWEST_SURE) return none;
	const isThinner = thinnerThan(sure);
	const single = intercepts.filter((i) => i.rows === 1 && isThinner(i));
	if (single.length === 0) return none;
	const near = nearPlane(intercepts);
	const along = alongHoles(seen);
	const own = bestPlane(single, near, along);
	return own && !isByChance(own.plane, own.on, near, along, single) ? none : new Set(single);
}

/** Rows that follow each other and say the same, of an intercept that no wrong code makes. */
const MANY = 3;
/** Holes that pass a further sheet without meeting it, at most, as a share of those that meet it. */
const MOST_PASSING = 0.5;

/**
 * A further sheet of those intercepts that lie off all others but many rows of the log speak for: they are rock, whatever lies beside them.
 * @param odd intercepts that lie off the sheets of the unit
 * @returns those of it; none where they are of few holes, or in no plane, or where more holes pass that than meet it
 */
export function furtherSheet(odd: Iterable<Intercept>, near: number, seen: Seen): Intercept[] {
	const list = [...odd].filter((i) => (i.rows ?? 0) >= MANY);
	if (byHole(list).size < FEWEST_SURE) return [];
	const along = alongHoles(seen);
	const best = bestPlane(list, near, along, FEWEST_SURE);
	return best && passing(best.plane, along, best.on) <= MOST_PASSING * best.on.length ? best.on : [];
}

/** Parts of a unit with further intercepts, each put to the part whose plane it is nearest to. */
export function withOthers(parts: readonly (readonly Intercept[])[], others: Iterable<Intercept>): Intercept[][] {
	const out = parts.map((p) => [...p]);
	const planes = parts.map((p) => (p.length < 3 ? null : planeThrough(p.map(centreOf))));
	for (const i of others) {
		const offs = planes.map((p) => (p ? offOf(p, centreOf(i)) : Infinity));
		out[offs.indexOf(Math.min(...offs))]!.push(i);
	}
	return out;
}
