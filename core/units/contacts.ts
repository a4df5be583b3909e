import type { Finding } from '../tables/finding';
import type { Hole } from '../holes/holes';
import { positionAt, SAME_DEPTH } from '../holes/path';
import { isGap, meeting, pinchedBetween, type Order, type Run } from './meeting';
import { findOddRows, type FaultNear } from './odd-rows';
import { findOddRuns } from './odd-runs';
import { findPinched, tooThickAtEnds, type Thickness } from './pinched';
import { sequencesOf, unitOrCode, type Lumping, type StratigraphicColumn } from './column';

/** One observation of a contact: a point on the base (or outer boundary) of a unit. */
export interface ContactPoint {
	/** Index into the column: the unit whose base or outer boundary this is. */
	surface: number;
	x: number;
	y: number;
	z: number;
	hole: string;
	/** Measured depth. */
	depth: number;
	table: string;
	/** Row of the interval above the contact. */
	row: number;
	/** Standard error of its place across the surface, length units; without it the point is honoured. */
	error?: number;
	/** Of a sheet: 1 on its hanging wall, −1 on its footwall, 0 midway between them, where `thickness` (length units) parts them. */
	wall?: 1 | 0 | -1;
	thickness?: number;
}

/** A stretch of a hole, by depths. */
export interface Stretch {
	hole: string;
	from: number;
	to: number;
}

export const sameStretch = (a: Stretch, b: Stretch): boolean =>
	a.hole === b.hole && Math.abs(a.from - b.from) < SAME_DEPTH && Math.abs(a.to - b.to) < SAME_DEPTH;

/** A place that is known to lie in a unit. */
export interface Observation {
	unit: number;
	x: number;
	y: number;
	z: number;
	hole: string;
	depth: number;
	/** Name of the table it is from. */
	table?: string;
	/** Standard error of the places of that table, length units: a surface may pass on the wrong side by twice as much. */
	error?: number;
	/** Rows of the log that agree on it one after the other; none for places that are not of a log. */
	rows?: number;
}

/** A place on the contact between two units where one that lies between them elsewhere pinches out: `unit` is the one that is missing. */
export type Absence = Observation;

export interface Contacts {
	points: ContactPoint[];
	/** Units that are missing where neighbours lack them, too. */
	absences: Absence[];
	/** The middle of each run of one unit, and those of its ends that no contact marks. */
	observations: Observation[];
	/** Where holes do not say what is there: no code, none that has a unit, or one that is not believed. */
	unknown: Stretch[];
	findings: Finding[];
	/** Boundaries that lie in the zone of a fault and so belong to no contact. */
	faulted: number;
}

/** Signed distance to each fault that cuts a unit, and the half-width of its zone. Used to leave out boundaries made by faults. */
export interface FaultZones {
	count: number;
	distance(fault: number, x: number, y: number, z: number): number;
	halfWidth(fault: number): number;
	/** How far it may be off where it was drawn. */
	reach(fault: number): number;
	name(fault: number): string;
	cuts(fault: number, unit: number): boolean;
	/** What lengths are in, for the words of findings. */
	lengthUnit: string;
}

/**
 * Walks each hole down and decides, from the order of the column and the contact kinds, which surface each boundary between
 * two units belongs to. A boundary that can not be placed becomes a finding with its reason.
 * @param certain holes whose codes are believed, whatever does not fit
 */
