import type { ValueDatum } from '../fields/data';
import { fieldOrNone, type FitOptions } from '../fields/fit';
import { NearestPoint } from '../geometry/nearest';
import type { Steps } from '../fields/steps';
import { dot, subtract, type Vec3 } from '../geometry/vector';
import type { Observation } from '../units/contacts';
import { rangeOf } from './fit-sequence';
import { AGAINST_NEIGHBOURS, lengthSaid, type GroundFinding } from './ground';
import type { Intrusion } from './intrusion';
import { centreOf, meanOf, nearestOf, type Intercept } from './intercepts';
import { FEWEST_HOLES, holePlaces, turnsOf, type HoleDatum } from './neighbours';
import type { WhoseIntercept } from './part-sheets';
import { flattest, onOnePlane } from './sheet-planes';
import { strayIntercepts } from './stray-intercepts';
import type { Place } from './ends-at';
import type { Placed } from './thinning';
import { acrossAll, axesOn, lieOf } from './sheet-lie';
import { quantileSorted } from '../statistics/spread';
import { oddOnes } from './vary';

/** With more intercepts than this each look takes long, and one of them does little. */
const MOST = 1500;
/** Intercepts of a fault block, at least, that outvote one of them. */
const FEWEST_OF_BLOCK = 5;
/** A sheet does not turn away by more than this share of the distance to the next intercept: 30°. */
const TURNED = 0.5;
/** Nor by more than so many times the spread of its intercepts about their plane, nearer to them than they are spread along it. */
const PLANAR = 10;
/** Intercepts that met one wall only, at least, to tell how far it is from the middle. */
const FEWEST_OF_WALL = 3;
/** Fewer intercepts than this outvote none of them. */
const FEWEST = 6;
/** Share of the intercepts nearest to their plane that are asked for a better one. */
const TRIMMED = 0.85;
/** What is stray is so many times as far off the sheet as that is thick. */
const STRAY = 2;
/** A thin one lies beside the others when it is so many times as far off their middle as they are thick. */
const BESIDE = 0.75;
/** More of a sheet than this share is not far off its plane: then it lies in several. */
const MOST_FAR = 0.17;
/** Unless they lie anywhere: no more of them than this share near any one plane. Then as many as this may be far off. */
const SCATTERED = 0.65;
const MOST_SCATTERED = 0.45;
/** That is said of what many holes cross and that is thinner than this share of its breadth: what is odd of a body may be its shape. */
const THIN = 0.15;
/** More of a sheet than this share is never odd: then it is no sheet. */
const MOST_ODD = 0.25;
/** Share of single rows that are off a sheet, from which on they are taken for wrong ones that lie anywhere. */
const MOST_LOOSE = 0.5;
/** Intercepts that tell a plane, at least. */
const FEWEST_OF_PLANE = 3;

/** Intercepts that are asked apart from those that make a sheet. */
interface Doubtful {
	/** Those that are known to lie off all sheets of the unit, and how far. */
	alone: ReadonlyMap<Intercept, number>;
	/** Those that only one row of a log speaks for, see `singleRows`. */
	single: ReadonlySet<Intercept>;
}

/**
 * Intercepts of a sheet that lie far off where those of the other holes have it: a wrong code makes another rock a part of it. Holes are
 * left out in turns, as for contacts (see `oddOnes`), and each middle is measured across the sheet against the field of the others.
 * @param seen places with their units, to tell holes from lines on the map, which are believed
 * @param whose the intercept, of all, that a place inside belongs to
 * @returns how far off each of them is, length units; none where they are too many for a sheet
 */
export function* oddIntercepts(
	intrusion: Pick<Intrusion, 'input' | 'unit' | 'cut'>,
	part: readonly Intercept[],
	seen: readonly Observation[],
	whose: WhoseIntercept,
	{ alone, single }: Doubtful = { alone: new Map(), single: new Set() }
): Steps<Map<Intercept, number>> {
	if (part.length > MOST) return new Map();
	const certain = new Set(intrusion.input.certain);
	const inHoles = new Set(seen.filter((o) => o.unit === intrusion.unit).map((o) => o.hole));
	const isAsked = ({ contacts: [c] }: Intercept) => inHoles.has(c!.hole) && !certain.has(c!.hole);
	// What lies alone, off the plane of all others, tells nothing of the sheet; the rest is measured without it.
	const known = new Map(part.flatMap((i) => (alone.has(i) ? [[i, alone.get(i)!] as const] : [])));
	const sure = part.filter((i) => !known.has(i) && !single.has(i));
	const asked = part.filter((i) => single.has(i) && isAsked(i));
	const loose = new Map(offSheet(intrusion, sure, asked, seen, whose));
	const others = part.filter((i) => !known.has(i) && !loose.has(i));
	const stray = [...known, ...strayIntercepts(others, seen)].filter(([i]) => isAsked(i));
	const rest = new Set(others);
	for (const [i] of stray) rest.delete(i);
	return new Map([...(yield* oddOfSheet(intrusion, [...rest], seen, whose)), ...stray, ...loose]);
}

