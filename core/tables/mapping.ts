import type { Rectangle } from '../grids/frame';
import { fail } from '../problem';
import { parseDate } from './dates';
import { roleOf, TABLE_KINDS, tableKind, type TableKind } from './kinds';
import { KEEP, type Role } from './roles';
import { unitNamed } from './measures';
import { numberReader } from './numbers';
import { numberedName, type RawTable } from './raw-table';

/** What each column of a file is: a role of its kind of table, `keep`, or `leave` to leave it out. By header name. */
export type Mapping = Record<string, string>;

/** Unit of each column, where it is not the unit of the project. By header name. */
export type ColumnUnits = Record<string, string>;

export const LEAVE = 'leave';

/** A unit of length behind a name: `from_ft`. */
const UNIT_BEHIND = /[_ ](ft|feet|m)$/i;

const plain = (text: string): string =>
	text
		.normalize('NFKD')
		.toLowerCase()
		.replace(/\[.*?\]|\(.*?\)/g, '')
		.replace(/[^a-z0-9]/g, '');

/** What the first cells of a column look like. */
interface Look {
	filled: number;
	/** Shares of the filled cells. */
	numeric: number;
	dates: number;
	distinct: Set<string>;
	min: number;
	max: number;
}

function lookOf(raw: RawTable, column: number): Look {
	const number = numberReader(raw.reading);
	const look: Look = { filled: 0, numeric: 0, dates: 0, distinct: new Set(), min: Infinity, max: -Infinity };
	for (const cell of raw.columns[column]!.slice(0, 200)) {
		if (cell === '') continue;
		look.filled++;
		look.distinct.add(cell);
		const v = number(cell);
		if (!Number.isNaN(v)) {
			look.numeric++;
			look.min = Math.min(look.min, v);
			look.max = Math.max(look.max, v);
		} else if (!Number.isNaN(parseDate(cell))) look.dates++;
	}
	look.numeric /= Math.max(1, look.filled);
	look.dates /= Math.max(1, look.filled);
	return look;
}

/** What is known of a project when a file comes: names of holes tell which column holds them. */
interface KnownProject {
	holes?: ReadonlySet<string>;
	/** Where it lies: tells which of two columns runs east. */
	extent?: Rectangle | null;
}

/** Whether the values under a header speak against a role that its name suggests. */
function fits(role: Role, look: Look): boolean {
	if (look.filled === 0) return true;
	if (role.type === 'number') return look.numeric >= 0.5;
	if (role.type === 'date') return look.dates >= 0.5;
	return look.dates < 0.5;
}

/** Guesses the roles of the columns from header names in several habits and from the values under them. */
export function guessMapping(raw: RawTable, kind: TableKind, known: KnownProject = {}): Mapping {
	const looks = raw.header.map((_, i) => lookOf(raw, i));
	const headers = raw.header.map(plain);
	const bare = raw.header.map((h) => plain(h.replace(UNIT_BEHIND, '')));
	const taken = new Map<number, string>();
	const roles = tableKind(kind).roles.filter((r) => !r.many);
	const given = new Set<string>();
	const give = (column: number, role: string) => {
		taken.set(column, role);
		given.add(role);
	};
	for (const role of roles) {
		let best = -1;
		let rank = Infinity;
		headers.forEach((h, i) => {
			const named = role.names.indexOf(h);
			const r = named < 0 && role.unit === 'length' ? role.names.indexOf(bare[i]!) : named;
			if (r < 0 || taken.has(i) || r >= rank || !fits(role, looks[i]!)) return;
			best = i;
			rank = r;
		});
		if (best >= 0) give(best, role.key);
	}
	const headless = raw.header.every((h, i) => h === numberedName(i));
	guessByValues(kind, looks, taken, given, give, known, headless);
	// A dip beside alpha and beta, or a thickness beside both depths, says the same twice; the fuller set counts.
	if (given.has('from') && given.has('to')) drop(taken, 'thickness');
	const many = tableKind(kind).roles.find((r) => r.many);
	const mapping: Mapping = {};
	raw.header.forEach((header, i) => {
		const look = looks[i]!;
		const isValue = many && look.numeric >= 0.5 && !/^(no|nr|row|line|objectid|fid|index)$/.test(headers[i]!);
		mapping[header] = taken.get(i) ?? (isValue ? many.key : look.filled === 0 ? LEAVE : KEEP.key);
	});
	return mapping;
}

