import type { GroupDatum } from '../fields/data';
import type { GroundFinding } from './ground';
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
	const next = list.map(([h, p]) => list.reduce((least, [o, q]) => (o === h ? least : Math.min(least, far(p, q))), Infinity));
	const near = TWINS * quantileSorted(Float64Array.from(next).sort(), 0.5);
	const turn = new Map<string, number>();
	let count = 0;
	list.forEach(([h, p], i) => {
		const twin = next[i]! < near ? list.slice(0, i).find(([, q]) => far(p, q) < near) : undefined;
		turn.set(h, twin ? turn.get(twin[0])! : count++ % TURNS);
	});
	return (hole) => turn.get(hole) ?? 0;
}

/** Whether a hole is farther off than every odd one of the holes nearest to it: what is wrong in one spoils what is said of its neighbours. */
export function isWorstNearby(hole: string, worst: ReadonlyMap<string, number>, places: ReadonlyMap<string, { x: number; y: number }>): boolean {
	const at = places.get(hole);
	const own = worst.get(hole)!;
	if (!at) return true;
	const near = [...places].filter(([h]) => h !== hole).map(([h, p]) => ({ h, far: (p.x - at.x) ** 2 + (p.y - at.y) ** 2 })).sort((a, b) => a.far - b.far || (a.h < b.h ? -1 : 1)).slice(0, NEIGHBOURS);
	return near.every(({ h }) => (worst.get(h) ?? 0) < own || ((worst.get(h) ?? 0) === own && h > hole));
}

/** Names each hole whose evidence was left out once, by what is farthest off. */
export function noteLeft(left: readonly Left[], findings: GroundFinding[]): void {
	const worst = new Map<string, Left>();
	for (const l of left) if (l.off > (worst.get(l.hole)?.off ?? 0)) worst.set(l.hole, l);
	for (const { hole, off, at } of worst.values())
		findings.push({ kind: 'against-neighbours', severity: 'noted', message: `${hole} is ${off.toFixed(off < 10 ? 1 : 0)} off what its neighbours say`, hint: 'Look for a wrong code, a slip in a depth or a fault that was not drawn. Until then this part of the hole shapes nothing.', at: [...at], hole });
}
