import type { Hole } from '#core/holes/holes';
import { logsOf, type Truth } from './sampled';

// What goes wrong in logs.
export type Random = () => number;
/** Changes the logs; gives the holes that were damaged. */
export type Damage = (holes: Hole[], t: Truth, r: Random) => string[];

export const pick = <T>(list: readonly T[], r: Random): T => list[Math.floor(r() * list.length)]!;
export const inner = (h: Hole) => h.intervals.map((_, k) => k).filter((k) => k > 0 && k < h.intervals.length - 1);

export function wrongCodes(holes: Hole[], t: Truth, r: Random, count: number): string[] {
	const rows = holes.flatMap((h) => h.intervals.map((_, k) => ({ h, k })));
	const out = new Set<string>();
	for (let n = 0; n < count; n++) {
		const { h, k } = pick(rows, r);
		const others = t.column.map(([id]) => id).filter((id) => id !== h.intervals[k]!.code);
		h.intervals[k] = { ...h.intervals[k]!, code: pick(others, r) };
		out.add(h.name);
	}
	return [...out];
}
/** One row in twenty. */
export const oneInTwenty: Damage = (h, t, r) => wrongCodes(h, t, r, Math.round(0.05 * h.reduce((n, x) => n + x.intervals.length, 0)));
/** One of what is longer than 5 m. */
export const oneWrong: Damage = (holes, t, r) => {
	const { h, k } = pick(
		holes.flatMap((h) => h.intervals.flatMap((v, k) => (v.to - v.from > 5 ? [{ h, k }] : []))),
		r
	);
	const others = t.column.map(([id]) => id).filter((id) => id !== h.intervals[k]!.code);
	h.intervals[k] = { ...h.intervals[k]!, code: pick(others, r) };
	return [h.name];
};
export function twins(holes: Hole[], r: Random, by: number): string[] {
	const h = pick(
		holes.filter((x) => x.intervals.length > 3),
		r
	);
	const at = h.path.collar;
	const twin = { ...h, name: `${h.name}B`, row: 900, path: { ...h.path, collar: [at[0] + 1, at[1], at[2]] as typeof at } };
	const shifted = logsOf({
		box: { minX: 0, minY: 0, minZ: -400, maxX: 1000, maxY: 1000, maxZ: 0 },
		column: [['x', 'conformable']],
		unitAt: () => 0,
		holes: [{ x: at[0] + 1, y: at[1], depth: h.path.totalDepth }]
	})[0]!.path;
	holes.push({
		...twin,
		path: shifted,
		intervals: h.intervals.map((v, i, all) => ({
			...v,
			row: v.row + 500,
			from: i === 0 ? 0 : v.from + by,
			to: i === all.length - 1 ? v.to : v.to + by
		}))
	});
	return [`${h.name}B`];
}
/** Logs in rows of about so many metres, as rock is described, not in one for each unit; then one in so many has a wrong code. */
export const inRows =
	(long: number, wrong = Infinity): Damage =>
	(holes, t, r) => {
		for (const h of holes) {
			let row = 1000 * h.row;
			h.intervals = h.intervals.flatMap((v) => {
				const n = Math.max(1, Math.round((v.to - v.from) / long));
				const at = (i: number) => v.from + ((v.to - v.from) * i) / n;
				return Array.from({ length: n }, (_, i) => ({ ...v, from: at(i), to: at(i + 1), row: row++ }));
			});
		}
		return wrongCodes(holes, t, r, Math.round(holes.reduce((n, h) => n + h.intervals.length, 0) / wrong));
	};
/** Depths of all boundaries off by a normal error, metres. */
export const noisy =
	(sigma: number): Damage =>
	(holes, _, r) => {
		for (const x of holes)
			for (let k = 1; k < x.intervals.length; k++) {
				const by = sigma * Math.sqrt(-2 * Math.log(1 - r())) * Math.cos(2 * Math.PI * r());
				const d = Math.min(x.intervals[k]!.to - 0.05, Math.max(x.intervals[k - 1]!.from + 0.05, x.intervals[k]!.from + by));
				x.intervals[k - 1] = { ...x.intervals[k - 1]!, to: d };
				x.intervals[k] = { ...x.intervals[k]!, from: d };
			}
		return [];
	};
/** A share of the rows was never logged. */
export const gaps =
	(share: number): Damage =>
	(holes, _, r) => {
		for (const h of holes) h.intervals = h.intervals.filter(() => r() > share);
		return [];
	};
/** Some intervals with a code that has no unit. */
export const withoutUnit: Damage = (holes, _, r) => {
	for (let n = 0; n < 4; n++) {
		const x = pick(holes, r);
		const k = Math.floor(r() * x.intervals.length);
		x.intervals[k] = { ...x.intervals[k]!, code: 'NOREC' };
	}
	return [];
};
/** All boundaries of one hole lower by 15 to 30 m: a slip in an elevation. */
export const slipped: Damage = (holes, _, r) => {
	const x = pick(
		holes.filter((h) => h.intervals.length > 2),
		r
	);
	const by = 15 + 15 * r();
	const end = x.path.totalDepth;
	const at = (d: number, i: number) => Math.min(end - 1 + 0.01 * i, d + by);
	x.intervals = x.intervals.map((v, i, all) => ({ ...v, from: i ? at(v.from, i) : 0, to: i === all.length - 1 ? v.to : at(v.to, i + 1) }));
	return [x.name];
};
/** Logs as they come: in rows of 6 m, of which one in twelve is missing and one in 67 has a wrong code. */
export const asLogged: Damage = (holes, t, r) => {
	inRows(6)(holes, t, r);
	gaps(0.08)(holes, t, r);
	return wrongCodes(holes, t, r, Math.round(holes.reduce((n, h) => n + h.intervals.length, 0) / 67));
};
/** Logged roughly: depths off by 1 m, rows of 8 m, of which one in 33 has a wrong code, and a hole that slipped. */
export const roughly: Damage = (holes, t, r) => {
	noisy(1)(holes, t, r);
	const wrong = inRows(8, 33)(holes, t, r);
	return [...wrong, ...slipped(holes, t, r)];
};
