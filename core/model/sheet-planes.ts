import { cross, dot, scale, subtract, type Vec3 } from '../geometry/vector';
import { seededRandom } from '../statistics/random';
import type { Observation } from '../units/contacts';
import { acrossAll } from './sheet-lie';
import { quantileSorted } from '../statistics/spread';
import { centreOf, extentOf, meanOf, type Intercept } from './intercepts';

/** Intercepts of a sheet, at least. */
export const FEWEST = 5;
/** Holes that cross a sheet more than once, at least, and as a share of those that meet it, before that is odd. */
const FEWEST_REPEATED = 3;
const REPEATED = 0.05;
/** Planes through three intercepts that are tried for each sheet. */
const TRIALS = 600;
/** How far an intercept lies off its plane at most, as a share of how far they are spread. */
const OFF = 0.07;
/** A hole that passes a plane without meeting the unit counts so much of one that meets it there. */
const PASSED = 0.5;
/** A plane that has so many intercepts with a greater chance than this, wherever they lie, is none. */
const CHANCE = 0.05;
/** Parts of the distance within which intercepts count as lying near a plane, at which that is asked. */
const NEARNESS = [1, 1 / 2, 1 / 4];
/** What differs by more than this many times in how much was seen of it is much thinner or thicker. */
const THICKER = 2;
/** As many as this, of those that pass it without, meet a sheet: wrong codes of a few make none. */
const LEAST_MET = 0.25;

export interface Plane {
	at: Vec3;
	normal: Vec3;
}
export const offOf = (p: Plane, m: Vec3) => Math.abs(dot(subtract(m, p.at), p.normal));
export const planeThrough = (places: readonly Vec3[]): Plane | null => {
	const across = acrossAll([places]);
	return across && { at: meanOf(places), normal: across.normal };
};

/** The plane through three places; null where they stand in a line. */
function planeOfThree(a: Vec3, b: Vec3, c: Vec3): Plane | null {
	const normal = cross(subtract(b, a), subtract(c, a));
	const size = Math.hypot(...normal);
	return size > 0 ? { at: meanOf([a, b, c]), normal: scale(normal, 1 / size) } : null;
}

/** Intercepts by their holes. */
export function byHole(intercepts: readonly Intercept[]): Map<string, Intercept[]> {
	const out = new Map<string, Intercept[]>();
	for (const i of intercepts) {
		const { hole } = i.contacts[0]!;
		const own = out.get(hole);
		if (own) own.push(i);
		else out.set(hole, [i]);
	}
	return out;
}

/** How many holes meet an intrusion more than once. */
export const crossedOften = (intercepts: readonly Intercept[]): number =>
	[...byHole(intercepts).values()].filter((own) => own.length > 1).length;

/** Whether so many holes cross a unit more than once that one sheet does not explain it. */
export const isRepeated = (intercepts: readonly Intercept[]): boolean =>
	crossedOften(intercepts) >= Math.max(FEWEST_REPEATED, REPEATED * byHole(intercepts).size);

/** A place of a hole. */
export interface HolePlace {
	at: Vec3;
	depth: number;
}
export type Seen = readonly Pick<Observation, 'hole' | 'depth' | 'x' | 'y' | 'z'>[];
export type Along = ReadonlyMap<string, readonly HolePlace[]>;

/** Places of each hole, from its top down. */
export function alongHoles(seen: Seen): Along {
	const out = new Map<string, HolePlace[]>();
	for (const { hole, x, y, z, depth } of [...seen].sort((a, b) => a.depth - b.depth)) {
		const place: HolePlace = { at: [x, y, z], depth };
		const own = out.get(hole);
		if (own) own.push(place);
		else out.set(hole, [place]);
	}
	return out;
}

/** How many holes pass a plane, but for those that are known to meet what lies on it. */
export function passing(plane: Plane, along: Along, on: readonly Intercept[]): number {
	const meet = new Set(on.map((i) => i.contacts[0]!.hole));
	const above = ({ at }: HolePlace) => dot(subtract(at, plane.at), plane.normal) > 0;
	let count = 0;
	for (const [hole, places] of along) if (!meet.has(hole) && places.some((p, i) => i > 0 && above(p) !== above(places[i - 1]!))) count++;
	return count;
}

/**
 * Whether intercepts may lie as near to a plane as they do by chance, though they lie anywhere along the holes: three lie near the plane
 * through them; how many of the others do follows a Poisson law, and there are as many planes to choose from as threes. It is asked of the
 * whole distance within which they count and of parts of it: a few that lie on a plane nearly exactly show as much as many that lie near it. And
 * it is asked without those that were seen to be much thinner or thicker: single rows with wrong codes are no part of a thick dyke, wherever they
 * lie. Each look has its share of the chance (Bonferroni).
 * @param on those that lie near it
 * @param near how far off it they lie at most
 * @param among them and those that lie on no plane
 */
