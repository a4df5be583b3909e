import { BEYOND, CONTRADICTED, CUT_OFF, HELD, SOFT } from '../model/honour';
import type { GroundFinding } from '../model/ground';
import type { Misfit } from '../mesh/misfit';
import type { ContactPoint } from '../units/contacts';
import type { Unit } from '../units/column';

/** Share of the spacing within which a surface honours a contact. */
export const HONOURED = 0.02;

const NAMED = 6;

/** Why contacts are not honoured, and what can be done about it. */
const REASONS: readonly { fate: number; kind: string; why: (n: number, off: string) => string; hint: string }[] = [
	{
		fate: SOFT,
		kind: 'contacts-soft',
		why: (n, off) => `${contacts(n)} with an error or a thickness of ${n === 1 ? 'its' : 'their'} own ${lie(n)} more than ${off} off`,
		hint: 'Take the error away where the surface must pass through; build with a finer spacing for the middle of a sheet.'
	},
	{
		fate: BEYOND,
		kind: 'contacts-beyond',
		why: (n) => `${contacts(n)} ${lie(n)} outside the extent`,
		hint: 'They shape the surfaces all the same. Widen the extent to see them honoured.'
	},
	{
		fate: CUT_OFF,
		kind: 'contacts-cut-off',
		why: (n) =>
			`${contacts(n)} ${lie(n)} where ${n === 1 ? 'its' : 'their'} surface does not come to: a younger surface, a fault or a limit cuts it off`,
		hint: 'Check the logs of these holes against the column, and how near to a fault they are.'
	},
	{
		fate: CONTRADICTED,
		kind: 'contacts-contradicted',
		why: (n, off) => `${contacts(n)} ${lie(n)} more than ${off} from the surface, for others contradict ${n === 1 ? 'it' : 'them'}`,
		hint: 'Look for contacts of the same surface nearby at very different heights, and for holes on the wrong side.'
	},
	{
		fate: HELD,
		kind: 'contacts-crowded',
		why: (n, off) => `${contacts(n)} ${lie(n)} more than ${off} from the surface: there are more of them than cells that could bend`,
		hint: 'Build with a finer spacing, or a finer one there.'
	}
];
const contacts = (n: number) => (n === 1 ? 'one contact' : `${n} contacts`);
const lie = (n: number) => (n === 1 ? 'lies' : 'lie');

/**
 * Which contacts the surfaces do not honour within 2 % of the spacing, by reason, with the holes.
 * @param fates of the contacts on the lattice (see `honourContacts`)
 */
export function contactFindings(
	points: readonly ContactPoint[],
	misfits: readonly Misfit[],
	fates: ArrayLike<number>,
	spacing: number,
	units: readonly Unit[],
	lengthUnit: string
): GroundFinding[] {
	const off = misfits.filter((m) => m.distance === null || m.distance > HONOURED * spacing);
	return REASONS.flatMap(({ fate, kind, why, hint }): GroundFinding[] => {
		const own = off
			.filter((m) => fates[m.contact] === fate)
			.sort((a, b) => (b.distance ?? Infinity) - (a.distance ?? Infinity) || a.contact - b.contact);
		if (own.length === 0) return [];
		const named = [...new Set(own.map((m) => `${units[points[m.contact]!.surface]!.name} in ${points[m.contact]!.hole}`))];
		const list = named.length > NAMED ? `${named.slice(0, NAMED).join(', ')} and ${named.length - NAMED} more` : named.join(', ');
		const worst = points[own[0]!.contact]!;
		return [
			{
				kind,
				severity: 'noted',
				message: `${why(own.length, `${Number((HONOURED * spacing).toPrecision(3))} ${lengthUnit}`)}: ${list}`,
				hint,
				at: [worst.x, worst.y, worst.z],
				hole: worst.hole
			}
		];
	});
}
