import type { Bound, ValueDatum } from '../fields/data';
import { fieldOrNone, type FitOptions } from '../fields/fit';
import type { Field } from '../fields/field';
import { together, valuesSteps, type Steps } from '../fields/steps';
import { dot, subtract, type Vec3 } from '../geometry/vector';
import type { GroundFinding } from './ground';
import { meanOf, planeOf } from './intercepts';
import { rimOf, usualByHole } from './rim';
import { FEWEST_HOLES, holePlaces, MOST as TIMES, turnsOf, usualDistance, type HoleDatum } from './neighbours';
import { quantileSorted } from '../statistics/spread';
import { oddOnes, type Odd, type OddOptions, usualThickness } from './vary';

/** With more contacts than this each look takes long, and one of them does little. */
const MOST = 1500;
/** The same where each of many surfaces is looked at. */
const MOST_INSIDE = 600;
/** A base that is steeper than this is no base of a layer. */
const STEEP = 0.3;

/** Contacts of a hole, at least, and as a share of those that it shows, that are off when all of it is. */
const FEWEST_OFF = 2;
const MOST_OF_HOLE = 0.6;
/** What moves a whole hole moves its contacts alike: these are off by no more than this share more or less than the middle one. */
const ALIKE = 0.5;
/** Where one of them is odd, another one is off with it that is off by this share of what would make it odd. */
const DOUBTED = 0.5;
/** What is off by less than this share of the usual thickness does no harm. */
const HARMLESS = 0.15;
/** Nor what a dip of 3° makes from one hole to the next. */
const LEVEL = 0.05;

/** What a hole without a contact of a base saw is not believed where it takes the base off by more than this share of the distance to the next contact: 35°. */
const STEEPEST = 0.7;

/**
 * Places in holes that show no contact of a base, or lie on the wrong side of all that their hole shows, and have it far off where its
 * contacts have it: a wrong code at the end of a hole hides its contact, or comes below it, and the base would run off there without an end.
 * @param points contacts of the base
 * @param bounds places that are to lie above it (sense 1) or below
 * @returns by place: how far off it is, length units
 */
export function* oddBesideBase(
	points: readonly HoleDatum[],
	bounds: readonly Bound[],
	faultCount: number,
	options: FitOptions
): Steps<Map<Bound, number>> {
	const out = new Map<Bound, number>();
	const own = points.filter((p) => p.hole !== '');
	const showing = new Map<string, number[]>();
	for (const p of points) showing.set(p.hole, [...(showing.get(p.hole) ?? []), p.z]);
	if (own.length < FEWEST_HOLES || own.length > MOST) return out;
	const places = own.map((p): Vec3 => [p.x, p.y, p.z]);
	const [center, normal] = [meanOf(places), planeOf(places)];
	if (Math.abs(normal[2]) < STEEP) return out;
	const height = (p: { x: number; y: number; z: number }) => dot(subtract([p.x, p.y, p.z], center), normal) / normal[2];
	const suspects = bounds.flatMap((b) => {
		// Between two contacts of its hole, or on the right side of one, it is as it should be.
		if (showing.get(b.source)?.some((z) => b.sense * (b.z - z) > 0)) return [];
		const beside = own.filter((p) => p.block === b.block).map((p) => ({ p, far: Math.hypot(p.x - b.x, p.y - b.y) }));
		const next = beside.reduce<(typeof beside)[number] | null>((a, o) => (a && a.far <= o.far ? a : o), null);
		return next && b.sense * (height(next.p) - height(b)) > STEEPEST * next.far ? [{ b, far: next.far }] : [];
	});
	if (suspects.length === 0) return out;
	const values = own.map((p): ValueDatum => ({ x: p.x, y: p.y, z: p.z, block: p.block, value: height(p) }));
	const empty = { groupCount: 0, faultCount, points: [], gradients: [], bounds: [] };
	const field = yield* fieldOrNone({ ...empty, values }, { ...options, drift: 'none' });
	if (!field) return out;
	// Asked where it is, not where the hole ends far above or below it.
	const onPlane = suspects.map(({ b }) => ({ x: b.x, y: b.y, z: b.z - height(b), block: b.block }));
	const heights = yield* valuesSteps(field, onPlane);
	suspects.forEach(({ b, far }, i) => {
		const by = b.sense * (heights[i]! * field.unit - height(b));
		if (by > STEEPEST * far) out.set(b, by);
	});
	return out;
}

