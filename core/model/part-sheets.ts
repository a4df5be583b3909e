import { SAME_DEPTH } from '../holes/path';
import type { Observation } from '../units/contacts';
import { quantileSorted } from '../statistics/spread';
import { centreOf, nearestOf, type Intercept } from './intercepts';
import {
	alongHoles,
	bestPlane,
	isByChance,
	byHole,
	FEWEST,
	isRepeated,
	nearPlane,
	offOf,
	thinnerThan,
	planeThrough,
	type Plane,
	type Seen
} from './sheet-planes';
import { isAlone } from './stray-intercepts';

/** Sheets of one unit, at most. */
export const MOST_SHEETS = 4;
/** Intercepts of each of several sheets, at least, that show both its walls: a flat boundary under a wrong code shows one. */
const FEWEST_CROSSING = 2;
/** Rounds in which intercepts go to the plane that is nearest. */
const ROUNDS = 6;
/** Share of the intercepts that lie near the planes, when these are believed: of all, and of those that do not lie alone. */
const EXPLAINED_OF_ALL = 0.5;
const EXPLAINED = 0.85;
/** Share of intercepts that lie off the plane through their neighbours where sheets of one unit mix, and that few planes explain then. */
const MIXED = 0.15;
const EXPLAINED_MIXED = 0.95;
/** How far those that lie near it are off their own plane (root mean square), as a share of how far intercepts are from the next one (median), at most. */
const ROUGH = 0.1;
/** Intercepts that are compared with their neighbours. */
const ASKED = 300;

interface Parted {
	parts: Intercept[][];
	/** Those that lie alone, off the planes of several sheets, with how far off: rock with a wrong code. */
	alone: Map<Intercept, number>;
}

/**
 * Intercepts of one unit by the sheets that they belong to: where holes cross it again and again it is several. Planes through three intercepts
 * are tried (random sample consensus, Fischler & Bolles 1981); each takes one intercept of a hole at most.
 * @param most sheets
 * @param seen places in holes: a plane that holes pass without meeting the unit is none of them
 * @returns one list of all when hardly a hole crosses it twice, or no few planes explain where it was met
 */
export function partSheets(intercepts: readonly Intercept[], most = MOST_SHEETS, seen: Seen = []): Parted {
	const whole: Parted = { parts: [[...intercepts]], alone: new Map() };
	if (most < 2) return whole;
	const repeated = isRepeated(intercepts);
	const near = nearPlane(intercepts);
	// Where sheets cross few holes meet two, but neighbours belong to different ones.
	if (!repeated && shareOffNeighbours(intercepts, near) < MIXED) return whole;
	const least = repeated ? EXPLAINED : EXPLAINED_MIXED;
	const found: { plane: Plane; on: Intercept[] }[] = [];
	let rest = [...intercepts];
	const along = alongHoles(seen);
	while (found.length < most && rest.length >= FEWEST) {
		const best = bestPlane(rest, near, along);
		if (!best) break;
		found.push(best);
		const taken = new Set(best.on);
		rest = rest.filter((i) => !taken.has(i));
	}
	// More sheets than are allowed: none of them is left out.
	const further = found.length === most ? bestPlane(rest, near, along) : null;
	if (further && !isByChance(further.plane, further.on, near, along, rest)) return whole;
	// Wrong codes that happen to lie near one plane are no sheet: the last found is asked first, with all that lie on none.
	const stray = [...rest];
	while (found.length > 1) {
		const { plane, on } = found.at(-1)!;
		stray.push(...on);
		if (!isByChance(plane, on, near, along, stray)) break;
		found.pop();
	}
	const planes = found.map((f) => f.plane);
	if (planes.length < 2) return whole;
	let parts: Intercept[][] = [];
	for (let round = 0; round < ROUNDS; round++) {
		parts = shared(intercepts, planes);
		parts.forEach((part, k) => {
			// One that lies far off turns none of them.
			const close = part.filter((i) => offOf(planes[k]!, centreOf(i)) <= 2 * near);
			const plane = close.length >= 3 ? planeThrough(close.map(centreOf)) : null;
			if (plane) planes[k] = plane;
		});
	}
	const own = parts.flatMap((part, k) => part.map((i) => ({ i, off: offOf(planes[k]!, centreOf(i)) }))).sort((a, b) => a.off - b.off);
	const explained = own.filter(({ off }) => off <= 1.5 * near).length;
	const onPlanes = new Set(own.slice(0, explained).map(({ i }) => i));
	const isThinner = thinnerThan([...onPlanes]);
	const known = byHole(intercepts.filter((i) => onPlanes.has(i) || !isThinner(i)));
	const alone = new Map(own.slice(explained).flatMap(({ i, off }) => (isAlone(i, known, along, near) ? [[i, off] as const] : [])));
	const believed = own.slice(0, Math.ceil(least * (own.length - alone.size))).map(({ off }) => off);
	const others = parts.flatMap((part, k) =>
		part.map((i) => Math.min(...planes.map((p, o) => (o === k ? Infinity : offOf(p, centreOf(i))))))
	);
	const apart = quantileSorted(Float64Array.from(others).sort(), 0.5);
	const rough = Math.sqrt(believed.reduce((s, d) => s + d * d, 0) / believed.length);
	const crossing = (part: readonly Intercept[]) => part.filter((i) => i.contacts.length > 1).length;
	return parts.some((p) => p.length < FEWEST || crossing(p) < FEWEST_CROSSING) ||
		explained < Math.max(EXPLAINED_OF_ALL * intercepts.length, least * (intercepts.length - alone.size)) ||
		!(rough < ROUGH * apart)
		? whole
		: { parts, alone };
}