/** Those of some intercepts that lie off the sheet of others, measured by the plane of all of these and by that of the nearest; and how far. */
function offSheet(
	{ input, unit, cut }: Pick<Intrusion, 'input' | 'unit' | 'cut'>,
	sheet: readonly Intercept[],
	asked: readonly Intercept[],
	seen: readonly Observation[],
	whose: WhoseIntercept
): [Intercept, number][] {
	const blockOf = ({ middle: [x, y, z] }: Intercept) => cut.block({ x, y, z });
	return [...new Set(asked.map(blockOf))].flatMap((block) => {
		const own = sheet.filter((i) => blockOf(i) === block);
		if (own.length < FEWEST_OF_PLANE) return [];
		const across = acrossPart(own, seen, unit, whose);
		const least = Math.max(across.usual, 1e-3 * rangeOf(input));
		const bounds = turning(across, least);
		const heights = own.map((i) => dot(centreOf(i), across.normal));
		const middle = quantileSorted(Float64Array.from(heights).sort(), 0.5);
		const lying = asked
			.filter((i) => blockOf(i) === block)
			.map((i) => {
				const at = centreOf(i);
				const others = own.filter((o) => o.contacts[0]!.hole !== i.contacts[0]!.hole).map(centreOf);
				const near = nearestOf(others, at, (p) => p);
				const plane = near.length >= FEWEST_OF_PLANE ? acrossAll([near]) : null;
				const offs = [dot(at, across.normal) - middle, plane ? dot(subtract(at, meanOf(near)), plane.normal) : Infinity].map(Math.abs);
				const off = Math.min(...offs);
				const next = Math.min(...near.map((p) => Math.hypot(...subtract(p, at))));
				return { i, off, isOff: off > bounds(next) || isSecond(i, own, across, seen, unit) };
			});
		// Where most of them are off it, one that lies where it may have turned to lies there by chance.
		const mostOff = lying.filter((l) => l.isOff).length >= MOST_LOOSE * lying.length;
		return lying.flatMap(({ i, off, isOff }): [Intercept, number][] => (isOff || (mostOff && off > least) ? [[i, off]] : []));
	});
}

function* oddOfSheet(
	{ input, unit, cut }: Pick<Intrusion, 'input' | 'unit' | 'cut'>,
	part: readonly Intercept[],
	seen: readonly Observation[],
	whose: WhoseIntercept
): Steps<Map<Intercept, number>> {
	const none = new Map<Intercept, number>();
	if (part.length < FEWEST) return none;
	const sheet = acrossPart(part, seen, unit, whose);
	const inHoles = new Set(seen.filter((o) => o.unit === unit).map((o) => o.hole));
	const dying = cut.zones.reduce((mask, z) => mask | (1 << z.fault), 0);
	const isOfHole = (i: Intercept) => i.contacts[0]!.wall === undefined && inHoles.has(i.contacts[0]!.hole);
	const own = part.map((i, k): HoleDatum => {
		const [x, y, z] = i.middle;
		const { hole } = i.contacts[0]!;
		return { x, y, z, group: 0, block: cut.block({ x, y, z }) & ~dying, hole: isOfHole(i) ? hole : `${hole}\n${k}` };
	});
	const heights = own.map(({ x, y, z, block }, k): ValueDatum => ({ x, y, z, block, value: sheet.off[k]! }));
	const range = rangeOf(input);
	// Where a younger sheet takes a half of it the middle of the rest is off by less than it is thick.
	const least = Math.max(sheet.usual, 1e-3 * range);
	const others = new NearestPoint(own);
	const bounds = turning(sheet, STRAY * least);
	const turned = (k: number) => bounds(others.distance(own[k]!.x, own[k]!.y, own[k]!.z, (j) => own[j]!.hole !== own[k]!.hole));
	// What is far off a plane that nearly all others keep to is odd, whatever else is odd beside it; a thin one that lies beside the others, too.
	const far = sheet.off.flatMap((off, k): [number, number][] =>
		Math.abs(off) > (sheet.thin.has(k) ? Math.min(BESIDE * sheet.usual, turned(k)) : turned(k)) ? [[k, Math.abs(off)]] : []
	);
	const lie = far.map(([k]) => part[k]!);
	const crossed = part.filter((i) => i.contacts.length === 2).length;
	const isThin = 3 * crossed >= part.length && sheet.usual < THIN * sheet.breadth;
	const isScattered = isThin && far.length <= MOST_SCATTERED * part.length && onOnePlane(lie) <= SCATTERED * far.length;
	const odd = new Map(isScattered || far.length <= MOST_FAR * part.length ? far : []);
	const rest = own.flatMap((_, k) => (odd.has(k) ? [] : [k]));
	if (rest.length >= FEWEST_HOLES) {
		const options: FitOptions = { range, drift: 'none', frame: { center: [...sheet.at], unit: range / 2, metric: null, follow: null } };
		const fit = (values: ValueDatum[]) =>
			fieldOrNone({ groupCount: 0, faultCount: cut.faults.length, points: [], values, gradients: [], bounds: [] }, options);
		const kept = rest.map((k) => own[k]!);
		const places = holePlaces(kept);
		const values = rest.map((k) => heights[k]!);
		const { odd: found } = yield* oddOnes(kept, values, [], fit, places, turnsOf(places), range / 2, least, {
			beyond: (i) => turned(rest[i]!)
		});
		for (const [i, off] of found) odd.set(rest[i]!, off);
	}
	for (const [k, more] of sheet.tooThick) odd.set(k, Math.max(more, odd.get(k) ?? 0));
	const certain = new Set(input.certain);
	const out = new Map(
		[...odd].flatMap(([k, off]): [Intercept, number][] =>
			isOfHole(part[k]!) && !certain.has(own[k]!.hole) && own.filter((o) => o.block === own[k]!.block).length > FEWEST_OF_BLOCK
				? [[part[k]!, off]]
				: []
		)
	);
	return out.size > (isScattered ? MOST_SCATTERED : MOST_ODD) * part.length ? none : out;
}

