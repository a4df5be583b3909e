import { fail } from '../problem';
import { rowsOfHoles } from '../tables/row-index';
import type { Table } from '../tables/table';

/** Depths that are nearer to each other are the same one; project units. */
const SAME = 1e-6;

/** An interval of a log by its row. */
interface LogRow {
	row: number;
	hole: string;
	from: number;
	to: number;
	code: string;
}

/** What an act changes: cells by role, rows that come in behind as copies of others with some cells of their own, rows that go out. */
export interface LogChange {
	cells: { row: number; role: 'from' | 'to' | 'code'; value: number | string }[];
	added: { copyOf: number; cells: { from: number; to: number; code?: string } }[];
	excluded: number[];
	/** Intervals that the act was meant for and could not be done to, with why. */
	left: { row: number; why: string }[];
}

const nothing = (): LogChange => ({ cells: [], added: [], excluded: [], left: [] });

/** Where a thin interval goes. */
export const DISSOLVE_INTO = ['above', 'below', 'thicker', 'nearest'] as const;
type DissolveInto = (typeof DISSOLVE_INTO)[number];

/** One act of relogging. Rows are those of the table. */
export type RelogAct =
	/** Intervals get a code; an empty one is "not sampled". */
	| { do: 'give'; rows: readonly number[]; code: string }
	/** A stretch of a hole gets a code; intervals that reach beyond it are cut. */
	| { do: 'stretch'; stretches: readonly Stretch[]; code: string }
	/** A boundary goes to another depth. */
	| { do: 'move'; hole: string; from: number; to: number }
	| { do: 'split'; row: number; depth: number }
	| { do: 'dissolve'; rows: readonly number[]; into: DissolveInto };

/** A part of a hole, with its own code if it is not that of the act. */
interface Stretch {
	hole: string;
	from: number;
	to: number;
	code?: string | undefined;
}

/** The intervals of a log that are in use, by hole and from the top down. */
export class Log {
	private readonly byHole: ReadonlyMap<string, readonly number[]>;

	/** @param out 1 for rows that are not in use */
	constructor(
		readonly table: Table,
		readonly out: Uint8Array
	) {
		this.byHole = rowsOfHoles(table) ?? new Map();
	}

	get holes(): Iterable<string> {
		return this.byHole.keys();
	}

	of(hole: string): LogRow[] {
		const { from, to } = this.table.numbers;
		return (this.byHole.get(hole) ?? [])
			.filter((r) => !this.out[r] && from![r]! < to![r]!)
			.map((row) => ({ row, hole, from: from![row]!, to: to![row]!, code: this.table.text['code']![row]! }))
			.sort((a, b) => a.from - b.from);
	}

	/** Some rows as intervals, by hole; those that are not in use are left out. */
	picked(rows: readonly number[]): Map<string, Set<number>> {
		const holes = this.table.text['hole']!;
		const byHole = new Map<string, Set<number>>();
		for (const r of rows) {
			if (r >= this.table.rowCount || this.out[r]) continue;
			const own = byHole.get(holes[r]!);
			if (own) own.add(r);
			else byHole.set(holes[r]!, new Set([r]));
		}
		return byHole;
	}
}

/**
 * What an act of relogging changes in a log. Neighbours are looked at as they are in use; nothing is written.
 * @param rank how far down the column a code stands; what is not in it has none
 * @throws ProblemError `no-interval`, `no-boundary`, `boundary-too-far`, `split-outside`, `no-depths`
 */
export function relog(log: Log, act: RelogAct, rank: (code: string) => number | null = () => null): LogChange {
	if (act.do !== 'give' && (!log.table.headers['from'] || !log.table.headers['to']))
		return fail(
			'no-depths',
			'this log states no depths from and to, so its boundaries can not be moved or cut here',
			'Give codes to whole intervals, or bring the log in with a column for each.',
			'do'
		);
	switch (act.do) {
		case 'give':
			return give(log, act.rows, act.code);
		case 'stretch':
			return stretch(log, act.stretches, act.code);
		case 'move':
			return move(log, act);
		case 'split':
			return split(log, act);
		case 'dissolve':
			return dissolve(log, act.rows, act.into, rank);
	}
}

function give(log: Log, rows: readonly number[], code: string): LogChange {
	const change = nothing();
	const codes = log.table.text['code']!;
	for (const own of log.picked(rows).values())
		for (const row of own) if (codes[row] !== code) change.cells.push({ row, role: 'code', value: code });
	return change;
}

