import { NearestPoint } from '../geometry/nearest';
import { SAME_DEPTH } from '../holes/path';
import type { ContactPoint, Observation } from '../units/contacts';
import { AGAINST_NEIGHBOURS, type GroundFinding } from './ground';
import { isBeside, meetsAlone, runsOf, type StrayOfBody } from './odd-body';
import { distanceInside, fitPipe, MOST_INSIDE, MOST_MISFIT, radiusOf, type Pipe, type SeenPlace } from './pipe';

/** Holes around a place that are asked whether they show the body there, too. */
const AROUND = 6;
/** Of these, the nearest so many all show a body where a hole that does not is odd. */
const ALL_SHOW = 3;
/** Where more of them than this show a body, a hole that does, too, is not odd. */
const FEW_SHOW = 2;
/** Runs that hang together, at least: these are the body. */
const FEWEST_RUNS = 4;
/** More of the runs, or as many holes as this share of those that meet the body, are never odd. */
const MOST_ODD = 0.4;
/** So many holes are left out at most, as each is a fit of its own. */
const MOST_LEFT_OUT = 12;
/** What is farther off than so many times the misfit, and than this share of the radius, is odd. */
const TIMES_MISFIT = 3;
const FAR = 0.4;
/** Places along a run that are asked. */
const ASKED = 5;

interface RobustPipe extends StrayOfBody {
	pipe: Pipe;
}

/**
 * The pipe of a body when some of the holes are wrong: those that are farthest off when they are left out in turn (`fitPipe`) go one by one,
 * until it fits. Runs far outside it, and places far inside it that show something else with the body all around, shape nothing, and
 * are named. Runs that stand beside each other are not: they may be another body.
 * @param seen places along the holes, close enough to tell what each hole shows at an elevation
 * @param told sides that are known without holes
 * @param certain holes that are believed
 * @returns null where no pipe fits
 */
export function robustPipe(
	name: string,
	unit: number,
	contacts: readonly ContactPoint[],
	seen: readonly Observation[],
	told: readonly SeenPlace[],
	certain: ReadonlySet<string>,
	findings: GroundFinding[]
): RobustPipe | null {
	const runs = runsOf(seen, unit).map((run) => ({ run, hole: run[0]!.hole }));
	const holes = new Set(runs.map(({ hole }) => hole));
	if (holes.size > MOST_INSIDE) return null;
	const believed = new Set([...certain, ...told.map(({ hole }) => hole)]);
	const around = looksAround(seen, unit);
	const shown = runs.map(({ run }) => some(run).map((o) => around(o).flatMap(({ hole, shows }) => (shows ? [hole] : []))));
	const near = shown.map((places) => new Set(places.flat()));
	const most = MOST_ODD * runs.length;
	const known = (of: readonly Observation[]): SeenPlace[] => [...told, ...of.map((o) => ({ ...o, inside: o.unit === unit }))];
	/** With all holes, where that is one: nobody is odd then. */
	const whole = (): RobustPipe | null => {
		const pipe = fitPipe(contacts, known(seen));
		return pipe && fits(pipe) ? { pipe, observations: new Set(), contacts: new Set() } : null;
	};
	const loose = apartFromMost(runs, near);
	if (runs.length - loose.size < FEWEST_RUNS || loose.size > most) return whole();
	const isLoose = new Set(runs.flatMap(({ run }, i) => (loose.has(i) ? run : [])));
	const trimmed = fitTrimmed(
		contacts.filter((c) => !runs.some(({ run }, i) => loose.has(i) && isBeside(c, run))),
		known(seen.filter((o) => !isLoose.has(o))),
		Math.min(MOST_LEFT_OUT, MOST_ODD * holes.size),
		believed
	);
	if (!trimmed) return whole();
	const { pipe, far, gone } = trimmed;
	const outside = runs.flatMap(({ run }, i) => (some(run).every((o) => distanceInside(pipe, o) < -far) ? [i] : []));
	const others = new Set(outside.map((i) => runs[i]!.hole));
	const isAlone = (i: number) =>
		shown[i]!.every((holes) => holes.length <= FEW_SHOW) && [...near[i]!].every((hole) => hole === runs[i]!.hole || !others.has(hole));
	const odd = outside.length > most ? [] : outside.filter((i) => !certain.has(runs[i]!.hole) && isAlone(i)).map((i) => runs[i]!);
	const depths = new Map<string, number[]>();
	for (const { run, hole } of runs) depths.set(hole, [...(depths.get(hole) ?? []), ...run.map((o) => o.depth)]);
	/** Whether a place that shows something else lies so far inside, and from where its hole does show the body. */
	const isWithin = (o: Observation, by: number) =>
		o.unit !== unit &&
		gone.has(o.hole) &&
		distanceInside(pipe, o) > by &&
		!depths.get(o.hole)?.some((depth) => Math.abs(depth - o.depth) <= far);
	const isShownAround = (o: Observation) =>
		around(o)
			.slice(0, ALL_SHOW)
			.every(({ shows }) => shows);
	const denying = new Set(seen.filter((o) => isWithin(o, far) && isShownAround(o)).map(({ hole }) => hole));
	const denied = seen.filter((o) => denying.has(o.hole) && isWithin(o, pipe.misfit));
	// What was left out and is not odd after all speaks against the pipe; what is odd speaks for wrong rows.
	const explained = new Set([...odd, ...denied].map(({ hole }) => hole));
	if ([...gone].filter((hole) => !explained.has(hole)).length > explained.size) return whole();
	for (const { run } of new Map(odd.map((r) => [r.hole, r])).values())
		findings.push(meetsAlone(name, run, 'far outside the shape that all other holes tell'));
	for (const o of new Map(denied.map((o) => [o.hole, o])).values()) findings.push(deniesAlone(name, o));
	const isAt = (c: ContactPoint, o: Observation) => o.hole === c.hole && Math.abs(o.depth - c.depth) < SAME_DEPTH;
	return {
		pipe,
		observations: new Set([...odd.flatMap(({ run }) => run), ...denied]),
		contacts: new Set(contacts.filter((c) => odd.some(({ run }) => isBeside(c, run)) || denied.some((o) => isAt(c, o))))
	};
}

