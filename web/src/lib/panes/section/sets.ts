import type { SectionLine } from '$lib/api/types';

/** Sections that stand together, in their order; those that are in no set stand with the main line. */
interface SectionSet {
	/** Empty for the sections in no set. */
	name: string;
	/** Numbers among all sections: 0 is the main line, then the lines. */
	numbers: number[];
}

/** All sets of a project, the sections in none first. */
export function setsOf(lines: readonly Pick<SectionLine, 'set'>[]): SectionSet[] {
	const sets = new Map<string, number[]>([['', [0]]]);
	lines.forEach((l, i) => sets.set(l.set ?? '', [...(sets.get(l.set ?? '') ?? []), i + 1]));
	return [...sets].map(([name, numbers]) => ({ name, numbers }));
}

/** The section that a step leads to: through a set in its order, then on to the next set; null at the ends. */
export function stepFrom(lines: readonly Pick<SectionLine, 'set'>[], number: number, by: 1 | -1): number | null {
	const all = setsOf(lines).flatMap((s) => s.numbers);
	const at = all.indexOf(number);
	return at < 0 ? null : (all[at + by] ?? null);
}

/** A name that no set has yet: `Fence 1`, `Fence 2` … */
export function freshSet(lines: readonly Pick<SectionLine, 'set'>[], word: string): string {
	const taken = new Set(lines.map((l) => l.set));
	let n = 1;
	while (taken.has(`${word} ${n}`)) n++;
	return `${word} ${n}`;
}

/** Names for sections that no section has yet: B, C … Z, AA, AB … */
export function freshLetters(lines: readonly Pick<SectionLine, 'name'>[], count: number): string[] {
	const taken = new Set(['A', ...lines.map((l) => l.name)]);
	const letter = (i: number): string =>
		i < 26 ? String.fromCharCode(65 + i) : letter(Math.floor(i / 26) - 1) + String.fromCharCode(65 + (i % 26));
	const names: string[] = [];
	for (let i = 1; names.length < count; i++) if (!taken.has(letter(i))) names.push(letter(i));
	return names;
}
