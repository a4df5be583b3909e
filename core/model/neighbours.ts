import type { GroupDatum } from '../fields/data';
import { AGAINST_NEIGHBOURS, type GroundFinding } from './ground';
import { NearestPoint } from '../geometry/nearest';
import { quantileSorted } from '../statistics/spread';

/** Holes are left out in so many turns. */
export const TURNS = 5;
/** Fewer holes than this do not outvote one of them. */
export const FEWEST_HOLES = 10;
/** Evidence that is this many times farther off than evidence usually is, is not believed. */
export const MOST = 6;
/** Holes around one that it is compared with. */
const NEIGHBOURS = 8;

/** A contact of a hole, with the standard error of its place when it has one, length units. */
export type HoleDatum = GroupDatum & { hole: string; error?: number };

/** A hole whose evidence was left out, with how far it is off what the others say, length units. */
export interface Left {
	hole: string;
	off: number;
	at: readonly [number, number, number];
}

/** Two holes side by side of which a contact lies at different depths, with the most that one of them differs by, length units. */
interface TwinPair {
	holes: readonly [string, string];
	/** How far apart they stand, length units. */
	apart: number;
	differ: number;
	group: number;
	at: readonly [number, number, number];
}

/** Mean place of the data of each hole on the map. */
export function holePlaces(points: readonly HoleDatum[]): Map<string, { x: number; y: number }> {
	const sums = new Map<string, { n: number; x: number; y: number }>();
	for (const p of points) {
		const s = sums.get(p.hole) ?? sums.set(p.hole, { n: 0, x: 0, y: 0 }).get(p.hole)!;
		s.n++;
		s.x += p.x;
		s.y += p.y;
	}
	return new Map([...sums].map(([h, s]) => [h, { x: s.x / s.n, y: s.y / s.n }]));
}

/** Holes nearer to each other than this share of the usual distance to the next hole are twins. */
const TWINS = 0.1;

/**
 * In which turn a hole is left out. Neighbours by name are often neighbours on the ground, so every fifth one is left out together;
 * twins are left out in the same turn, for one would only repeat the other.
 */
export function turnsOf(places: ReadonlyMap<string, { x: number; y: number }>): (hole: string) => number {
	const list = [...places].sort(([a], [b]) => (a < b ? -1 : 1));
	const far = (a: { x: number; y: number }, b: { x: number; y: number }) => Math.hypot(a.x - b.x, a.y - b.y);
	const near = twinDistance(list.map(([, p]) => p));
	const turn = new Map<string, number>();
	let count = 0;
	list.forEach(([h, p], i) => {
		let twin = 0;
		while (twin < i && !(far(p, list[twin]![1]) < near)) twin++;
		turn.set(h, twin < i ? turn.get(list[twin]![0])! : count++ % TURNS);
	});
	return (hole) => turn.get(hole) ?? 0;
}

/** Twins whose contacts are this many times steeper apart than contacts usually are, and this slope besides, contradict each other. */
const STEEPER = 3;
const STEEP = 0.1;

/**
 * Contacts of twins that contradict each other get half of what they differ by as their error: a surface through both would be torn.
 * @param certain holes that are believed whatever their twins say
 * @returns the contacts, the most that any of them differ by, length units, and each two twins that contradict each other once
 */
export function withTwinErrors(
	points: readonly HoleDatum[],
	certain: ReadonlySet<string> = new Set()
): { points: HoleDatum[]; most: number; pairs: TwinPair[] } {
	const places = holePlaces(points);
	const isTwin = twinsOf(places);
	const slopes: number[] = [];
	const byGroup = new Map<number, HoleDatum[]>();
	for (const p of points) byGroup.set(p.group, [...(byGroup.get(p.group) ?? []), p]);
	const pairs: { a: HoleDatum; b: HoleDatum; high: number; far: number }[] = [];
	for (const list of byGroup.values()) {
		const sorted = list.sort((a, b) => a.x - b.x || a.y - b.y || a.z - b.z);
		sorted.forEach((a, i) => {
			// The next ones eastwards tell how steep contacts usually are.
			for (const b of sorted.slice(i + 1, i + 4))
				if (a.hole !== b.hole && a.block === b.block && !isTwin(a.hole, b.hole))
					slopes.push(Math.abs(a.z - b.z) / Math.max(1e-9, Math.hypot(a.x - b.x, a.y - b.y)));
			for (let j = i + 1; j < sorted.length && isTwin.near >= sorted[j]!.x - a.x; j++) {
				const b = sorted[j]!;
				if (a.hole !== b.hole && a.block === b.block && isTwin(a.hole, b.hole))
					pairs.push({ a, b, high: Math.abs(a.z - b.z), far: Math.hypot(a.x - b.x, a.y - b.y) });
			}
		});
	}
	if (pairs.length === 0 || slopes.length === 0) return { points: [...points], most: 0, pairs: [] };
	const usual = quantileSorted(Float64Array.from(slopes).sort(), 0.5);
	const error = new Map<HoleDatum, number>();
	let most = 0;
	const odd = new Map<string, TwinPair>();
	for (const { a, b, high, far } of pairs) {
		// Folds and faults part contacts by thicknesses; what contradicts lies near.
		if (high <= (STEEPER * usual + STEEP) * far) continue;
		most = Math.max(most, high);
		const [first, second] = a.hole < b.hole ? [a, b] : [b, a];
		const key = JSON.stringify([first.hole, second.hole]);
		if ((odd.get(key)?.differ ?? 0) < high)
			odd.set(key, {
				holes: [first.hole, second.hole],
				apart: far,
				differ: high,
				group: a.group,
				at: [second.x, second.y, second.z]
			});
		for (const p of [a, b]) error.set(p, Math.max(error.get(p) ?? 0, high / 2));
	}
	const relief = reliefInside(points);
	return {
		points: points.map((p) =>
			error.has(p) && !certain.has(p.hole)
				? {
						...p,
						error: Math.max(p.error ?? 0, error.get(p)!),
						nugget: (p.nugget ?? 0) + (error.get(p)! / Math.max(relief, error.get(p)!)) ** 2
					}
				: p
		),
		most,
		pairs: [...odd.values()].sort((p, q) => (p.holes.join('\n') < q.holes.join('\n') ? -1 : 1))
	};
}