/** Share of intercepts that lie far off the plane through their neighbours in other holes. */
function shareOffNeighbours(intercepts: readonly Intercept[], near: number): number {
	const asked = intercepts.filter((_, k) => k % Math.ceil(intercepts.length / ASKED) === 0);
	const off = asked.filter((i) => {
		const others = intercepts.filter((o) => o.contacts[0]!.hole !== i.contacts[0]!.hole);
		const around = nearestOf(others, centreOf(i), centreOf).map(centreOf);
		const plane = around.length > 3 ? planeThrough(around) : null;
		return plane !== null && offOf(plane, centreOf(i)) > near;
	});
	return off.length / asked.length;
}

/** Each intercept with the plane that it is nearest to; of one hole each with another plane, as long as there are any. */
function shared(intercepts: readonly Intercept[], planes: readonly Plane[]): Intercept[][] {
	const out: Intercept[][] = planes.map(() => []);
	for (const own of byHole(intercepts).values()) {
		const pairs = own.flatMap((i) => planes.map((p, k) => ({ i, k, off: offOf(p, centreOf(i)) }))).sort((a, b) => a.off - b.off);
		const [placed, used] = [new Set<Intercept>(), new Set<number>()];
		for (const free of [true, false])
			for (const { i, k } of pairs)
				if (!placed.has(i) && !(free && used.has(k))) {
					placed.add(i);
					used.add(k);
					out[k]!.push(i);
				}
	}
	return out;
}

export type WhoseIntercept = (o: Pick<Observation, 'hole' | 'depth'>) => Intercept | undefined;

/**
 * The intercepts that places inside an intrusion belong to, by place: of its hole the one around it, else the nearest. None where older rock was
 * seen on the way there: that is another crossing, of which no end was logged.
 */
export function interceptAt(intercepts: readonly Intercept[], seen: readonly Observation[], unit: number): WhoseIntercept {
	const known = byHole(intercepts);
	const older = new Map<string, number[]>();
	for (const o of seen) if (o.unit > unit && known.has(o.hole)) (older.get(o.hole) ?? older.set(o.hole, []).get(o.hole)!).push(o.depth);
	return ({ hole, depth }) => {
		const near = (known.get(hole) ?? [])
			.map((i) => {
				const depths = i.contacts.map((c) => c.depth);
				const end = Math.min(Math.max(depth, Math.min(...depths)), Math.max(...depths));
				return { i, end, away: Math.abs(end - depth) };
			})
			.reduce<{ i: Intercept; end: number; away: number } | undefined>((a, b) => (a && a.away <= b.away ? a : b), undefined);
		if (!near) return undefined;
		const [low, high] = [Math.min(near.end, depth) + SAME_DEPTH, Math.max(near.end, depth) - SAME_DEPTH];
		return older.get(hole)?.some((d) => d > low && d < high) ? undefined : near.i;
	};
}