function drop(taken: Map<number, string>, role: string): void {
	for (const [i, r] of taken) if (r === role) taken.delete(i);
}

/** Where no header name helped: an id that matches the collars, numbers that can only be coordinates. */
function guessByValues(
	kind: TableKind,
	looks: readonly Look[],
	taken: ReadonlyMap<number, string>,
	given: ReadonlySet<string>,
	give: (column: number, role: string) => void,
	known: KnownProject,
	headless: boolean
): void {
	const has = (key: string) => tableKind(kind).roles.some((r) => r.key === key) && !given.has(key);
	if (has('hole') && known.holes?.size) {
		let best = -1;
		let share = 0.5;
		looks.forEach((l, i) => {
			if (taken.has(i) || l.distinct.size === 0) return;
			const s = [...l.distinct].filter((v) => known.holes!.has(v)).length / l.distinct.size;
			if (s > share) [best, share] = [i, s];
		});
		if (best >= 0) give(best, 'hole');
	}
	if (has('easting') && has('northing') && tableKind(kind).roles.some((r) => r.key === 'easting' && r.required)) {
		const pair = coordinates(looks, taken, known.extent ?? null);
		if (pair) {
			give(pair[0], 'easting');
			give(pair[1], 'northing');
		}
	}
	// Without a header a day is what looks like one, and what tells all rows apart is their name.
	if (headless) {
		const left = (i: number) => !taken.has(i) && looks[i]!.filled > 0;
		const all = looks.map((_, i) => i);
		const day = all.find((i) => left(i) && looks[i]!.dates > 0.9);
		if (has('date') && day !== undefined) give(day, 'date');
		const name = all.find(
			(i) => left(i) && looks[i]!.numeric < 0.5 && looks[i]!.distinct.size === looks[i]!.filled && looks[i]!.filled > 1
		);
		const role = ['sample', 'hole'].find((r) => has(r));
		if (role && name !== undefined) give(name, role);
	}
}

/**
 * Two columns that can only be coordinates: those that lie in the extent of the project and fill most of it; else the two with large
 * numbers. Of these the one in the millions is the northing, as in the systems of zones; otherwise the first is the easting.
 */
function coordinates(looks: readonly Look[], taken: ReadonlyMap<number, string>, extent: Rectangle | null): [number, number] | null {
	const free = looks.flatMap((l, i) => (!taken.has(i) && l.numeric > 0.9 && l.max > l.min ? [{ l, i }] : []));
	if (extent) {
		const share = (l: Look, low: number, high: number) => {
			const room = high - low;
			return l.min >= low - room / 2 && l.max <= high + room / 2 ? (l.max - l.min) / room : 0;
		};
		let [best, found]: [number, [number, number] | null] = [0.02, null];
		for (const e of free)
			for (const n of free) {
				if (e === n) continue;
				const both = Math.min(share(e.l, extent.minX, extent.maxX), share(n.l, extent.minY, extent.maxY));
				if (both > best) [best, found] = [both, [e.i, n.i]];
			}
		if (found) return found;
	}
	const large = free.filter(({ l }) => Math.min(Math.abs(l.min), Math.abs(l.max)) > 10_000);
	if (large.length !== 2) return null;
	const [a, b] = large as [(typeof large)[number], (typeof large)[number]];
	const millions = (l: Look) => Math.min(Math.abs(l.min), Math.abs(l.max)) >= 1e6;
	return millions(a.l) && !millions(b.l) ? [b.i, a.i] : [a.i, b.i];
}

/** Units of the columns that measure a length or an angle, from a line of units or from the header: `Depth (ft)`. */
export function guessUnits(raw: RawTable, kind: TableKind, mapping: Mapping, lengthUnit: string): ColumnUnits {
	const units: ColumnUnits = {};
	raw.header.forEach((h, i) => {
		const measure = roleOf(kind, mapping[h] ?? LEAVE)?.unit;
		if (!measure) return;
		const stated = raw.units?.[i] || /[[(]\s*([^\])]+)\s*[\])]\s*$/.exec(h)?.[1] || UNIT_BEHIND.exec(h)?.[1] || '';
		const unit = unitNamed(stated, measure);
		if (unit && unit !== (measure === 'length' ? lengthUnit : '°')) units[h] = unit;
	});
	return units;
}

