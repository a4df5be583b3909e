/** One line of a survey: rows in the order in which they were measured, and how far each is along it. */
export interface SurveyLine {
	name: string;
	/** Numbers of the readings. */
	rows: number[];
	/** Length along the line from its first station, length units. */
	distance: Float64Array;
	/** Direction of the line, degrees clockwise from north; of a line of one place NaN. */
	azimuth: number;
}

/**
 * Lines of stations. Stations stand in the order of their times; without times in the order of the rows.
 * Stations without a place are left out.
 * @param names line of each station; an empty name is a line, too
 */
export function linesOf(
	names: readonly string[],
	x: ArrayLike<number>,
	y: ArrayLike<number>,
	times: ArrayLike<number> | null
): SurveyLine[] {
	const byName = new Map<string, number[]>();
	names.forEach((name, i) => {
		if (!Number.isFinite(x[i]!) || !Number.isFinite(y[i]!)) return;
		const list = byName.get(name);
		if (list) list.push(i);
		else byName.set(name, [i]);
	});
	return [...byName].map(([name, rows]) => {
		if (times && rows.every((i) => Number.isFinite(times[i]!))) rows.sort((a, b) => times[a]! - times[b]! || a - b);
		const distance = new Float64Array(rows.length);
		for (let k = 1; k < rows.length; k++)
			distance[k] = distance[k - 1]! + Math.hypot(x[rows[k]!]! - x[rows[k - 1]!]!, y[rows[k]!]! - y[rows[k - 1]!]!);
		const [first, last] = [rows[0]!, rows[rows.length - 1]!];
		const [east, north] = [x[last]! - x[first]!, y[last]! - y[first]!];
		return { name, rows, distance, azimuth: east === 0 && north === 0 ? NaN : ((Math.atan2(east, north) * 180) / Math.PI + 360) % 360 };
	});
}

/** How most lines run, 0 to 180 degrees clockwise from north, longer lines counting for more; null when none has a direction. */
export function usualAzimuth(lines: readonly SurveyLine[]): number | null {
	// The direction in which most length runs, to 5 degrees; then the mean of what runs about so (angles doubled: there and back are one).
	const length = (l: SurveyLine) => l.distance[l.distance.length - 1] ?? 0;
	const directed = lines.filter((l) => Number.isFinite(l.azimuth) && length(l) > 0);
	const bins = new Float64Array(36);
	for (const l of directed) bins[Math.floor((l.azimuth % 180) / 5) % 36]! += length(l);
	const around = Array.from(bins, (v, k) => v + bins[(k + 1) % 36]! + bins[(k + 35) % 36]!);
	const best = around.indexOf(Math.max(...around));
	if (!(around[best]! > 0)) return null;
	const middle = 5 * best + 2.5;
	let [c, s] = [0, 0];
	for (const l of directed) {
		const off = Math.abs(((l.azimuth - middle + 270) % 180) - 90);
		if (off > 10) continue;
		const a = (2 * l.azimuth * Math.PI) / 180;
		[c, s] = [c + length(l) * Math.cos(a), s + length(l) * Math.sin(a)];
	}
	return ((Math.atan2(s, c) * 90) / Math.PI + 180) % 180;
}

/** The usual distance between lines that run about so, across them; null with fewer than two. @param azimuth degrees */
export function lineSpacing(lines: readonly SurveyLine[], x: ArrayLike<number>, y: ArrayLike<number>, azimuth: number): number | null {
	const a = (azimuth * Math.PI) / 180;
	const across = lines
		.filter((l) => Math.abs(((l.azimuth - azimuth + 270) % 180) - 90) <= 20)
		.map((l) => l.rows.reduce((s, i) => s + x[i]! * Math.cos(a) - y[i]! * Math.sin(a), 0) / l.rows.length)
		.sort((p, q) => p - q);
	const gaps = across
		.slice(1)
		.map((v, k) => v - across[k]!)
		.filter((d) => d > 1e-6)
		.sort((p, q) => p - q);
	return gaps.length ? gaps[(gaps.length - 1) >> 1]! : null;
}

/** Where two lines cross: how far along each, as a share between two stations. */
export interface Crossing {
	line: number;
	tie: number;
	x: number;
	y: number;
	/** Station of the line before the crossing, and the share of the way to the next one; so of the tie. */
	onLine: [number, number];
	onTie: [number, number];
}

/** All places where lines cross ties. A way between two stations that are farther apart than `gap` is none. */
export function crossingsOf(
	lines: readonly SurveyLine[],
	ties: readonly SurveyLine[],
	x: ArrayLike<number>,
	y: ArrayLike<number>,
	gap = Infinity
): Crossing[] {
	const out: Crossing[] = [];
	const boxOf = (l: SurveyLine, k: number) => {
		const [a, b] = [l.rows[k]!, l.rows[k + 1]!];
		return [x[a]!, y[a]!, x[b]!, y[b]!] as const;
	};
	lines.forEach((l, line) =>
		ties.forEach((t, tie) => {
			for (let k = 0; k + 1 < l.rows.length; k++) {
				const [ax, ay, bx, by] = boxOf(l, k);
				const [ux, uy] = [bx - ax, by - ay];
				if (Math.hypot(ux, uy) > gap) continue;
				for (let m = 0; m + 1 < t.rows.length; m++) {
					const [cx, cy, dx, dy] = boxOf(t, m);
					if (Math.max(cx, dx) < Math.min(ax, bx) || Math.min(cx, dx) > Math.max(ax, bx)) continue;
					if (Math.max(cy, dy) < Math.min(ay, by) || Math.min(cy, dy) > Math.max(ay, by)) continue;
					const [vx, vy] = [dx - cx, dy - cy];
					if (Math.hypot(vx, vy) > gap) continue;
					const det = ux * vy - uy * vx;
					if (det === 0) continue;
					const s = ((cx - ax) * vy - (cy - ay) * vx) / det;
					const w = ((cx - ax) * uy - (cy - ay) * ux) / det;
					// Each end belongs to the way that begins there, so that a crossing at a station counts once.
					const last = (list: number, n: number) => list === n - 2;
					if (s < 0 || w < 0 || s > 1 || w > 1) continue;
					if ((s === 1 && !last(k, l.rows.length)) || (w === 1 && !last(m, t.rows.length))) continue;
					out.push({ line, tie, x: ax + s * ux, y: ay + s * uy, onLine: [k, s], onTie: [m, w] });
				}
			}
		})
	);
	return out;
}

/** Value of a line at a share of the way between two stations; NaN where one of them has none. */
export const valueOn = (l: SurveyLine, values: ArrayLike<number>, [k, share]: readonly [number, number]): number => {
	const a = values[l.rows[k]!]!;
	return share === 0 ? a : a + share * (values[l.rows[k + 1]!]! - a);
};
