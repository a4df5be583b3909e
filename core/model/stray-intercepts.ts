import { dot, subtract, type Vec3 } from '../geometry/vector';
import { quantileSorted } from '../statistics/spread';
import { centreOf, type Intercept } from './intercepts';
import {
	alongHoles,
	atLeast,
	bestPlane,
	isByChance,
	byHole,
	isRepeated,
	nearestOfHoles,
	nearPlane,
	offOf,
	thinnerThan,
	type Along,
	type HolePlace,
	type Seen
} from './sheet-planes';

/** Share of the intercepts that lie near the plane of a sheet, at least: of all, and of those that do not lie alone. */
const EXPLAINED_OF_ALL = 0.35;
const EXPLAINED = 0.85;
/** Beyond so many times what those of a sheet may be off its plane, one is far off it. */
const FAR = 1.5;
/** They keep to a plane nearly exactly when they are off it (root mean square) by less than this share of what they may be. */
const EXACT = 1 / 3;
/** Holes nearest to an intercept, and how many of them meet the unit there, too, where it is not alone. */
const AROUND = 4;
const BESIDE = 2;
/** Intercepts, and places of the hole of each, that are asked in their stead; more than this share that are not alone are none that lie anywhere. */
const HOLES_ASKED = 80;
const ASKED = 8;
const MOST_BESIDE = 0.5;
/** The chance of what is not taken for chance. */
const CHANCE = 1e-3;

/**
 * Intercepts that lie off the one plane of a sheet that holes meet again and again, or that is nearly plane, each alone, with how far off it they
 * are: rock with a wrong code. None where that plane may be by chance, or does not explain the others.
 */
export function strayIntercepts(intercepts: readonly Intercept[], seen: Seen): Map<Intercept, number> {
	const none = new Map<Intercept, number>();
	const near = nearPlane(intercepts);
	const along = alongHoles(seen);
	const best = bestPlane(intercepts, near, along);
	if (!best || isByChance(best.plane, best.on, near, along, intercepts)) return none;
	const { plane } = best;
	// Where no hole meets it twice it may be one of any shape, but for one that keeps to a plane nearly exactly.
	if (!isRepeated(intercepts) && !(rmsOf(best.on.map((i) => offOf(plane, centreOf(i)))) < EXACT * near)) return none;
	const by = new Map(intercepts.map((i) => [i, offOf(plane, centreOf(i))]));
	const thick = best.on.flatMap(({ contacts: [a, b] }) =>
		b ? [Math.abs(dot(subtract([b.x, b.y, b.z], [a!.x, a!.y, a!.z]), plane.normal))] : []
	);
	const usual = thick.length ? quantileSorted(Float64Array.from(thick).sort(), 0.5) : 0;
	const nearest = new Map(nearestOfHoles(intercepts, plane).map((i) => [i.contacts[0]!.hole, by.get(i)!]));
	// A hole goes through a sheet once: what it meets beside that is none of it, as a rule.
	const isSecond = (i: Intercept) => by.get(i)! > nearest.get(i.contacts[0]!.hole)! + Math.max(usual, near / 3);
	const off = intercepts.filter((i) => by.get(i)! > FAR * near);
	const isThinner = thinnerThan(best.on);
	const known = byHole(intercepts.filter((i) => best.on.includes(i) || !isThinner(i)));
	const alone = off.filter((i) => isAlone(i, known, along, near));
	const explained = intercepts.length - off.length;
	const isExplained = explained >= Math.max(EXPLAINED_OF_ALL * intercepts.length, EXPLAINED * (intercepts.length - alone.length));
	const anywhere = lieAnywhere(off, off.length - alone.length, known, along, near, (at) => offOf(plane, at) > FAR * near);
	if (!isExplained && !anywhere) return none;
	const stray = anywhere ? off : alone;
	const second = intercepts.filter((i) => isSecond(i) && !stray.includes(i));
	return new Map([...stray, ...second].map((i) => [i, by.get(i)!]));
}