/**
 * Whether a row is parted by older rock from where its hole crosses a sheet, and that is as thick as the sheet usually is without it: else the
 * row between them may be the one that is wrong.
 */
function isSecond(
	i: Intercept,
	sheet: readonly Intercept[],
	{ normal, usual }: Pick<Across, 'normal' | 'usual'>,
	seen: readonly Observation[],
	unit: number
): boolean {
	const { hole } = i.contacts[0]!;
	const crossing = sheet.find((o) => o.contacts.length > 1 && o.contacts[0]!.hole === hole);
	if (!crossing) return false;
	const depths = (o: Intercept) => o.contacts.map((c) => c.depth);
	const [low, high] = [Math.min(...depths(i), ...depths(crossing)), Math.max(...depths(i), ...depths(crossing))];
	if (!seen.some((o) => o.hole === hole && o.unit > unit && o.depth > low && o.depth < high)) return false;
	const thick = (contacts: Intercept['contacts']) => {
		const heights = contacts.map((c) => dot([c.x, c.y, c.z], normal));
		return Math.max(...heights) - Math.min(...heights);
	};
	const differs = (t: number) => Math.abs(Math.log(t / usual));
	return !(differs(thick([...i.contacts, ...crossing.contacts])) < differs(thick(crossing.contacts)));
}

/** How far off a sheet an intercept may be, by the distance to the next one: what lies farther off is odd. @param least wherever that is */
function turning({ spread, breadth }: Pick<Across, 'spread' | 'breadth'>, least: number): (next: number) => number {
	const bend = PLANAR * 1.4826 * spread;
	return (next) => Math.max(least, Math.min(TURNED * next, bend * Math.max(1, next / breadth) ** 2));
}

/** How the intercepts of a sheet lie across it. */
interface Across extends Thicknesses {
	at: Vec3;
	normal: Vec3;
	/** By intercept: how far its middle is off the plane, length units; of one that met one wall only, off that of all that met it. */
	off: number[];
	/** Middle of how far they are off it, and of how far they are from their middle, length units. */
	spread: number;
	breadth: number;
}

/**
 * The plane of a sheet though some of its intercepts may be wrong: of the plane near which most lie, that of all, and that of all but the
 * worst the one that they are off least.
 */
