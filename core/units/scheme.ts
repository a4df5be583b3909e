import { fail } from '../problem';
import { plainCode } from './column';

/** A unit of a scheme, at one of its ranks. */
export interface SchemeUnit {
	/** Short, stable, unique in the scheme. */
	id: string;
	name: string;
	/** Index into the ranks of the scheme; 0 is the highest. */
	rank: number;
	/** Id of the unit of a higher rank that it is a part of; empty for none. */
	parent: string;
	/** Ages of top and base and what they may be off by (one standard deviation), million years; null where nobody knows. */
	top: number | null;
	base: number | null;
	error: number | null;
	/** `#rrggbb`; empty where none was chosen. */
	color: string;
	lithology: string;
	/** Names of further parents that a table or a log gave it. */
	otherParents?: string[] | undefined;
}

/** Units of rocks or of time in ranks, the highest rank first; units of one rank youngest first. */
export interface Scheme {
	id: string;
	name: string;
	ranks: string[];
	units: SchemeUnit[];
}

type SchemeProblemKind =
	'loop' | 'parent-not-higher' | 'unknown-parent' | 'doubled-name' | 'two-parents' | 'upside-down' | 'outside-parent';

/** A contradiction within a scheme. */
interface SchemeProblem {
	kind: SchemeProblemKind;
	/** Id of the unit. */
	unit: string;
	message: string;
	hint: string;
}

const SURE = 2;
const said = (v: number) => String(Number(v.toPrecision(6)));

/** What contradicts itself in a scheme, unit by unit. An age counts as another one when it is off by more than two of the errors together. */
export function schemeProblems(scheme: Scheme): SchemeProblem[] {
	const byId = new Map(scheme.units.map((u) => [u.id, u]));
	const found: SchemeProblem[] = [];
	const names = new Map<string, SchemeUnit>();
	const say = (kind: SchemeProblemKind, u: SchemeUnit, message: string, hint: string) => found.push({ kind, unit: u.id, message, hint });
	for (const u of scheme.units) {
		const key = `${u.rank} ${plainCode(u.name) || u.name}`;
		if (names.has(key))
			say('doubled-name', u, `two units of the rank ${scheme.ranks[u.rank]} are called ${u.name}`, 'Rename one, or take it out.');
		names.set(key, u);
		if (u.otherParents?.length)
			say(
				'two-parents',
				u,
				`${u.name} is a part of ${byId.get(u.parent)?.name ?? 'nothing'} and of ${u.otherParents.join(' and ')}`,
				'Choose the one that it belongs to.'
			);
		if (u.top !== null && u.base !== null && u.top >= u.base)
			say(
				'upside-down',
				u,
				`the top of ${u.name} (${said(u.top)} Ma) is not younger than its base (${said(u.base)} Ma)`,
				'Ages grow downwards: the base is the larger number.'
			);
		if (!u.parent) continue;
		const parent = byId.get(u.parent);
		if (!parent) {
			say('unknown-parent', u, `what ${u.name} is a part of is not in the scheme`, 'Choose another parent.');
			continue;
		}
		if (loops(byId, u)) say('loop', u, `${u.name} is a part of itself, by way of ${parent.name}`, 'Choose another parent for one of them.');
		else if (parent.rank >= u.rank)
			say('parent-not-higher', u, `${parent.name} is of no higher rank than ${u.name}`, 'A parent stands at a higher rank.');
		const off = SURE * Math.hypot(u.error ?? 0, parent.error ?? 0) + 1e-9;
		for (const [what, own, its, outside] of [
			['top', u.top, parent.top, (a: number, b: number) => b - a > off],
			['base', u.base, parent.base, (a: number, b: number) => a - b > off]
		] as const)
			if (own !== null && its !== null && outside(own, its))
				say(
					'outside-parent',
					u,
					`the ${what} of ${u.name} (${said(own)} Ma) lies outside its parent ${parent.name} (${said(its)} Ma)`,
					'A parent spans all its parts: mend one of the ages, or the parent.'
				);
	}
	return found;
}

function loops(byId: ReadonlyMap<string, SchemeUnit>, u: SchemeUnit): boolean {
	const seen = new Set<string>();
	for (let at: SchemeUnit | undefined = u; at; at = byId.get(at.parent)) {
		if (seen.has(at.id)) return at.id === u.id || seen.has(u.id);
		seen.add(at.id);
	}
	return false;
}

/**
 * Refuses what no scheme can be.
 * @throws ProblemError `scheme-loop`, `doubled-unit`, `unknown-rank`, `unknown-unit`
 */
