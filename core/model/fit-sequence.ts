import { SHAPES } from '../fields/bounded';
import type { FieldData } from '../fields/data';
import type { Field } from '../fields/field';
import { fitSteps, type Fit, type FitOptions } from '../fields/fit';
import type { Steps } from '../fields/steps';
import { ProblemError } from '../problem';
import type { Sequence } from '../units/column';
import type { End } from './ends-at';
import type { FittedFault } from './faults';
import type { GroundFinding, GroundInput } from './ground';

/** The walls of a sheet: a field each, or one with a level for each. */
export type SheetWalls = Pick<FittedSequence, 'baseField' | 'footField' | 'walls'>;

/** A sequence with its fields. */
export interface FittedSequence extends Sequence {
	/** Field of the base surface or, for an intrusion, of its boundary (positive inside); null when nothing was seen of it. */
	baseField: Field | null;
	/** Field of the conformable contacts inside; level j is the base of `units[j]`. */
	innerField: Field | null;
	/** By unit: the field of its base, where each contact has one of its own because thickness varies; empty when all share the inner field. */
	contactFields: (Field | null)[];
	/** Field of the lower wall of a sheet that thins out; null where it follows the upper one. */
	footField: Field | null;
	/** Levels of the base field at the upper and the lower wall of a sheet; null for other sequences. */
	walls: [number, number] | null;
	/** Further sheets of the same unit; left out where there is one. */
	others?: SheetWalls[];
	/** Other sheets that a sheet ends at; left out where there is none. */
	ends?: End[];
	/** The units that the model will have, youngest first, and the level of each base but the last one's. */
	present: number[];
	/** The whole sequence is missing from the model. */
	absent: boolean;
}

/** A sequence of which nothing is known yet. */
export const emptySequence = (s: Sequence, present: number[] = []): FittedSequence => ({
	...s,
	baseField: null,
	footField: null,
	walls: null,
	innerField: null,
	contactFields: [],
	present,
	absent: false
});

/** The field of the base of a unit inside its sequence, and its level; null when there is none. */
export function contactOf(
	s: Pick<FittedSequence, 'units' | 'innerField' | 'contactFields'>,
	unit: number
): { field: Field; level: number } | null {
	const g = s.units.indexOf(unit);
	const level = s.innerField?.levels[g];
	return level !== undefined && Number.isFinite(level) ? { field: s.contactFields[g] ?? s.innerField!, level } : null;
}

/** Range of the covariance: the diagonal of the extent on the map. */
export function rangeOf(input: GroundInput): number {
	const e = input.extent;
	return Math.hypot(e.maxX - e.minX, e.maxY - e.minY);
}

/** Fits a field; what the data do not settle becomes a finding, and so does a field that can not be had. */
export function* tryFit(
	input: GroundInput,
	what: string,
	data: FieldData,
	faults: readonly FittedFault[],
	findings: GroundFinding[],
	options: Partial<FitOptions> = {}
): Steps<Field | null> {
	let fit: Fit;
	try {
		fit = yield* fitSteps(data, { range: rangeOf(input), ...options });
	} catch (error) {
		if (!(error instanceof ProblemError)) throw error;
		note(findings, error.problem.kind, `${what}: ${error.problem.message}`, error.problem.hint ?? '');
		return null;
	}
	for (const u of fit.unsettled) {
		const [kind, k] = u.split(' ') as [string, string];
		// Of a fault that dies out one shape of the jump is enough.
		if (kind === 'tip' && (u !== `tip ${k} 0` || fit.unsettled.filter((x) => x.startsWith(`tip ${k} `)).length < SHAPES)) continue;
		const fault = faults[Number(k)];
		if (
			(kind === 'jump' || kind === 'tip') &&
			fault &&
			data.points.some((p) => p.block & (1 << Number(k))) !== data.points.every((p) => p.block & (1 << Number(k)))
		)
			note(
				findings,
				'offset-unknown',
				`${what}: the data do not settle the offset across ${fault.name}`,
				'Contacts of one surface are needed on both sides of the fault.'
			);
	}
	if (fit.brokenBounds > 0)
		note(
			findings,
			'bound-broken',
			`${what}: ${fit.brokenBounds} ${fit.brokenBounds === 1 ? 'hole stays' : 'holes stay'} on the wrong side`,
			'Look for contacts that contradict each other near them.'
		);
	return fit.field;
}

/**
 * Contacts with an error get a nugget: the variance of the error as a share of the relief of all contacts about their plane, which is
 * what the field has to explain.
 */
export function withNuggets<T extends { x: number; y: number; z: number }>(
	points: readonly T[],
	errorOf: (i: number) => number | undefined,
	range: number
): (T & { nugget?: number })[] {
	if (!points.some((_, i) => (errorOf(i) ?? 0) > 0)) return [...points];
	const relief = Math.max(reliefOf(points), 1e-4 * range);
	return points.map((p, i) => ((errorOf(i) ?? 0) > 0 ? { ...p, nugget: (errorOf(i)! / relief) ** 2 } : p));
}

/** How far a place may come to lie on the wrong side of a surface, as a bound has it; nothing for a place without an error. */
export const slackOf = (o: { error?: number }): { margin?: number } => (o.error ? { margin: -2 * o.error } : {});

/** Root mean square of the elevations about the plane that fits them best. */
function reliefOf(points: readonly { x: number; y: number; z: number }[]): number {
	const n = points.length;
	const mean = (f: (p: { x: number; y: number; z: number }) => number) => points.reduce((s, p) => s + f(p), 0) / n;
	const [mx, my, mz] = [mean((p) => p.x), mean((p) => p.y), mean((p) => p.z)];
	const s = (f: (p: { x: number; y: number; z: number }) => number) => points.reduce((sum, p) => sum + f(p), 0);
	const [xx, xy, yy] = [s((p) => (p.x - mx) ** 2), s((p) => (p.x - mx) * (p.y - my)), s((p) => (p.y - my) ** 2)];
	const [xz, yz] = [s((p) => (p.x - mx) * (p.z - mz)), s((p) => (p.y - my) * (p.z - mz))];
	const det = xx * yy - xy * xy;
	const [a, b] = det > 1e-9 * xx * yy ? [(xz * yy - yz * xy) / det, (yz * xx - xz * xy) / det] : [0, 0];
	return Math.sqrt(mean((p) => (p.z - mz - a * (p.x - mx) - b * (p.y - my)) ** 2));
}

/** Adds a finding. */
export function note(findings: GroundFinding[], kind: string, message: string, hint: string): true {
	findings.push({ kind, severity: 'noted', message, hint });
	return true;
}
