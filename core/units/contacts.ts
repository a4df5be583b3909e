import type { Finding } from '../tables/finding';
import type { Hole } from '../holes/holes';
import { positionAt } from '../holes/path';
import { sequencesOf, unitOrCode, type Lumping, type Sequence, type StratigraphicColumn } from './column';

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
}

/** A place on the contact between two units where one that lies between them elsewhere pinches out: `unit` is the one that is missing. */
export type Absence = Observation;

export interface Contacts {
	points: ContactPoint[];
	/** Units that are missing where neighbours lack them, too. */
	absences: Absence[];
	/** The middle of each run of one unit, and those of its ends that no contact marks. */
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
	/** How far it may be off where it was drawn. */
	reach(fault: number): number;
	name(fault: number): string;
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
	const result: Contacts = { points: [], absences: [], observations: [], findings: [], faulted: 0 };
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
	findPinched(all, order);
	for (const { hole, runs } of all)
		for (const [i, fitting] of oddRuns(runs, order, hole.name)) {
			if (faults && [runs[i]!.from, runs[i]!.to].some((d) => nearFault(faults, runs[i]!.unit, positionAt(hole.path, d)) !== undefined))
				continue;
			setAside(result, hole, runs[i]!, fitting, column);
			runs[i] = { ...runs[i]!, unit: -1 };
		}
	for (const { hole, runs } of all) {
		const ends = runs.map((): [End, End] => ['open', 'open']);
		for (let i = 1; i < runs.length; i++)
			ends[i - 1]![1] = ends[i]![0] = placeBoundary(result, hole, runs[i - 1]!, runs[i]!, order, faults);
		runs.forEach((run, i) => observe(result, hole, run, ends[i]!, faults));
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
		} else runs.push({ unit, from: interval.from, to: interval.to, table: interval.table, topRow: interval.row, bottomRow: interval.row });
	}
	return runs;
}

/**
 * What is known of the end of a run. `marked`: a contact between two units of one sequence lies there and says the same as both
 * sides of it. `refused`: the two units can not lie on each other, so one of them is wrong, and nobody knows which.
 */
type End = 'open' | 'marked' | 'refused';

function observe(result: Contacts, hole: Hole, run: Run, [top, bottom]: [End, End], faults?: FaultZones): void {
	if (run.unit < 0) return;
	// A run beside a refused boundary may be too long, or not there at all: only its other end is sure.
	const isSure = top !== 'refused' && bottom !== 'refused';
	const depths = [
		...(top === 'open' ? [run.from] : []),
		...(isSure ? [(run.from + run.to) / 2] : []),
		...(bottom === 'open' ? [run.to] : [])
	];
	for (const depth of depths) {
		const [x, y, z] = positionAt(hole.path, depth);
		// In the zone of a fault nobody knows on which side of it a place is.
		if (faults && inZone(faults, run.unit, run.unit, x, y, z)) continue;
		result.observations.push({ unit: run.unit, x, y, z, hole: hole.name, depth, table: run.table });
	}
}

/** True in the zone of a fault that cuts both units. */
function inZone(faults: FaultZones, a: number, b: number, x: number, y: number, z: number): boolean {
	for (let f = 0; f < faults.count; f++)
		if (faults.cuts(f, a) && faults.cuts(f, b) && Math.abs(faults.distance(f, x, y, z)) <= faults.halfWidth(f)) return true;
	return false;
}

/** The first fault that cuts a unit and may pass through a place, as far as it is known. */
const nearFault = (faults: FaultZones, unit: number, [x, y, z]: readonly [number, number, number]): number | undefined =>
	Array.from({ length: faults.count }, (_, f) => f).find(
		(f) => faults.cuts(f, unit) && Math.abs(faults.distance(f, x, y, z)) <= faults.reach(f)
	);

/** What the column says of one unit on another. */
interface Order {
	column: StratigraphicColumn;
	sequences: readonly Sequence[];
	sequenceOf: ReadonlyMap<number, number>;
	/** Units that any hole shows: one that nobody logged can not be missing between two others. */
	logged: ReadonlySet<number>;
	/** By hole, the units that are missing in it because they pinch out nearby. */
	pinched: Map<string, Set<number>>;
}

/** The surface between two units, or why there can be none. */
type Meeting = { surface: number; within: boolean; turned: boolean } | { rule: string; message: string; hint: string };