function stretch(log: Log, stretches: readonly Stretch[], code: string): LogChange {
	const change = nothing();
	const byHole = new Map<string, Stretch[]>();
	for (const s of stretches) {
		if (!(s.from < s.to))
			return fail(
				'no-interval',
				`a stretch from ${s.from} to ${s.to} holds nothing`,
				'Its upper end must lie above its lower end.',
				'stretches'
			);
		byHole.set(s.hole, [...(byHole.get(s.hole) ?? []), s]);
	}
	for (const [hole, own] of byHole)
		for (const i of log.of(hole)) {
			// The interval in pieces; of stretches that lie over each other the last one counts.
			let pieces = [{ from: i.from, to: i.to, code: i.code }];
			for (const s of own) {
				if (Math.min(i.to, s.to) - Math.max(i.from, s.from) <= SAME) continue;
				const given = s.code ?? code;
				pieces = pieces
					.flatMap((p) => {
						const [from, to] = [Math.max(p.from, s.from), Math.min(p.to, s.to)];
						if (to - from <= SAME) return [p];
						return [
							...(from - p.from > SAME ? [{ ...p, to: from }] : []),
							{ from: from - p.from > SAME ? from : p.from, to: p.to - to > SAME ? to : p.to, code: given },
							...(p.to - to > SAME ? [{ ...p, from: to }] : [])
						];
					})
					.reduce<typeof pieces>((list, p) => {
						const last = list[list.length - 1];
						if (last && last.code === p.code) last.to = p.to;
						else list.push({ ...p });
						return list;
					}, []);
			}
			const [first, ...rest] = pieces;
			// The uppermost part keeps the row.
			if (first!.code !== i.code) change.cells.push({ row: i.row, role: 'code', value: first!.code });
			if (first!.to !== i.to) change.cells.push({ row: i.row, role: 'to', value: first!.to });
			for (const cells of rest) change.added.push({ copyOf: i.row, cells });
		}
	return change;
}

function move(log: Log, { hole, from, to }: { hole: string; from: number; to: number }): LogChange {
	const rows = log.of(hole);
	if (rows.length === 0) return fail('no-interval', `nothing is logged in ${hole}`, undefined, 'hole');
	const at = (d: number) => Math.abs(d - from) < 1e-3;
	const upper = rows.find((r) => at(r.to));
	const lower = rows.find((r) => at(r.from));
	if (!upper && !lower)
		return fail(
			'no-boundary',
			`${hole} has no boundary at ${from}`,
			`Its boundaries: ${[...new Set(rows.flatMap((r) => [r.from, r.to]))].slice(0, 12).join(', ')}.`,
			'from'
		);
	const [low, high] = [upper?.from ?? -Infinity, lower?.to ?? Infinity];
	if (!(to > low + SAME && to < high - SAME))
		return fail(
			'boundary-too-far',
			`the boundary can go to any depth between ${Number.isFinite(low) ? low : 'the collar'} and ${Number.isFinite(high) ? high : 'the end'} of ${hole}, not to ${to}`,
			'Further it would swallow an interval: dissolve that one instead.',
			'to'
		);
	// An end that borders on nothing must not come to lie over another interval.
	const over = rows.find((r) => r !== upper && r !== lower && r.from < Math.max(from, to) - SAME && r.to > Math.min(from, to) + SAME);
	if (over)
		return fail('boundary-too-far', `there it would lie over the interval from ${over.from} to ${over.to}`, 'Move that one first.', 'to');
	const change = nothing();
	if (upper) change.cells.push({ row: upper.row, role: 'to', value: to });
	if (lower) change.cells.push({ row: lower.row, role: 'from', value: to });
	return change;
}

function split(log: Log, { row, depth }: { row: number; depth: number }): LogChange {
	const hole = log.table.text['hole']![row];
	const i = hole === undefined ? undefined : log.of(hole).find((r) => r.row === row);
	if (!i) return fail('no-interval', 'there is no such interval in use', 'It may be held back or left out: see Check.', 'row');
	if (!(depth > i.from + SAME && depth < i.to - SAME))
		return fail(
			'split-outside',
			`${depth} does not lie inside the interval from ${i.from} to ${i.to}`,
			'Give a depth between its ends.',
			'depth'
		);
	return { ...nothing(), cells: [{ row, role: 'to', value: depth }], added: [{ copyOf: row, cells: { from: depth, to: i.to } }] };
}

