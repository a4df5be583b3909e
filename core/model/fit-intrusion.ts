import type { Steps } from '../fields/steps';
import type { Sequence } from '../units/column';
import type { Observation } from '../units/contacts';
import { cutBy, type FittedFault } from './faults';
import { byPlace, fitBody } from './fit-body';
import { note, type FittedSequence } from './fit-sequence';
import { fitSheet } from './fit-sheet';
import type { GroundFinding, GroundInput } from './ground';
import { interceptsOf } from './intercepts';
import { isSheet, lieOf } from './sheet-lie';
import type { Shape } from './trends';

/** Boundary of an intrusion: of a sheet (a dyke, a vein) two walls that follow each other, of any other body one closed surface. */
export function* fitIntrusion(
	input: GroundInput,
	s: Sequence,
	sequences: readonly Sequence[],
	index: number,
	faults: readonly FittedFault[],
	findings: GroundFinding[],
	shape: Shape
): Steps<FittedSequence> {
	const unit = s.base;
	const cut = cutBy(faults, unit);
	const name = input.column[unit]!.name;
	const result: FittedSequence = {
		...s,
		baseField: null,
		footField: null,
		walls: null,
		innerField: null,
		contactFields: [],
		present: [unit],
		absent: false
	};
	const contacts = input.contacts.filter((c) => c.surface === unit);
	if (contacts.length === 0)
		return { ...result, absent: note(findings, 'intrusion-not-met', `no hole meets a contact of ${name}`, 'It is left out of the model.') };
	// What is younger than the intrusion says nothing about where it was before that was laid down, or came in.
	const younger = new Set(sequences.slice(0, index).flatMap((y) => y.units));
	const seen = input.observations.filter((o) => !younger.has(o.unit)).sort(byPlace);
	const hidden = input.observations.filter((o) => younger.has(o.unit));
	const intercepts = interceptsOf(
		contacts,
		seen.filter((o) => o.unit === unit)
	);
	const lie = lieOf(intercepts, seen, unit);
	const form =
		input.column[unit]!.form ?? (contacts.some((c) => c.wall !== undefined) || isSheet(intercepts, lie, seen, unit) ? 'sheet' : 'body');
	if (form === 'sheet') {
		const sheet = yield* fitSheet(input, name, intercepts, lie, seen, hidden, unit, cut, findings, shape);
		if (sheet) return { ...result, ...sheet };
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
		return {
			...result,
			absent: note(
				findings,
				'intrusion-not-met',
				`only the middle of ${name} is known, not its boundary`,
				'It is left out of the model. Make it a sheet, or add places on its boundary.'
			)
		};
	return {
		...result,
		baseField: yield* fitBody(input, name, boundary, [...seen, ...middles].sort(byPlace), hidden, unit, cut, findings, shape)
	};
}