export function validateScheme(scheme: Scheme): void {
	const ids = new Set<string>();
	for (const u of scheme.units) {
		if (ids.has(u.id)) fail('doubled-unit', `two units of the scheme have the id ${u.id}`, 'Give one of them another.', 'units');
		ids.add(u.id);
		if (!(u.rank >= 0 && u.rank < scheme.ranks.length))
			fail(
				'unknown-rank',
				`${u.name} stands at a rank that ${scheme.name} does not have`,
				`Its ranks: ${scheme.ranks.join(', ')}.`,
				'units'
			);
	}
	for (const p of schemeProblems(scheme)) {
		if (p.kind === 'loop') fail('scheme-loop', p.message, p.hint, 'units');
		if (p.kind === 'unknown-parent') fail('unknown-unit', p.message, p.hint, 'units');
		if (p.kind === 'parent-not-higher') fail('parent-not-higher', p.message, p.hint, 'units');
	}
}

/** The units of a scheme by what loggers may write: id, name, either without case and punctuation. At several ranks of one name, the lowest. */
export function unitsByName(scheme: Scheme): (name: string) => SchemeUnit | null {
	const known = new Map<string, SchemeUnit>();
	for (const u of [...scheme.units].sort((a, b) => b.rank - a.rank))
		for (const key of [u.name, u.id, plainCode(u.name), plainCode(u.id)]) if (key && !known.has(key)) known.set(key, u);
	return (name) => known.get(name) ?? known.get(plainCode(name)) ?? null;
}

/** The unit at a rank that a unit is, or is a part of; null when it stands above that rank, or belongs to nothing there. */
export function atRank(scheme: Scheme, unit: SchemeUnit, rank: number): SchemeUnit | null {
	const byId = new Map(scheme.units.map((u) => [u.id, u]));
	let at: SchemeUnit | undefined = unit;
	for (let steps = 0; at && at.rank > rank && steps <= scheme.ranks.length; steps++) at = byId.get(at.parent);
	return at && at.rank === rank ? at : null;
}

/** All units of a scheme from the youngest to the oldest: parts after what they are parts of, by age where it is known, else as listed. */
export function chronology(scheme: Scheme): SchemeUnit[] {
	const place = new Map(scheme.units.map((u, i) => [u.id, i]));
	const children = new Map<string, SchemeUnit[]>();
	for (const u of scheme.units) {
		const parent = u.parent && place.has(u.parent) && !loops(new Map(scheme.units.map((x) => [x.id, x])), u) ? u.parent : '';
		children.set(parent, [...(children.get(parent) ?? []), u]);
	}
	const order = (a: SchemeUnit, b: SchemeUnit) =>
		a.top !== null && b.top !== null && a.top !== b.top ? a.top - b.top : place.get(a.id)! - place.get(b.id)!;
	const walk = (id: string): SchemeUnit[] => (children.get(id) ?? []).sort(order).flatMap((u) => [u, ...walk(u.id)]);
	return walk('');
}

const HEADS = {
	unit: /^(unit|name|formation name|strat(igraphic)? unit)$/i,
	parent: /^(parent|part of|belongs to)/i,
	rank: /^rank$/i,
	top: /(age.*(top|from|young)|top.*age|^top)/i,
	base: /(age.*(base|bottom|to$|to_|old)|base.*age|^base|^bottom)/i,
	error: /(error|uncertainty|sigma|±)/i,
	color: /^colou?r/i,
	lithology: /^(lithology|rock)/i
};
type Head = keyof typeof HEADS;

const MOST_ROWS = 2000;

/**
 * Reads a scheme from the cells of a table: one row a unit with its parent, or one column a rank with the highest first.
 * @returns the scheme, and what was let go: rows without a name, cells that are no numbers, a parent that would close a loop
 * @throws ProblemError `no-scheme`, `too-many-rows`
 */
