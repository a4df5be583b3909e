import { dot, subtract } from '../geometry/vector';
import { quantileSorted } from '../statistics/spread';
import { centreOf, extentOf, type Intercept } from './intercepts';
import {
	alongHoles,
	bestPlane,
	byHole,
	isByChance,
	nearPlane,
	offOf,
	passing,
	planeThrough,
	thinnerThan,
	usualExtent,
	type Seen
} from './sheet-planes';

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
/** An intercept that is more than so many times as long as those of the sheet counts as well where a log has a row for each unit. */
const LONG = 2;
/** Holes that meet a further sheet, at least: as many as make a plane. */
const FEWEST_OF_FURTHER = 3;
/** Holes that pass it without meeting it, at most, for each that meets it beyond those. */
const MOST_PASSING = 0.5;
/** It is thinner across than this share of its spread. */
const THIN = 0.4;

/**
 * A further sheet of those intercepts that lie off all others but many rows of the log, or a long one, speak for: they are rock, whatever lies
 * beside them.
 * @param odd intercepts that lie off the sheets of the unit
 * @param known those that lie on them
 * @returns those of it; none where they are of few holes, or in no plane, or where other holes pass that without meeting it, or where they show
 * one wall only
 */
export function furtherSheet(odd: Iterable<Intercept>, known: readonly Intercept[], near: number, seen: Seen): Intercept[] {
	const usual = usualExtent(known);
	const isLong = (i: Intercept) => usual > 0 && extentOf(i) > LONG * usual;
	const list = [...odd].filter((i) => (i.rows ?? 0) >= MANY || (i.rows === 1 && isLong(i)));
	if (byHole(list).size < FEWEST_OF_FURTHER) return [];
	const along = alongHoles(seen);
	const best = bestPlane(list, near, along, FEWEST_OF_FURTHER);
	if (!best || passing(best.plane, along, best.on) > MOST_PASSING * (best.on.length - FEWEST_OF_FURTHER)) return [];
	// Three lie in a plane anyhow: they tell one that holes follow.
	if (best.on.length === FEWEST_OF_FURTHER && !best.on.every(isLong)) return [];
	const { plane, on } = best;
	/** How far each wall that was met is off the middle of what was seen, on its side. */
	const walls = on.flatMap((i) => i.contacts.map((c) => dot(subtract([c.x, c.y, c.z], centreOf(i)), plane.normal)));
	const thick = 2 * quantileSorted(Float64Array.from(walls, Math.abs).sort(), 0.5);
	const spread = Math.sqrt(on.reduce((sum, i) => sum + Math.hypot(...subtract(centreOf(i), plane.at)) ** 2, 0) / on.length);
	const hasBoth = walls.some((w) => w > 0) && walls.some((w) => w < 0);
	return hasBoth && thick < THIN * spread ? on : [];
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
