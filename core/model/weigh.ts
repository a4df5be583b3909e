import type { Bound, FieldData } from '../fields/data';
import { fieldOrNone, type FitOptions } from '../fields/fit';
import { fromBlocks, gradientAt, valueAt, type Field } from '../fields/field';
import { together, valuesSteps, type Steps } from '../fields/steps';
import { quantileSorted } from '../statistics/spread';
import { FEWEST_HOLES, holePlaces, isWorstNearby, MOST, TURNS, turnsOf, usualDistance, type HoleDatum, type Left } from './neighbours';
import { sidesOf, type NearFault, type Side } from './fault-sides';
import { rimOf, usualByHole } from './rim';
import { isStrained, loosened, thicknessSpread, usualThickness } from './vary';

/** How often what is wrong is taken out and all looked at again. */
const ROUNDS = 7;
/** In the last ones nothing more is taken out: what fits after all comes back. */
const LAST = 2;
/** With more contacts than this each look takes long: there are as few as can be. */
const MANY = 1500;
/** What is off by less than this share of the usual thickness does no harm. */
const HARMLESS = 0.1;
/** The same where one contact only is known, as a share of the range. */
const LITTLE = 5e-3;
/** Holes that show contacts, at least: fewer do not tell which of what was seen between them is wrong. */
const FEWEST_WITH_CONTACTS = 5;
/** Least error of contacts while they are weighed, as a share of the usual thickness. */
const LEAST_SPREAD = 0.02;
/** A bound that the contacts break by this share of the distance between two levels makes the evidence doubtful. */
const DOUBT = 0.3;

/** Holes are asked for where a fault passes that are nearer to each other than so many times the usual distance to the next. */
const AROUND = 2;

interface Weighed {
	points: HoleDatum[];
	bounds: Bound[];
	/** Holes whose evidence was left out, with how far it is off what the others say, length units. */
	left: Left[];
	/** Evidence that fits on the other side of a fault that is only roughly known: where it must lie. */
	sides: Side[];
}

/**
 * Weighs the evidence of each hole against its neighbours. A field through the contacts alone is asked whether it breaks what the
 * holes saw between them; only where it does, or where the levels come out in the wrong order, all holes are left out in turns, and each
 * contact and each place is measured against the field of the others (cross-validation by groups; Stone 1974). What is off by
 * more than six times the usual error (1.4826 times the median of the absolute errors) is left out of the fit, the worst among neighbours
 * first, for what is wrong in one hole spoils what is said of those around it; then all are looked at again. Where nothing contradicts,
 * nothing is left out, and the answer is null.
 * @param near the faults that may pass through a place, as far as they are known, and how far off it they were drawn
 * @param mayMove whether they may pass elsewhere than they were drawn
 * @param twins the most that contacts of twins differ by, length units
 */
