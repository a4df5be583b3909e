import type { LoggedRun } from './runs';

/** A run with where it is drawn: the values of the axis at its ends, growing downwards. */
export interface PlacedRun extends LoggedRun {
	top: number;
	bottom: number;
}

/** The ground of one unit between two holes, as a closed line; x runs from 0 at the left hole to 1 at the right one. */
interface UnitBetween {
	name: string;
	/** x, value of the axis. */
	outline: [number, number][];
	/** Both holes have it; else it wedges out, or the other hole does not reach it. */
	seen: 'both' | 'wedge' | 'beyond';
}

/** A boundary line between two holes. */
interface BoundaryBetween {
	above: string;
	line: [number, number][];
}

/** How far a unit that the other hole lacks goes towards it. */
const PINCH = 0.5;

/** Pairs of runs of one name, in order, that explain most thickness; a tie parts them. */
function matched(
	left: readonly PlacedRun[],
	right: readonly PlacedRun[],
	ties: readonly (readonly [number, number])[]
): [number, number][] {
	const part = (r: LoggedRun, side: 0 | 1) => ties.filter((t) => t[side] < (r.from + r.to) / 2).length;
	const [n, m] = [left.length, right.length];
	const [pl, pr] = [left.map((r) => part(r, 0)), right.map((r) => part(r, 1))];
	const weight = (i: number, j: number) => {
		const [a, b] = [left[i]!, right[j]!];
		if (a.name !== b.name || pl[i] !== pr[j]) return 0;
		const [s, t] = [a.to - a.from, b.to - b.from];
		return 1 + Math.min(s, t) / Math.max(s, t, 1e-9);
	};
	const best = Array.from({ length: n + 1 }, () => new Float64Array(m + 1));
	for (let i = 1; i <= n; i++)
		for (let j = 1; j <= m; j++) {
			const w = weight(i - 1, j - 1);
			best[i]![j] = Math.max(best[i - 1]![j]!, best[i]![j - 1]!, w > 0 ? w + best[i - 1]![j - 1]! : 0);
		}
	const pairs: [number, number][] = [];
	for (let [i, j] = [n, m]; i > 0 && j > 0;) {
		const w = weight(i - 1, j - 1);
		if (w > 0 && Math.abs(best[i]![j]! - w - best[i - 1]![j - 1]!) < 1e-12) {
			pairs.push([i - 1, j - 1]);
			[i, j] = [i - 1, j - 1];
		} else if (best[i]![j] === best[i - 1]![j]) i--;
		else j--;
	}
	return pairs.reverse();
}

/**
 * Fills the ground between two holes with units: those that both have go through, those that only one has wedge out halfway, and so does
 * what lies above or below all that both have: nobody knows where it ends.
 * @param ties depths in the left and the right hole that are one boundary, growing in both; units do not go across them
 * @param onlyCommon nothing but what both have, straight across: by age, where a gap is a gap
 */
export function between(
	left: readonly PlacedRun[],
	right: readonly PlacedRun[],
	ties: readonly (readonly [number, number])[] = [],
	onlyCommon = false
): { units: UnitBetween[]; boundaries: BoundaryBetween[] } {
	const units: UnitBetween[] = [];
	const boundaries: BoundaryBetween[] = [];
	if (left.length === 0 || right.length === 0) return { units, boundaries };
	const pairs = matched(left, right, ties);
	if (onlyCommon) {
		for (const [i, j] of pairs) {
			const [a, b] = [left[i]!, right[j]!];
			units.push({
				name: a.name,
				outline: [
					[0, a.top],
					[1, b.top],
					[1, b.bottom],
					[0, a.bottom]
				],
				seen: 'both'
			});
		}
		return { units, boundaries };
	}
	if (pairs.length === 0) {
		for (const [runs, x, far] of [
			[left, 0, PINCH],
			[right, 1, 1 - PINCH]
		] as const)
			for (const r of runs)
				units.push({
					name: r.name,
					outline: [
						[x, r.top],
						[far, r.top],
						[far, r.bottom],
						[x, r.bottom]
					],
					seen: 'beyond'
				});
		return { units, boundaries };
	}
	/** What nothing on the other side answers, above or below all that does, ends halfway on the outermost line of what does. */
	const outside = (runs: readonly PlacedRun[], x: 0 | 1, line: [number, number][]) => {
		if (runs.length === 0) return;
		const apex: [number, number] = [PINCH, (line[0]![1] + line[line.length - 1]![1]) / 2];
		for (const r of runs)
			units.push({
				name: r.name,
				outline: [[x, r.top], apex, [x, r.bottom]],
				seen: 'beyond'
			});
	};
	/** Upper and lower line of each pair, as they come to be. */
	const upper: [number, number][][] = pairs.map(([i, j]) => [
		[0, left[i]!.top],
		[1, right[j]!.top]
	]);
	const lower: [number, number][][] = pairs.map(([i, j]) => [
		[0, left[i]!.bottom],
		[1, right[j]!.bottom]
	]);
	outside(left.slice(0, pairs[0]![0]), 0, upper[0]!);
	outside(right.slice(0, pairs[0]![1]), 1, upper[0]!);
	for (let k = 0; k + 1 < pairs.length; k++) {
		const [[i0, j0], [i1, j1]] = [pairs[k]!, pairs[k + 1]!];
		const [only, others] = [left.slice(i0 + 1, i1), right.slice(j0 + 1, j1)];
		const [a0, a1, b0, b1] = [left[i0]!.bottom, left[i1]!.top, right[j0]!.bottom, right[j1]!.top];
		if (only.length || others.length) {
			const meet: [number, number] = [PINCH, (a0 + a1 + b0 + b1) / 4];
			lower[k] = [[0, a0], meet, [1, b0]];
			upper[k + 1] = [[0, a1], meet, [1, b1]];
			for (const r of only) units.push({ name: r.name, outline: [[0, r.top], meet, [0, r.bottom]], seen: 'wedge' });
			for (const r of others) units.push({ name: r.name, outline: [[1, r.top], meet, [1, r.bottom]], seen: 'wedge' });
			for (const r of only.slice(1)) boundaries.push({ above: left[left.indexOf(r) - 1]!.name, line: [[0, r.top], meet] });
			for (const r of others.slice(1)) boundaries.push({ above: right[right.indexOf(r) - 1]!.name, line: [meet, [1, r.top]] });
			// Above and below the wedges each side has a boundary of its own.
			boundaries.push({ above: left[i0]!.name, line: lower[k]! });
			boundaries.push({ above: (only.at(-1) ?? others.at(-1))!.name, line: upper[k + 1]! });
		} else boundaries.push({ above: left[i0]!.name, line: lower[k]! });
	}
	const [lastLeft, lastRight] = pairs[pairs.length - 1]!;
	outside(left.slice(lastLeft + 1), 0, lower[lower.length - 1]!);
	outside(right.slice(lastRight + 1), 1, lower[lower.length - 1]!);
	pairs.forEach(([i], k) => units.push({ name: left[i]!.name, outline: [...upper[k]!, ...[...lower[k]!].reverse()], seen: 'both' }));
	return { units, boundaries };
}
