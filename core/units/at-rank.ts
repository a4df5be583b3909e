import { atRank, unitsByName, type Scheme } from './scheme';

/** A rank of a scheme that a project can be looked at: how it is kept, and how it is called. */
export interface RankOf {
	/** Id of the scheme and number of the rank. */
	key: string;
	name: string;
	scheme: Scheme;
	rank: number;
}

/** All ranks of all schemes; a name says its scheme where there are several. */
export const ranksOf = (schemes: readonly Scheme[]): RankOf[] =>
	schemes.flatMap((scheme) =>
		scheme.ranks.map((name, rank) => ({
			key: `${scheme.id} ${rank}`,
			name: schemes.length > 1 ? `${name}, ${scheme.name}` : name,
			scheme,
			rank
		}))
	);

/** A unit of a scheme with what it is made of. */
export interface UnitAtRank {
	/** Id of the scheme and its unit; of what the scheme does not know, or puts below nothing at that rank, its own. */
	id: string;
	name: string;
	color: string;
	/** Numbers of what it is made of. */
	of: number[];
}

/** Units of a column, and after them those of its divisions, with the name of the unit that each is a part of. */
export const withParts = <U extends { id: string; name: string }>(
	column: readonly U[],
	divisions: readonly { unit: string; column: readonly U[] }[]
): (U & { within?: string })[] => [
	...column,
	...divisions.flatMap((d) => {
		const within = column.find((u) => u.id === d.unit)?.name;
		return d.column.map((u) => (within === undefined ? u : { ...u, within }));
	})
];

/**
 * Units put together at a rank of a scheme, in the order of the first of each. What the scheme does not know, or what belongs to nothing at
 * that rank, stays by itself.
 * @param units known by their names, parts of a divided unit that the scheme does not know by that of the unit; null is one without a name
 */
export function unitsAtRank(
	{ scheme, rank }: Pick<RankOf, 'scheme' | 'rank'>,
	units: readonly ({ id?: string; name: string; color?: string; within?: string } | null | undefined)[]
): UnitAtRank[] {
	const byName = unitsByName(scheme);
	const groups = new Map<string, UnitAtRank>();
	units.forEach((u, i) => {
		if (!u) return;
		const known = byName(u.name) ?? (u.within === undefined ? null : byName(u.within));
		const own = known && atRank(scheme, known, rank);
		const id = own ? `${scheme.id}/${own.id}` : (u.id ?? u.name);
		const group = groups.get(id);
		if (group) group.of.push(i);
		else groups.set(id, { id, name: own?.name ?? u.name, color: own?.color || u.color || '', of: [i] });
	});
	return [...groups.values()];
}

/** Names of units of a log at a rank: what a code is a part of, or that it is not divided so far; codes that the scheme does not know stay. */
export function recodeToRank(
	scheme: Scheme,
	codes: readonly string[],
	rank: number
): { recode: Record<string, string>; unknown: string[] } {
	const byName = unitsByName(scheme);
	const recode: Record<string, string> = {};
	const unknown: string[] = [];
	for (const code of codes) {
		const unit = byName(code);
		if (!unit) {
			unknown.push(code);
			continue;
		}
		const own = atRank(scheme, unit, rank);
		const name = own ? own.name : unit.rank < rank ? `${unit.name}, not divided` : unit.name;
		if (name !== code) recode[code] = name;
	}
	return { recode, unknown };
}
