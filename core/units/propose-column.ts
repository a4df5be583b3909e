import { fewestBroken } from '../linear/ordering';
import type { ContactKind } from './column';

/** What one hole passes through, from the top down; no unit follows itself. */
export interface HoleLog {
	hole: string;
	units: readonly string[];
}

/** One boundary of a proposed column with the holes that speak for and against it. */
export interface OrderEvidence {
	above: string;
	below: string;
	/** Holes in which the one lies above the other. */
	holes: number;
	/** Names of holes that have them the other way round. */
	against: string[];
}

interface ColumnProposal {
	/** Youngest first, each with the kind of its lower boundary. */
	units: { unit: string; contact: ContactKind }[];
	/** Of each pair of neighbours. */
	evidence: OrderEvidence[];
	/** Holes that break the order anywhere. */
	contradicting: string[];
}

/** A unit must be met so often between the same neighbours, and by this share, before it is taken to cut them. */
const LEAST_ENCLOSED = 2;
const ENCLOSED_SHARE = 0.6;
/** A base cuts what lies below it when it lies on so many different units, each in this share of its holes. */
const UNITS_CUT = 3;
const CUT_SHARE = 0.06;

/** Units that are met inside another one again and again, while that one is not met inside them: dykes and sills. */
function enclosedUnits(logs: readonly HoleLog[], units: readonly string[]): Map<string, Map<string, number>> {
	const inside = new Map<string, Map<string, number>>(units.map((u) => [u, new Map()]));
	const between = new Map<string, number>();
	for (const { units: run } of logs)
		for (let i = 1; i + 1 < run.length; i++) {
			between.set(run[i]!, (between.get(run[i]!) ?? 0) + 1);
			if (run[i - 1] !== run[i + 1]) continue;
			const hosts = inside.get(run[i]!)!;
			hosts.set(run[i - 1]!, (hosts.get(run[i - 1]!) ?? 0) + 1);
		}
	const sum = (m: Map<string, number>) => [...m.values()].reduce((a, b) => a + b, 0);
	const often = (u: string) => {
		const n = sum(inside.get(u)!);
		return n >= LEAST_ENCLOSED && n >= ENCLOSED_SHARE * (between.get(u) ?? 0);
	};
	// Two that lie in each other are layers in turn, not one that cuts the other.
	return new Map([...inside].filter(([u, hosts]) => often(u) && ![...hosts.keys()].some((h) => often(h) && inside.get(h)!.has(u))));
}

const withoutRepeats = (run: readonly string[]): string[] => run.filter((u, i) => u !== run[i - 1]);

/**
 * Proposes the order of units and the kinds of their lower boundaries from what holes pass through.
 *
 * Which of two units is younger is counted over all holes; the order is one that breaks the fewest of these counts (minimum
 * feedback arc set; Eades, Lin & Smyth 1993, then moved one by one while that helps). A unit with the same neighbour on both
 * sides is intrusive, and younger than what it lies in; a base that lies on several older units is erosional.
 * @param fixed units whose order among each other stays as it is given
 */
export function proposeColumn(logs: readonly HoleLog[], fixed: readonly string[] = []): ColumnProposal {
	const all = [...new Set([...fixed, ...logs.flatMap((l) => l.units)])];
	const enclosed = enclosedUnits(logs, all);
	const strata = all.filter((u) => !enclosed.has(u) || fixed.includes(u));
	const index = new Map(strata.map((u, i) => [u, i]));
	const runs = logs.map((l) => ({ hole: l.hole, units: withoutRepeats(l.units.filter((u) => index.has(u))) }));
	const n = strata.length;
	// By hole, so that one in which two alternate counts once. A unit stands where it is met first.
	const above = Array.from({ length: n }, () => new Float64Array(n));
	const depth = new Float64Array(n);
	const met = new Float64Array(n);
	for (const { units } of runs) {
		const once = [...new Set(units)].map((u) => index.get(u)!);
		once.forEach((a, i) => {
			depth[a]! += (i + 0.5) / once.length;
			met[a]!++;
			for (const b of once.slice(i + 1)) above[a]![b]!++;
		});
	}
	const order = fewestBroken(
		above,
		Float64Array.from(depth, (d, i) => (met[i] ? d / met[i]! : 0.5)),
		fixed.map((u) => index.get(u)!)
	);
	const column = order.map((i) => strata[i]!);
	// An intrusion is younger than all that it is met in.
	const late = [...enclosed.keys()].filter((u) => !fixed.includes(u));
	for (const u of late) {
		const hosts = [...enclosed.get(u)!.keys()].map((h) => column.indexOf(h)).filter((i) => i >= 0);
		column.splice(hosts.length ? Math.min(...hosts) : column.length, 0, u);
	}
	const intrusive = new Set(late);
	const kinds = contactKinds(
		runs,
		column.filter((u) => !intrusive.has(u))
	);
	const place = new Map(order.map((i, k) => [strata[i]!, k]));
	const contradicting = runs
		.filter(({ units }) => units.some((u, i) => i > 0 && place.get(u)! < place.get(units[i - 1]!)!))
		.map((r) => r.hole);
	return {
		units: column.map((unit) => ({ unit, contact: intrusive.has(unit) ? 'intrusive' : (kinds.get(unit) ?? 'conformable') })),
		evidence: column.slice(1).map((below, k) => evidenceOf(logs, column[k]!, below)),
		contradicting
	};
}

/** Bases that cut several older units are erosional. */
function contactKinds(runs: readonly HoleLog[], column: readonly string[]): Map<string, ContactKind> {
	const rank = new Map(column.map((u, i) => [u, i]));
	const lies = new Map(column.map((u) => [u, new Map<string, number>()]));
	for (const { units } of runs)
		for (let i = 1; i < units.length; i++) {
			const on = lies.get(units[i - 1]!)!;
			if (rank.get(units[i]!)! > rank.get(units[i - 1]!)!) on.set(units[i]!, (on.get(units[i]!) ?? 0) + 1);
		}
	const kinds = new Map<string, ContactKind>();
	for (const [unit, on] of lies) {
		const count = [...on.values()].reduce((a, b) => a + b, 0);
		const cut = [...on].filter(([, n]) => n >= Math.max(2, CUT_SHARE * count)).map(([u]) => u);
		kinds.set(unit, cut.length >= UNITS_CUT ? 'erosional' : 'conformable');
		// Of units that lie on the same surface the lowest has it for its base; the others lie on it where that one wedges out.
		for (const younger of column.slice(0, rank.get(unit)!)) {
			if (kinds.get(younger) !== 'erosional' || kinds.get(unit) !== 'erosional') continue;
			if (cut.filter((u) => lies.get(younger)!.has(u)).length >= 2) kinds.set(younger, 'conformable');
		}
	}
	return kinds;
}

/** What holes say of two units that follow on each other in a column. */
export function evidenceOf(logs: readonly HoleLog[], above: string, below: string): OrderEvidence {
	let holes = 0;
	const against: string[] = [];
	for (const { hole, units } of logs) {
		const [a, b] = [units.indexOf(above), units.indexOf(below)];
		if (a < 0 || b < 0) continue;
		if (a < b) holes++;
		else against.push(hole);
	}
	return { above, below, holes, against };
}
