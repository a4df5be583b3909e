import { isGap, meeting, unitsBetween, type Order, type Run } from './meeting';

/** What a boundary costs that is upside down, and one at which units are missing, in rows: so many wrong rows are as likely. */
const TURNED = 2.5;
const MISSING = 0.7;
/** The same where folds or faults turn layers over: there is nothing odd about it. */
const TURNED_IN_FOLDS = 0.45;
/**
 * What a boundary of an intrusion costs that is usually met in many rows: a single one in it, or of it elsewhere, is a wrong code rather.
 */
const INTRUDED = 0.6;
/** What a boundary costs that is put down to a fault as far from where that was drawn as it may be off, in rows; nearer it goes with the square. */
const FAULT_AT_REACH = 1.2;
/** More of the boundaries between long runs than this share are upside down where layers are turned over. */
const FOLDED = 0.02;
/** Rows in the runs that rows usually lie in, from which a single one tells little beside the others. */
const MANY_ROWS = 4;
/** Ways that differ by less cost the same, in rows. */
const SAME_COST = 1e-9;
/** Runs on each side of one whose units it may have been, and units between those next to it. */
const REACH = 2;
const MOST_BETWEEN = 3;
/** More of the rows of a hole than this share are never wrong: it is the column that does not fit. */
const MOST_WRONG = 0.25;

/** A fault that may make a boundary. */
export interface FaultNear {
	fault: number;
	/** How far it was drawn from there, as a share of how far it may be off; 0 in its zone, where it may make several. */
	far: number;
}

/**
 * Rows in runs that hold at least a half of all rows: 1 where each unit is logged as one interval, many where the rock was described in
 * short ones. Single rows with wrong codes hardly change it.
 * @param unit of this one only
 */
function rowsOfUsualRun(all: readonly { runs: readonly Run[] }[], unit?: number): number {
	const rows = all
		.flatMap(({ runs }) => runs.filter((r) => (unit === undefined ? r.unit >= 0 : r.unit === unit)).map((r) => r.rows))
		.sort((a, b) => a - b);
	const half = rows.reduce((s, n) => s + n, 0) / 2;
	let sum = 0;
	for (const n of rows) if ((sum += n) >= half) return n;
	return 1;
}

/**
 * Finds rows with wrong codes among many right ones: of all ways to take some rows of a hole for another unit the one that changes fewest
 * rows and leaves fewest boundaries against the order of the column (least cost over the runs, forwards and backwards: Viterbi 1967). A wrong row costs
 * one; a boundary upside down or with units missing costs what makes it as likely. Where each unit is one row nothing is found: a row weighs
 * as much as its neighbours then. A hole passes a fault once: outside its zone, one boundary is put down to it.
 * @param faultsAt the faults that may make the boundary at the top of a run: what meets there says nothing of an order
 * @returns for a hole, its odd runs by index, each with the unit that goes on through it, −1 where that stays open
 */