export function isByChance(plane: Plane, on: readonly Intercept[], near: number, along: Along, among: readonly Intercept[]): boolean {
	const looks = [() => true, asThickAs(on)].flatMap((counts) => {
		const count = among.filter(counts).length;
		const off = on.filter(counts).map((i) => offOf(plane, centreOf(i)));
		return NEARNESS.map((part) => ({ count, within: part * near, on: off.filter((d) => d <= part * near).length }));
	});
	return looks.every(({ count, within, on }) => {
		const share = shareNear(plane, within, along);
		if (!(share > 0)) return false;
		const threes = (count * (count - 1) * (count - 2)) / 6;
		return on <= 3 || looks.length * threes * atLeast(on - 3, (count - 3) * share) > CHANCE;
	});
}

/** Of the middle one of some, along its hole, length units; 0 of none. */
export const usualExtent = (some: readonly Intercept[]): number =>
	some.length ? quantileSorted(Float64Array.from(some, extentOf).sort(), 0.5) : 0;

/** Whether an intercept was seen to be much thinner, along its hole, than the middle one of some. */
export function thinnerThan(some: readonly Intercept[]): (i: Intercept) => boolean {
	const usual = usualExtent(some);
	return (i) => extentOf(i) * THICKER < usual;
}

/** Whether it is neither much thinner nor much thicker. */
function asThickAs(some: readonly Intercept[]): (i: Intercept) => boolean {
	const usual = usualExtent(some);
	const isThinner = thinnerThan(some);
	return (i) => !isThinner(i) && extentOf(i) <= THICKER * usual;
}

/** Share of the lengths of holes that lies so near to a plane. */
function shareNear(plane: Plane, near: number, along: Along): number {
	let [whole, within] = [0, 0];
	for (const places of along.values())
		for (let i = 1; i < places.length; i++) {
			const [a, b] = [places[i - 1]!.at, places[i]!.at];
			const length = Math.hypot(...subtract(b, a));
			const [p, q] = [dot(subtract(a, plane.at), plane.normal), dot(subtract(b, plane.at), plane.normal)];
			const [low, high] = [Math.min(p, q), Math.max(p, q)];
			whole += length;
			if (high > low) within += (length * Math.max(0, Math.min(high, near) - Math.max(low, -near))) / (high - low);
			else if (Math.abs(p) <= near) within += length;
		}
	return whole > 0 ? within / whole : 0;
}

/** Chance of so many or more, of a Poisson law of a mean. */
export function atLeast(least: number, mean: number): number {
	if (least <= 0) return 1;
	let term = Math.exp(-mean);
	for (let k = 1; k <= least; k++) term *= mean / k;
	let sum = term;
	for (let k = least + 1; term > 1e-12 * sum; k++) sum += term *= mean / k;
	return sum;
}

/** The plane near which most holes have an intercept, and fewest pass without one; and these intercepts. @param fewest of them */
export function bestPlane(
	list: readonly Intercept[],
	near: number,
	along: Along = new Map(),
	fewest = FEWEST
): { plane: Plane; on: Intercept[] } | null {
	if (list.length < fewest) return null;
	// The same for the same intercepts, whatever their order.
	const { uniform } = seededRandom(list.length);
	const pick = () => list[Math.floor(uniform() * list.length)]!;
	let best: { plane: Plane; on: Intercept[]; score: number } | null = null;
	for (let t = 0; t < TRIALS; t++) {
		const three = [pick(), pick(), pick()] as const;
		if (new Set(three.map((i) => i.contacts[0]!.hole)).size < 3) continue;
		const plane = planeOfThree(centreOf(three[0]), centreOf(three[1]), centreOf(three[2]));
		if (!plane) continue;
		const on = nearestOfHoles(list, plane).filter((i) => offOf(plane, centreOf(i)) <= near);
		if (on.length < fewest || on.length <= (best?.score ?? -Infinity)) continue;
		const passed = passing(plane, along, on);
		const score = on.length - PASSED * passed;
		if (on.length >= LEAST_MET * passed && score > (best?.score ?? -Infinity)) best = { plane, on, score };
	}
	const refined = best && planeThrough(best.on.map(centreOf));
	if (!best || !refined) return best;
	const on = nearestOfHoles(list, refined).filter((i) => offOf(refined, centreOf(i)) <= near);
	return on.length >= best.on.length ? { plane: refined, on } : best;
}

/** The plane near which most intercepts lie; null without enough of them. */
export const flattest = (list: readonly Intercept[]): Plane | null => bestPlane(list, nearPlane(list))?.plane ?? null;
/** How many intercepts lie near one plane, at most. */
export const onOnePlane = (list: readonly Intercept[]): number => bestPlane(list, nearPlane(list))?.on.length ?? 0;

/** How far intercepts of one sheet lie off its plane at most, length units. */
export const nearPlane = (list: readonly Intercept[]): number => OFF * spreadOf(list);

/** How far intercepts are spread (root mean square), length units. */
function spreadOf(list: readonly Intercept[]): number {
	const center = meanOf(list.map(centreOf));
	return Math.sqrt(list.reduce((s, i) => s + Math.hypot(...subtract(centreOf(i), center)) ** 2, 0) / list.length);
}

/** Of each hole the intercept nearest to a plane. */
export const nearestOfHoles = (list: readonly Intercept[], plane: Plane): Intercept[] =>
	[...byHole(list).values()].map((own) => own.reduce((a, b) => (offOf(plane, centreOf(b)) < offOf(plane, centreOf(a)) ? b : a)));