export function readScheme(
	id: string,
	name: string,
	header: readonly string[],
	rows: readonly (readonly string[])[],
	decimal: '.' | ',' = '.'
): { scheme: Scheme; remarks: string[] } {
	if (rows.length > MOST_ROWS)
		fail('too-many-rows', `a scheme of ${rows.length} rows is not read`, `It has one row a unit, and at most ${MOST_ROWS}.`);
	const find = (h: Head) => header.findIndex((x) => HEADS[h].test(x.trim()));
	const [unit, parent] = [find('unit'), find('parent')];
	const remarks: string[] = [];
	const number = (text: string | undefined, where: string): number | null => {
		const t = (text ?? '').trim();
		if (!t) return null;
		const v = Number(decimal === ',' ? t.replace(',', '.') : t);
		if (Number.isFinite(v) && v >= 0 && v <= 20_000) return v;
		remarks.push(`${where}: "${t.slice(0, 40)}" is no age and was let go`);
		return null;
	};
	const scheme: Scheme = { id, name, ranks: [], units: [] };
	const at = (row: readonly string[], h: Head) => {
		const i = find(h);
		return i < 0 ? undefined : row[i]?.trim();
	};
	const used = new Set<string>();
	const newId = (n: string) => {
		const plain = plainCode(n).slice(0, 30) || 'unit';
		let own = plain;
		for (let k = 2; used.has(own); k++) own = `${plain}-${k}`;
		used.add(own);
		return own;
	};
	const details = (row: readonly string[], where: string) => {
		const color = at(row, 'color') ?? '';
		return {
			top: number(at(row, 'top'), where),
			base: number(at(row, 'base'), where),
			error: number(at(row, 'error'), where),
			color: /^#[0-9a-f]{6}$/i.test(color) ? color : '',
			lithology: (at(row, 'lithology') ?? '').slice(0, 200)
		};
	};
	if (unit >= 0 && parent >= 0) byParents();
	else byRanks();
	if (scheme.units.length === 0)
		fail(
			'no-scheme',
			'no row of this names a unit',
			'A scheme has one row a unit (Unit, Parent), or one column a rank (Group, Formation …).'
		);
	const byId = new Map(scheme.units.map((u) => [u.id, u]));
	for (const u of scheme.units)
		if (u.parent && loops(byId, u)) {
			remarks.push(`${u.name} would be a part of itself by way of ${byId.get(u.parent)!.name}: it has no parent now`);
			u.parent = '';
		}
	return { scheme, remarks };

	function byParents() {
		const seen = new Map<string, SchemeUnit[]>();
		const parents: { unit: SchemeUnit; parent: string; rank: string }[] = [];
		rows.forEach((row, i) => {
			const own = at(row, 'unit');
			if (!own) {
				if (row.some((c) => c.trim())) remarks.push(`row ${i + 1} names no unit and was left out`);
				return;
			}
			const rank = at(row, 'rank') ?? '';
			if (rank && !scheme.ranks.some((r) => r.toLowerCase() === rank.toLowerCase())) scheme.ranks.push(rank);
			const others = seen.get(own) ?? [];
			const same = others.find((u) => parents.find((p) => p.unit === u)!.rank.toLowerCase() === rank.toLowerCase());
			const its = at(row, 'parent') ?? '';
			if (same) {
				const first = parents.find((p) => p.unit === same)!;
				if (its && its !== first.parent) same.otherParents = [...(same.otherParents ?? []), its];
				else remarks.push(`row ${i + 1} names ${own} again and was left out`);
				return;
			}
			const made: SchemeUnit = { id: newId(own), name: own.slice(0, 200), rank: 0, parent: '', ...details(row, `row ${i + 1}`) };
			scheme.units.push(made);
			seen.set(own, [...others, made]);
			parents.push({ unit: made, parent: its, rank });
		});
		for (const p of parents) {
			if (!p.parent) continue;
			const candidates = seen.get(p.parent)?.filter((u) => u !== p.unit) ?? [];
			if (candidates.length) p.unit.parent = candidates[0]!.id;
			else remarks.push(`${p.unit.name} is a part of ${p.parent}, which no row names`);
		}
		const byId = new Map(scheme.units.map((u) => [u.id, u]));
		if (scheme.ranks.length === 0) {
			// Without ranks, how deep a unit stands below the uppermost says it.
			const depth = (u: SchemeUnit, n = 0): number => (u.parent && n < 20 ? 1 + depth(byId.get(u.parent)!, n + 1) : 0);
			const looped = scheme.units.filter((u) => u.parent && loops(byId, u));
			for (const u of looped) {
				remarks.push(`${u.name} would be a part of itself by way of ${byId.get(u.parent)!.name}: it has no parent now`);
				u.parent = '';
			}
			for (const u of scheme.units) u.rank = depth(u);
			scheme.ranks = Array.from({ length: 1 + Math.max(0, ...scheme.units.map((u) => u.rank)) }, (_, i) => `rank ${i + 1}`);
			return;
		}
		orderRanks(parents);
		for (const p of parents) {
			const r = scheme.ranks.findIndex((x) => x.toLowerCase() === p.rank.toLowerCase());
			if (r < 0) remarks.push(`${p.unit.name} has no rank and stands at the lowest, ${scheme.ranks.at(-1)}`);
			p.unit.rank = r < 0 ? scheme.ranks.length - 1 : r;
		}
		for (const u of scheme.units) {
			const its = byId.get(u.parent);
			if (!its || its.rank < u.rank || loops(byId, u)) continue;
			remarks.push(`${its.name} is of no higher rank than ${u.name}, which has no parent now`);
			u.parent = '';
		}
	}

	/** Ranks with the highest first: one that parents stand at goes before that of their parts. */
	function orderRanks(parents: readonly { unit: SchemeUnit; rank: string }[]) {
		const rankOf = new Map(parents.map((p) => [p.unit.id, p.rank.toLowerCase()]));
		const above = (a: string, b: string) =>
			scheme.units.some((u) => rankOf.get(u.id) === b.toLowerCase() && rankOf.get(u.parent) === a.toLowerCase());
		for (let round = 0; round < scheme.ranks.length; round++)
			for (let i = 0; i + 1 < scheme.ranks.length; i++)
				if (above(scheme.ranks[i + 1]!, scheme.ranks[i]!) && !above(scheme.ranks[i]!, scheme.ranks[i + 1]!))
					[scheme.ranks[i], scheme.ranks[i + 1]] = [scheme.ranks[i + 1]!, scheme.ranks[i]!];
	}

	function byRanks() {
		const others = (['top', 'base', 'error', 'color', 'lithology'] as const).map(find);
		const columns = header.map((_, i) => i).filter((i) => !others.includes(i) && rows.some((r) => r[i]?.trim()));
		if (columns.length < 2)
			fail(
				'no-scheme',
				'this is no scheme: it has no columns Unit and Parent, nor two columns of ranks',
				'A scheme has one row a unit (Unit, Parent, and if known Rank and ages), or one column a rank, the highest first.'
			);
		scheme.ranks = columns.map((i) => header[i]!.trim() || `column ${i + 1}`);
		const known = new Map<string, SchemeUnit>();
		rows.forEach((row, n) => {
			let parent: SchemeUnit | null = null;
			let lowest: SchemeUnit | null = null;
			columns.forEach((i, rank) => {
				const own = row[i]?.trim();
				if (!own) return;
				const key = `${rank} ${own}`;
				let u = known.get(key);
				if (!u) {
					u = { id: newId(own), name: own.slice(0, 200), rank, parent: parent?.id ?? '', ...details([], '') };
					known.set(key, u);
					scheme.units.push(u);
				} else if (parent && u.parent !== parent.id) {
					if (!u.parent) u.parent = parent.id;
					else if (!u.otherParents?.includes(parent.name)) u.otherParents = [...(u.otherParents ?? []), parent.name];
				}
				parent = lowest = u;
			});
			if (lowest) Object.assign(lowest, onlyKnown(details(row, `row ${n + 1}`)));
		});
	}
}