export function findOddRows<H extends { runs: readonly Run[] }>(
	all: readonly H[],
	order: Order,
	faultsAt: (hole: H, i: number) => readonly FaultNear[]
): (hole: H) => Map<number, number> {
	const usual = rowsOfUsualRun(all);
	if (usual < 2) return () => new Map();
	const row = Math.max(1, MANY_ROWS / usual);
	const size = order.column.length;
	/** Whether two units on each other are upside down, and whether units are missing between them: 1 and 2. */
	const kinds = new Uint8Array(size * size);
	for (let a = 0; a < size; a++)
		for (let b = 0; b < size; b++) {
			if (a === b || !order.logged.has(a) || !order.logged.has(b)) continue;
			const m = meeting(a, b, order);
			const isMissing = 'rule' in m && m.rule === 'unit-missing';
			const isTurned = 'rule' in m ? !isMissing || a > b : m.turned;
			kinds[a * size + b] = (isTurned ? 1 : 0) + (isMissing ? 2 : 0);
		}
	const isLong = (r: Run) => r.unit >= 0 && 2 * r.rows > usual;
	const long = all.flatMap((hole) =>
		hole.runs.flatMap((r, i, { [i - 1]: upper }) => {
			if (!upper || !isLong(r) || !isLong(upper)) return [];
			const isTurned = kinds[upper.unit * size + r.unit]! & 1;
			return isTurned && faultsAt(hole, i).length ? [] : [isTurned];
		})
	);
	const turned = long.filter(Boolean).length > FOLDED * long.length ? TURNED_IN_FOLDS : TURNED;
	const intrusions = order.sequences.filter((o) => o.kind === 'intrusion').map((o) => o.base);
	const bulky = new Set(intrusions.filter((u) => rowsOfUsualRun(all, u) >= MANY_ROWS));
	// One that is met in few rows may be met anywhere: what lies above and below it are as good as side by side.
	const isThin = new Set(intrusions.filter((u) => !bulky.has(u)));
	/** @param gap between them: what is missing may lie there */
	const cost = (upper: number, lower: number, gap: boolean): number => {
		if (upper < 0 || lower < 0 || upper === lower) return 0;
		const kind = kinds[upper * size + lower]!;
		return (kind & 1 ? turned : 0) + (gap ? 0 : (kind & 2 ? MISSING : 0) + (bulky.has(upper) || bulky.has(lower) ? INTRUDED : 0));
	};
	return (hole) => {
		const kept = hole.runs.flatMap((r, i) => (isThin.has(r.unit) || isGap(r) ? [] : [i]));
		const runs = kept.map((i) => hole.runs[i]!);
		const out = new Map<number, number>();
		const gapBefore = kept.map((k, i) => i > 0 && hole.runs.slice(kept[i - 1], k).some(isGap));
		// A hole goes through a fault once: of a short run within another it may make one boundary, not both.
		const isOff = (i: number) => i > 0 && i < runs.length && cost(runs[i - 1]!.unit, runs[i]!.unit, gapBefore[i]!) > 0;
		const isWithin = (i: number) => !!runs[i] && !isLong(runs[i]) && runs[i - 1]?.unit === runs[i + 1]?.unit && isOff(i) && isOff(i + 1);
		const near = runs.map((_, i) => (i === 0 || isWithin(i - 1) || isWithin(i) ? [] : faultsAt(hole, kept[i]!)));
		// What only a fault can have made, in its zone, says that it passes there, not beside it.
		const known = new Set(near.flatMap((list, i) => (isOff(i) ? list.filter((f) => f.far === 0).map((f) => f.fault) : [])));
		const faultsOf = (i: number) => near[i]!.filter((f) => f.far === 0 || !known.has(f.fault));
		const costAt = (upper: number, lower: number, i: number): Beside => {
			const of = cost(upper, lower, gapBefore[i]!);
			if (of === 0) return { of, far: Infinity };
			return { of, far: Math.min(Infinity, ...faultsOf(i).map((f) => f.far)) };
		};
		if (!runs.some((r, i) => i > 0 && costAt(runs[i - 1]!.unit, r.unit, i).of > 0)) return out;
		const passed = new Set(near.flatMap((list) => list.map((f) => f.fault)).filter((f) => !known.has(f))).size;
		const lists = runs.map((r, i) => {
			if (r.unit < 0) return [{ unit: r.unit, cost: 0 }];
			return labelsOf(runs, i, order).map((unit) => ({ unit, cost: unit === r.unit ? 0 : r.rows * row }));
		});
		// What a run is in all ways of least cost; where there are several, nobody knows.
		const labels = leastCost(lists, passed, costAt).map((sums, i) => {
			const least = Math.min(...sums) + SAME_COST;
			const best = lists[i]!.filter((_, k) => sums[k]! <= least);
			return best.length === 1 ? best[0]!.unit : -1;
		});
		const isOdd = (i: number) => i >= 0 && i < runs.length && labels[i] !== runs[i]!.unit;
		const rows = (which: (i: number) => boolean) => runs.reduce((s, r, i) => s + (which(i) ? r.rows : 0), 0);
		if (rows(isOdd) > MOST_WRONG * rows(() => true)) return out;
		for (let i = 0; i < runs.length; i++) {
			if (!isOdd(i)) continue;
			const first = i;
			while (isOdd(i + 1)) i++;
			const [above, below] = [runs[first - 1]?.unit ?? -1, runs[i + 1]?.unit ?? -1];
			const same = labels.slice(first, i + 1).every((l) => l === above) && above === below;
			for (let k = first; k <= i; k++) out.set(kept[k]!, same ? above : -1);
		}
		return out;
	};
}

