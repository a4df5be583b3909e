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
import { interceptAt, MOST_SHEETS, partSheets } from './part-sheets';
import { crossedOften, nearPlane } from './sheet-planes';
import { noteOdd, oddIntercepts, strayPlaces } from './odd-intercepts';
import { isSheet, lieOf } from './sheet-lie';
import { furtherSheet, singleRows, withOthers } from './single-rows';
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
	// What is younger than the intrusion says nothing about where it was before that was laid down, or came in.
	const younger = new Set(sequences.slice(0, index).flatMap((y) => y.units));
	const says = (o: Observation) => !younger.has(o.unit) && !beyond.has(o);
	const seen = input.observations.filter(says).sort(byPlace);
	const hidden = input.observations.filter((o) => !says(o));
	const unlogged = (input.unknown ?? []).map(({ hole, from, to }) => ({ hole, depth: (from + to) / 2 }));
	const intrusion: Intrusion = { input, name, unit, hidden, unlogged, cut: cutBy(faults, unit), findings, shape };
	if (contacts.length === 0) {
		// Holes that are inside from end to end, or drilled beside it, tell where it is, too.
		const inside = new Set(seen.filter((o) => o.unit === unit).map((o) => o.hole));
		const beside = seen.some((o) => o.unit !== unit && !inside.has(o.hole));
		if (inside.size === 0 || !beside || input.column[unit]!.form === 'sheet')
			return without({
				...result,
				absent: note(findings, 'intrusion-not-met', `no hole meets a contact of ${name}`, 'It is left out of the model.')
			});
		note(
			findings,
			'boundary-not-met',
			`${inside.size} ${inside.size === 1 ? 'hole is' : 'holes are'} in ${name}, and none crosses its boundary against older rock: it is drawn midway to the holes beside`,
			'Draw its boundary on the map or a section, or drill across it.'
		);
		return without({ ...result, baseField: yield* fitBody(intrusion, [], seen) });
	}
	const intercepts = interceptsOf(contacts, seen, unit);
	// What faults offset lies in several planes, and is one sheet.
	const most = intrusion.cut.faults.length ? 1 : mostSheets(sequences);
	const single = singleRows(intercepts, seen);
	const { parts: sure, alone } = partSheets(
		intercepts.filter((i) => !single.has(i)),
		most,
		seen
	);
	const all = withOthers(sure, single);
	const odd = new Map<Intercept, number>();
	const whose = interceptAt(intercepts, seen, unit);
	if (input.column[unit]!.form !== 'body')
		for (const part of all) for (const [i, off] of yield* oddIntercepts(intrusion, part, seen, whose, { alone, single })) odd.set(i, off);
	const open = [...hidden, ...unlogged];
	const known = intercepts.filter((i) => !odd.has(i));
	const further = all.length < most ? furtherSheet(odd.keys(), known, nearPlane(intercepts), seen) : [];
	const before = new Map(further.map((i) => [i, odd.get(i)!]));
	for (const i of further) odd.delete(i);
	const told = all.map((part) => part.filter((i) => !odd.has(i) && !before.has(i)));
	const parts = further.length ? [...told, further] : told;
	const lies = parts.map((p) => lieOf(p, seen, unit));
	const form =
		input.column[unit]!.form ??
		(contacts.some((c) => c.wall !== undefined) || told.every((p, k) => isSheet(p, lies[k]!, seen, unit, open)) ? 'sheet' : 'body');
	if (form === 'sheet') {
		// What was met where the sheet can not be is unknown ground.
		const stray = strayPlaces(parts, seen, unit, whose, new Set(input.certain));
		const isOdd = (o: Observation) => o.unit === unit && (odd.has(whose(o)!) || stray.has(o));
		hidden.push(...seen.filter(isOdd));
		const believed = seen.filter((o) => !isOdd(o));
		const sheets = yield* together(
			parts.map((part, k) => {
				// A place in one of several sheets says nothing of the others.
				const own = new Set(part);
				const isOther = (o: Observation) => parts.length > 1 && o.unit === unit && !own.has(whose(o)!);
				return fitSheet(
					{ ...intrusion, hidden: [...hidden, ...believed.filter(isOther)] },
					part,
					lies[k]!,
					believed.filter((o) => !isOther(o))
				);
			})
		);
		// What makes no sheet after all is named as what it was.
		if (sheets.length > told.length && !sheets.at(-1)) for (const [i, off] of before) odd.set(i, off);
		noteCrossings(intercepts, sheets.filter(Boolean).length, name, findings);
		const [sheet, ...others] = sheets.filter((s) => s !== null);
		if (sheet) {
			noteOdd(intrusion, odd, stray);
			return {
				sequence: { ...result, ...sheet.walls, ...(others.length ? { others: others.map((o) => o.walls) } : {}) },
				met: { meets: parts.flat().map(({ middle: [x, y, z] }) => ({ x, y, z })), misses: sheet.misses }
			};
		}
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
