import { boundariesOf, type LoggedBoundary, type LoggedRun } from './runs';
import { correlation, timeWarp, warped } from './time-warp';

/** A line that says two places in two holes are the same boundary. */
export interface Tie {
	id: string;
	name: string;
	kind: 'certain' | 'doubtful';
	a: TieEnd;
	b: TieEnd;
}
export interface TieEnd {
	hole: string;
	/** Measured depth. */
	depth: number;
}

/** A tie that is thought of, with what speaks for it. */
export interface ProposedTie {
	name: string;
	a: TieEnd;
	b: TieEnd;
	why: 'same boundary' | 'same top' | 'same base' | 'likeness of curves';
	/** 0 to 1: 1 for the same units on both sides; of curves their correlation. */
	score: number;
}

/** The ends of a tie in the order of two holes; null when it is not between them. */
export function tieBetween(tie: Pick<Tie, 'a' | 'b'>, left: string, right: string): [number, number] | null {
	if (tie.a.hole === left && tie.b.hole === right) return [tie.a.depth, tie.b.depth];
	return tie.a.hole === right && tie.b.hole === left ? [tie.b.depth, tie.a.depth] : null;
}

/** Pairs of ties between the same two holes that cross each other. */
export function crossings(ties: readonly Tie[]): [Tie, Tie][] {
	const byPair = new Map<string, { tie: Tie; ends: [number, number] }[]>();
	for (const tie of ties) {
		const [left, right] = [tie.a.hole, tie.b.hole].sort() as [string, string];
		const own = byPair.get(`${left}\n${right}`) ?? [];
		own.push({ tie, ends: tieBetween(tie, left, right)! });
		byPair.set(`${left}\n${right}`, own);
	}
	const found: [Tie, Tie][] = [];
	for (const own of byPair.values())
		own.forEach((x, i) => {
			for (const y of own.slice(i + 1)) if ((x.ends[0] - y.ends[0]) * (x.ends[1] - y.ends[1]) < 0) found.push([x.tie, y.tie]);
		});
	return found;
}

/** Ties between two holes that are kept to where they cross no other: certain ones first, then as listed. */
export function untangled(ties: readonly Tie[], left: string, right: string): [number, number][] {
	const kept: [number, number][] = [];
	for (const kind of ['certain', 'doubtful'])
		for (const t of ties) {
			const ends = t.kind === kind ? tieBetween(t, left, right) : null;
			if (ends && kept.every((k) => (k[0] - ends[0]) * (k[1] - ends[1]) > 0)) kept.push(ends);
		}
	return kept.sort((x, y) => x[0] - y[0]);
}

const nameOf = (b: LoggedBoundary): string =>
	b.above && b.below ? `${b.above} on ${b.below}` : b.below ? `top of ${b.below}` : `base of ${b.above}`;

/**
 * Ties between two holes from what is logged: boundaries of the same units, and tops and bases of the same unit, put together so that none
 * crosses another and most is explained (longest common subsequence by weight; one boundary may take several where units are missing).
 * @param known ends of ties that are there, which none may cross
 */
export function proposeTies(
	left: { hole: string; runs: readonly LoggedRun[] },
	right: { hole: string; runs: readonly LoggedRun[] },
	known: readonly (readonly [number, number])[] = []
): ProposedTie[] {
	const inner = (runs: readonly LoggedRun[]) => boundariesOf(runs).filter((b) => b.above && b.below);
	const [x, y] = [inner(left.runs), inner(right.runs)];
	const weight = (a: LoggedBoundary, b: LoggedBoundary) => {
		if (known.some((k) => (k[0] - a.depth) * (k[1] - b.depth) < 0 || (k[0] === a.depth && k[1] === b.depth))) return 0;
		return a.above === b.above && a.below === b.below ? 1 : a.below === b.below || a.above === b.above ? 0.45 : 0;
	};
	// best[i][j]: of the first i and j; a pair may share a boundary with the pair before it.
	const [n, m] = [x.length, y.length];
	const best = Array.from({ length: n + 1 }, () => new Float64Array(m + 1));
	for (let i = 1; i <= n; i++)
		for (let j = 1; j <= m; j++) {
			const w = weight(x[i - 1]!, y[j - 1]!);
			best[i]![j] = Math.max(
				best[i - 1]![j]!,
				best[i]![j - 1]!,
				w > 0 ? w + (w === 1 ? best[i - 1]![j - 1]! : Math.max(best[i - 1]![j]!, best[i]![j - 1]!)) : 0
			);
		}
	const found: ProposedTie[] = [];
	for (let [i, j] = [n, m]; i > 0 && j > 0;) {
		const w = weight(x[i - 1]!, y[j - 1]!);
		const rest = w === 1 ? best[i - 1]![j - 1]! : Math.max(best[i - 1]![j]!, best[i]![j - 1]!);
		if (w > 0 && Math.abs(best[i]![j]! - w - rest) < 1e-12) {
			const [a, b] = [x[i - 1]!, y[j - 1]!];
			const both = a.above === b.above && a.below === b.below;
			found.push({
				name: both ? nameOf(a) : a.below === b.below ? `top of ${a.below}` : `base of ${a.above}`,
				a: { hole: left.hole, depth: a.depth },
				b: { hole: right.hole, depth: b.depth },
				why: both ? 'same boundary' : a.below === b.below ? 'same top' : 'same base',
				score: w === 1 ? 1 : 0.5
			});
			if (w === 1) [i, j] = [i - 1, j - 1];
			else if (best[i - 1]![j]! >= best[i]![j - 1]!) i--;
			else j--;
		} else if (best[i]![j] === best[i - 1]![j]) i--;
		else j--;
	}
	// A boundary that has its like is not another one's top or base, too: an intrusion has many.
	const whole = found.filter((t) => t.score === 1);
	return found.filter((t) => t.score === 1 || !whole.some((w) => w.a.depth === t.a.depth || w.b.depth === t.b.depth)).reverse();
}