/**
 * Names twins that contradict each other, unless one of them is named already as what its neighbours contradict.
 * @param base what the base of a group is called
 * @param certain holes that are believed whatever their twins say
 * @param length a length in words
 */
export function noteTwins(
	pairs: readonly TwinPair[],
	base: (group: number) => string,
	certain: ReadonlySet<string>,
	length: (by: number) => string,
	findings: GroundFinding[]
): void {
	const named = new Set(findings.map((f) => f.hole));
	for (const { holes, apart, differ, group, at } of pairs) {
		if (holes.some((h) => named.has(h))) continue;
		const sure = holes.find((h) => certain.has(h));
		const hole = sure ?? holes[1];
		findings.push({
			kind: sure ? 'believed' : 'twins-differ',
			severity: 'noted',
			message: `${holes[0]} and ${holes[1]}, ${length(apart)} apart, differ by ${length(differ)} at ${base(group)}`,
			hint: sure
				? `${sure} is believed as it is: the surface bends to it.`
				: 'Look for a slip in a depth, an elevation or a survey of one of them. Until then the surface passes between them.',
			at: [...at],
			hole,
			other: hole === holes[0] ? holes[1] : holes[0]
		});
	}
}

/** Root mean square of the elevations of contacts about the mean of their own group, length units. */
export function reliefInside(points: readonly GroupDatum[]): number {
	const sums = new Map<number, { n: number; z: number }>();
	for (const p of points) {
		const s = sums.get(p.group) ?? sums.set(p.group, { n: 0, z: 0 }).get(p.group)!;
		s.n++;
		s.z += p.z;
	}
	return Math.sqrt(points.reduce((sum, p) => sum + (p.z - sums.get(p.group)!.z / sums.get(p.group)!.n) ** 2, 0) / points.length);
}

/** Whether two holes are twins. `near` is the greatest distance between twins. */
function twinsOf(places: ReadonlyMap<string, { x: number; y: number }>): ((a: string, b: string) => boolean) & { near: number } {
	const near = twinDistance([...places.values()]);
	const is = (a: string, b: string) => {
		const [p, q] = [places.get(a)!, places.get(b)!];
		return Math.hypot(p.x - q.x, p.y - q.y) < near;
	};
	return Object.assign(is, { near });
}

const twinDistance = (places: readonly { x: number; y: number }[]): number => TWINS * usualDistance(places);

/** Median distance to the next hole, length units; 0 of one hole alone. */
export function usualDistance(places: readonly { x: number; y: number }[]): number {
	const nearest = new NearestPoint(places.map((p) => ({ ...p, z: 0 })));
	const next = places.map((p, i) => nearest.distance(p.x, p.y, 0, (j) => j !== i));
	return next.length > 1 ? quantileSorted(Float64Array.from(next).sort(), 0.5) : 0;
}

/** Whether a hole is farther off than every odd one of the holes nearest to it: what is wrong in one spoils what is said of its neighbours. */
export function isWorstNearby(
	hole: string,
	worst: ReadonlyMap<string, number>,
	places: ReadonlyMap<string, { x: number; y: number }>
): boolean {
	const at = places.get(hole);
	const own = worst.get(hole)!;
	if (!at) return true;
	const near = [...places]
		.filter(([h]) => h !== hole)
		.map(([h, p]) => ({ h, far: (p.x - at.x) ** 2 + (p.y - at.y) ** 2 }))
		.sort((a, b) => a.far - b.far || (a.h < b.h ? -1 : 1))
		.slice(0, NEIGHBOURS);
	return near.every(({ h }) => (worst.get(h) ?? 0) < own || ((worst.get(h) ?? 0) === own && h > hole));
}

/** Of each hole what is farthest off. */
export function worstOf(left: readonly Left[]): Left[] {
	const worst = new Map<string, Left>();
	for (const l of left) if (l.off > (worst.get(l.hole)?.off ?? 0)) worst.set(l.hole, l);
	return [...worst.values()];
}

/** Names each hole whose evidence was left out once, by what is farthest off. @param length a length in words */
export function noteLeft(left: readonly Left[], length: (by: number) => string, findings: GroundFinding[]): void {
	for (const { hole, off, at } of worstOf(left))
		findings.push({
			kind: AGAINST_NEIGHBOURS,
			severity: 'noted',
			message: `${hole} is ${length(off)} off what its neighbours say`,
			hint: 'Look for a wrong code, a slip in a depth or a fault that was not drawn. Until then this part of the hole shapes nothing.',
			at: [...at],
			hole
		});
}
