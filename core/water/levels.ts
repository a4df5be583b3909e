/** Levels of one well in the order of their days. */
interface Hydrograph {
	well: string;
	/** Numbers of the readings. */
	rows: number[];
	days: Float64Array;
	values: Float64Array;
	/** 1 where a reading stands out from those before and after. */
	outlier: Uint8Array;
}

/** How far a reading must stand out. */
export interface OutlierRule {
	/** Times the usual distance from what the readings before and after tell. */
	threshold: number;
	/** And by this much at least, length units. */
	least: number;
}

/** Readings on each side that one is held against. */
const AROUND = 3;

/**
 * Readings of levels by well. One stands out when it is farther than the rule says from what the readings before and after tell of its
 * day: the median of the straight lines from each of three before to each of three after, which the season follows and one slip does
 * not move. What is usual is taken from the whole hydrograph (Hampel 1974).
 */
export function hydrographs(wells: readonly string[], days: ArrayLike<number>, values: ArrayLike<number>, rule: OutlierRule): Hydrograph[] {
	const byWell = new Map<string, number[]>();
	wells.forEach((well, i) => {
		if (!Number.isFinite(days[i]!) || !Number.isFinite(values[i]!)) return;
		const list = byWell.get(well);
		if (list) list.push(i);
		else byWell.set(well, [i]);
	});
	return [...byWell].map(([well, rows]) => {
		rows.sort((a, b) => days[a]! - days[b]! || a - b);
		const own = Float64Array.from(rows, (i) => values[i]!);
		const when = Float64Array.from(rows, (i) => days[i]!);
		return { well, rows, days: when, values: own, outlier: outliers(when, own, rule) };
	});
}

const middle = (list: readonly number[]): number => {
	const s = [...list].sort((a, b) => a - b);
	return (s[(s.length - 1) >> 1]! + s[s.length >> 1]!) / 2;
};

function outliers(days: Float64Array, values: Float64Array, { threshold, least }: OutlierRule): Uint8Array {
	const out = new Uint8Array(values.length);
	if (values.length < 4) return out;
	/** How far a reading is off what those before and after tell that do not stand out themselves. */
	const offAt = (k: number): number => {
		const before: number[] = [];
		const after: number[] = [];
		for (let i = k - 1; i >= 0 && before.length < AROUND; i--) if (!out[i]) before.push(i);
		for (let j = k + 1; j < values.length && after.length < AROUND; j++) if (!out[j]) after.push(j);
		const told: number[] = [];
		for (const i of before)
			for (const j of after) told.push(values[i]! + ((values[j]! - values[i]!) * (days[k]! - days[i]!)) / (days[j]! - days[i]! || 1));
		// The first and the last have readings on one side only.
		if (told.length === 0) told.push(...[...before, ...after].map((i) => values[i]!));
		return told.length ? values[k]! - middle(told) : 0;
	};
	const off = Array.from(values, (_, k) => offAt(k));
	const usual = 1.4826 * middle(off.map(Math.abs));
	// The farthest goes first: it may be what made its neighbours seem to stand out.
	for (let n = 0; n < values.length / 4; n++) {
		const worst = off.reduce((w, d, k) => (!out[k] && (w < 0 || Math.abs(d) > Math.abs(off[w]!)) ? k : w), -1);
		if (worst < 0 || !(Math.abs(off[worst]!) > Math.max(threshold * usual, least))) break;
		out[worst] = 1;
		for (let k = Math.max(0, worst - 2 * AROUND); k <= Math.min(values.length - 1, worst + 2 * AROUND); k++) if (!out[k]) off[k] = offAt(k);
	}
	return out;
}

/** Which time a level is wanted for. Days since 1970-01-01. */
export type When =
	{ when: 'day'; day: number; reach: number } | { when: 'period'; from: number; to: number } | { when: 'all' } | { when: 'last' };

/**
 * Level of a well at a time, from the readings that count.
 * - a day: straight between the reading before and the one after, if each is within `reach` days of it; else the nearer one within reach;
 * - a period: the mean of the readings from its first day to its last; all: of all;
 * - last: the last reading.
 * @returns value and how many readings it comes from; NaN from none
 */
export function levelAt(h: Hydrograph, t: When, withOutliers: boolean): { value: number; count: number; day: number } {
	const use = h.rows.map((_, k) => k).filter((k) => withOutliers || !h.outlier[k]);
	const none = { value: NaN, count: 0, day: NaN };
	const mean = (list: readonly number[]) =>
		list.length
			? {
					value: list.reduce((s, k) => s + h.values[k]!, 0) / list.length,
					count: list.length,
					day: list.reduce((s, k) => s + h.days[k]!, 0) / list.length
				}
			: none;
	switch (t.when) {
		case 'all':
			return mean(use);
		case 'last': {
			const k = use[use.length - 1];
			return k === undefined ? none : { value: h.values[k]!, count: 1, day: h.days[k]! };
		}
		case 'period':
			// The last day counts whole.
			return mean(use.filter((k) => h.days[k]! >= t.from && h.days[k]! < t.to + 1));
		case 'day': {
			// A reading of the day itself, whatever its hour.
			const same = use.filter((k) => Math.floor(h.days[k]!) === Math.floor(t.day));
			if (same.length) return { ...mean(same), day: t.day };
			const before = use.filter((k) => h.days[k]! < t.day && t.day - h.days[k]! <= t.reach).pop();
			const after = use.find((k) => h.days[k]! > t.day && h.days[k]! - t.day <= t.reach);
			if (before === undefined && after === undefined) return none;
			if (before === undefined || after === undefined) {
				const k = (before ?? after)!;
				return { value: h.values[k]!, count: 1, day: h.days[k]! };
			}
			const share = (t.day - h.days[before]!) / (h.days[after]! - h.days[before]!);
			return { value: h.values[before]! + share * (h.values[after]! - h.values[before]!), count: 2, day: t.day };
		}
	}
}