export function contactsOf(
	holes: readonly Hole[],
	lumping: Lumping,
	column: StratigraphicColumn,
	faults?: FaultZones,
	certain: ReadonlySet<string> = new Set()
): Contacts {
	const result: Contacts = { points: [], absences: [], observations: [], unknown: [], findings: [], faulted: 0 };
	const unitIndex = new Map(column.map((u, i) => [u.id, i]));
	const sequences = sequencesOf(column);
	const sequenceOf = new Map<number, number>();
	sequences.forEach((s, i) => s.units.forEach((u) => sequenceOf.set(u, i)));
	const unlumped = new Map<string, { hole: string; table: string; row: number; count: number }>();
	const all = holes.map((hole) => ({ hole, runs: runsOf(hole, lumping, unitIndex, unlumped) }));
	const order: Order = {
		column,
		sequences,
		sequenceOf,
		logged: new Set(all.flatMap(({ runs }) => runs.map((r) => r.unit))),
		pinched: new Map()
	};
	const nearFaults = (hole: Hole, { unit, from, to }: Run) =>
		faults !== undefined && [from, to].some((d) => faultsNear(faults, unit, positionAt(hole.path, d)).length > 0);
	const oddRowsOf = findOddRows(all, order, ({ hole, runs }, i) =>
		faults ? faultsNear(faults, runs[i]!.unit, positionAt(hole.path, runs[i]!.from)) : []
	);
	/** Stretches that are taken for what lies above and below them. */
	const taken = new Map<string, Stretch[]>();
	for (const of of all) {
		const { hole, runs } = of;
		if (certain.has(hole.name)) continue;
		const odd = oddRowsOf(of);
		for (const [i, unit] of odd) {
			const { from, to } = runs[i]!;
			if (unit >= 0) (taken.get(hole.name) ?? taken.set(hole.name, []).get(hole.name)!).push({ hole: hole.name, from, to });
			setAside(result, hole, runs[i]!, unit < 0 ? FITS_NEITHER : `lies in ${column[unit]!.name}, and is taken as that`, column, faults);
			runs[i] = { ...runs[i]!, unit };
		}
		if (odd.size) runs.splice(0, runs.length, ...joined(runs));
	}
	const known = new Map<number, Thickness[]>();
	findPinched(all, order, known, nearFaults);
	const oddRunsOf = findOddRuns(all, order);
	const timesTooThick = tooThickAtEnds(known);
	for (const { hole, runs } of all) {
		if (certain.has(hole.name)) continue;
		const atFault = (i: number) => nearFaults(hole, runs[i]!);
		const aside: { i: number; why: string }[] = [];
		for (const [i, fitting] of oddRunsOf(runs, hole.name)) {
			const names = fitting.slice(0, 3).map((u) => column[u]!.name);
			if (!atFault(i)) aside.push({ i, why: `${FITS_NEITHER}; ${names.join(' or ')} would` });
		}
		for (const i of new Set([0, runs.length - 1])) {
			const times = timesTooThick(hole, runs[i]);
			if (times && !aside.some((a) => a.i === i) && !atFault(i)) aside.push({ i, why: `is ${times.toFixed(1)} times as thick as around` });
		}
		for (const { i, why } of aside) {
			setAside(result, hole, runs[i]!, why, column, faults);
			runs[i] = { ...runs[i]!, unit: -1 };
		}
	}
	const turned = turnsOver(all, order, nearFaults);
	for (const { hole, runs } of all) {
		const ends = runs.map((): [End, End] => ['open', 'open']);
		for (let i = 1; i < runs.length; i++) {
			ends[i - 1]![1] = ends[i]![0] = placeBoundary(result, hole, runs[i - 1]!, runs[i]!, order, turned, faults);
			if (isGap(runs[i]!) && runs[i + 1]) sayInGap(result, hole, runs[i - 1]!, runs[i + 1]!, order, faults);
		}
		for (const { unit, from, to } of runs) if (unit < 0) result.unknown.push({ hole: hole.name, from, to });
		runs.forEach((run, i) => observe(result, hole, run, ends[i]!, taken.get(hole.name) ?? [], faults));
	}
	for (const stretches of taken.values()) result.unknown.push(...stretches);
	for (const [code, at] of unlumped)
		result.findings.push({
			rule: 'code-without-unit',
			severity: 'noted',
			table: at.table,
			row: at.row,
			column: 'code',
			hole: at.hole,
			message: `the code "${code}" has no unit (${at.count} ${at.count === 1 ? 'interval' : 'intervals'})`,
			hint: 'Give it a unit under Interpret; until then its boundaries are not used.'
		});
	return result;
}

const FITS_NEITHER = 'fits neither what lies above nor what lies below';

/** Runs that touch and have one unit are one. */
function joined(runs: readonly Run[]): Run[] {
	const out: Run[] = [];
	for (const run of runs) {
		const last = out.at(-1);
		if (last && last.unit === run.unit && run.from - last.to < SAME_DEPTH)
			out[out.length - 1] = { ...last, to: run.to, bottomRow: run.bottomRow, rows: last.rows + run.rows };
		else out.push(run);
	}
	return out;
}