function meeting(upper: number, lower: number, { column, sequences, sequenceOf, logged }: Order): Meeting {
	const names = `${column[upper]!.name} over ${column[lower]!.name}`;
	const [young, old] = [Math.min(upper, lower), Math.max(upper, lower)];
	const youngSequence = sequences[sequenceOf.get(young)!]!;
	const oldSequence = sequences[sequenceOf.get(old)!]!;
	const within = youngSequence === oldSequence;
	if (youngSequence.kind === 'intrusion') return { surface: young, within, turned: false };
	if (oldSequence.kind === 'intrusion') {
		// Strata younger than the intrusion were laid down on it: their base cuts it.
		if (upper === old || youngSequence.base < 0)
			return {
				rule: 'out-of-order',
				message: `${names}: the intrusion is older than what lies below it`,
				hint: 'Check the log, or the place of the intrusion in the column.'
			};
		return { surface: youngSequence.base, within, turned: false };
	}
	if (within) {
		const between = unitsBetween(youngSequence, young, old, logged).length;
		if (between > 0)
			return {
				rule: 'unit-missing',
				message: `${names}: ${between === 1 ? 'a unit that lies between them is' : `${between} units that lie between them are`} missing`,
				hint: 'A fault, a thin unit that was not logged, or a contact that is erosional in truth. The boundary is not used.'
			};
		return { surface: young, within, turned: upper === old };
	}
	if (upper === old)
		return {
			rule: 'out-of-order',
			message: `${names}: the older unit lies on the younger one`,
			hint: 'Check the log, or draw the fault that brings it there. The boundary is not used.'
		};
	return { surface: youngSequence.base, within, turned: false };
}

/** Units that were logged somewhere and belong between two of a sequence. */
const unitsBetween = (s: Sequence, young: number, old: number, logged: ReadonlySet<number>): number[] =>
	s.units.slice(s.units.indexOf(young) + 1, s.units.indexOf(old)).filter((u) => logged.has(u));

/** Of so many holes nearby that many must lack a unit, too: then it pinches out there, and nobody forgot it. */
const NEARBY = 6;
const ALIKE = 2;

/** Finds where units pinch out: a hole goes from what lies above a unit to what lies below it, and so do some of the holes nearby. */
function findPinched(all: readonly { hole: Hole; runs: readonly Run[] }[], { sequences, sequenceOf, logged, pinched }: Order): void {
	const told = new Map<number, { hole: string; x: number; y: number; lacks: boolean }[]>();
	const tell = (unit: number, hole: Hole, depth: number, lacks: boolean) => {
		const [x, y] = positionAt(hole.path, depth);
		const list = told.get(unit) ?? told.set(unit, []).get(unit)!;
		list.push({ hole: hole.name, x, y, lacks });
	};
	for (const { hole, runs } of all)
		runs.forEach((run, i) => {
			if (run.unit < 0) return;
			tell(run.unit, hole, run.from, false);
			const next = runs[i + 1];
			if (!next || next.unit <= run.unit || next.from - run.to > SAME_DEPTH || sequenceOf.get(next.unit) !== sequenceOf.get(run.unit))
				return;
			for (const u of unitsBetween(sequences[sequenceOf.get(run.unit)!]!, run.unit, next.unit, logged)) tell(u, hole, run.to, true);
		});
	for (const [unit, list] of told) {
		if (list.filter((t) => t.lacks).length <= ALIKE) continue;
		for (const t of list) {
			if (!t.lacks) continue;
			const near: { far: number; lacks: boolean }[] = [];
			for (const o of list) {
				const far = Math.hypot(o.x - t.x, o.y - t.y);
				if (o.hole === t.hole || (near.length === NEARBY && far >= near[NEARBY - 1]!.far)) continue;
				near.splice(near.findIndex((n) => n.far > far) >>> 0, 0, { far, lacks: o.lacks });
				near.length = Math.min(near.length, NEARBY);
			}
			if (near.filter((n) => n.lacks).length >= ALIKE) (pinched.get(t.hole) ?? pinched.set(t.hole, new Set()).get(t.hole)!).add(unit);
		}
	}
}

/** How much a boundary is against the rule: 1 where there can be none, or where it is upside down. */
function against(upper: number, lower: number, order: Order, hole: string): number {
	if (upper === lower || upper < 0 || lower < 0) return 0;
	const m = meeting(upper, lower, order);
	return ('rule' in m && pinchedBetween(upper, lower, order, hole).length === 0) || ('turned' in m && m.turned) ? 1 : 0;
}

/** The units that pinch out between two of a hole; none when one that is missing does not. */
function pinchedBetween(upper: number, lower: number, { sequences, sequenceOf, logged, pinched }: Order, hole: string): number[] {
	const own = pinched.get(hole);
	if (!own || upper < 0 || upper >= lower || sequenceOf.get(upper) !== sequenceOf.get(lower)) return [];
	const missing = unitsBetween(sequences[sequenceOf.get(upper)!]!, upper, lower, logged);
	return missing.every((u) => own.has(u)) ? missing : [];
}

/**
 * Runs that look like a wrong code: with another unit they would fit what lies above and below, with their own they do not, and
 * nothing is mended as well by another unit for a neighbour. What folds or faults repeat without a gap in the order is none.
 * @returns by the index of the run, the units that would fit
 */
