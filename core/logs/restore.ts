/** A row of a version of a log as it is and as it was before, of one hole. */
export interface RestorableRow {
	n: number;
	from: number;
	to: number;
	/** What stood there before; of a part that was cut off, not a number. */
	fromBefore: number;
	toBefore: number;
	/** Left out in this version. */
	isOut: boolean;
	/** A part that was cut off in this version. */
	isCutOff: boolean;
}

const SAME = 1e-6;

type Zone = readonly [number, number];

/** The depths at which a row lies now and did not before, or the other way round. */
function zonesOf(r: RestorableRow): Zone[] {
	const now: Zone[] = r.isOut ? [] : [[r.from, r.to]];
	const before: Zone[] = r.isCutOff ? [] : [[r.fromBefore, r.toBefore]];
	if (now.length === 0 || before.length === 0) return [...now, ...before];
	const [a, b] = [now[0]!, before[0]!];
	return (
		[
			[Math.min(a[0], b[0]), Math.max(a[0], b[0])],
			[Math.min(a[1], b[1]), Math.max(a[1], b[1])]
		] as Zone[]
	).filter(([low, high]) => high - low > SAME);
}

const overlap = (a: Zone, b: Zone): boolean => Math.min(a[1], b[1]) - Math.max(a[0], b[0]) > SAME;

/**
 * The rows whose depths must be taken back together with those of some: a boundary belongs to two intervals, and what was dissolved lies
 * in what grew over it.
 * @param rows of one hole
 */
export function restoredTogether(rows: readonly RestorableRow[], wanted: ReadonlySet<number>): Set<number> {
	const zones = new Map(rows.map((r) => [r.n, zonesOf(r)]));
	const together = new Set(rows.filter((r) => wanted.has(r.n)).map((r) => r.n));
	for (const n of together)
		for (const r of rows)
			if (!together.has(r.n) && zones.get(r.n)!.some((z) => zones.get(n)!.some((own) => overlap(z, own)))) together.add(r.n);
	return together;
}
