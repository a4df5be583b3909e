/** Whether a text has all words that are looked for, without regard to case and accents. */
export function hasWords(text: string, words: string): boolean {
	const folded = fold(text);
	return fold(words)
		.split(/\s+/)
		.every((w) => folded.includes(w));
}

const fold = (text: string) => text.normalize('NFD').replace(/\p{M}/gu, '').toLowerCase().trim();
