import type { Unit } from '../units/column';
import { atRank, chronology, unitsByName, type Scheme } from '../units/scheme';
import { absenceOf, type Absence, type OrderedUnit } from './absences';
import type { LoggedRun } from './runs';

/** A unit that one can step to: of a scheme at one of its ranks, or of the column. */
export interface StepUnit {
	id: string;
	name: string;
	rank: number;
	parent: string;
}

/** Ranks and units to step through, youngest first within each rank. */
export interface Steps {
	ranks: string[];
	units: StepUnit[];
}

export const stepsOf = (scheme: Scheme | null, column: readonly Unit[]): Steps =>
	scheme
		? { ranks: scheme.ranks, units: chronology(scheme).map(({ id, name, rank, parent }) => ({ id, name, rank, parent })) }
		: { ranks: ['unit'], units: column.map(({ id, name }) => ({ id, name, rank: 0, parent: '' })) };

/** The unit that a step leads to: along its rank, or to the unit that it is a part of, or to its youngest part; itself at the ends. */
export function stepTo(steps: Steps, at: string, by: 'younger' | 'older' | 'up' | 'down'): string {
	const own = steps.units.find((u) => u.id === at);
	if (!own) return steps.units[0]?.id ?? '';
	if (by === 'up') return steps.units.some((u) => u.id === own.parent) ? own.parent : at;
	if (by === 'down') return steps.units.find((u) => u.parent === at)?.id ?? at;
	const rank = steps.units.filter((u) => u.rank === own.rank);
	return rank[rank.indexOf(own) + (by === 'older' ? 1 : -1)]?.id ?? at;
}

/** A hole as it is looked at. */
interface LookedAtHole {
	name: string;
	totalDepth: number;
	runs: readonly LoggedRun[];
	/** Measured depths at which it goes through a fault. */
	faults?: readonly number[] | undefined;
}

/** An absence that somebody set right. */
export interface SetAbsence {
	hole: string;
	/** Name of the unit. */
	unit: string;
	why: Absence;
	reason: string;
}

/** A unit in one hole: how thick, or why it is not there. */
export interface UnitInHole {
	hole: string;
	/** Length along the hole; 0 where it is not there. */
	thickness: number;
	/** Measured depth of its top; null where it is not there. */
	top: number | null;
	/** Parts of the next lower rank, or as they are logged, by length. */
	parts: { name: string; share: number }[];
	absence: { why: Absence; depth: number; between: string; reason: string } | null;
}

/** What a unit is in every hole. */
export function unitInHoles(
	target: StepUnit,
	scheme: Scheme | null,
	column: readonly Unit[],
	holes: readonly LookedAtHole[],
	set: readonly SetAbsence[] = []
): UnitInHole[] {
	const byName = scheme ? unitsByName(scheme) : () => null;
	const nameAt = (name: string, rank: number): string => {
		const unit = byName(name);
		return unit ? (atRank(scheme!, unit, rank)?.name ?? unit.name) : name;
	};
	const own = (name: string) => nameAt(name, target.rank);
	const order = orderAt(target.rank, scheme, column, own);
	const known = new Map(set.filter((s) => s.unit === target.name).map((s) => [s.hole, s]));
	return holes.map((h) => {
		const runs = merged(h.runs.map((r) => ({ ...r, name: own(r.name) })));
		const inside = h.runs.filter((r) => own(r.name) === target.name);
		const thickness = inside.reduce((n, r) => n + r.to - r.from, 0);
		if (inside.length > 0) {
			const parts = new Map<string, number>();
			for (const r of inside) {
				const name = nameAt(r.name, target.rank + 1);
				parts.set(name, (parts.get(name) ?? 0) + r.to - r.from);
			}
			return {
				hole: h.name,
				thickness,
				top: inside[0]!.from,
				parts: [...parts].map(([name, length]) => ({ name, share: length / thickness })),
				absence: null
			};
		}
		const found = absenceOf(target.name, order, runs, h.totalDepth, h.faults) ?? { why: 'not-logged' as const, depth: 0 };
		const [above, below] = [
			runs.filter((r) => r.to <= found.depth + 1e-6).at(-1)?.name,
			runs.find((r) => r.from >= found.depth - 1e-6)?.name
		];
		const given = known.get(h.name);
		return {
			hole: h.name,
			thickness: 0,
			top: null,
			parts: [],
			absence: {
				...found,
				...(given ? { why: given.why } : {}),
				between: [above, below].filter(Boolean).join(' and '),
				reason: given?.reason ?? ''
			}
		};
	});
}

/** The units of a rank from the youngest to the oldest, with how their bases meet what is below, as far as the column says it. */
function orderAt(rank: number, scheme: Scheme | null, column: readonly Unit[], nameAt: (name: string) => string): OrderedUnit[] {
	if (!scheme) return column.map(({ name, contact }) => ({ name, contact }));
	const byName = unitsByName(scheme);
	const list = chronology(scheme).filter((u) => u.rank === rank);
	const out = list.map((u, i): OrderedUnit => {
		// The base of a unit is that of its oldest part in the column; the oldest part of a unit of the column has its base.
		const parts = column.filter((c) => nameAt(c.name) === u.name);
		const last = parts[parts.length - 1];
		const next = list[i + 1];
		const over =
			last ?? column.find((c) => partOf(scheme, u.id, byName(c.name)?.id) && !(next && partOf(scheme, next.id, byName(c.name)?.id)));
		return { name: u.name, contact: over?.contact ?? 'conformable' };
	});
	column.forEach((c, i) => {
		if (byName(c.name)) return;
		const next = column.slice(i + 1).find((x) => out.some((o) => o.name === nameAt(x.name)));
		const at = next ? out.findIndex((o) => o.name === nameAt(next.name)) : out.length;
		out.splice(at, 0, { name: c.name, contact: c.contact });
	});
	return out;
}

/** Whether a unit is a part of another, by any number of steps. */
function partOf(scheme: Scheme, id: string, whole: string | undefined): boolean {
	let at = scheme.units.find((u) => u.id === id);
	for (let n = 0; at && n < scheme.ranks.length; n++) {
		if (at.parent === whole && whole) return true;
		at = scheme.units.find((u) => u.id === at!.parent);
	}
	return false;
}

function merged(runs: readonly LoggedRun[]): LoggedRun[] {
	const out: LoggedRun[] = [];
	for (const r of runs) {
		const last = out[out.length - 1];
		if (last && last.name === r.name && r.from - last.to <= 1e-6) last.to = r.to;
		else out.push({ ...r });
	}
	return out;
}
