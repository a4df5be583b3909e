import type { Sequence, StratigraphicColumn } from './column';

/** Intervals of one unit that follow each other in a hole, by depths; the unit is −1 where it is not known. */
export interface Run {
	unit: number;
	from: number;
	to: number;
	/** First and last row of the run. */
	table: string;
	topRow: number;
	bottomRow: number;
	/** How many; none where nothing is logged. */
	rows: number;
}

/** Units that were logged somewhere and belong between two of a sequence. */
export const unitsBetween = (s: Sequence, young: number, old: number, logged: ReadonlySet<number>): number[] =>
	s.units.slice(s.units.indexOf(young) + 1, s.units.indexOf(old)).filter((u) => logged.has(u));

/** What the column says of one unit on another. */
export interface Order {
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

export function meeting(upper: number, lower: number, { column, sequences, sequenceOf, logged }: Order): Meeting {
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

/** Where nothing is logged: no rows. */
export const isGap = (run: Run): boolean => run.rows === 0;

/** The run above or below another one, and whether there is a gap between; its unit is −1 where there is none. */
export function besideRun(runs: readonly Run[], i: number, by: 1 | -1): { i: number; unit: number; gap: boolean } {
	const gap = i + by in runs && isGap(runs[i + by]!);
	const at = gap ? i + 2 * by : i + by;
	return { i: at, unit: runs[at]?.unit ?? -1, gap };
}

/**
 * How much a boundary is against the rule: 1 where there can be none, or where it is upside down.
 * @param gap between the two: what is missing may lie in it
 */
export function against(upper: number, lower: number, order: Order, hole: string, gap: boolean): number {
	if (upper === lower || upper < 0 || lower < 0) return 0;
	const m = meeting(upper, lower, order);
	if (!('rule' in m)) return m.turned ? 1 : 0;
	if (m.rule === 'unit-missing' && (gap ? upper < lower : pinchedBetween(upper, lower, order, hole).length > 0)) return 0;
	return 1;
}

/** The units that pinch out between two of a hole; none when one that is missing does not. */
export function pinchedBetween(upper: number, lower: number, { sequences, sequenceOf, logged, pinched }: Order, hole: string): number[] {
	const own = pinched.get(hole);
	if (!own || upper < 0 || upper >= lower || sequenceOf.get(upper) !== sequenceOf.get(lower)) return [];
	const missing = unitsBetween(sequences[sequenceOf.get(upper)!]!, upper, lower, logged);
	return missing.every((u) => own.has(u)) ? missing : [];
}