const fits = (pipe: Pipe): boolean => pipe.misfit < MOST_MISFIT * radiusOf(pipe);

/** Fits a pipe without the holes that are farthest off. @param most so many are left out @returns how far off is odd, too; null where it does not fit */
function fitTrimmed(
	contacts: readonly ContactPoint[],
	seen: readonly SeenPlace[],
	most: number,
	certain: ReadonlySet<string>
): { pipe: Pipe; far: number; gone: ReadonlySet<string> } | null {
	const gone = new Set<string>();
	for (;;) {
		const isLeft = ({ hole }: { hole: string }) => !gone.has(hole);
		const pipe = fitPipe(contacts.filter(isLeft), seen.filter(isLeft));
		if (!pipe) return null;
		const far = Math.max(TIMES_MISFIT * pipe.misfit, FAR * radiusOf(pipe));
		const [worst] = [...pipe.off].filter(([hole]) => !certain.has(hole)).sort((a, b) => b[1] - a[1] || (a[0] < b[0] ? -1 : 1));
		if (!worst || (fits(pipe) && worst[1] <= far) || gone.size > most) return fits(pipe) ? { pipe, far, gone } : null;
		gone.add(worst[0]);
	}
}

/** Tells of the nearest other holes around a place, the nearest first, whether they show the body there. */
function looksAround(seen: readonly Observation[], unit: number): (o: Observation) => { hole: string; shows: boolean }[] {
	const places = new NearestPoint(seen);
	return (o) => {
		const asked = [{ hole: o.hole, shows: false }];
		while (asked.length <= AROUND) {
			const { index } = places.nearest(o.x, o.y, o.z, (i) => !asked.some((a) => a.hole === seen[i]!.hole));
			if (index < 0) break;
			asked.push({ hole: seen[index]!.hole, shows: seen[index]!.unit === unit });
		}
		return asked.slice(1);
	};
}

const deniesAlone = (name: string, { hole, x, y, z }: Observation): GroundFinding => ({
	kind: AGAINST_NEIGHBOURS,
	severity: 'noted',
	message: `${hole} does not show ${name} where all holes around it do`,
	hint: 'A wrong code? Until then what it shows there says nothing of the body.',
	at: [x, y, z],
	hole
});

/** Some places of a run, from its beginning to its end. */
function some(run: readonly Observation[]): Observation[] {
	const step = Math.max(1, Math.floor((run.length - 1) / (ASKED - 1)));
	return run.filter((_, i) => i % step === 0 || i === run.length - 1);
}

/** The runs that do not hang together with most others: none of the holes near shows the body beside them. @param near holes beside each that do */
function apartFromMost(runs: readonly { hole: string }[], near: readonly ReadonlySet<string>[]): Set<number> {
	const part = runs.map((_, i) => i);
	const first = (i: number): number => (part[i] === i ? i : (part[i] = first(part[i]!)));
	runs.forEach(({ hole }, i) => {
		for (let k = 0; k < runs.length; k++) if (near[k]!.has(hole)) part[first(k)] = first(i);
	});
	const size = new Map<number, number>();
	runs.forEach((_, i) => size.set(first(i), (size.get(first(i)) ?? 0) + 1));
	const main = [...size].sort((a, b) => b[1] - a[1])[0]?.[0];
	return new Set(runs.flatMap((_, i) => (first(i) === main ? [] : [i])));
}