/** Neighbouring intervals of one unit put together; −1 for codes without a unit, and for gaps: what lies on both sides of one does not touch. */
function runsOf(
	hole: Hole,
	lumping: Lumping,
	unitIndex: Map<string, number>,
	unlumped: Map<string, { hole: string; table: string; row: number; count: number }>
): Run[] {
	const runs: Run[] = [];
	for (const interval of hole.intervals) {
		const unit = unitIndex.get(unitOrCode(lumping, interval.code)) ?? -1;
		if (unit < 0) {
			const known = unlumped.get(interval.code);
			if (known) known.count++;
			else unlumped.set(interval.code, { hole: hole.name, table: interval.table, row: interval.row, count: 1 });
		}
		const last = runs[runs.length - 1];
		if (last && last.unit === unit && interval.from - last.to < 1e-6) {
			last.to = interval.to;
			last.bottomRow = interval.row;
			last.rows++;
		} else {
			const { from, to, table, row } = interval;
			if (last && from - last.to > SAME_DEPTH)
				runs.push({ unit: -1, from: last.to, to: from, table, topRow: last.bottomRow, bottomRow: row, rows: 0 });
			runs.push({ unit, from, to, table, topRow: row, bottomRow: row, rows: 1 });
		}
	}
	return runs;
}

/**
 * What is known of the end of a run. `marked`: a contact between two units of one sequence lies there and says the same as both
 * sides of it. `refused`: the two units can not lie on each other, so one of them is wrong, and nobody knows which.
 */
type End = 'open' | 'marked' | 'refused';

function observe(result: Contacts, hole: Hole, run: Run, [top, bottom]: [End, End], taken: readonly Stretch[], faults?: FaultZones): void {
	if (run.unit < 0) return;
	// A run beside a refused boundary may be too long, or not there at all: only its other end is sure.
	const isSure = top !== 'refused' && bottom !== 'refused';
	const depths = [
		...(top === 'open' ? [run.from] : []),
		...(isSure ? [besideOf((run.from + run.to) / 2, taken)] : []),
		...(bottom === 'open' ? [run.to] : [])
	];
	for (const depth of depths) {
		const [x, y, z] = positionAt(hole.path, depth);
		// In the zone of a fault nobody knows on which side of it a place is.
		if (faults && inZone(faults, run.unit, run.unit, x, y, z)) continue;
		result.observations.push({ unit: run.unit, x, y, z, hole: hole.name, depth, table: run.table, rows: run.rows });
	}
}

/** A depth, or where it lies in a stretch of a hole the nearer end of that. */
function besideOf(depth: number, stretches: readonly Stretch[]): number {
	const { from, to } = stretches.find((s) => s.from < depth && depth < s.to) ?? { from: depth, to: depth };
	return depth - from < to - depth ? from : to;
}

/** True in the zone of a fault that cuts both units. */
function inZone(faults: FaultZones, a: number, b: number, x: number, y: number, z: number): boolean {
	for (let f = 0; f < faults.count; f++)
		if (faults.cuts(f, a) && faults.cuts(f, b) && Math.abs(faults.distance(f, x, y, z)) <= faults.halfWidth(f)) return true;
	return false;
}

/** The faults that cut a unit and may pass through a place, as far as they are known. */
const faultsNear = (faults: FaultZones, unit: number, [x, y, z]: readonly [number, number, number]): FaultNear[] =>
	Array.from({ length: faults.count }, (_, fault) => fault).flatMap((fault) => {
		const off = faults.cuts(fault, unit) ? Math.abs(faults.distance(fault, x, y, z)) : Infinity;
		return off <= faults.reach(fault) ? [{ fault, far: off <= faults.halfWidth(fault) ? 0 : off / faults.reach(fault) }] : [];
	});

/** More of the boundaries away from faults than this share are upside down where layers are turned over. */
const FOLDED = 0.02;

/** Whether layers are turned over: then what lies upside down is a contact beside a fault as elsewhere. */
function turnsOver(
	all: readonly { hole: Hole; runs: readonly Run[] }[],
	order: Order,
	nearFaults: (hole: Hole, run: Run) => boolean
): boolean {
	let [turned, count] = [0, 0];
	for (const { hole, runs } of all)
		runs.forEach((r, i) => {
			const upper = runs[i - 1];
			if (!upper || r.unit < 0 || upper.unit < 0 || upper.unit === r.unit || nearFaults(hole, { ...r, to: r.from })) return;
			const m = meeting(upper.unit, r.unit, order);
			count++;
			if (!('rule' in m) && m.turned) turned++;
		});
	return turned > FOLDED * count;
}

