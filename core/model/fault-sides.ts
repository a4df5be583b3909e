/** A fault that may pass through a place: its number, and how far from there it was drawn, length units. */
export interface NearFault {
	fault: number;
	off: number;
}

/** A place and the side of a fault that it must lie on (see `FaultSide`). */
export interface Side {
	/** Number of the fault. */
	fault: number;
	x: number;
	y: number;
	z: number;
	sense: 1 | 0 | -1;
	hole: string;
}

/** A contact, or what was seen between contacts. */
export interface Evidence {
	x: number;
	y: number;
	z: number;
	/** Bit k is set in the hanging wall of fault k. */
	block: number;
	group: number;
	hole: string;
	/** It does not fit what the others say, where it was taken to lie. */
	isOut: boolean;
	/** Whether it does not fit when it is off by so much. */
	isOdd: (by: number) => boolean;
}

/** A fault was drawn at least this share of its distance nearer to what says that it does not pass there. */
const NEARER = 0.5;

/** What a piece of evidence says of one fault that it lies near. */
interface Witness extends NearFault {
	of: Evidence;
	hanging: boolean;
	/** It fits on the other side. */
	fitsBeyond: boolean;
}

/**
 * The sides of faults, known only roughly, that evidence lies on: what does not fit on its side of a fault and does on the other one lies there.
 * Not where something between it and the fault says that the fault does not pass there: in the same hole one piece of evidence, around it more
 * other holes than there are that say the same; for a fault moves as a whole, and a wrong row near one fits the other side often enough.
 * @param near the faults that may pass through a place
 * @param off how far evidence is off what the others say
 * @param around holes that are nearer to each other than this are asked, length units
 * @returns also what says nothing: it fits on neither side, or on both
 */
export function sidesOf(
	evidence: readonly Evidence[],
	near: (p: { x: number; y: number; z: number }) => NearFault[],
	off: (e: Evidence) => number,
	around: number
): Side[] {
	const witnesses = evidence.flatMap((of) =>
		near(of).map((n): Witness => {
			const beyond = off({ ...of, block: of.block ^ (1 << n.fault) });
			return { ...n, of, hanging: ((of.block >>> n.fault) & 1) === 1, fitsBeyond: !of.isOdd(beyond) };
		})
	);
	const claims = witnesses.filter((w) => w.of.isOut && w.fitsBeyond);
	const holders = witnesses.filter((w) => !w.of.isOut && !w.fitsBeyond);
	const beside = (a: Witness, b: Witness) => a.fault === b.fault && a.hanging === b.hanging;
	/** Other holes around a claim that some of a list are of. */
	const holesAround = (claim: Witness, list: readonly Witness[], agrees: (w: Witness) => boolean): number => {
		const { x, y, z, hole } = claim.of;
		const isNear = ({ of }: Witness) => of.hole !== hole && Math.hypot(of.x - x, of.y - y, of.z - z) <= around;
		return new Set(list.filter((w) => beside(w, claim) && isNear(w) && agrees(w)).map((w) => w.of.hole)).size;
	};
	const holds = (claim: Witness): boolean => {
		if (holders.some((h) => beside(h, claim) && h.of.hole === claim.of.hole && h.off < claim.off)) return false;
		const against = holesAround(claim, holders, (h) => h.off < NEARER * claim.off);
		return against <= holesAround(claim, claims, (c) => c.off >= NEARER * claim.off);
	};
	const held = new Map<Evidence, Witness>();
	for (const claim of claims) if (!held.has(claim.of) && holds(claim)) held.set(claim.of, claim);
	// Of several that are of one place the first kind of these counts: on the other side; at odds; on its own side for sure; anywhere.
	const kindOf = (w: Witness) => (held.get(w.of) === w ? 0 : w.of.isOut ? 1 : w.fitsBeyond ? 3 : 2);
	const byPlace = new Map<string, { kind: number; of: Witness }>();
	for (const w of witnesses) {
		const key = JSON.stringify([w.fault, w.of.x, w.of.y, w.of.z, w.of.hole]);
		const kind = kindOf(w);
		if (kind < (byPlace.get(key)?.kind ?? Infinity)) byPlace.set(key, { kind, of: w });
	}
	return [...byPlace.values()].flatMap(({ kind, of: { fault, hanging, of } }): Side[] => {
		const { x, y, z, hole } = of;
		return kind === 2 ? [] : [{ fault, x, y, z, hole, sense: kind === 0 ? (hanging ? -1 : 1) : 0 }];
	});
}
