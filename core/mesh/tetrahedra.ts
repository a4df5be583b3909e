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

/** How a function with given signs at its corners cuts a tetrahedron. */
export type Split =
	/** Not at all: it lies on one side. */
	| { kind: 'none'; positive: boolean }
	/**
	 * Off corner a, or along a wedge over the edge ab. The corners a, b, c, d stand in an even order; `positive` tells the side of a.
	 * Seen from the positive side the cut (through ab, ac, ad; or ac, ad, bd, bc) runs anticlockwise, clockwise when `turned`.
	 */
	| { kind: 'corner' | 'wedge'; corners: readonly [number, number, number, number]; positive: boolean; turned: boolean };

function splitOf(corners: readonly number[], positiveOnes: number, rightHanded: boolean): Split {
	const inside = corners.filter((b) => (positiveOnes >> b) & 1);
	const outside = corners.filter((b) => !((positiveOnes >> b) & 1));
	if (inside.length === 0 || outside.length === 0) return { kind: 'none', positive: outside.length === 0 };
	const positive = inside.length < 3;
	const order = positive ? [...inside, ...outside] : [...outside, ...inside];
	let swaps = 0;
	for (let i = 0; i < 4; i++) for (let j = 0; j < i; j++) if (order[j]! > order[i]!) swaps++;
	if (swaps % 2) [order[2], order[3]] = [order[3]!, order[2]!];
	return {
		kind: inside.length === 2 ? 'wedge' : 'corner',
		corners: order as [number, number, number, number],
		positive,
		turned: rightHanded === positive
	};
}

/** By tetrahedron of a cube and by set of positive corners of the cube; corners are corner bits. */
export const CUBE_SPLITS: readonly (readonly Split[])[] = TETRAHEDRA.map(({ corners, rightHanded }) =>
	Array.from({ length: 256 }, (_, positive) => splitOf(corners, positive, rightHanded))
);

/** By set of positive corners: left-handed tetrahedra, then right-handed ones. Corners are 0–3. */
export const SPLITS: readonly (readonly Split[])[] = [false, true].map((rightHanded) =>
	Array.from({ length: 16 }, (_, positive) => splitOf([0, 1, 2, 3], positive, rightHanded))
);

/**
 * Share of a tetrahedron on the side of corner a, from the values at corners a, b, c, d of a split.
 */
export function shareOfA(kind: 'corner' | 'wedge', va: number, vb: number, vc: number, vd: number): number {
	const ac = va / (va - vc);
	const ad = va / (va - vd);
	if (kind === 'corner') return (va / (va - vb)) * ac * ad;
	// A wedge over edge ab: three tetrahedra.
	const bc = vb / (vb - vc);
	const bd = vb / (vb - vd);
	return ac * ad + (1 - ad) * ac * bd + bd * bc * (1 - ac);
}
