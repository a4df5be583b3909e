import Flatbush from 'flatbush';
import { quantileSorted } from '../statistics/spread';

/** Holes around one that tell whether it stands at the rim of all. */
const AROUND = 8;
/** Holes that stand about as far at the rim, of which the usual error is taken. */
const ALIKE = 12;
/** Standard deviation of a normal error by the median of its absolute values. */
const BY_MEDIAN = 1.4826;

type Places = ReadonlyMap<string, { x: number; y: number }>;

/** How far each hole stands at the rim: distance of the middle of the eight nearest others, as a share of their mean distance; 0 amid them, 1 far beyond. */
export function rimOf(places: Places): Map<string, number> {
	const list = [...places];
	const out = new Map<string, number>();
	if (list.length < 2) return out;
	const index = new Flatbush(list.length);
	for (const [, p] of list) index.add(p.x, p.y);
	index.finish();
	for (const [hole, at] of list) {
		const near = index.neighbors(at.x, at.y, AROUND + 1).flatMap((i) => (list[i]![0] === hole ? [] : [list[i]![1]]));
		const [x, y] = [near.reduce((s, p) => s + p.x - at.x, 0), near.reduce((s, p) => s + p.y - at.y, 0)];
		const far = near.reduce((s, p) => s + Math.hypot(p.x - at.x, p.y - at.y), 0);
		out.set(hole, far > 0 ? Math.hypot(x, y) / far : 0);
	}
	return out;
}

/**
 * The usual error of what is told of a hole by the others (1.4826 times the median of absolute errors): at the rim, where they tell it from
 * one side only, that of holes that stand alike, if it is the greater one.
 * @param errors absolute, with the hole that each is of
 * @param rim of `rimOf`
 */
export function usualByHole(
	errors: readonly { hole: string; error: number }[],
	rim: ReadonlyMap<string, number>
): (hole: string) => number {
	const usual = (list: readonly number[]) => (list.length ? BY_MEDIAN * quantileSorted(Float64Array.from(list).sort(), 0.5) : 0);
	const all = usual(errors.map((e) => e.error));
	const byHole = new Map<string, number[]>();
	for (const { hole, error } of errors) byHole.set(hole, [...(byHole.get(hole) ?? []), error]);
	const ranked = [...rim].sort(([a, p], [b, q]) => p - q || (a < b ? -1 : 1)).map(([hole]) => hole);
	const rank = new Map(ranked.map((hole, i) => [hole, i]));
	const known = new Map<string, number>();
	return (hole) => {
		const at = rank.get(hole);
		if (at === undefined) return all;
		const from = Math.max(0, Math.min(at - ALIKE / 2, ranked.length - ALIKE));
		const own = known.get(hole) ?? usual(ranked.slice(from, from + ALIKE).flatMap((h) => byHole.get(h) ?? []));
		known.set(hole, own);
		return Math.max(all, own);
	};
}