function oddRuns(runs: readonly Run[], order: Order, hole: string): Map<number, number[]> {
	const refused = (i: number) =>
		i > 0 &&
		i < runs.length &&
		runs[i - 1]!.unit !== runs[i]!.unit &&
		runs[i - 1]!.unit >= 0 &&
		runs[i]!.unit >= 0 &&
		'rule' in meeting(runs[i - 1]!.unit, runs[i]!.unit, order) &&
		pinchedBetween(runs[i - 1]!.unit, runs[i]!.unit, order, hole).length === 0;
	const best = runs.map((run, i): { gain: number; units: number[] } => {
		const [above, below] = [runs[i - 1]?.unit ?? -1, runs[i + 1]?.unit ?? -1];
		// At the end of a hole one neighbour must do: a unit that is left out there may be missing in truth, one that is upside down is not.
		const isEnd = above < 0 || below < 0;
		if (run.unit < 0 || (isEnd && !(above > run.unit || (below >= 0 && run.unit > below)))) return { gain: 0, units: [] };
		const own = against(above, run.unit, order, hole) + against(run.unit, below, order, hole);
		if (own === 0) return { gain: 0, units: [] };
		let units: number[] = [];
		let least = own;
		for (const u of order.logged) {
			if (u < 0 || u === run.unit) continue;
			const now = against(above, u, order, hole) + against(u, below, order, hole);
			if (now < least) [least, units] = [now, [u]];
			else if (now === least && now < own) units.push(u);
		}
		return { gain: own - least, units };
	});
	const out = new Map<number, number[]>();
	runs.forEach((_, i) => {
		const { gain, units } = best[i]!;
		if (gain > 0 && (refused(i) || refused(i + 1)) && gain > (best[i - 1]?.gain ?? 0) && gain > (best[i + 1]?.gain ?? 0)) out.set(i, units);
	});
	return out;
}

function placeBoundary(result: Contacts, hole: Hole, upper: Run, lower: Run, order: Order, faults?: FaultZones): End {
	if (upper.unit < 0 || lower.unit < 0) return 'open';
	const unplaced = (rule: string, message: string, hint: string) =>
		result.findings.push({
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
	if (lower.from - upper.to > 1e-6) {
		if (upper.unit !== lower.unit)
			unplaced(
				'contact-in-gap',
				`${order.column[upper.unit]!.name} over ${order.column[lower.unit]!.name}: the boundary lies somewhere from ${upper.to} to ${lower.from}`,
				'Log the gap, or leave it: the boundary is not used.'
			);
		return 'open';
	}
	if (upper.unit === lower.unit) return 'open';
	const [x, y, z] = positionAt(hole.path, lower.from);
	if (faults && inZone(faults, upper.unit, lower.unit, x, y, z)) {
		result.faulted++;
		return 'open';
	}
	const m = meeting(upper.unit, lower.unit, order);
	if ('rule' in m) {
		const missing = pinchedBetween(upper.unit, lower.unit, order, hole.name);
		if (missing.length) {
			const at = { x, y, z, hole: hole.name, depth: lower.from, table: upper.table };
			result.points.push({ surface: upper.unit, ...at, row: upper.bottomRow });
			for (const unit of missing) result.absences.push({ unit, ...at });
			return 'marked';
		}
		// A fault that is only roughly known may have made it: what lies on both sides says where it is.
		const near = faults && nearFault(faults, Math.min(upper.unit, lower.unit), [x, y, z]);
		if (near !== undefined) {
			result.faulted++;
			unplaced(
				'fault-nearby',
				`${order.column[upper.unit]!.name} over ${order.column[lower.unit]!.name}, ${Math.abs(faults!.distance(near, x, y, z)).toFixed(1)} from where ${faults!.name(near)} was drawn: taken as made by it`,
				'Move the fault, give it a place here, or say that it is known better than that.'
			);
			return 'open';
		}
		unplaced(m.rule, m.message, m.hint);
		return 'refused';
	}
	result.points.push({ surface: m.surface, x, y, z, hole: hole.name, depth: lower.from, table: upper.table, row: upper.bottomRow });
	return m.within ? 'marked' : 'open';
}

/** A run that looks like a wrong code says nothing, as if its code had no unit; its finding says what would fit. */
function setAside(result: Contacts, hole: Hole, run: Run, fitting: readonly number[], column: StratigraphicColumn): void {
	const names = fitting.slice(0, 3).map((u) => column[u]!.name);
	result.findings.push({
		rule: 'odd-unit',
		severity: 'noted',
		table: run.table,
		row: run.topRow,
		column: 'code',
		hole: hole.name,
		message: `${column[run.unit]!.name} from ${run.from} to ${run.to} fits neither what lies above nor what lies below; ${names.join(' or ')} would`,
		hint: 'The code is wrong, or a fault was not drawn. Until then the interval and its two boundaries are not used.',
		...(run.bottomRow !== run.topRow ? { others: [run.bottomRow] } : {})
	});
}
