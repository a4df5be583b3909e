import { quantileSorted, sortedValues } from '../statistics/spread';

/** What a grid is like within a zone. */
export interface ZoneStatistics {
	zone: string;
	count: number;
	/** Square length units. */
	area: number;
	least: number;
	greatest: number;
	mean: number;
	median: number;
	deviation: number;
	sum: number;
}

/**
 * Statistics of values by the zone of each; cells without a value or a zone do not count.
 * @param zones number of the zone of each cell, −1 for none
 */
export function zoneStatistics(
	values: ArrayLike<number>,
	zones: ArrayLike<number>,
	names: readonly string[],
	cellArea: number
): ZoneStatistics[] {
	const lists: number[][] = names.map(() => []);
	for (let k = 0; k < values.length; k++) if (zones[k]! >= 0 && Number.isFinite(values[k]!)) lists[zones[k]!]!.push(values[k]!);
	return lists.map((list, i) => {
		const n = list.length;
		const sorted = sortedValues(Float64Array.from(list));
		const sum = list.reduce((a, b) => a + b, 0);
		const mean = n ? sum / n : NaN;
		return {
			zone: names[i]!,
			count: n,
			area: n * cellArea,
			least: n ? sorted[0]! : NaN,
			greatest: n ? sorted[n - 1]! : NaN,
			mean,
			median: quantileSorted(sorted, 0.5),
			deviation: n > 1 ? Math.sqrt(list.reduce((a, b) => a + (b - mean) ** 2, 0) / (n - 1)) : NaN,
			sum
		};
	});
}
