import { NO_CLASS, type CategoryColumn, type DataSet } from '../datasets/dataset';
import type { HolePaths } from '../datasets/hole-paths';
import { holeIndex } from './hole-index';

/** Share of each class along a hole, by length; 0–1. Empty where nothing is logged in the range. */
interface HoleShares {
	/** Length with a class, project units. */
	logged: number;
	shares: { category: number; share: number }[];
}

/**
 * Shares of the classes of a column in a range of depths of each hole; parts of intervals count by their length inside the range.
 * @param counts which rows count
 */
export function sharesByHole(
	set: Pick<DataSet, 'hole' | 'from' | 'to' | 'rowCount'>,
	column: CategoryColumn,
	paths: HolePaths,
	low = -Infinity,
	high = Infinity,
	counts: (row: number) => boolean = () => true
): HoleShares[] {
	const index = holeIndex(set, paths.holes.length);
	return paths.holes.map((_, h) => {
		const lengths = new Map<number, number>();
		let logged = 0;
		for (let k = index.start[h]!; k < index.start[h + 1]!; k++) {
			const i = index.order[k]!;
			const length = Math.min(high, set.to[i]!) - Math.max(low, set.from[i]!);
			const c = column.values[i]!;
			if (!(length > 0) || c === NO_CLASS || !counts(i)) continue;
			lengths.set(c, (lengths.get(c) ?? 0) + length);
			logged += length;
		}
		return {
			logged,
			shares: [...lengths].map(([category, length]) => ({ category, share: length / logged })).sort((a, b) => a.category - b.category)
		};
	});
}
