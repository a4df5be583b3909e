import type { Finding } from '../checks/finding';
import type { Hole } from '../holes/holes';
import { positionAt } from '../holes/path';
import { sequencesOf, unitOfCode, type Lumping, type Sequence, type StratigraphicColumn } from './column';

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

/** Depths that are nearer to each other are the same one. */
export const SAME_DEPTH = 1e-6;

/** A stretch of a hole, by depths. */
export interface Stretch {
	hole: string;
	from: number;
	to: number;
}

export const sameStretch = (a: Stretch, b: Stretch): boolean => a.hole === b.hole && Math.abs(a.from - b.from) < SAME_DEPTH && Math.abs(a.to - b.to) < SAME_DEPTH;

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
}

export interface Contacts {
	points: ContactPoint[];
	/** Both ends and the middle of each run of one unit. */
	observations: Observation[];
	findings: Finding[];
	/** Boundaries that lie in the zone of a fault and so belong to no contact. */
	faulted: number;
}

/** Signed distance to each fault that cuts a unit, and the half-width of its zone. Used to leave out boundaries made by faults. */
export interface FaultZones {
	count: number;
	distance(fault: number, x: number, y: number, z: number): number;
	halfWidth(fault: number): number;
	cuts(fault: number, unit: number): boolean;
}

interface Run {
	unit: number;
	from: number;
	to: number;
	/** First and last row of the run. */
	table: string;
	topRow: number;
	bottomRow: number;
}

/**
 * Walks each hole down and decides, from the order of the column and the contact kinds, which surface each boundary between
 * two units belongs to. A boundary that can not be placed becomes a finding with its reason.
 */
export function contactsOf(holes: readonly Hole[], lumping: Lumping, column: StratigraphicColumn, faults?: FaultZones): Contacts {
	const result: Contacts = { points: [], observations: [], findings: [], faulted: 0 };
	const unitIndex = new Map(column.map((u, i) => [u.id, i]));
	const sequences = sequencesOf(column);
	const sequenceOf = new Map<number, number>();
	sequences.forEach((s, i) => s.units.forEach((u) => sequenceOf.set(u, i)));
	const unlumped = new Map<string, { hole: string; table: string; row: number; count: number }>();
	for (const hole of holes) {
		const runs = runsOf(hole, lumping, unitIndex, unlumped);
		for (const run of runs) observe(result, hole, run, faults);
		for (let i = 1; i < runs.length; i++) placeBoundary(result, hole, runs[i - 1]!, runs[i]!, column, sequences, sequenceOf, faults);
	}
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

/** Neighbouring intervals of one unit put together; −1 for codes without a unit. */
function runsOf(hole: Hole, lumping: Lumping, unitIndex: Map<string, number>, unlumped: Map<string, { hole: string; table: string; row: number; count: number }>): Run[] {
	const runs: Run[] = [];
	for (const interval of hole.intervals) {
		const id = unitOfCode(lumping, interval.code);
		const unit = id === null ? -1 : (unitIndex.get(id) ?? -1);
		if (unit < 0) {
			const known = unlumped.get(interval.code);
			if (known) known.count++;
			else unlumped.set(interval.code, { hole: hole.name, table: interval.table, row: interval.row, count: 1 });
		}
		const last = runs[runs.length - 1];
		if (last && last.unit === unit && interval.from - last.to < 1e-6) {
			last.to = interval.to;
			last.bottomRow = interval.row;
		} else runs.push({ unit, from: interval.from, to: interval.to, table: interval.table, topRow: interval.row, bottomRow: interval.row });
	}
	return runs;
}

function observe(result: Contacts, hole: Hole, run: Run, faults?: FaultZones): void {
	if (run.unit < 0) return;
	for (const depth of [run.from, (run.from + run.to) / 2, run.to]) {
		const [x, y, z] = positionAt(hole.path, depth);
		// In the zone of a fault nobody knows on which side of it a place is.
		if (faults && inZone(faults, run.unit, run.unit, x, y, z)) continue;
		result.observations.push({ unit: run.unit, x, y, z, hole: hole.name, depth, table: run.table });
	}
}

/** True in the zone of a fault that cuts both units. */
function inZone(faults: FaultZones, a: number, b: number, x: number, y: number, z: number): boolean {
	for (let f = 0; f < faults.count; f++) if (faults.cuts(f, a) && faults.cuts(f, b) && Math.abs(faults.distance(f, x, y, z)) <= faults.halfWidth(f)) return true;
	return false;
}

function placeBoundary(
	result: Contacts,
	hole: Hole,
	upper: Run,
	lower: Run,
	column: StratigraphicColumn,
	sequences: readonly Sequence[],
	sequenceOf: Map<number, number>,
	faults?: FaultZones
): void {
	if (upper.unit < 0 || lower.unit < 0) return;
	const unplaced = (rule: string, message: string, hint: string) =>
		result.findings.push({ rule, severity: 'noted', table: lower.table, row: lower.topRow, column: 'code', hole: hole.name, message, hint, others: [upper.bottomRow] });
	const names = `${column[upper.unit]!.name} over ${column[lower.unit]!.name}`;
	if (lower.from - upper.to > 1e-6) {
		if (upper.unit !== lower.unit)
			unplaced('contact-in-gap', `${names}: the boundary lies somewhere from ${upper.to} to ${lower.from}`, 'Log the gap, or leave it: the boundary is not used.');
		return;
	}
	if (upper.unit === lower.unit) return;
	const [x, y, z] = positionAt(hole.path, lower.from);
	if (faults && inZone(faults, upper.unit, lower.unit, x, y, z)) {
		result.faulted++;
		return;
	}
	const young = Math.min(upper.unit, lower.unit);
	const old = Math.max(upper.unit, lower.unit);
	const youngSequence = sequences[sequenceOf.get(young)!]!;
	const oldSequence = sequences[sequenceOf.get(old)!]!;
	let surface: number;
	if (youngSequence.kind === 'intrusion') surface = young;
	else if (oldSequence.kind === 'intrusion') {
		// Strata younger than the intrusion were laid down on it: their base cuts it.
		if (upper.unit === old || youngSequence.base < 0)
			return void unplaced('out-of-order', `${names}: the intrusion is older than what lies below it`, 'Check the log, or the place of the intrusion in the column.');
		surface = youngSequence.base;
	} else if (youngSequence === oldSequence) {
		const between = youngSequence.units.indexOf(old) - youngSequence.units.indexOf(young) - 1;
		if (between > 0)
			return void unplaced('unit-missing', `${names}: ${between === 1 ? 'a unit that lies between them is' : `${between} units that lie between them are`} missing`, 'A fault, a thin unit that was not logged, or a contact that is erosional in truth. The boundary is not used.');
		surface = young;
	} else {
		if (upper.unit === old)
			return void unplaced('out-of-order', `${names}: the older unit lies on the younger one`, 'Check the log, or draw the fault that brings it there. The boundary is not used.');
		surface = youngSequence.base;
	}
	result.points.push({ surface, x, y, z, hole: hole.name, depth: lower.from, table: upper.table, row: upper.bottomRow });
}