/** Elevation of the ground, length units. */
type GroundAt = (x: number, y: number) => number;

/** Below the ground contacts are measured where that leaves their neighbours this much more alike. */
const FOLLOWS = 0.7;

/** Whether contacts follow the ground: what is weathered does, and what was laid down on its slopes. Each is held against the one nearest to it. */
function followsGround(own: readonly HoleDatum[], heights: readonly number[], ground: GroundAt): boolean {
	const below = own.map((p) => p.z - ground(p.x, p.y));
	const apart: [number, number][] = [];
	own.forEach((p, i) => {
		let [next, least] = [-1, Infinity];
		own.forEach((o, k) => {
			const far = o.hole === p.hole || o.block !== p.block ? Infinity : (o.x - p.x) ** 2 + (o.y - p.y) ** 2;
			if (far < least) [next, least] = [k, far];
		});
		if (next >= 0) apart.push([Math.abs(heights[i]! - heights[next]!), Math.abs(below[i]! - below[next]!)]);
	});
	const usual = (k: 0 | 1) => quantileSorted(Float64Array.from(apart, (a) => a[k]).sort(), 0.5);
	return apart.length > 0 && usual(1) < FOLLOWS * usual(0);
}

/**
 * Contacts of one surface that are far off what the other holes say of it, measured by height: above their plane, or below the ground where
 * they follow that.
 * @param least what is off by less is not odd, length units
 * @param how see `oddOnes`
 */
function* oddByHeight(
	own: readonly HoleDatum[],
	field: Field,
	faultCount: number,
	options: FitOptions,
	least = 1e-3 * options.range,
	how?: OddOptions,
	ground: GroundAt | null = null
): Steps<Odd> {
	const none = { odd: new Map<number, number>(), limit: Infinity, off: [] };
	if (own.length < FEWEST_HOLES || own.length > MOST) return none;
	const places = own.map((p): Vec3 => [p.x, p.y, p.z]);
	const [center, normal] = [meanOf(places), planeOf(places)];
	if (Math.abs(normal[2]) < STEEP) return none;
	const { unit, metric, follow } = field;
	const around: FitOptions = { ...options, drift: 'none', frame: { center: field.center, unit, metric, follow } };
	const fit = (values: ValueDatum[]) => fieldOrNone({ groupCount: 0, faultCount, points: [], values, gradients: [], bounds: [] }, around);
	let values = places.map((p) => dot(subtract(p, center), normal) / normal[2]);
	if (ground && followsGround(own, values, ground)) values = places.map(([x, y, z]) => z - ground(x, y));
	const heights = own.map((p, i): ValueDatum => ({ ...{ x: p.x, y: p.y, z: p.z, block: p.block }, value: values[i]! }));
	const turn = turnsOf(holePlaces(own));
	return yield* oddOnes(own, heights, [], fit, holePlaces(own), turn, unit, least, how);
}

/**
 * Holes whose contacts inside a sequence are off as a whole: a slip in a depth or an elevation moves all of them. Nothing contradicts them, so
 * they are honoured; but they are named.
 * @param field of the sequence, through all its contacts
 * @param length a length in words
 * @param ground where it is known
 */
