import type { SurveyLine } from './lines';

/**
 * Stations that stand out from their neighbours: farther from the median of a window than so many times the usual distance from it
 * (Hampel 1974; 1.4826 times the median of the distances is the standard deviation of normal ones).
 * @param half stations on each side
 * @returns 1 where one stands out
 */
export function spikesOf(line: SurveyLine, values: ArrayLike<number>, half: number, threshold: number, least: number): Uint8Array {
	const own = line.rows.map((r) => values[r]!);
	const out = new Uint8Array(own.length);
	const middle = (list: number[]) => {
		list.sort((a, b) => a - b);
		return (list[(list.length - 1) >> 1]! + list[list.length >> 1]!) / 2;
	};
	own.forEach((v, k) => {
		if (!Number.isFinite(v)) return;
		const around = own.slice(Math.max(0, k - half), k + half + 1).filter(Number.isFinite);
		if (around.length < 3) return;
		const median = middle([...around]);
		const spread = 1.4826 * middle(around.map((a) => Math.abs(a - median)));
		if (Math.abs(v - median) > Math.max(threshold * spread, least)) out[k] = 1;
	});
	return out;
}

/**
 * Fills gaps of a line straight from the station before to the one after.
 * @param longest gap that is filled, length units; 0 is without limit
 * @returns values of the stations of the line in their order, and how many were filled
 */
export function filled(line: SurveyLine, values: ArrayLike<number>, longest: number): { values: Float64Array; count: number } {
	const own = Float64Array.from(line.rows, (r) => values[r]!);
	let count = 0;
	let before = -1;
	for (let k = 0; k <= own.length; k++) {
		if (k < own.length && Number.isNaN(own[k]!)) continue;
		if (k < own.length && before >= 0 && k - before > 1) {
			const [a, b] = [line.distance[before]!, line.distance[k]!];
			if (longest === 0 || b - a <= longest)
				for (let m = before + 1; m < k; m++, count++) {
					const t = b > a ? (line.distance[m]! - a) / (b - a) : 0.5;
					own[m] = own[before]! + t * (own[k]! - own[before]!);
				}
		}
		before = k;
	}
	return { values: own, count };
}

/** Mean of the stations within a length of a line, weighted by a bell whose half width is half of it. */
export function smoothed(line: SurveyLine, values: ArrayLike<number>, reach: number): Float64Array {
	const out = new Float64Array(line.rows.length);
	let from = 0;
	for (let k = 0; k < out.length; k++) {
		const at = line.distance[k]!;
		while (line.distance[from]! < at - reach) from++;
		let [s, w] = [0, 0];
		for (let m = from; m < out.length && line.distance[m]! <= at + reach; m++) {
			const v = values[line.rows[m]!]!;
			if (v !== v) continue;
			const weight = Math.exp(-2 * ((line.distance[m]! - at) / Math.max(reach, 1e-9)) ** 2);
			s += weight * v;
			w += weight;
		}
		out[k] = Number.isNaN(values[line.rows[k]!]!) || w === 0 ? NaN : s / w;
	}
	return out;
}

/**
 * What a base station read at times, straight between its readings; NaN before the first and after the last by more than `beyond`.
 * @param times of its readings in any order, days
 */
export function baseAt(times: ArrayLike<number>, values: ArrayLike<number>, beyond = 1 / 48): (time: number) => number {
	const order = Array.from({ length: times.length }, (_, i) => i)
		.filter((i) => Number.isFinite(times[i]!) && Number.isFinite(values[i]!))
		.sort((a, b) => times[a]! - times[b]!);
	return (time) => {
		if (!Number.isFinite(time) || order.length === 0) return NaN;
		let [low, high] = [0, order.length];
		while (low < high) {
			const middle = (low + high) >> 1;
			if (times[order[middle]!]! <= time) low = middle + 1;
			else high = middle;
		}
		const [a, b] = [order[low - 1], order[low]];
		if (a === undefined) return times[b!]! - time <= beyond ? values[b!]! : NaN;
		if (b === undefined) return time - times[a]! <= beyond ? values[a]! : NaN;
		const t = (time - times[a]!) / (times[b]! - times[a]!);
		return values[a]! + t * (values[b]! - values[a]!);
	};
}

/**
 * Moves values along a line: each station gets what was read `lag` later (above 0: the instrument tells late). At the end that has no
 * value any more there is none.
 * @param position of each station along what the lag is measured in: length units, or days
 */
export function lagged(line: SurveyLine, values: ArrayLike<number>, position: ArrayLike<number>, lag: number): Float64Array {
	const at = line.rows.map((_, k) => position[k]!);
	return Float64Array.from(at, (p) => {
		const wanted = p + lag;
		for (let k = 0; k + 1 < at.length; k++) {
			const [a, b] = [at[k]!, at[k + 1]!];
			if (wanted < a || wanted > b) continue;
			const [u, v] = [values[line.rows[k]!]!, values[line.rows[k + 1]!]!];
			return b > a ? u + ((wanted - a) / (b - a)) * (v - u) : u;
		}
		return NaN;
	});
}

/** Stations at equal steps along a line: which stations each lies between, and the share of the way. */
export function stepsAlong(line: SurveyLine, step: number): { distance: number; on: [number, number] }[] {
	const out: { distance: number; on: [number, number] }[] = [];
	const length = line.distance[line.distance.length - 1] ?? 0;
	let k = 0;
	for (let n = 0; n * step <= length * (1 + 1e-12); n++) {
		const d = Math.min(n * step, length);
		while (k + 2 < line.rows.length && line.distance[k + 1]! < d) k++;
		const [a, b] = [line.distance[k]!, line.distance[k + 1] ?? line.distance[k]!];
		out.push({ distance: d, on: [k, b > a ? (d - a) / (b - a) : 0] });
	}
	return out;
}