/**
 * Whether some intercepts may lie anywhere along their holes: no more of them have others beside them than would have by chance (a Poisson law, of
 * the mean that places of the same holes have). Those of a further sheet, or of one that turns away from its plane, stand beside each other.
 * @param beside how many of them are not alone
 * @param isOff whether a place may be asked in their stead
 */
function lieAnywhere(
	off: readonly Intercept[],
	beside: number,
	known: ReadonlyMap<string, readonly Intercept[]>,
	along: Along,
	near: number,
	isOff: (place: Vec3) => boolean
): boolean {
	if (beside === 0) return true;
	if (beside > MOST_BESIDE * off.length) return false;
	const some = off.filter((_, k) => k % Math.ceil(off.length / HOLES_ASKED) === 0);
	let sum = 0;
	for (const { contacts } of some) {
		const { hole } = contacts[0]!;
		const asked = stepsAlong(along.get(hole) ?? []).filter(isOff);
		if (asked.length) sum += asked.filter((at) => !isAloneAt(hole, at, known, along, near)).length / asked.length;
	}
	return atLeast(beside, (sum * off.length) / some.length) > CHANCE;
}

/** Places in even steps along a hole. */
function stepsAlong(places: readonly HolePlace[]): Vec3[] {
	if (places.length < 2) return places.map((p) => p.at);
	const [top, end] = [places[0]!.depth, places.at(-1)!.depth];
	let next = 1;
	return Array.from({ length: ASKED }, (_, k): Vec3 => {
		const depth = top + ((end - top) * (k + 0.5)) / ASKED;
		while (next < places.length - 1 && places[next]!.depth < depth) next++;
		const [a, b] = [places[next - 1]!, places[next]!];
		const t = b.depth > a.depth ? (depth - a.depth) / (b.depth - a.depth) : 0;
		return [a.at[0] + t * (b.at[0] - a.at[0]), a.at[1] + t * (b.at[1] - a.at[1]), a.at[2] + t * (b.at[2] - a.at[2])];
	});
}

const rmsOf = (list: readonly number[]): number => Math.sqrt(list.reduce((s, d) => s + d * d, 0) / list.length);

/** Whether hardly any of the holes nearest to an intercept meets the unit where it passes there: a wrong code is alone, a part of a body is not. */
export const isAlone = (i: Intercept, known: ReadonlyMap<string, readonly Intercept[]>, along: Along, near: number): boolean =>
	isAloneAt(i.contacts[0]!.hole, centreOf(i), known, along, near);

function isAloneAt(hole: string, place: Vec3, known: ReadonlyMap<string, readonly Intercept[]>, along: Along, near: number): boolean {
	const passes = [...along].flatMap(([other, places]) => {
		if (other === hole) return [];
		const at = nearestOn(places, place);
		return at ? [{ ...at, other }] : [];
	});
	const meet = passes
		.sort((a, b) => a.far - b.far)
		.slice(0, AROUND)
		.filter(({ other, depth }) =>
			known.get(other)?.some(({ contacts }) => contacts[0]!.depth - near <= depth && depth <= contacts.at(-1)!.depth + near)
		);
	return passes.length >= AROUND && meet.length < BESIDE;
}

/** The place on a hole that is nearest to another one: how far it is from it, and its depth. */
function nearestOn(places: readonly HolePlace[], to: Vec3): { far: number; depth: number } | null {
	let best: { far: number; depth: number } | null = null;
	for (let k = 1; k < places.length; k++) {
		const [a, b] = [places[k - 1]!, places[k]!];
		const d = subtract(b.at, a.at);
		const size = dot(d, d);
		const t = size > 0 ? Math.min(1, Math.max(0, dot(subtract(to, a.at), d) / size)) : 0;
		const far = Math.hypot(...subtract(to, [a.at[0] + t * d[0], a.at[1] + t * d[1], a.at[2] + t * d[2]]));
		if (far < (best?.far ?? Infinity)) best = { far, depth: a.depth + t * (b.depth - a.depth) };
	}
	return best;
}
