/** So many times the width of the middle four fifths a place may lie from the middle before it is taken for a slip of the pen. */
const FAR = 6;
/** Of fewer places none is called far. */
const LEAST = 8;

/**
 * Places that lie so far from all others that they would make a picture of them unreadable: a digit lost in a coordinate.
 * @param places `[x, y]` each
 * @returns by place, whether it is one of these
 */
export function outlying(places: readonly (readonly [number, number])[]): boolean[] {
	if (places.length < LEAST) return places.map(() => false);
	const along = [0, 1].map((k) => {
		const sorted = places.map((p) => p[k]!).sort((a, b) => a - b);
		const at = (share: number) => sorted[Math.round(share * (sorted.length - 1))]!;
		return { middle: at(0.5), width: at(0.9) - at(0.1) };
	});
	const reach = FAR * Math.max(along[0]!.width, along[1]!.width);
	return places.map((p) => reach > 0 && along.some((a, k) => Math.abs(p[k]! - a.middle) > reach));
}
