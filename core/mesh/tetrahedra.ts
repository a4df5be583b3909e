/** The six tetrahedra of a cube (Kuhn 1960), each as corner bits (1 east, 2 north, 4 up) in ascending order, and whether it is right-handed. */
export const TETRAHEDRA: readonly { corners: readonly [number, number, number, number]; rightHanded: boolean }[] = [
	{ corners: [0, 1, 3, 7], rightHanded: true },
	{ corners: [0, 2, 6, 7], rightHanded: true },
	{ corners: [0, 4, 5, 7], rightHanded: true },
	{ corners: [0, 1, 5, 7], rightHanded: false },
	{ corners: [0, 2, 3, 7], rightHanded: false },
	{ corners: [0, 4, 6, 7], rightHanded: false }
];

/**
 * By the sides of the box that a cube touches (bits: west, east, south, north, bottom, top) and by tetrahedron: for each corner the
 * side that the face opposite to it lies on, or −1; null when no face lies on a side.
 */
export const SIDES: readonly (readonly (readonly number[] | null)[])[] = Array.from({ length: 64 }, (_, touched) =>
	TETRAHEDRA.map(({ corners }) => {
		const sides = corners.map((_, c) => {
			const others = corners.filter((_, x) => x !== c);
			for (let side = 0; side < 6; side++) {
				const axis = 1 << (side >> 1);
				if ((touched >> side) & 1 && others.every((b) => ((b & axis) !== 0) === (side % 2 === 1))) return side;
			}
			return -1;
		});
		return sides.some((s) => s >= 0) ? sides : null;
	})
);

/**
 * For each set of positive corners, the corners in an even order with the lone corner first, or one pair before the other.
 */
export const SPLITS: readonly (readonly [number, number, number, number])[] = Array.from({ length: 16 }, (_, positive) => {
	const inside = [0, 1, 2, 3].filter((c) => (positive >> c) & 1);
	const outside = [0, 1, 2, 3].filter((c) => !((positive >> c) & 1));
	const order = inside.length === 3 ? [...outside, ...inside] : [...inside, ...outside];
	let swaps = 0;
	for (let i = 0; i < 4; i++) for (let j = 0; j < i; j++) if (order[j]! > order[i]!) swaps++;
	if (swaps % 2) [order[2], order[3]] = [order[3]!, order[2]!];
	return order as [number, number, number, number];
});
