import { valuesSteps, type Steps } from '../fields/steps';
import { NearestPoint } from '../geometry/nearest';
import { dot, type Vec3 } from '../geometry/vector';
import type { StratigraphicColumn } from '../units/column';
import { cutBy, type FittedFault } from './faults';
import { note, type FittedSequence } from './fit-sequence';
import type { GroundFinding } from './ground';
import { acrossAll } from './sheet-lie';

/** A sheet that another one ends at: it is there on one side of it only. */
export interface End {
	/** Number of the sequence that it ends at. */
	at: number;
	/** Whether it lies above the upper wall of that sheet, or below the lower one. */
	above: boolean;
}

export interface Place {
	x: number;
	y: number;
	z: number;
}

/** Where holes meet a sheet, and where they pass it. */
export interface Met {
	meets: readonly Place[];
	misses: readonly Place[];
}

/** Holes that meet it on one side, and that pass it on the other, at least; and near the sheet that it ends at. */
const FEWEST_MEETS = 5;
const FEWEST_MISSES = 3;
const FEWEST_NEAR = 2;
/** Share of the holes that meet it, which may do so beyond: wrong codes. */
const BEYOND = 0.05;
/** Share of the holes near the other sheet, on the side where it is, that meet it. */
const REACHES = 0.8;
/** How near that is: as many times as the holes are apart. */
const NEAR = 1.5;
/**
 * Both sheets are known well enough to say where they meet: their intercepts do not lie on a line, some of the other one's are near those
 * of the first, and they lie at an angle to each other (cosine of 20°).
 */
const BREADTH = 0.02;
const ALONG = 0.94;

/** Whether a sequence is one sheet that others can end at. */
const isSheet = (s: FittedSequence | undefined): s is FittedSequence => Boolean(s?.walls && s.baseField && !s.others && !s.absent);

/**
 * Where places lie beside a sheet.
 * @returns by place: its distance, about, from the nearer wall; positive above the upper one, negative below the lower one, 0 inside
 */
export function* besideSheet(
	sheet: FittedSequence,
	faults: readonly FittedFault[],
	places: readonly Place[]
): Steps<Float64Array<ArrayBufferLike>> {
	const cut = cutBy(faults, sheet.base);
	const placed = places.map((p) => ({ ...p, block: cut.block(p) }));
	const [upper, lower] = sheet.walls!;
	const { baseField, footField } = sheet;
	const above = yield* valuesSteps(baseField!, placed);
	const below = footField ? yield* valuesSteps(footField, placed) : above;
	return above.map((v, i) => (v >= upper ? v - upper : below[i]! < lower ? below[i]! - lower : 0) * baseField!.unit);
}

/**
 * The sheets that a sheet ends at: where holes beyond one pass it without meeting it, those before it do meet it, right up to it. So it
 * does not thin out halfway, but reaches the other.
 * @param i number of its sequence
 * @param met by sequence: where holes meet it
 */
export function* endsOf(
	i: number,
	met: readonly (Met | null)[],
	column: StratigraphicColumn,
	fitted: readonly FittedSequence[],
	faults: readonly FittedFault[]
): Steps<End[]> {
	const told = column[fitted[i]!.base]!.endsAt;
	if (told === null || !isSheet(fitted[i]) || !met[i]) return [];
	const { meets, misses } = met[i];
	const out: End[] = [];
	for (let at = 0; at < fitted.length; at++) {
		const other = fitted[at];
		if (at === i || !isSheet(other) || other.ends?.some((e) => e.at === i)) continue;
		if (told === undefined ? at > i : column[other.base]!.id !== told) continue;
		// What is older lies in the blocks of faults that the younger one may not know of.
		if (at > i && faults.some((f) => f.youngestCut <= other.base && f.youngestCut > fitted[i]!.base)) continue;
		const hit = yield* besideSheet(other, faults, meets);
		if (told !== undefined) {
			out.push({ at, above: hit.filter((v) => v > 0).length >= hit.length / 2 });
			continue;
		}
		const theirs = met[at]?.meets ?? [];
		if (!meetAtAnAngle(meets, theirs)) continue;
		const miss = yield* besideSheet(other, faults, misses);
		const near = NEAR * apart([...meets, ...misses]);
		const around = new NearestPoint(theirs);
		const known = near + NEAR * apart(theirs);
		for (const above of [true, false]) {
			const own = (v: number) => (above ? v > 0 : v < 0);
			const beyond = (v: number) => (above ? v < 0 : v > 0);
			const isNear = (v: number) => Math.abs(v) < near;
			const missed = miss.filter(beyond);
			const reaching = meets.filter((_, k) => own(hit[k]!) && isNear(hit[k]!));
			const close = reaching.length;
			if (
				hit.filter(own).length >= FEWEST_MEETS &&
				hit.filter(beyond).length <= BEYOND * hit.length &&
				missed.length >= FEWEST_MISSES &&
				missed.filter(isNear).length >= FEWEST_NEAR &&
				close >= FEWEST_NEAR &&
				reaching.filter((m) => around.distance(m.x, m.y, m.z) < known).length >= close / 2 &&
				close >= REACHES * (close + miss.filter((v) => own(v) && isNear(v)).length)
			)
				out.push({ at, above });
		}
	}
	return out;
}

/** Whether two sheets lie at an angle, as far as their intercepts can tell. */
function meetAtAnAngle(a: readonly Place[], b: readonly Place[]): boolean {
	const [first, second] = [a, b].map((list) => acrossAll([list.map((p): Vec3 => [p.x, p.y, p.z])]));
	return (
		Boolean(first && second) && Math.min(first!.breadth, second!.breadth) > BREADTH && Math.abs(dot(first!.normal, second!.normal)) < ALONG
	);
}

/** Says at which sheets one ends, or why it does not end where it was told to. */
export function noteEnds(i: number, column: StratigraphicColumn, fitted: readonly FittedSequence[], findings: GroundFinding[]): void {
	const { base, ends = [] } = fitted[i]!;
	const { name, endsAt } = column[base]!;
	if (endsAt && ends.length === 0)
		note(
			findings,
			'ends-at-none',
			`${name} should end at ${column.find((u) => u.id === endsAt)?.name ?? `"${endsAt}"`}, and does not`,
			'Both have to be sheets, each a single one; one of two may end at the other, and no fault may lie between them in age.'
		);
	if (endsAt !== undefined || ends.length === 0) return;
	const others = ends.map((e) => column[fitted[e.at]!.base]!.name).join(' and ');
	note(
		findings,
		'ends-at-sheet',
		`${name} is taken to end at ${others}: holes meet it up to there, and beyond they pass it`,
		`Where it thins out by itself, say under Interpret that ${name} ends at none.`
	);
}

/** Median distance of places from the next one. */
function apart(places: readonly Place[]): number {
	const nearest = new NearestPoint(places);
	const distances = places.map((p, i) => nearest.distance(p.x, p.y, p.z, (k) => k !== i)).sort((a, b) => a - b);
	return distances[Math.floor(distances.length / 2)] ?? 0;
}
