import { dot, subtract, type Vec3 } from '../geometry/vector';
import { seededRandom } from '../statistics/random';
import { quantileSorted } from '../statistics/spread';
import type { Observation } from '../units/contacts';
import { acrossAll } from './sheet-lie';
import { meanOf, nearestOf, type Intercept } from './intercepts';

/** Holes that cross a sheet more than once, at least, and as a share of those that meet it, before it is taken for several. */
const FEWEST_REPEATED = 3;
const REPEATED = 0.05;
/** Intercepts of a sheet, at least, and sheets of one unit, at most. */
const FEWEST = 5;
export const MOST_SHEETS = 4;
/** Planes through three intercepts that are tried for each sheet, and rounds in which intercepts go to the plane that is nearest. */
const TRIALS = 600;
const ROUNDS = 6;
/** How far an intercept lies off its plane at most, as a share of how far they are spread. */
const OFF = 0.07;
/** Share of all intercepts that lie near the planes, when these are believed. */
const EXPLAINED = 0.85;
/** Share of intercepts that lie off the plane through their neighbours where sheets of one unit mix, and that few planes explain then. */
const MIXED = 0.15;
const EXPLAINED_MIXED = 0.95;
/** How far intercepts lie off their own plane (root mean square), as a share of how far they are from the next one (median), at most. */
const ROUGH = 0.15;
/** Intercepts that are compared with their neighbours. */
const ASKED = 300;

interface Plane {
	at: Vec3;
	normal: Vec3;
}
const offOf = (p: Plane, m: Vec3) => Math.abs(dot(subtract(m, p.at), p.normal));
const planeThrough = (places: readonly Vec3[]): Plane | null => {
	const across = acrossAll([places]);
	return across && { at: meanOf(places), normal: across.normal };
};

function byHole(intercepts: readonly Intercept[]): Map<string, Intercept[]> {
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

/**
 * Intercepts of one unit by the sheets that they belong to: where holes cross it again and again it is several. Planes through three intercepts
 * are tried (random sample consensus, Fischler & Bolles 1981); each takes one intercept of a hole at most.
 * @param most sheets
 * @returns one list of all when hardly a hole crosses it twice, or no few planes explain where it was met
 */
export function partSheets(intercepts: readonly Intercept[], most = MOST_SHEETS): Intercept[][] {
	const whole = [[...intercepts]];
	if (most < 2) return whole;
	const holes = byHole(intercepts).size;
	const repeated = crossedOften(intercepts) >= Math.max(FEWEST_REPEATED, REPEATED * holes);
	const center = meanOf(intercepts.map((i) => i.middle));
	const spread = Math.sqrt(intercepts.reduce((s, i) => s + Math.hypot(...subtract(i.middle, center)) ** 2, 0) / intercepts.length);
	const near = OFF * spread;
	// Where sheets cross few holes meet two, but neighbours belong to different ones.
	if (!repeated && shareOffNeighbours(intercepts, near) < MIXED) return whole;
	const least = repeated ? EXPLAINED : EXPLAINED_MIXED;
	const planes: Plane[] = [];
	let rest = [...intercepts];
	while (planes.length < most && rest.length >= FEWEST) {
		const best = bestPlane(rest, near);
		if (!best) break;
		planes.push(best.plane);
		const taken = new Set(best.on);
		rest = rest.filter((i) => !taken.has(i));
	}
	if (planes.length < 2) return whole;
	let parts: Intercept[][] = [];
	for (let round = 0; round < ROUNDS; round++) {
		parts = shared(intercepts, planes);
		parts.forEach((part, k) => {
			const plane = part.length >= 3 ? planeThrough(part.map((i) => i.middle)) : null;
			if (plane) planes[k] = plane;
		});
	}
	const own = parts.flatMap((part, k) => part.map((i) => offOf(planes[k]!, i.middle)));
	const others = parts.flatMap((part, k) => part.map((i) => Math.min(...planes.map((p, o) => (o === k ? Infinity : offOf(p, i.middle))))));
	const apart = quantileSorted(Float64Array.from(others).sort(), 0.5);
	const rough = Math.sqrt(own.reduce((s, d) => s + d * d, 0) / own.length);
	return parts.some((p) => p.length < FEWEST) || own.filter((d) => d <= 1.5 * near).length < least * own.length || !(rough < ROUGH * apart)
		? whole
		: parts;
}

/** Share of intercepts that lie far off the plane through their neighbours in other holes. */
function shareOffNeighbours(intercepts: readonly Intercept[], near: number): number {
	const asked = intercepts.filter((_, k) => k % Math.ceil(intercepts.length / ASKED) === 0);
	const off = asked.filter((i) => {
		const others = intercepts.filter((o) => o.contacts[0]!.hole !== i.contacts[0]!.hole);
		const around = nearestOf(others, i.middle, (o) => o.middle).map((o) => o.middle);
		const plane = around.length > 3 ? planeThrough(around) : null;
		return plane !== null && offOf(plane, i.middle) > near;
	});
	return off.length / asked.length;
}

/** The plane near which most holes have an intercept, and these. */
function bestPlane(list: readonly Intercept[], near: number): { plane: Plane; on: Intercept[] } | null {
	// The same for the same intercepts, whatever their order.
	const { uniform } = seededRandom(list.length);
	const pick = () => list[Math.floor(uniform() * list.length)]!;
	let best: { plane: Plane; on: Intercept[] } | null = null;
	for (let t = 0; t < TRIALS; t++) {
		const three = [pick(), pick(), pick()];
		if (new Set(three.map((i) => i.contacts[0]!.hole)).size < 3) continue;
		const plane = planeThrough(three.map((i) => i.middle));
		if (!plane) continue;
		const on = nearestOfHoles(list, plane).filter((i) => offOf(plane, i.middle) <= near);
		if (on.length >= FEWEST && on.length > (best?.on.length ?? 0)) best = { plane, on };
	}
	const refined = best && planeThrough(best.on.map((i) => i.middle));
	if (!best || !refined) return best;
	const on = nearestOfHoles(list, refined).filter((i) => offOf(refined, i.middle) <= near);
	return on.length >= best.on.length ? { plane: refined, on } : best;
}

/** Of each hole the intercept nearest to a plane. */
const nearestOfHoles = (list: readonly Intercept[], plane: Plane): Intercept[] =>
	[...byHole(list).values()].map((own) => own.reduce((a, b) => (offOf(plane, b.middle) < offOf(plane, a.middle) ? b : a)));

/** Each intercept with the plane that it is nearest to; of one hole each with another plane, as long as there are any. */
function shared(intercepts: readonly Intercept[], planes: readonly Plane[]): Intercept[][] {
	const out: Intercept[][] = planes.map(() => []);
	for (const own of byHole(intercepts).values()) {
		const pairs = own.flatMap((i) => planes.map((p, k) => ({ i, k, off: offOf(p, i.middle) }))).sort((a, b) => a.off - b.off);
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

/** The intercepts that places inside an intrusion belong to, by place: of its hole the one around it, else the nearest. */
export function interceptAt(intercepts: readonly Intercept[]): (o: Pick<Observation, 'hole' | 'depth'>) => Intercept | undefined {
	const known = byHole(intercepts);
	const away = (i: Intercept, depth: number) => {
		const depths = i.contacts.map((c) => c.depth);
		const [low, high] = [Math.min(...depths), Math.max(...depths)];
		return Math.max(low - depth, depth - high, 0);
	};
	return (o) =>
		(known.get(o.hole) ?? []).reduce<Intercept | undefined>((a, b) => (a && away(a, o.depth) <= away(b, o.depth) ? a : b), undefined);
}
