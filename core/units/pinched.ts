import type { Hole } from '../holes/holes';
import { positionAt } from '../holes/path';
import { quantileSorted } from '../statistics/spread';
import { unitsBetween, type Order, type Run } from './meeting';

/** Of so many holes nearby that many must lack a unit, too: then it pinches out there, and nobody forgot it. */
const NEARBY = 6;
const ALIKE = 2;
/** So many are enough although the unit beside it is thicker by it: one goes over into the other there. */
const MANY_ALIKE = 3;
/** A run that is thicker than nearby by more than this share of the thickness that the missing unit has there holds it under a wrong code. */
const HOLDS = 0.5;

/** A place at which a unit was met, or is missing between its neighbours. */
interface Told {
	hole: string;
	x: number;
	y: number;
	/** The runs above and below it where it is missing. */
	lacks: readonly [Thickness, Thickness] | null;
	/** What the hole says there is not believed by itself. */
	doubtful: boolean;
}

/** A run with its vertical thickness where both its ends are in the hole. */
export interface Thickness {
	unit: number;
	hole: string;
	x: number;
	y: number;
	thick: number | null;
}

/** The nearest of a list, of other holes, as many as count. */
function nearestOf<T extends { hole: string; x: number; y: number }>(at: { hole: string; x: number; y: number }, list: readonly T[]): T[] {
	const near: { far: number; o: T }[] = [];
	for (const o of list) {
		const far = Math.hypot(o.x - at.x, o.y - at.y);
		if (o.hole === at.hole || (near.length === NEARBY && far >= near[NEARBY - 1]!.far)) continue;
		near.splice(near.findIndex((n) => n.far > far) >>> 0, 0, { far, o });
		near.length = Math.min(near.length, NEARBY);
	}
	return near.map((n) => n.o);
}

/**
 * Finds where units pinch out: a hole goes from what lies above a unit to what lies below it, and so do some of the holes nearby.
 * Wrong codes do the same to a log, but leave the run above or below it as thick as both are elsewhere: these do not count, unless there
 * are many.
 * @param known gets the thicknesses of each unit in the holes that go through it
 * @param atFault whether a run may end at a fault, so that it tells no thickness, and what is missing there nothing by itself
 */
export function findPinched(
	all: readonly { hole: Hole; runs: readonly Run[] }[],
	{ sequences, sequenceOf, logged, pinched }: Order,
	known: Map<number, Thickness[]>,
	atFault: (hole: Hole, run: Run) => boolean
): void {
	const told = new Map<number, Told[]>();
	for (const { hole, runs } of all) {
		const thick = runs.map((run, i): Thickness => {
			const [[x, y, top], [, , bottom]] = [positionAt(hole.path, run.from), positionAt(hole.path, run.to)];
			// Erosion and intrusions cut units: only between others of its sequence is one as thick as it is.
			const own = sequenceOf.get(run.unit);
			const inside = own !== undefined && [runs[i - 1], runs[i + 1]].every((o) => o && sequenceOf.get(o.unit) === own);
			return { unit: run.unit, hole: hole.name, x, y, thick: inside && !atFault(hole, run) ? Math.abs(top - bottom) : null };
		});
		const tell = (unit: number, { x, y }: Thickness, lacks: Told['lacks'], doubtful = false) => {
			const list = told.get(unit) ?? told.set(unit, []).get(unit)!;
			list.push({ hole: hole.name, x, y, lacks, doubtful });
		};
		runs.forEach((run, i) => {
			if (run.unit < 0) return;
			const own = thick[i]!;
			tell(run.unit, own, null);
			if (own.thick !== null) (known.get(run.unit) ?? known.set(run.unit, []).get(run.unit)!).push(own);
			const next = runs[i + 1];
			if (!next || next.unit <= run.unit || sequenceOf.get(next.unit) !== sequenceOf.get(run.unit)) return;
			// Where the order is upset beside it, one of the two is wrong: it tells nothing, and is told by the others.
			const upset = (runs[i - 1]?.unit ?? -1) > run.unit || ((runs[i + 2]?.unit ?? -1) >= 0 && runs[i + 2]!.unit < next.unit);
			// A fault takes units away, too.
			const faulted = atFault(hole, { ...next, to: next.from });
			for (const u of unitsBetween(sequences[sequenceOf.get(run.unit)!]!, run.unit, next.unit, logged))
				tell(u, thick[i + 1]!, [own, thick[i + 1]!], upset || faulted || runs.some((r) => r.unit === u));
		});
	}
	const nearby = (at: Thickness, unit: number): number => {
		const found = nearestOf(at, known.get(unit) ?? []).map((o) => o.thick!);
		return found.length ? quantileSorted(Float64Array.from(found).sort(), 0.5) : NaN;
	};
	const held = new Map<Told, boolean>();
	/** Whether what lies above or below holds the unit that is missing. */
	const isHeld = (t: Told, unit: number): boolean => {
		const is = held.get(t) ?? t.lacks!.some((run) => run.thick !== null && run.thick - nearby(run, run.unit) > HOLDS * nearby(run, unit));
		held.set(t, is);
		return is;
	};
	for (const [unit, list] of told) {
		const telling = list.filter((t) => !t.doubtful);
		if (telling.filter((t) => t.lacks).length <= ALIKE) continue;
		for (const t of list) {
			if (!t.lacks) continue;
			const near = nearestOf(t, telling).filter((o) => o.lacks);
			if (near.length >= MANY_ALIKE || (!t.doubtful && near.length >= ALIKE && ![t, ...near].some((o) => isHeld(o, unit))))
				(pinched.get(t.hole) ?? pinched.set(t.hole, new Set()).get(t.hole)!).add(unit);
		}
	}
}

/** The first or last run of a hole is far too thick when it is so many times as thick as the unit is in the middle, around, and anywhere. */
const TIMES_MIDDLE = 2.5;
const TIMES_AROUND = 2;
const TIMES_MOST = 1.5;
/** Holes that go through a unit, at least, to tell how thick it is. */
const FEWEST_THROUGH = 10;

/** How many times as thick as around a run is that goes on beyond an end of its hole, where that is far too much; else null. */
export function tooThickAtEnds(known: ReadonlyMap<number, readonly Thickness[]>): (hole: Hole, run: Run | undefined) => number | null {
	const least = new Map(
		[...known].flatMap(([unit, through]): [number, number][] => {
			if (through.length < FEWEST_THROUGH) return [];
			const all = Float64Array.from(through, (t) => t.thick!).sort();
			return [[unit, Math.max(TIMES_MIDDLE * quantileSorted(all, 0.5), TIMES_MOST * all.at(-1)!)]];
		})
	);
	return (hole, run) => {
		const more = run && least.get(run.unit);
		if (more === undefined) return null;
		const [[x, y, top], [, , bottom]] = [positionAt(hole.path, run!.from), positionAt(hole.path, run!.to)];
		const thick = Math.abs(top - bottom);
		if (!(thick > more)) return null;
		const around = Math.max(...nearestOf({ hole: hole.name, x, y }, known.get(run!.unit)!).map((t) => t.thick!));
		return thick > TIMES_AROUND * around ? thick / around : null;
	};
}
