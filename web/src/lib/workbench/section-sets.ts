/** What is asked of a section here. */
interface InSet {
	id: string;
	set?: string | undefined;
}

/** Sections that stand together, in their order. */
interface SectionSet<S> {
	/** Empty for the sections in no set. */
	name: string;
	sections: S[];
}

/** All sets of a project, the sections in none first. */
export function setsOf<S extends InSet>(sections: readonly S[]): SectionSet<S>[] {
	const sets = new Map<string, S[]>([['', []]]);
	for (const s of sections) sets.set(s.set ?? '', [...(sets.get(s.set ?? '') ?? []), s]);
	return [...sets].filter(([, list]) => list.length).map(([name, list]) => ({ name, sections: list }));
}

/** The section that a step leads to: through a set in its order, then on to the next set; null at the ends. */
export function stepFrom(sections: readonly InSet[], id: string | undefined, by: 1 | -1): string | null {
	const all = setsOf(sections).flatMap((s) => s.sections);
	const at = all.findIndex((s) => s.id === id);
	return at < 0 ? null : (all[at + by]?.id ?? null);
}

/** A name that no set has yet: `Fence 1`, `Fence 2` … */
export function freshSet(sections: readonly Pick<InSet, 'set'>[], word: string): string {
	const taken = new Set(sections.map((s) => s.set));
	let n = 1;
	while (taken.has(`${word} ${n}`)) n++;
	return `${word} ${n}`;
}

/**
 * The section that is kept by its id; the first where it is not there any more. Earlier versions kept its number among all of them.
 * @returns undefined when there is none at all
 */
export function keptSection<S extends InSet>(sections: readonly S[], kept: string | number | null): S | undefined {
	if (typeof kept === 'number') return sections[Math.min(kept, sections.length - 1)];
	return sections.find((s) => s.id === kept) ?? sections[0];
}