/** @param folded layers are turned over in places */
function placeBoundary(result: Contacts, hole: Hole, upper: Run, lower: Run, order: Order, folded: boolean, faults?: FaultZones): End {
	if (upper.unit < 0 || lower.unit < 0) return 'open';
	const unplaced = (rule: string, message: string, hint: string) =>
		result.findings.push(findingAt(hole, upper, lower, rule, message, hint));
	if (upper.unit === lower.unit) return 'open';
	const [x, y, z] = positionAt(hole.path, lower.from);
	if (faults && inZone(faults, upper.unit, lower.unit, x, y, z)) {
		result.faulted++;
		return 'open';
	}
	const m = meeting(upper.unit, lower.unit, order);
	const missing = 'rule' in m ? pinchedBetween(upper.unit, lower.unit, order, hole.name) : [];
	if (missing.length) {
		const at = { x, y, z, hole: hole.name, depth: lower.from, table: upper.table };
		result.points.push({ surface: upper.unit, ...at, row: upper.bottomRow });
		for (const unit of missing) result.absences.push({ unit, ...at });
		return 'marked';
	}
	if (faults && ('rule' in m || (m.turned && !folded))) {
		// A fault that is only roughly known may have made it: what lies on both sides says where it is.
		const near = faultsNear(faults, Math.min(upper.unit, lower.unit), [x, y, z])[0]?.fault;
		if (near !== undefined) {
			result.faulted++;
			unplaced(
				'fault-nearby',
				`${order.column[upper.unit]!.name} over ${order.column[lower.unit]!.name}, ${Math.abs(faults.distance(near, x, y, z)).toFixed(1)} ${faults.lengthUnit} from where ${faults.name(near)} was drawn: taken as made by it`,
				'Move the fault, give it a place here, or say that it is known better than that.'
			);
			return 'open';
		}
	}
	if ('rule' in m) {
		unplaced(m.rule, m.message, m.hint);
		return 'refused';
	}
	result.points.push({ surface: m.surface, x, y, z, hole: hole.name, depth: lower.from, table: upper.table, row: upper.bottomRow });
	return m.within ? 'marked' : 'open';
}

const findingAt = (hole: Hole, upper: Run, lower: Run, rule: string, message: string, hint: string): Finding => ({
	rule,
	severity: 'noted',
	table: lower.table,
	row: lower.topRow,
	column: 'code',
	hole: hole.name,
	message,
	hint,
	others: [upper.bottomRow]
});

/** Says that a boundary lies somewhere in a gap between two runs. */
function sayInGap(result: Contacts, hole: Hole, upper: Run, lower: Run, { column }: Order, faults?: FaultZones): void {
	if (upper.unit < 0 || lower.unit < 0 || upper.unit === lower.unit) return;
	const where = `from ${said(upper.to)} to ${said(lower.from)}${inUnit(faults)}`;
	const message = `${column[upper.unit]!.name} over ${column[lower.unit]!.name}: the boundary lies somewhere ${where}`;
	result.findings.push(findingAt(hole, upper, lower, 'contact-in-gap', message, 'Log the gap, or leave it: the boundary is not used.'));
}

/** A depth in words. */
const said = (depth: number): string => String(Number(depth.toFixed(2)));
const inUnit = (faults?: FaultZones): string => (faults?.lengthUnit ? ` ${faults.lengthUnit}` : '');

/** A run that looks like a wrong code says nothing, as if its code had no unit; its finding says what would fit. */
function setAside(result: Contacts, hole: Hole, run: Run, why: string, column: StratigraphicColumn, faults?: FaultZones): void {
	result.findings.push({
		rule: 'odd-unit',
		severity: 'noted',
		table: run.table,
		row: run.topRow,
		column: 'code',
		hole: hole.name,
		message: `${column[run.unit]!.name} from ${said(run.from)} to ${said(run.to)}${inUnit(faults)} ${why}`,
		hint: 'A wrong code, or a fault that was not drawn? Until then what is said there is not used.',
		...(run.bottomRow !== run.topRow ? { others: [run.bottomRow] } : {})
	});
}