/** Guesses what kind of table a file is, from its name, its headers and its values. */
export function guessKind(raw: RawTable, fileName: string, known: KnownProject = {}): TableKind {
	const file = fileName.toLowerCase();
	let best: TableKind = 'other';
	let score = -Infinity;
	for (const k of TABLE_KINDS) {
		const mapping = guessMapping(raw, k.kind, known);
		const found = new Set(Object.values(mapping));
		const required = k.roles.filter((r) => r.required);
		const sets = k.oneOf ? Math.max(...k.oneOf.map((set) => set.filter((r) => found.has(r)).length / set.length)) : 1;
		const named = k.roles.filter((r) => found.has(r.key) && !r.many).length;
		const s =
			(required.filter((r) => found.has(r.key)).length / Math.max(1, required.length)) * sets +
			0.06 * named +
			(k.files.some((f) => file.includes(f)) ? 0.4 : 0) -
			(k.kind === 'other' ? 0.5 : 0) -
			missingRoles(k.kind, mapping).length * 0.5;
		if (s > score + 1e-9) {
			score = s;
			best = k.kind;
		}
	}
	return best;
}

/** Roles that must be given and are not, as words. */
export function missingRoles(kind: TableKind, mapping: Mapping): string[] {
	const given = new Set(Object.values(mapping));
	const k = tableKind(kind);
	const missing = k.roles.filter((r) => r.required && !given.has(r.key)).map((r) => r.label);
	const label = (key: string) => k.roles.find((r) => r.key === key)!.label;
	if (k.oneOf && !k.oneOf.some((set) => set.every((r) => given.has(r))))
		missing.push(k.oneOf.map((set) => set.map(label).join(' and ')).join(', or '));
	return missing;
}

/**
 * Checks a mapping against the header and the kind of table.
 * @throws ProblemError `unmapped-columns`, `unknown-column`, `unknown-role`, `doubled-role`
 */
export function validateMapping(kind: TableKind, header: readonly string[], mapping: Mapping): void {
	const seen = new Set<string>();
	for (const [column, roleKey] of Object.entries(mapping)) {
		if (!header.includes(column))
			fail('unknown-column', `there is no column "${column}"`, `The columns are: ${header.join(', ')}.`, `mapping.${column}`);
		if (roleKey === LEAVE) continue;
		const role = roleOf(kind, roleKey);
		if (!role) fail('unknown-role', `"${roleKey}" is no role of ${tableKind(kind).label.toLowerCase()}`, undefined, `mapping.${column}`);
		if (!role!.many && seen.has(roleKey))
			fail('doubled-role', `two columns are mapped to ${role!.label}`, 'Leave one of them out.', `mapping.${column}`);
		seen.add(roleKey);
	}
	const missing = missingRoles(kind, mapping);
	if (missing.length)
		fail(
			'unmapped-columns',
			`no column is mapped to ${missing.join('; ')}`,
			'Say which columns hold them, or choose another kind of table.',
			'mapping'
		);
}

/** WGS 84 in degrees: what a receiver for satellite navigation writes. */
const GEOGRAPHIC = 4326;

/** The system of coordinates that headers and values speak of: degrees where they are named latitude and longitude and can be; null otherwise. */
export function guessEpsg(raw: RawTable, mapping: Mapping): number | null {
	const column = (role: string) => raw.header.findIndex((h) => mapping[h] === role);
	const [east, north] = [column('easting'), column('northing')];
	if (east < 0 || north < 0 || !/lon|lng/i.test(raw.header[east]!) || !/lat/i.test(raw.header[north]!)) return null;
	const read = numberReader(raw.reading);
	const within = (at: number, most: number) => {
		const values = raw.columns[at]!.map(read).filter(Number.isFinite);
		return values.length > 0 && values.every((v) => Math.abs(v) <= most);
	};
	return within(east, 180) && within(north, 90) ? GEOGRAPHIC : null;
}
