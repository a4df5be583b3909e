/** Widths of letters of the condensed face as shares of the size; good enough to break lines. */
const WIDTHS: [RegExp, number][] = [
	[/[iljtfI.,;:'|!()[\] ]/, 0.27],
	[/[mwMW@%]/, 0.78],
	[/[A-Z0-9]/, 0.54],
	[/[\u2000-\uffff]/, 0.9]
];

export const textWidth = (text: string, size: number): number =>
	Array.from(text).reduce((w, c) => w + (WIDTHS.find(([r]) => r.test(c))?.[1] ?? 0.48) * size, 0);

/** Breaks a text into lines that fit a width; a word that is too long is broken itself. */
export function wrapText(text: string, width: number, size: number): string[] {
	const lines: string[] = [];
	let line = '';
	for (const word of text.trim().split(/\s+/)) {
		let rest = word;
		for (;;) {
			const candidate = line ? `${line} ${rest}` : rest;
			if (textWidth(candidate, size) <= width) {
				line = candidate;
				break;
			}
			if (line) {
				lines.push(line);
				line = '';
				continue;
			}
			let n = Math.max(1, rest.length - 1);
			while (n > 1 && textWidth(rest.slice(0, n), size) > width) n--;
			lines.push(rest.slice(0, n));
			rest = rest.slice(n);
			if (!rest) break;
		}
	}
	if (line) lines.push(line);
	return lines.length ? lines : [''];
}

/** A text that wants to stand at a height. */
export interface Block {
	/** Wanted upper edge. */
	at: number;
	height: number;
}

/**
 * Upper edges of blocks, in their order, so that none overlaps another and all lie from `low` to `high`, each as near as can be to where
 * it wants to stand: pushed down where the one above needs room, and back up from the end. Blocks that do not fit in all start at `low`.
 */
export function stackBlocks(blocks: readonly Block[], low: number, high: number): number[] {
	const places: number[] = [];
	let edge = low;
	for (const b of blocks) {
		const at = Math.max(edge, b.at);
		places.push(at);
		edge = at + b.height;
	}
	let limit = high;
	for (let i = blocks.length - 1; i >= 0; i--) {
		places[i] = Math.max(low, Math.min(places[i]!, limit - blocks[i]!.height));
		limit = places[i]!;
	}
	return places;
}