function acrossPart(part: readonly Intercept[], seen: readonly Observation[], unit: number, whose: WhoseIntercept): Across {
	const { normal: ofAll, within } = lieOf(part, seen, unit);
	const middles = part.map((i) => i.middle);
	const median = (list: number[]) => quantileSorted(Float64Array.from(list).sort(), 0.5);
	const measured = (normal: Vec3) => {
		const wall = part.map(({ contacts, middle }, k) => {
			const inside = within[k];
			return contacts.length === 1 && inside ? Math.sign(dot(subtract(middle, inside), normal)) : 0;
		});
		const above = middles.map((m) => dot(m, normal));
		const heightOf = new Map([-1, 0, 1].map((w) => [w, above.filter((_, k) => wall[k] === w)] as const));
		const known = [...heightOf.values()].filter((g) => g.length >= FEWEST_OF_WALL);
		const all = median(known.length ? known.map(median) : above);
		const off = above.map((h, k) => {
			const group = heightOf.get(wall[k]!)!;
			return h - (group.length >= FEWEST_OF_WALL ? median(group) : all);
		});
		const walls = [-1, 1].map((w) => heightOf.get(w)!).filter((g) => g.length >= FEWEST_OF_WALL);
		const apart = walls.length === 2 ? Math.abs(median(walls[0]!) - median(walls[1]!)) : 0;
		return { normal, off, apart, spread: median(off.map(Math.abs)) };
	};
	const first = measured(ofAll);
	const nearest = part.filter((_, k) => Math.abs(first.off[k]!) <= quantileSorted(Float64Array.from(first.off, Math.abs).sort(), TRIMMED));
	const normals = [ofAll, flattest(part)?.normal, nearest.length >= FEWEST ? lieOf(nearest, seen, unit).normal : undefined];
	const best = normals.flatMap((n) => (n ? [measured(n)] : [])).reduce((a, b) => (b.spread < a.spread ? b : a));
	const { usual, tooThick, thin } = thicknesses(part, seen, unit, best.normal, whose);
	const at = meanOf(middles);
	const breadth = median(middles.map((m) => Math.hypot(...subtract(m, at))));
	return { at, normal: best.normal, off: best.off, spread: best.spread, breadth, usual: usual || best.apart, tooThick, thin };
}

/** An intercept is far too thick when it is so many times as thick as the middle of all, and as each of those around it; thin by the first. */
const TIMES_ALL = 4;
const TIMES_NEAR = 2;

interface Thicknesses {
	/** Of the middle one, length units; 0 where none is known. */
	usual: number;
	/** By index: how much thicker it is than the thickest nearby. */
	tooThick: Map<number, number>;
	/** Those that are far thinner than the middle one. */
	thin: Set<number>;
}

/** How thick a sheet is in its intercepts, and which are far thicker than those around them: the rock beside the sheet has its code. */
function thicknesses(
	part: readonly Intercept[],
	seen: readonly Observation[],
	unit: number,
	normal: Vec3,
	whose: WhoseIntercept
): Thicknesses {
	const reach = new Map<Intercept, number>();
	// Where one wall was met, it is as thick as it was seen to be at least.
	for (const o of seen) {
		const i = o.unit === unit ? whose(o) : undefined;
		const met = i?.contacts[0];
		if (i && met) reach.set(i, Math.max(reach.get(i) ?? 0, Math.abs(dot(subtract([o.x, o.y, o.z], [met.x, met.y, met.z]), normal))));
	}
	const thick = part.map((i) => {
		const [a, b] = i.contacts;
		return b ? Math.abs(dot(subtract([a!.x, a!.y, a!.z], [b.x, b.y, b.z]), normal)) : (reach.get(i) ?? 0);
	});
	const known = Float64Array.from(thick.filter((_, k) => part[k]!.contacts.length === 2)).sort();
	const usual = known.length ? quantileSorted(known, 0.5) : 0;
	const thin = new Set(part.flatMap((i, k) => (i.contacts.length === 2 && TIMES_ALL * thick[k]! < usual ? [k] : [])));
	if (known.length < FEWEST_HOLES) return { usual, tooThick: new Map(), thin };
	const numbered = part.map((i, k) => ({ i, thick: thick[k]! }));
	const tooThick = new Map(
		numbered.flatMap((n, k): [number, number][] => {
			if (!(n.thick > TIMES_ALL * usual)) return [];
			const near = nearestOf(
				numbered.filter((o) => o.i.contacts.length === 2 && o.i.contacts[0]!.hole !== n.i.contacts[0]!.hole),
				n.i.middle,
				(o) => o.i.middle
			);
			const most = Math.max(...near.map((o) => o.thick));
			return n.thick > TIMES_NEAR * most ? [[k, n.thick - most]] : [];
		})
	);
	return { usual, tooThick, thin };
}