export function* oddHoles(
	points: readonly HoleDatum[],
	field: Field,
	faultCount: number,
	options: FitOptions,
	certain: ReadonlySet<string>,
	length: (by: number) => string,
	ground: GroundAt | null = null
): Steps<GroundFinding[]> {
	const groups = [...new Set(points.map((p) => p.group))].map((g) => points.filter((p) => p.group === g && p.hole !== ''));
	const apart = usualDistance([...holePlaces(points).values()]);
	const least = Math.max(1e-3 * options.range, HARMLESS * usualThickness(points), LEVEL * apart);
	if (groups.some((own) => own.length > MOST_INSIDE)) return [];
	const found = yield* together(
		groups.map((own) => oddByHeight(own, field, faultCount, options, least, { within: 0, onlyErrors: true }, ground))
	);
	const shown = new Map<string, number>();
	for (const p of points) shown.set(p.hole, (shown.get(p.hole) ?? 0) + 1);
	// Those at the rim are held against each other, too: the shape of a fold goes on there as the others can not tell.
	const rim = rimOf(holePlaces(points));
	const usual = found.map(({ off }, k) =>
		usualByHole(
			groups[k]!.map(({ hole }, i) => ({ hole, error: Math.abs(off[i] ?? 0) })),
			rim
		)
	);
	const isOdd = (k: number, i: number, by: number) => by > TIMES * usual[k]!(groups[k]![i]!.hole);
	/** By hole that has an odd one: all that are off. */
	const off = new Map<string, { by: number; p: HoleDatum }[]>();
	const hasOdd = new Set(found.flatMap(({ odd }, k) => [...odd].flatMap(([i, by]) => (isOdd(k, i, by) ? [groups[k]![i]!.hole] : []))));
	found.forEach((heights, k) =>
		heights.off.forEach((by, i) => {
			const p = groups[k]![i]!;
			if (hasOdd.has(p.hole) && Math.abs(by) > Math.max(least, DOUBTED * heights.limit))
				off.set(p.hole, [...(off.get(p.hole) ?? []), { by, p }]);
		})
	);
	return [...off].flatMap(([hole, list]): GroundFinding[] => {
		const { by, p } = list.sort((a, b) => a.by - b.by)[list.length >> 1]!;
		const alike = list.filter((o) => Math.abs(o.by - by) <= ALIKE * Math.abs(by)).length;
		if (certain.has(hole) || alike < Math.max(FEWEST_OFF, MOST_OF_HOLE * shown.get(hole)!)) return [];
		return [
			{
				kind: 'alone-at-base',
				severity: 'noted',
				message: `${alike} contacts of ${hole} are about ${length(Math.abs(by))} off what its neighbours say`,
				hint: 'They are honoured, near it. A slip in its elevation or its depths, or a fault that was not drawn?',
				at: [p.x, p.y, p.z],
				hole
			}
		];
	});
}

/**
 * Contacts of an erosional base that are far off what the other holes say of it. A channel may be met by one hole only, so they are honoured
 * all the same, which bends the surface near them only; but they are named. What would be a gorge (see `STEEPEST`) is a wrong code or a slip
 * until it is believed: it shapes nothing.
 * @param field of the base, through all its contacts
 * @param what in words, as "the base of Cover"
 * @param length a length in words
 * @returns what is said, and by number those that shape nothing
 */
export function* oddAtBase(
	what: string,
	points: readonly HoleDatum[],
	field: Field,
	faultCount: number,
	options: FitOptions,
	certain: ReadonlySet<string>,
	length: (by: number) => string
): Steps<{ findings: GroundFinding[]; gorges: Map<number, number> }> {
	const numbers = [...points.keys()].filter((i) => points[i]!.hole !== '');
	const own = numbers.map((i) => points[i]!);
	const { odd } = yield* oddByHeight(own, field, faultCount, options);
	const [findings, gorges]: [GroundFinding[], Map<number, number>] = [[], new Map()];
	for (const [k, off] of odd) {
		const { hole, x, y, z, block } = own[k]!;
		if (certain.has(hole)) continue;
		const next = Math.min(...own.map((p) => (p.hole === hole || p.block !== block ? Infinity : Math.hypot(p.x - x, p.y - y))));
		if (off > STEEPEST * next) gorges.set(numbers[k]!, off);
		else
			findings.push({
				kind: 'alone-at-base',
				severity: 'noted',
				message: `${hole} has ${what} ${length(off)} off what its neighbours say`,
				hint: 'It is honoured, near it. A channel, a wrong code or a slip in a depth?',
				at: [x, y, z],
				hole
			});
	}
	return { findings, gorges };
}