export function* weigh(
	data: Omit<FieldData, 'points'> & { points: HoleDatum[] },
	options: FitOptions,
	near: (p: { x: number; y: number; z: number }) => NearFault[] = () => [],
	mayMove = true,
	twins = 0
): Steps<Weighed | null> {
	const inHoles = new Set(data.points.map((p) => p.hole));
	// What holes saw between contacts outvotes, too.
	if (data.groupCount < 2 || inHoles.size < FEWEST_WITH_CONTACTS) return null;
	if (new Set([...inHoles, ...data.bounds.map((b) => b.source)]).size < FEWEST_HOLES) return null;
	const thick = usualThickness(data.points);
	// Of one contact only there is no thickness to measure by.
	const harmless = thick > 0 ? HARMLESS * thick : LITTLE * options.range;
	const alone = yield* fieldOrNone({ ...data, bounds: [] }, options);
	// One contact alone can neither cross another nor be strained.
	const asked = thick === 0 || twins > HARMLESS * thick;
	if (!alone || !(asked || isStrained(alone, data.points) || (yield* isDoubtful(alone, data)))) return null;
	// Where thickness varies the others tell only about where a contact is; and holes side by side that differ must not tear the field.
	const loose = loosened(data.points, Math.max(thicknessSpread(data.points), LEAST_SPREAD * thick));
	const places = holePlaces(data.points);
	const turn = turnsOf(places);
	const rim = rimOf(places);
	// What lies near faults may be made by them, or belong to the other side: the others tell, if they are more.
	const faulted = data.points.filter((p) => near(p).length > 0);
	let out = { points: new Set(2 * faulted.length < data.points.length ? faulted : []), bounds: new Set<Bound>() };
	let errors: Errors = { points: [], bounds: [] };
	let off: (p: { x: number; y: number; z: number; block: number; group: number }, hole: string) => number = () => 0;
	let limitOf: (hole: string) => number = () => Infinity;
	const rounds = data.points.length > MANY ? LAST + 1 : ROUNDS;
	for (let round = 0; round < rounds; round++) {
		const believed = loose.filter((_, i) => !out.points.has(data.points[i]!));
		const fields = yield* together(
			Array.from({ length: TURNS }, (_, t) =>
				fieldOrNone({ ...data, bounds: [], points: believed.filter((p) => turn(p.hole) !== t) }, options)
			)
		);
		const seen = fields.map((f) => f && fromBlocks(f));
		off = (p, hole) => {
			const field = fields[turn(hole)];
			if (!field || !Number.isFinite(field.levels[p.group]!)) return 0;
			const b = seen[turn(hole)]!(p.block);
			const slope = Math.hypot(...gradientAt(b, p.x, p.y, p.z)) / field.unit;
			return (valueAt(b, p.x, p.y, p.z) - field.levels[p.group]!) / Math.max(slope, 1e-12);
		};
		errors = { points: data.points.map((p) => off(p, p.hole)), bounds: data.bounds.map((b) => -b.sense * off(b, b.source)) };
		const kept = data.points.flatMap((p, i) => (out.points.has(p) ? [] : [{ hole: p.hole, error: Math.abs(errors.points[i]!) }]));
		const usual = usualByHole(kept, rim);
		limitOf = (hole) => Math.max(MOST * usual(hole), harmless, 1e-4 * options.range);
		// By hole, the most that anything of it is off.
		const worst = new Map<string, number>();
		const saw = (hole: string, by: number) => by > limitOf(hole) && worst.set(hole, Math.max(worst.get(hole) ?? 0, by));
		data.points.forEach((p, i) => saw(p.hole, Math.abs(errors.points[i]!)));
		data.bounds.forEach((b, i) => saw(b.source, errors.bounds[i]!));
		const known = new Set([...out.points].map((p) => p.hole).concat([...out.bounds].map((b) => b.source)));
		const fresh = new Map([...worst].filter(([h]) => !known.has(h)));
		const odd = new Set([...worst.keys()].filter((h) => known.has(h) || (round < rounds - LAST && isWorstNearby(h, fresh, places))));
		const next = {
			points: new Set(data.points.filter((p, i) => odd.has(p.hole) && Math.abs(errors.points[i]!) > limitOf(p.hole))),
			bounds: new Set(data.bounds.filter((b, i) => odd.has(b.source) && errors.bounds[i]! > limitOf(b.source)))
		};
		const same =
			next.points.size === out.points.size && next.bounds.size === out.bounds.size && [...next.points].every((p) => out.points.has(p));
		out = next;
		if (same) break;
	}
	const evidence = [
		...data.points.map((p) => ({ ...p, isOut: out.points.has(p), isOdd: (by: number) => Math.abs(by) > limitOf(p.hole) })),
		...data.bounds.map((b) => ({
			...b,
			hole: b.source,
			isOut: out.bounds.has(b),
			isOdd: (by: number) => -b.sense * by > limitOf(b.source)
		}))
	];
	const sides = mayMove ? sidesOf(evidence, near, (e) => off(e, e.hole), AROUND * usualDistance([...places.values()])) : [];
	const moved = new Set(sides.flatMap((s) => (s.sense === 0 ? [] : [s.hole])));
	const left = new Map<string, Left>();
	const leave = (hole: string, by: number, p: { x: number; y: number; z: number }) => {
		if (Math.abs(by) > Math.abs(left.get(hole)?.off ?? 0)) left.set(hole, { hole, off: Math.abs(by), at: [p.x, p.y, p.z] });
	};
	const points = data.points.filter((p, i) => {
		if (out.points.has(p)) leave(p.hole, errors.points[i]!, p);
		return !out.points.has(p);
	});
	const bounds = data.bounds.filter((b, i) => {
		if (out.bounds.has(b)) leave(b.source, errors.bounds[i]!, b);
		return !out.bounds.has(b);
	});
	return { points, bounds, left: [...left.values()].filter((l) => !moved.has(l.hole)), sides };
}

interface Errors {
	points: number[];
	bounds: number[];
}

/** Whether a field through the contacts contradicts what was seen, or has its levels in the wrong order or on top of each other. */
function* isDoubtful(field: Field, data: FieldData): Steps<boolean> {
	const levels = Array.from(field.levels).filter(Number.isFinite);
	const steps = levels.slice(1).map((l, i) => levels[i]! - l);
	if (steps.length === 0) return false;
	const usual = quantileSorted(Float64Array.from(steps, Math.abs).sort(), 0.5);
	if (steps.some((s) => s < 0.1 * usual)) return true;
	const asked = data.bounds.filter((b) => Number.isFinite(field.levels[b.group]!));
	const values = yield* valuesSteps(field, asked);
	return asked.some((b, i) => b.sense * (values[i]! - field.levels[b.group]!) < -DOUBT * usual);
}
