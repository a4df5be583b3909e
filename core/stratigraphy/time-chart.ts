import { ageAt, type AgeCurve } from './age-curve';
import type { OrderedUnit } from './absences';
import type { LoggedRun } from './runs';
import { unitsByName, type Scheme } from '../units/scheme';

/** A stretch of time in one hole: rock that is there, or why there is none. */
export interface TimeStretch {
	/** Unit; empty for a gap. */
	name: string;
	/** Ages, million years. */
	top: number;
	base: number;
	kind: 'logged' | 'removed' | 'not-deposited' | 'unknown';
	/** Measured depths; the same for a gap. */
	from: number;
	to: number;
}

/**
 * A hole by age: each run between the ages that its curve gives it, or those of its unit where the curve says nothing; the time between
 * them is removed below an erosional base, not deposited below any other, and unknown above and below what is dated.
 * @param runs from the top down
 * @param until age down to which the chart goes
 */
export function timeStretches(
	scheme: Scheme,
	order: readonly OrderedUnit[],
	runs: readonly LoggedRun[],
	curve: Pick<AgeCurve, 'knots'> | null,
	until: number
): TimeStretch[] {
	const byName = unitsByName(scheme);
	const place = new Map(order.map((u, i) => [u.name, i]));
	/** Whether any base between two units cuts what is below it. */
	const isCut = (above: string, below: string) =>
		order
			.slice(place.get(above) ?? 0, place.get(below) ?? (place.has(above) ? place.get(above)! + 1 : 0))
			.some((u) => u.contact === 'erosional');
	const out: TimeStretch[] = [];
	let last = 0;
	let before: LoggedRun | null = null;
	for (const r of runs) {
		const unit = byName(r.name);
		const own = curve ? [ageAt(curve, r.from, 'below'), ageAt(curve, r.to, 'above')] : [NaN, NaN];
		const top = Math.max(last, Number.isNaN(own[0]!) ? (unit?.top ?? NaN) : own[0]!);
		const base = Number.isNaN(own[1]!) ? (unit?.base ?? NaN) : own[1]!;
		if (!(base > top)) continue;
		if (top - last > 1e-9)
			out.push({
				name: '',
				top: last,
				base: top,
				kind: !before || isCut(before.name, r.name) ? 'removed' : 'not-deposited',
				from: r.from,
				to: r.from
			});
		out.push({ name: r.name, top, base, kind: 'logged', from: r.from, to: r.to });
		last = base;
		before = r;
	}
	if (until - last > 1e-9) out.push({ name: '', top: last, base: until, kind: 'unknown', from: before?.to ?? 0, to: before?.to ?? 0 });
	return out;
}