/** What a run may have been: itself, first; what is near it in the hole; what belongs between its neighbours. */
function labelsOf(runs: readonly Run[], i: number, { sequences, sequenceOf, logged }: Order): number[] {
	const out = new Set([runs[i]!.unit]);
	for (let by = 1; by <= REACH; by++) for (const r of [runs[i - by], runs[i + by]]) if (r && r.unit >= 0) out.add(r.unit);
	const [above, below] = [runs[i - 1]?.unit ?? -1, runs[i + 1]?.unit ?? -1];
	if (above >= 0 && above < below && sequenceOf.get(above) === sequenceOf.get(below)) {
		const between = unitsBetween(sequences[sequenceOf.get(above)!]!, above, below, logged);
		if (between.length <= MOST_BETWEEN) for (const u of between) out.add(u);
	}
	return [...out];
}

/** What two units cost beside each other, and how far a fault that may part them was drawn from there (see `FaultNear`). */
interface Beside {
	of: number;
	far: number;
}

/**
 * By list and label: the least that labels, one of each list, cost with what they cost beside each other, where this one is among them.
 * @param most boundaries that may be put down to faults outside their zones
 * @param beside what two units cost, the second of them in the list of a number
 */
function leastCost(
	lists: readonly { unit: number; cost: number }[][],
	most: number,
	beside: (a: number, b: number, i: number) => Beside
): number[][] {
	const { length } = lists;
	const endless = () => new Array<number>(most + 1).fill(Infinity);
	/** Least costs by list, label and how many boundaries were put down to faults above it: of all above with this one, and of all below. */
	const above = lists.map((list, i) => list.map((l) => (i > 0 ? endless() : endless().fill(l.cost, 0, 1))));
	const below = lists.map((list, i) => list.map(() => (i < length - 1 ? endless() : endless().fill(0))));
	/** All that two labels beside each other may cost. @param each gets what was put down to faults before and after */
	const ways = (i: number, k: number, m: number, each: (used: number, then: number, by: number) => void): void => {
		const { of, far } = beside(lists[i - 1]![k]!.unit, lists[i]![m]!.unit, i);
		const own = lists[i]![m]!.cost;
		for (let used = 0; used <= most; used++) {
			each(used, used, own + of);
			if (far === 0) each(used, used, own);
			else if (far <= 1 && used < most) each(used, used + 1, own + FAULT_AT_REACH * far * far);
		}
	};
	const pairs = (i: number, each: (k: number, m: number) => void) =>
		lists[i - 1]!.forEach((_, k) => lists[i]!.forEach((_, m) => each(k, m)));
	for (let i = 1; i < length; i++)
		pairs(i, (k, m) => {
			const [from, to] = [above[i - 1]![k]!, above[i]![m]!];
			ways(i, k, m, (used, then, by) => (to[then] = Math.min(to[then]!, from[used]! + by)));
		});
	for (let i = length - 1; i > 0; i--)
		pairs(i, (k, m) => {
			const [from, to] = [below[i]![m]!, below[i - 1]![k]!];
			ways(i, k, m, (used, then, by) => (to[used] = Math.min(to[used]!, by + from[then]!)));
		});
	return above.map((labels, i) => labels.map((sums, k) => Math.min(...sums.map((sum, used) => sum + below[i]![k]![used]!))));
}
