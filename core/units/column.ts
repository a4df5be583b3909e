import { fail } from '../problem';

/** How the lower boundary of a unit (for an intrusion: its outer boundary) meets what is older. */
export type ContactKind = 'conformable' | 'erosional' | 'onlapping' | 'intrusive';

export const CONTACT_KINDS: readonly ContactKind[] = ['conformable', 'erosional', 'onlapping', 'intrusive'];

export type IntrusionForm = 'body' | 'sheet';

export const INTRUSION_FORMS: readonly IntrusionForm[] = ['body', 'sheet'];

/** Where a body goes on beyond the holes that end inside it. */
export type OpenEnd = 'down' | 'up' | 'both';

export const OPEN_ENDS: readonly OpenEnd[] = ['down', 'up', 'both'];

export interface Unit {
	/** Short, stable, unique in the column. */
	id: string;
	name: string;
	/** `#rrggbb` */
	color: string;
	contact: ContactKind;
	/** How an intrusion is built: a closed body, or a sheet with two walls (dyke, vein). Without it, as its intercepts suggest. */
	form?: IntrusionForm | undefined;
	/** Whether a sheet thins out where a hole passes it without meeting it (as when left out), or keeps its thickness there. */
	thinsOut?: boolean | undefined;
	/** Id of the sheet that a sheet ends at; null where it ends at none. Without it, as the holes beyond other sheets suggest. */
	endsAt?: string | null | undefined;
	/** Whether a body goes on where holes end inside it; without it the body closes there. */
	opens?: OpenEnd | undefined;
}

/** Units in age order, youngest first. The last one is the basement: it has no base. */
export type StratigraphicColumn = readonly Unit[];

/** Which unit each code of the loggers is taken to be. A code that is missing or empty is not lumped yet. */
export type Lumping = Record<string, string>;

/** Units that are conformable with each other above one base surface, or one intrusion. */
export interface Sequence {
	kind: 'strata' | 'intrusion';
	/** Indexes into the column, youngest first. */
	units: number[];
	/** The unit whose base (or outer boundary) ends the sequence; −1 for the basement sequence. */
	base: number;
}

/**
 * Cuts the column into sequences, youngest first. A sequence ends below a unit with an erosional or onlapping base;
 * an intrusion stands on its own at its age.
 */
export function sequencesOf(column: StratigraphicColumn): Sequence[] {
	const sequences: Sequence[] = [];
	let open: number[] = [];
	const intrusionsInside: number[] = [];
	const flushIntrusions = () => {
		for (const i of intrusionsInside) sequences.push({ kind: 'intrusion', units: [i], base: i });
		intrusionsInside.length = 0;
	};
	column.forEach((unit, i) => {
		const isBasement = i === column.length - 1;
		if (unit.contact === 'intrusive' && !isBasement) {
			// An intrusion listed inside a conformable run cuts the run: it is younger than what it intrudes.
			if (open.length === 0) sequences.push({ kind: 'intrusion', units: [i], base: i });
			else intrusionsInside.push(i);
			return;
		}
		open.push(i);
		if (isBasement || unit.contact === 'erosional' || unit.contact === 'onlapping') {
			flushIntrusions();
			sequences.push({ kind: 'strata', units: open, base: isBasement ? -1 : i });
			open = [];
		}
	});
	if (open.length) sequences.push({ kind: 'strata', units: open, base: -1 });
	return sequences;
}

/**
 * Checks a column for use in a model.
 * @throws ProblemError `empty-column`, `doubled-unit`, `basement-is-intrusive`
 */
export function validateColumn(column: StratigraphicColumn): void {
	if (column.length < 2)
		fail(
			'empty-column',
			'the stratigraphic column needs at least two units',
			'Add the units of your ground, youngest first; the last is the basement.',
			'column'
		);
	const ids = new Set<string>();
	for (const u of column) {
		if (ids.has(u.id)) fail('doubled-unit', `the unit "${u.id}" stands in the column twice`, 'Remove or rename one of them.', 'column');
		ids.add(u.id);
	}
	if (column[column.length - 1]!.contact === 'intrusive')
		fail('basement-is-intrusive', 'the last unit of the column can not be an intrusion', 'Put what it intrudes below it.', 'column');
}

/** A code as compared between loggers: without case, spaces and punctuation. */
export const plainCode = (code: string): string => code.toLowerCase().replace(/[^a-z0-9]+/g, '');

/** The unit of a code, by the lumping; null when the code is not lumped. */
export const unitOfCode = (lumping: Lumping, code: string): string | null => (Object.hasOwn(lumping, code) && lumping[code]) || null;

/** The id of the unit of a code: by the lumping, or the code itself, which may be the id of a unit; empty where a code is said to be none. */
export const unitOrCode = (lumping: Lumping, code: string): string => (Object.hasOwn(lumping, code) ? lumping[code]! : code);

/** Proposes units for codes by comparing them with the units' ids and names; what is not alike stays open. */
export function proposeLumping(codes: readonly string[], column: StratigraphicColumn, known: Lumping = {}): Lumping {
	const result: Lumping = {};
	const byPlain = new Map<string, string>();
	for (const u of column)
		for (const name of [u.id, u.name, ...u.name.split(/\s+/)])
			if (plainCode(name).length > 1 && !byPlain.has(plainCode(name))) byPlain.set(plainCode(name), u.id);
	for (const [code, unit] of Object.entries(known)) if (unit) byPlain.set(plainCode(code), unit);
	for (const code of codes) {
		const unit = unitOfCode(known, code) ?? byPlain.get(plainCode(code));
		if (unit) result[code] = unit;
	}
	return result;
}
