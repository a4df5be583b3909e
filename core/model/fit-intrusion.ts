import { together, type Steps } from '../fields/steps';
import type { Sequence } from '../units/column';
import type { Observation } from '../units/contacts';
import { cutBy, type FittedFault } from './faults';
import type { Met } from './ends-at';
import type { Intrusion } from './intrusion';
import { byPlace, fitBody } from './fit-body';
import { emptySequence, note, type FittedSequence } from './fit-sequence';
import { fitSheet } from './fit-sheet';
import type { GroundFinding, GroundInput } from './ground';
import { interceptsOf, type Intercept } from './intercepts';
import { crossedOften, interceptAt, MOST_SHEETS, partSheets } from './part-sheets';
import { isSheet, lieOf } from './sheet-lie';
import type { Shape } from './trends';

/** An intrusion; of a sheet where holes meet it and pass it. */
export interface FittedIntrusion {
	sequence: FittedSequence;
	met: Met | null;
}

/**
 * Boundary of an intrusion: of a sheet (a dyke, a vein) two walls that follow each other, of any other body one closed surface.
 * @param beyond places at which nothing is known of it, besides those in what is younger
 */
export function* fitIntrusion(
	input: GroundInput,
	s: Sequence,
	sequences: readonly Sequence[],
	index: number,
	faults: readonly FittedFault[],
	findings: GroundFinding[],
	shape: Shape,
	beyond: ReadonlySet<Observation> = new Set()
): Steps<FittedIntrusion> {
	const unit = s.base;
	const name = input.column[unit]!.name;
	const result = emptySequence(s, [unit]);
	const contacts = input.contacts.filter((c) => c.surface === unit);
	if (contacts.length === 0)
		return without({
			...result,
			absent: note(findings, 'intrusion-not-met', `no hole meets a contact of ${name}`, 'It is left out of the model.')
		});
	// What is younger than the intrusion says nothing about where it was before that was laid down, or came in.
	const younger = new Set(sequences.slice(0, index).flatMap((y) => y.units));
	const says = (o: Observation) => !younger.has(o.unit) && !beyond.has(o);
	const seen = input.observations.filter(says).sort(byPlace);
	const hidden = input.observations.filter((o) => !says(o));
	const intrusion: Intrusion = { input, name, unit, hidden, cut: cutBy(faults, unit), findings, shape };
	const intercepts = interceptsOf(
		contacts,
		seen.filter((o) => o.unit === unit)
	);
	// What faults offset lies in several planes, and is one sheet.
	const parts = intrusion.cut.faults.length ? [intercepts] : partSheets(intercepts, mostSheets(sequences));
	const lies = parts.map((p) => lieOf(p, seen, unit));
	const form =
		input.column[unit]!.form ??
		(contacts.some((c) => c.wall !== undefined) || parts.every((p, k) => isSheet(p, lies[k]!, seen, unit)) ? 'sheet' : 'body');
	if (form === 'sheet') {
		const at = parts.length > 1 ? interceptAt(intercepts) : null;
		const sheets = yield* together(
			parts.map((part, k) => {
				// A place in one of several sheets says nothing of the others.
				const own = new Set(part);
				const isOther = (o: Observation) => at !== null && o.unit === unit && !own.has(at(o)!);
				return fitSheet(
					{ ...intrusion, hidden: [...hidden, ...seen.filter(isOther)] },
					part,
					lies[k]!,
					seen.filter((o) => !isOther(o))
				);
			})
		);
		noteCrossings(intercepts, sheets.filter(Boolean).length, name, findings);
		const [sheet, ...others] = sheets.filter((s) => s !== null);
		if (sheet)
			return {
				sequence: { ...result, ...sheet.walls, ...(others.length ? { others: others.map((o) => o.walls) } : {}) },
				met: { meets: intercepts.map(({ middle: [x, y, z] }) => ({ x, y, z })), misses: sheet.misses }
			};
		note(
			findings,
			'sheet-as-body',
			`${name} has too few intercepts for a sheet`,
			'It is modelled as a body. At least three holes must cross it.'
		);
	}
	// Midway between two walls is no boundary; it lies inside.
	const middles = contacts
		.filter((c) => c.wall === 0)
		.map((c): Observation => ({ unit, x: c.x, y: c.y, z: c.z, hole: c.hole, depth: c.depth, table: c.table }));
	const boundary = contacts.filter((c) => c.wall !== 0);
	if (boundary.length === 0)
		return without({
			...result,
			absent: note(
				findings,
				'intrusion-not-met',
				`only the middle of ${name} is known, not its boundary`,
				'It is left out of the model. Make it a sheet, or add places on its boundary.'
			)
		});
	return without({ ...result, baseField: yield* fitBody(intrusion, boundary, [...seen, ...middles].sort(byPlace)) });
}

const without = (sequence: FittedSequence): FittedIntrusion => ({ sequence, met: null });

/** Sheets of all intrusions together: each doubles the questions that a place may be asked. */
const MOST_OF_ALL = 8;
const mostSheets = (sequences: readonly Sequence[]): number =>
	Math.min(MOST_SHEETS, Math.floor(MOST_OF_ALL / sequences.filter((s) => s.kind === 'intrusion').length));

/** Says what was made of a unit that holes cross more than once. */
function noteCrossings(intercepts: readonly Intercept[], sheets: number, name: string, findings: GroundFinding[]): void {
	const often = crossedOften(intercepts);
	const holes = `${often} ${often === 1 ? 'hole crosses' : 'holes cross'} ${name} more than once`;
	if (sheets > 1)
		note(
			findings,
			'several-sheets',
			`${holes}: it is modelled as ${sheets} sheets`,
			'Give each a unit of its own to tell their ages, or set crossings aside under Shape, Intercepts of sheets.'
		);
	else if (often > 1)
		note(
			findings,
			'crossed-often',
			`${holes}, in no few planes: one sheet runs between them`,
			'Give those that belong together a unit of their own, or keep the nearest under Shape, Intercepts of sheets.'
		);
}
