import { NearestPoint } from '../geometry/nearest';
import { SAME_DEPTH } from '../holes/path';
import type { ContactPoint, Observation } from '../units/contacts';
import { AGAINST_NEIGHBOURS, type GroundFinding } from './ground';
import { FEWEST_HOLES } from './neighbours';

/** Holes around a place that are asked whether they show the body there, too. */
const AROUND = 6;
/** What is nearer to the body in another hole than so many times the farthest of these may belong to it. */
const BEYOND = 1.2;
/** Places along a run that are asked. */
const ASKED = 5;
/** More of the runs than this share are never stray: then it is many small bodies. */
const MOST_STRAY = 0.25;

/** What is left out of a body. */
export interface StrayOfBody {
	observations: ReadonlySet<Observation>;
	contacts: ReadonlySet<ContactPoint>;
}

/**
 * Runs of a body in one hole that none of the six holes around shows where it is nearest, while ten holes or more meet the body elsewhere: another
 * rock has its code there, or it is a small body beside; the body itself is far beyond those. They shape nothing, and are named.
 * @param seen places along the holes, close enough to tell what each hole shows at an elevation
 * @param certain holes that are believed
 */
export function strayOfBody(
	name: string,
	unit: number,
	contacts: readonly ContactPoint[],
	seen: readonly Observation[],
	certain: ReadonlySet<string>,
	findings: GroundFinding[]
): StrayOfBody {
	const runs = runsOf(seen, unit);
	const none: StrayOfBody = { observations: new Set(), contacts: new Set() };
	if (new Set(runs.map((run) => run[0]!.hole)).size < FEWEST_HOLES) return none;
	const places = new NearestPoint(seen);
	const inside = runs.flat();
	const body = new NearestPoint(inside);
	const isShownNear = (o: Observation): boolean => {
		const asked = new Set([o.hole]);
		let reach = 0;
		for (let n = 0; n < AROUND; n++) {
			const { index, distance } = places.nearest(o.x, o.y, o.z, (i) => !asked.has(seen[i]!.hole));
			if (index < 0) return false;
			if (seen[index]!.unit === unit) return true;
			asked.add(seen[index]!.hole);
			reach = distance;
		}
		// A hole at the rim of a body may be the only one of those around that meets it.
		return body.distance(o.x, o.y, o.z, (i) => inside[i]!.hole !== o.hole) < BEYOND * reach;
	};
	const stray = runs.filter((run) => {
		const step = Math.max(1, Math.floor((run.length - 1) / (ASKED - 1)));
		return !certain.has(run[0]!.hole) && !run.some((o, i) => (i % step === 0 || i === run.length - 1) && isShownNear(o));
	});
	if (stray.length > MOST_STRAY * runs.length) return none;
	for (const run of new Map(stray.map((r) => [r[0]!.hole, r])).values())
		findings.push(meetsAlone(name, run, 'where none of the holes around it does'));
	return {
		observations: new Set(stray.flat()),
		contacts: new Set(contacts.filter((c) => stray.some((run) => isBeside(c, run))))
	};
}

/** What says that a hole meets a body where it is not. @param run what it shows of it, in order */
export function meetsAlone(name: string, run: readonly Observation[], where: string): GroundFinding {
	const { hole, x, y, z } = run[run.length >> 1]!;
	return {
		kind: AGAINST_NEIGHBOURS,
		severity: 'noted',
		message: `${hole} meets ${name} ${where}`,
		hint: 'A wrong code, or a small body beside? Until then what it met there shapes nothing.',
		at: [x, y, z],
		hole
	};
}

/** Whether a contact is an end of a run, or lies in it. */
export const isBeside = (c: ContactPoint, run: readonly Observation[]): boolean =>
	c.hole === run[0]!.hole && c.depth > run[0]!.depth - SAME_DEPTH && c.depth < run.at(-1)!.depth + SAME_DEPTH;

/** What is seen of a unit from where it begins in a hole to where it ends, in order. Where another unit ends as it begins, that is no break. */
export function runsOf(seen: readonly Observation[], unit: number): Observation[][] {
	const byHole = new Map<string, Observation[]>();
	for (const o of seen) (byHole.get(o.hole) ?? byHole.set(o.hole, []).get(o.hole)!).push(o);
	const runs: Observation[][] = [];
	for (const list of byHole.values()) {
		let last: Observation[] | null = null;
		let other = -Infinity;
		for (const o of list.sort((a, b) => a.depth - b.depth || a.unit - b.unit)) {
			if (o.unit !== unit) other = o.depth;
			else if (last && other < last.at(-1)!.depth + SAME_DEPTH) last.push(o);
			else runs.push((last = [o]));
		}
	}
	return runs;
}