const onlyKnown = <T extends object>(o: T): Partial<T> =>
	Object.fromEntries(Object.entries(o).filter(([, v]) => v !== null && v !== '')) as Partial<T>;

/** A row of a log with units at several ranks, or a boundary of it, against a scheme. */
interface RankConflict {
	row: number;
	column: string;
	message: string;
}

/**
 * Rows of a log with a column for each of several ranks that say something else than a scheme, or than each other.
 * @param columns header and rank of each column, the highest rank first
 */
export function rankConflicts(
	scheme: Scheme,
	columns: readonly { header: string; rank: number; cells: readonly string[] }[],
	rows: readonly number[]
): RankConflict[] {
	const byName = new Map(scheme.units.map((u) => [`${u.rank} ${plainCode(u.name)}`, u]));
	const unit = (c: (typeof columns)[number], row: number) => byName.get(`${c.rank} ${plainCode(c.cells[row] ?? '')}`) ?? null;
	const found: RankConflict[] = [];
	rows.forEach((row, k) => {
		for (let i = 0; i + 1 < columns.length; i++)
			for (let j = i + 1; j < columns.length; j++) {
				const [high, low] = [columns[i]!, columns[j]!];
				const [upper, lower] = [high.cells[row]?.trim(), unit(low, row)];
				if (!upper || !lower) continue;
				const should = atRank(scheme, lower, high.rank);
				if (should && plainCode(should.name) !== plainCode(upper)) {
					found.push({ row, column: high.header, message: `${lower.name} is a part of ${should.name}, but ${upper} is logged here` });
					continue;
				}
				const before = rows[k - 1];
				if (before === undefined || should) continue;
				const was = high.cells[before]?.trim();
				if (was && plainCode(was) !== plainCode(upper) && plainCode(low.cells[before] ?? '') === plainCode(lower.name))
					found.push({ row, column: high.header, message: `the boundary of ${was} and ${upper} lies inside ${lower.name}` });
			}
	});
	return found;
}