/** A curve along a hole: values at depths, from the top down. */
export interface HoleCurve {
	hole: string;
	depths: ArrayLike<number>;
	values: ArrayLike<number>;
}

const STEPS = 400;

/** Values at even depths between the first and the last. */
function evenly(c: HoleCurve): { at: (i: number) => number; index: (depth: number) => number; values: Float64Array } {
	const known = Array.from({ length: c.depths.length }, (_, i) => i).filter((i) => Number.isFinite(c.values[i]!));
	const n = Math.min(STEPS, known.length);
	const [top, bottom] = [c.depths[known[0]!]!, c.depths[known[known.length - 1]!]!];
	const step = n > 1 ? (bottom - top) / (n - 1) : 0;
	const values = new Float64Array(n);
	// The mean of what lies about each step.
	const sums = new Float64Array(n);
	for (const i of known) {
		const k = step > 0 ? Math.min(n - 1, Math.max(0, Math.round((c.depths[i]! - top) / step))) : 0;
		values[k] = values[k]! + c.values[i]!;
		sums[k] = sums[k]! + 1;
	}
	let last = NaN;
	for (let k = 0; k < n; k++) {
		if (sums[k]! > 0) last = values[k] = values[k]! / sums[k]!;
		else values[k] = last;
	}
	return { at: (i) => top + i * step, index: (d) => (step > 0 ? (d - top) / step : 0), values };
}

/**
 * Ties by the likeness of two curves: where each boundary of the left hole comes to lie on the right, on its nearest boundary there if one is
 * near, with the correlation of the curves about it as the score. Ties that are there, and boundaries of the same units, hold the curves together.
 * @param reach how far from where the curves say a boundary may lie, length units
 */
export function proposeByLikeness(
	left: { runs: readonly LoggedRun[]; curve: HoleCurve },
	right: { runs: readonly LoggedRun[]; curve: HoleCurve },
	known: readonly (readonly [number, number])[] = [],
	reach = Infinity
): { ties: ProposedTie[]; score: number } {
	const [a, b] = [evenly(left.curve), evenly(right.curve)];
	if (a.values.length < 4 || b.values.length < 4) return { ties: [], score: 0 };
	const anchors = known.map(([x, y]): [number, number] => [Math.round(a.index(x)), Math.round(b.index(y))]);
	const { path, score } = timeWarp(a.values, b.values, { anchors });
	const there = boundariesOf(right.runs).filter((x) => x.above && x.below);
	const ties: ProposedTie[] = [];
	for (const x of boundariesOf(left.runs)) {
		if (!x.above || !x.below || known.some((k) => Math.abs(k[0] - x.depth) < 1e-6)) continue;
		const i = a.index(x.depth);
		if (i < 0 || i > a.values.length - 1) continue;
		const depth = b.at(warped(path, i));
		const near = there
			.filter((y) => Math.abs(y.depth - depth) <= reach)
			.sort((p, q) => Math.abs(p.depth - depth) - Math.abs(q.depth - depth))[0];
		const end = near ? near.depth : depth;
		if (known.some((k) => (k[0] - x.depth) * (k[1] - end) < 0)) continue;
		if (ties.some((t) => (t.a.depth - x.depth) * (t.b.depth - end) <= 0)) continue;
		ties.push({
			name: nameOf(x),
			a: { hole: left.curve.hole, depth: x.depth },
			b: { hole: right.curve.hole, depth: end },
			why: 'likeness of curves',
			score: Math.max(0, Number(likeness(a.values, b.values, path, Math.round(i)).toFixed(3)))
		});
	}
	return { ties, score };
}

/** Correlation along the path near an index of the first curve. */
function likeness(a: Float64Array, b: Float64Array, path: readonly (readonly [number, number])[], i: number): number {
	const about = path.filter(([k]) => Math.abs(k - i) <= 20);
	return correlation(
		about.map(([k]) => a[k]!),
		about.map(([, k]) => b[k]!)
	);
}
