import type { Bound, FieldData, GroupDatum } from '../fields/data';
import { fitSteps, type FitOptions } from '../fields/fit';
import { gradientAt, inBlock, valueAt, type Field } from '../fields/field';
import { together, type Steps } from '../fields/steps';
import { ProblemError } from '../problem';
import { quantileSorted } from '../statistics/spread';

/** Holes are left out in so many turns. */
const TURNS = 5;
/** Fewer holes than this do not outvote one of them. */
const FEWEST_HOLES = 10;
/** Evidence that is this many times farther off than evidence usually is, is not believed. */
const MOST = 6;
/** A bound that the contacts break by this share of the distance between two levels makes the evidence doubtful. */
const DOUBT = 0.3;

/** A contact of a hole. */
export type HoleDatum = GroupDatum & { hole: string };

export interface Weighed {
	points: HoleDatum[];
	bounds: Bound[];
	/** Holes whose evidence was left out, with how far it is off what the others say, length units. */
	left: { hole: string; off: number; at: readonly [number, number, number] }[];
}

/**
 * Weighs the evidence of each hole against its neighbours. A field through the contacts alone is asked whether it breaks what the
 * holes saw between them; only where it does, or where the levels come out in the wrong order, all holes are left out in turns, and each
 * contact and each place is measured against the field of the others (cross-validation by groups; Stone 1974). What is off by
 * more than six times the usual error (1.4826 times the median of the absolute errors) is left out of the fit. Where nothing contradicts,
 * nothing is left out, and the answer is null.
 */
export function* weigh(data: Omit<FieldData, 'points'> & { points: HoleDatum[] }, options: FitOptions): Steps<Weighed | null> {
	const holes = [...new Set(data.points.map((p) => p.hole))].sort();
	if (data.groupCount < 2 || holes.length < FEWEST_HOLES) return null;
	const alone = yield* attempt({ ...data, bounds: [] }, options);
	if (!alone || !isDoubtful(alone, data)) return null;
	// Neighbours by name are often neighbours on the ground: every fifth one is left out together.
	const turnOf = new Map(holes.map((h, i) => [h, i % TURNS]));
	const turn = (hole: string) => turnOf.get(hole) ?? 0;
	const fields = yield* together(Array.from({ length: TURNS }, (_, t) => attempt({ ...data, bounds: [], points: data.points.filter((p) => turn(p.hole) !== t) }, options)));
	const off = (p: { x: number; y: number; z: number; block: number; group: number }, hole: string): number => {
		const field = fields[turn(hole)];
		if (!field || !Number.isFinite(field.levels[p.group]!)) return 0;
		const b = inBlock(field, p.block);
		const slope = Math.hypot(...gradientAt(b, p.x, p.y, p.z)) / field.unit;
		return (valueAt(b, p.x, p.y, p.z) - field.levels[p.group]!) / Math.max(slope, 1e-12);
	};
	const errors = data.points.map((p) => off(p, p.hole));
	const usual = 1.4826 * quantileSorted(Float64Array.from(errors, Math.abs).sort(), 0.5);
	const limit = Math.max(MOST * usual, 1e-4 * options.range);
	const left = new Map<string, Weighed['left'][number]>();
	const leave = (hole: string, by: number, p: { x: number; y: number; z: number }) => {
		if (Math.abs(by) > Math.abs(left.get(hole)?.off ?? 0)) left.set(hole, { hole, off: Math.abs(by), at: [p.x, p.y, p.z] });
	};
	const points = data.points.filter((p, i) => {
		if (Math.abs(errors[i]!) <= limit) return true;
		leave(p.hole, errors[i]!, p);
		return false;
	});
	const bounds = data.bounds.filter((b) => {
		const by = -b.sense * off(b, b.source);
		if (by <= limit) return true;
		leave(b.source, by, b);
		return false;
	});
	return { points, bounds, left: [...left.values()] };
}

function* attempt(data: FieldData, options: FitOptions): Steps<Field | null> {
	try {
		return (yield* fitSteps(data, options)).field;
	} catch (error) {
		if (error instanceof ProblemError) return null;
		throw error;
	}
}

/** Whether a field through the contacts contradicts what was seen, or has its levels in the wrong order or on top of each other. */
function isDoubtful(field: Field, data: FieldData): boolean {
	const levels = Array.from(field.levels).filter(Number.isFinite);
	const steps = levels.slice(1).map((l, i) => levels[i]! - l);
	if (steps.length === 0) return false;
	const usual = quantileSorted(Float64Array.from(steps, Math.abs).sort(), 0.5);
	if (steps.some((s) => s < 0.1 * usual)) return true;
	return data.bounds.some((b) => Number.isFinite(field.levels[b.group]!) && b.sense * (valueAt(inBlock(field, b.block), b.x, b.y, b.z) - field.levels[b.group]!) < -DOUBT * usual);
}