/** Names holes whose intercepts, or places inside, were left out: once, by what is farthest off. */
export function noteOdd(
	{ input, name, findings }: Pick<Intrusion, 'input' | 'name' | 'findings'>,
	odd: ReadonlyMap<Intercept, number>,
	stray: ReadonlyMap<Observation, number>
): void {
	const worst = new Map<string, { off: number; at: Vec3 }>();
	const say = (hole: string, off: number, at: Vec3) => off > (worst.get(hole)?.off ?? 0) && worst.set(hole, { off, at });
	for (const [{ contacts, middle }, off] of odd) say(contacts[0]!.hole, off, middle);
	for (const [{ hole, x, y, z }, off] of stray) say(hole, off, [x, y, z]);
	for (const [hole, { off, at }] of worst)
		findings.push({
			kind: AGAINST_NEIGHBOURS,
			severity: 'noted',
			message: `${hole} meets ${name} ${lengthSaid(input, off)} off where its neighbours do`,
			hint: 'Look for a wrong code, a slip in a depth or another sheet. Until then what it met there shapes nothing.',
			at,
			hole
		});
}

/**
 * Places that are said to lie in a sheet, in holes that show no contact of it, far off where its intercepts have it.
 * @returns them, with how far off they are, length units
 */
export function strayPlaces<P extends Observation>(
	parts: readonly (readonly Intercept[])[],
	seen: readonly P[],
	unit: number,
	whose: WhoseIntercept,
	certain: ReadonlySet<string>
): Map<P, number> {
	const out = new Map<P, number>();
	if (parts.some((part) => part.length < FEWEST)) return out;
	const sheets = parts.map((part) => ({ part, usual: acrossPart(part, seen, unit, whose).usual }));
	for (const o of seen) {
		if (o.unit !== unit || whose(o) || certain.has(o.hole)) continue;
		const at: Vec3 = [o.x, o.y, o.z];
		const offs = sheets.map(({ part, usual }) => {
			const near = nearestOf(part, at, (i) => i.middle).map((i) => i.middle);
			const across = acrossAll([near]);
			const off = across ? Math.abs(dot(subtract(at, meanOf(near)), across.normal)) : 0;
			const next = Math.min(...near.map((m) => Math.hypot(...subtract(m, at))));
			return off > STRAY * usual && off > TURNED * next ? off : 0;
		});
		const least = Math.min(...offs);
		if (least > 0) out.set(o, least);
	}
	return out;
}

/** Intercepts nearest to a place where a hole passes, which all have to be there. */
const AROUND = 8;
/** Greatest angle between two of them, seen from there across the sheet, that still stand round it. */
const GAP = 1.05 * Math.PI;

/**
 * Holes that pass a sheet alone, with others around them that all meet it: it may be that its code is wrong there, or that the sheet has a
 * hole in it just there.
 * @param meets where holes meet it
 * @param normal across the sheet
 */
export function passingAlone<P extends Placed<Observation>>(passing: readonly P[], meets: readonly Place[], normal: Vec3): P[] {
	if (meets.length < FEWEST_HOLES || passing.length > MOST) return [];
	const all = [...meets.map((p) => ({ p, met: true, hole: '' })), ...passing.map((p) => ({ p: p as Place, met: false, hole: p.hole }))];
	const [side, other] = axesOn(normal);
	return passing.filter((p) => {
		const here: Vec3 = [p.x, p.y, p.z];
		const near = nearestOf(
			all.filter((a) => a.hole !== p.hole),
			here,
			(a) => [a.p.x, a.p.y, a.p.z],
			AROUND
		);
		if (near.some((a) => !a.met)) return false;
		const angles = near
			.map((a): Vec3 => subtract([a.p.x, a.p.y, a.p.z], here))
			.map((v) => Math.atan2(dot(v, other), dot(v, side)))
			.sort((a, b) => a - b);
		const gaps = angles.map((a, k) => (k + 1 < angles.length ? angles[k + 1]! : angles[0]! + 2 * Math.PI) - a);
		return Math.max(...gaps) < GAP;
	});
}

/** Names holes that pass a sheet alone. @param certain holes that are believed */
export function notePassingAlone(
	name: string,
	alone: readonly Observation[],
	certain: ReadonlySet<string>,
	findings: GroundFinding[]
): void {
	for (const { hole, x, y, z } of new Map(alone.map((p) => [p.hole, p])).values())
		findings.push({
			kind: certain.has(hole) ? 'believed' : 'passes-alone',
			severity: 'noted',
			message: `${hole} passes ${name} without meeting it, and all holes around it do`,
			hint: `${certain.has(hole) ? 'That is believed' : 'Look for a code that hides it there'}; it thins out towards the hole.`,
			at: [x, y, z],
			hole
		});
}
