/** Names for sections that no section has yet: A, B … Z, AA, AB … */
export function freshLetters(taken: Iterable<string>, count: number): string[] {
	const known = new Set(taken);
	const letter = (i: number): string =>
		i < 26 ? String.fromCharCode(65 + i) : letter(Math.floor(i / 26) - 1) + String.fromCharCode(65 + (i % 26));
	const names: string[] = [];
	for (let i = 0; names.length < count; i++) if (!known.has(letter(i))) names.push(letter(i));
	return names;
}

/** What a section is called on drawings: one that is a letter or two by its ends, A–A′; another by its name. */
export const sectionTitle = (name: string): string => (name.length > 3 ? name : `${name}–${name}′`);
