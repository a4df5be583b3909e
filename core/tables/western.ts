/** What Windows-1252 has at 0x80 to 0x9F; a blank where it has nothing. */
const UPPER = '€ ‚ƒ„…†‡ˆ‰Š‹Œ Ž  ‘’“”•–—˜™š›œ žŸ';

/**
 * Puts letters right that a decoder of Windows-1252 left as control characters: Node 20 decodes that page as if it were Latin-1, so
 * that dashes, quotation marks and the euro sign would be lost.
 */
export const mendWestern = (text: string): string =>
	text.replace(/[\x80-\x9f]/g, (c) => (UPPER[c.charCodeAt(0) - 0x80] ?? ' ').replace(' ', c));

/** Text of bytes in Windows-1252, the same on every platform. */
export const westernText = (bytes: Uint8Array): string => mendWestern(new TextDecoder('windows-1252').decode(bytes));
