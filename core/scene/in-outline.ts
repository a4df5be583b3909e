/** A place on a picture, pixels. */
export type Pixel = readonly [number, number];

/** Whether a place lies within an outline, by how often a line from it to the right crosses the rim. */
export function isInOutline([x, y]: Pixel, outline: readonly Pixel[]): boolean {
	let inside = false;
	for (let i = 0, k = outline.length - 1; i < outline.length; k = i++) {
		const [ax, ay] = outline[i]!;
		const [bx, by] = outline[k]!;
		if (ay > y !== by > y && x < ax + ((bx - ax) * (y - ay)) / (by - ay)) inside = !inside;
	}
	return inside;
}

/**
 * Which of many places are seen within an outline.
 * @param count of places
 * @param seenAt where a place is seen; null where it is not
 */
export function withinOutline(outline: readonly Pixel[], count: number, seenAt: (i: number) => Pixel | null): number[] {
	if (outline.length < 3) return [];
	const out: number[] = [];
	for (let i = 0; i < count; i++) {
		const at = seenAt(i);
		if (at && isInOutline(at, outline)) out.push(i);
	}
	return out;
}
