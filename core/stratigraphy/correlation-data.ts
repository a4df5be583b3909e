import { numberOf } from '../datasets/dataset';
import { rowsOf, type LogData } from '../logs/log-parts';
import { fail } from '../problem';
import type { Scheme } from '../units/scheme';
import type { OrderedUnit } from './absences';
import { correlatedRuns, type CorrelationData, type CorrelationSpec } from './correlation';
import { holeAges, type AgeSources } from './hole-ages';
import type { LoggedRun } from './runs';
import { proposeByLikeness, proposeTies, tieBetween, untangled, type HoleCurve, type ProposedTie, type Tie } from './ties';
import { timeStretches, type TimeStretch } from './time-chart';

/** The scheme that ages are taken from; null when none is said. @throws ProblemError `unknown-scheme` */
export const schemeOf = (ages: AgeSources, schemes: readonly Scheme[]): Scheme | null =>
	ages.scheme
		? (schemes.find((s) => s.id === ages.scheme) ??
			fail('unknown-scheme', 'the scheme that ages are taken from is not there any more', 'Choose another.', 'ages'))
		: null;

/** What a correlation is drawn from, besides logs: ties, kinds of contact, ages. A hole is dated when it is first asked for. */
export function correlationData(
	data: LogData,
	spec: Pick<CorrelationSpec, 'log' | 'axis' | 'holes'>,
	from: { ties: readonly Tie[]; ages: AgeSources; schemes: readonly Scheme[]; order: readonly OrderedUnit[] }
): CorrelationData {
	const contact = new Map(from.order.map((u) => [u.name, u.contact]));
	const scheme = spec.axis === 'age' ? schemeOf(from.ages, from.schemes) : null;
	const known = new Map<string, readonly TimeStretch[]>();
	const oldest = Math.max(0, ...(scheme?.units ?? []).map((u) => u.base ?? 0));
	return {
		...data,
		ties: from.ties,
		contactOf: (unit) => contact.get(unit) ?? null,
		ages: (name) => {
			let own = known.get(name);
			if (own) return own;
			const number = data.paths.holes.findIndex((h) => h.name === name);
			const runs = correlatedRuns(data, spec.log, number);
			const { curve } = holeAges(data, from.ages, scheme, { number, name }, runs);
			own = scheme ? timeStretches(scheme, from.order, runs, curve, oldest) : datedRuns(runs, curve);
			known.set(name, own);
			return own;
		}
	};

	/** Without a scheme only dates say when a run was laid down. */
	function datedRuns(runs: readonly LoggedRun[], curve: Parameters<typeof timeStretches>[3]): TimeStretch[] {
		const until = curve?.knots.at(-1)?.age ?? 0;
		return timeStretches({ id: '', name: '', ranks: [], units: [] }, from.order, runs, curve, until);
	}
}

/** A curve of each hole from a column of numbers. @throws ProblemError `unknown-column` */
export function curvesOf(data: LogData, of: { table: string; column: string }): (hole: { number: number; name: string }) => HoleCurve {
	const set = data.set(of.table);
	const column = set ? numberOf(set, of.column) : null;
	if (!set || !column || set.place === 'map' || set.place === 'hole')
		return fail('unknown-column', 'there is no such curve along holes', 'Choose a column of numbers of a table with depths.', 'curve');
	return ({ number, name }) => {
		const rows = Array.from(rowsOf(data, set, number));
		return { hole: name, depths: rows.map((i) => (set.from[i]! + set.to[i]!) / 2), values: rows.map((i) => column.values[i]!) };
	};
}

/** Ties between each hole of a row and the next, as proposals; those that are there are not proposed again. */
export function proposeRow(
	holes: readonly { number: number; name: string; runs: readonly LoggedRun[] }[],
	ties: readonly Tie[],
	curve: ((hole: { number: number; name: string }) => HoleCurve) | null,
	reach = Infinity
): { ties: ProposedTie[]; scores: { left: string; right: string; score: number }[] } {
	const found: ProposedTie[] = [];
	const scores: { left: string; right: string; score: number }[] = [];
	for (let i = 1; i < holes.length; i++) {
		const [l, r] = [holes[i - 1]!, holes[i]!];
		const known = untangled(ties, l.name, r.name);
		const has = (t: ProposedTie) =>
			ties.some((k) => {
				const ends = tieBetween(k, l.name, r.name);
				return ends !== null && Math.abs(ends[0] - t.a.depth) < 1e-3 && Math.abs(ends[1] - t.b.depth) < 1e-3;
			});
		if (curve) {
			const own = proposeByLikeness({ runs: l.runs, curve: curve(l) }, { runs: r.runs, curve: curve(r) }, known, reach);
			scores.push({ left: l.name, right: r.name, score: own.score });
			found.push(...own.ties.filter((t) => !has(t)));
		} else found.push(...proposeTies({ hole: l.name, runs: l.runs }, { hole: r.name, runs: r.runs }, known).filter((t) => !has(t)));
	}
	return { ties: found, scores };
}