function dissolve(log: Log, rows: readonly number[], into: DissolveInto, rank: (code: string) => number | null): LogChange {
	const change = nothing();
	for (const [hole, picked] of log.picked(rows)) {
		const list = log.of(hole);
		for (let a = 0; a < list.length; a++) {
			if (!picked.has(list[a]!.row)) continue;
			// Picked intervals that touch go as one.
			let b = a;
			while (b + 1 < list.length && picked.has(list[b + 1]!.row) && list[b + 1]!.from - list[b]!.to < SAME) b++;
			const group = list.slice(a, b + 1);
			const [top, base] = [group[0]!.from, group[group.length - 1]!.to];
			const above = a > 0 && top - list[a - 1]!.to < SAME ? list[a - 1]! : null;
			const below = b + 1 < list.length && list[b + 1]!.from - base < SAME ? list[b + 1]! : null;
			const to = choose(into, group, above, below, rank);
			if (!to) for (const g of group) change.left.push({ row: g.row, why: 'no other interval borders on it' });
			else {
				change.cells.push(to === above ? { row: to.row, role: 'to', value: base } : { row: to.row, role: 'from', value: top });
				change.excluded.push(...group.map((g) => g.row));
				// What grew may take in the next one, too.
				if (to === above) to.to = base;
				else to.from = top;
			}
			a = b;
		}
	}
	// An interval that took in one on each side is written once for each end; of two writes to one end the last counts.
	const last = new Map(change.cells.map((c) => [`${c.row} ${c.role}`, c]));
	return { ...change, cells: [...last.values()] };
}

function choose(
	into: DissolveInto,
	group: readonly LogRow[],
	above: LogRow | null,
	below: LogRow | null,
	rank: (code: string) => number | null
): LogRow | null {
	if (!above || !below) return above ?? below;
	if (into === 'above') return above;
	if (into === 'below') return below;
	const thicker = above.to - above.from >= below.to - below.from ? above : below;
	if (into === 'thicker') return thicker;
	const own = rank(group[0]!.code);
	const away = (r: LogRow) => {
		const k = rank(r.code);
		return own === null || k === null ? Infinity : Math.abs(k - own);
	};
	const [x, y] = [away(above), away(below)];
	return x === y ? thicker : x < y ? above : below;
}

/** A rule by which intervals are picked. */
export type PickRule =
	/** Thinner than a length, and, if wanted, between two intervals of one code or unit. */
	| { by: 'thin'; thinner: number; between: 'any' | 'same' }
	/** Above the first, or below the last, interval of a unit or code in each hole. */
	| { by: 'beside'; of: string; side: 'above' | 'below' }
	/** Wholly within a range of depth. */
	| { by: 'depth'; from: number; to: number }
	/** Whose code is one of some. */
	| { by: 'codes'; codes: readonly string[] };

/**
 * Rows that a rule picks, in the order of holes and depths.
 * @param nameOf what a code is called for `between` and `of`: its unit, or itself
 */
export function pickRows(log: Log, rule: PickRule, nameOf: (code: string) => string): number[] {
	const rows: number[] = [];
	const wanted = new Set(rule.by === 'codes' ? rule.codes : []);
	for (const hole of log.holes) {
		const list = log.of(hole);
		const is = (r: LogRow) => rule.by === 'beside' && (r.code === rule.of || nameOf(r.code) === rule.of);
		const limit = rule.by === 'beside' ? (rule.side === 'above' ? list.findIndex(is) : list.findLastIndex(is)) : -1;
		list.forEach((r, k) => {
			const fits =
				rule.by === 'thin'
					? r.to - r.from < rule.thinner - SAME && (rule.between === 'any' || isBetweenSame(list, k, nameOf))
					: rule.by === 'beside'
						? limit >= 0 && (rule.side === 'above' ? k < limit : k > limit)
						: rule.by === 'depth'
							? r.from >= rule.from - SAME && r.to <= rule.to + SAME
							: wanted.has(r.code);
			if (fits) rows.push(r.row);
		});
	}
	return rows;
}

function isBetweenSame(list: readonly LogRow[], k: number, nameOf: (code: string) => string): boolean {
	const [above, own, below] = [list[k - 1], list[k]!, list[k + 1]];
	return (
		above !== undefined &&
		below !== undefined &&
		own.from - above.to < SAME &&
		below.from - own.to < SAME &&
		nameOf(above.code) === nameOf(below.code) &&
		nameOf(own.code) !== nameOf(above.code)
	);
}

