import type { ContactKind } from '../units/column';
import type { LoggedRun } from './runs';

/** Why a unit is not in a hole. */
export const ABSENCES = ['removed', 'not-deposited', 'cut-out', 'not-reached', 'not-logged'] as const;
export type Absence = (typeof ABSENCES)[number];

/** A unit in the order of a column, youngest first. */
export interface OrderedUnit {
	name: string;
	contact: ContactKind;
}

const SAME = 1e-3;

/**
 * Why a unit is not in a hole, from what lies above and below the place where it should be; null where it is there.
 *
 * With nothing older below, the hole did not reach it, or was not logged so deep. Where an erosional base lies between it and the next
 * younger unit, it was removed; where that boundary lies on a fault, it was cut out; else it was not deposited. At the top of a hole
 * that starts in older ground, it was removed by what shaped the terrain.
 * @param order all units, youngest first
 * @param runs of the hole, from the top down
 * @param totalDepth of the hole
 * @param faults measured depths at which the hole goes through a fault
 */
export function absenceOf(
	unit: string,
	order: readonly OrderedUnit[],
	runs: readonly LoggedRun[],
	totalDepth: number,
	faults: readonly number[] = []
): { why: Absence; depth: number } | null {
	if (runs.some((r) => r.name === unit)) return null;
	const place = new Map(order.map((u, i) => [u.name, i]));
	const own = place.get(unit);
	const known = runs.filter((r) => place.has(r.name));
	if (own === undefined || known.length === 0) return { why: 'not-logged', depth: 0 };
	const older = known.findIndex((r) => place.get(r.name)! > own && order[place.get(r.name)!]!.contact !== 'intrusive');
	if (older < 0) {
		const end = runs[runs.length - 1]!.to;
		return { why: end < totalDepth - Math.max(SAME, 0.01 * totalDepth) ? 'not-logged' : 'not-reached', depth: end };
	}
	const below = known[older]!;
	const above = known
		.slice(0, older)
		.filter((r) => order[place.get(r.name)!]!.contact !== 'intrusive')
		.at(-1);
	const depth = below.from;
	if (!above)
		return { why: below.from > runs[0]!.from + SAME || runs[0]!.from > SAME + 0.05 * totalDepth ? 'not-logged' : 'removed', depth };
	if (below.from - above.to > SAME && !runs.some((r) => r.from >= above.to - SAME && r.to <= below.from + SAME))
		return { why: 'not-logged', depth };
	if (faults.some((f) => Math.abs(f - depth) <= Math.max(1, 0.01 * totalDepth))) return { why: 'cut-out', depth };
	const between = order.slice(place.get(above.name)!, own);
	return { why: between.some((u) => u.contact === 'erosional') ? 'removed' : 'not-deposited', depth };
}