/** What some intervals hold together. */
interface PickedSum {
	rows: number;
	holes: number;
	/** Project units of length. */
	length: number;
	codes: { code: string; count: number; length: number }[];
}

export function sumOf(log: Log, rows: readonly number[]): PickedSum {
	const { from, to } = log.table.numbers;
	const codes = new Map<string, { count: number; length: number }>();
	let [count, length] = [0, 0];
	const byHole = log.picked(rows);
	for (const own of byHole.values())
		for (const r of own) {
			const l = to![r]! - from![r]!;
			const code = log.table.text['code']![r]!;
			const known = codes.get(code);
			if (known) {
				known.count++;
				known.length += l;
			} else codes.set(code, { count: 1, length: l });
			count++;
			length += l;
		}
	return {
		rows: count,
		holes: byHole.size,
		length,
		codes: [...codes].map(([code, c]) => ({ code, ...c })).sort((a, b) => b.length - a.length || (a.code < b.code ? -1 : 1))
	};
}

/** A stretch of a hole in which two logs say something else. */
export interface Difference {
	hole: string;
	from: number;
	to: number;
	a: string;
	b: string;
}

/**
 * Where two logs of the same holes say something else, from the top down; what only one of them has is compared with nothing.
 * @param nameOf what counts as the same: units, or codes themselves
 */
export function differences(a: Log, b: Log, nameOf: (code: string) => string): { list: Difference[]; length: number; compared: number } {
	const list: Difference[] = [];
	let [length, compared] = [0, 0];
	for (const hole of a.holes) {
		const [left, right] = [a.of(hole), b.of(hole)];
		if (right.length === 0) continue;
		const depths = [...new Set([...left, ...right].flatMap((r) => [r.from, r.to]))].sort((x, y) => x - y);
		let [i, k] = [0, 0];
		for (let n = 1; n < depths.length; n++) {
			const [from, to] = [depths[n - 1]!, depths[n]!];
			if (to - from < SAME) continue;
			const middle = (from + to) / 2;
			while (i < left.length && left[i]!.to <= middle) i++;
			while (k < right.length && right[k]!.to <= middle) k++;
			const x = left[i] && left[i]!.from <= middle ? left[i]!.code : null;
			const y = right[k] && right[k]!.from <= middle ? right[k]!.code : null;
			if (x === null && y === null) continue;
			compared += to - from;
			if (x !== null && y !== null && nameOf(x) === nameOf(y)) continue;
			length += to - from;
			const last = list[list.length - 1];
			if (last && last.hole === hole && last.to === from && last.a === (x ?? '') && last.b === (y ?? '')) last.to = to;
			else list.push({ hole, from, to, a: x ?? '', b: y ?? '' });
		}
	}
	return { list, length, compared };
}

/** One code of a log with all that says where in the ground it is. */
export interface CodeOfLog {
	code: string;
	count: number;
	holes: number;
	length: number;
	/** Least and greatest depth. */
	from: number;
	to: number;
	/** The first words of what loggers said of it, the most frequent. */
	words: string;
}

/** The codes of a log, the longest first. */
export function codesOf(log: Log): CodeOfLog[] {
	const { from, to } = log.table.numbers;
	const said = log.table.text['description'];
	const codes = new Map<string, CodeOfLog & { in: Set<string>; said: Map<string, number> }>();
	for (const hole of log.holes)
		for (const r of log.of(hole)) {
			let c = codes.get(r.code);
			if (!c)
				codes.set(
					r.code,
					(c = { code: r.code, count: 0, holes: 0, length: 0, from: Infinity, to: -Infinity, words: '', in: new Set(), said: new Map() })
				);
			c.count++;
			c.length += to![r.row]! - from![r.row]!;
			c.from = Math.min(c.from, r.from);
			c.to = Math.max(c.to, r.to);
			c.in.add(hole);
			const words = said?.[r.row]?.trim().split(/\s+/).slice(0, 5).join(' ') ?? '';
			if (words) c.said.set(words, (c.said.get(words) ?? 0) + 1);
		}
	return [...codes.values()]
		.map(({ in: holes, said: heard, ...c }) => ({
			...c,
			holes: holes.size,
			words: [...heard].sort((x, y) => y[1] - x[1] || (x[0] < y[0] ? -1 : 1))[0]?.[0] ?? ''
		}))
		.sort((x, y) => y.length - x.length || (x.code < y.code ? -1 : 1));
}
