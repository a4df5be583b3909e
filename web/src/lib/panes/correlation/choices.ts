import type { DataSet } from '#core/datasets/dataset';
import type { DateSource } from '#core/stratigraphy/hole-ages';
import type { Tie, TieEnd } from '#core/stratigraphy/ties';

/** A log that can be correlated: a column of classes along holes. */
export interface LogOption {
	key: string;
	table: string;
	column: string;
	name: string;
}

const MOST_CLASSES = 300;

/** Columns of classes along holes, units first, of the table that is shown before all others. */
export function logOptions(sets: readonly DataSet[], shown: string | null): LogOption[] {
	const rank = (key: string) => (key === 'unit' ? 0 : key === 'code' ? 1 : 2);
	return sets
		.filter((s) => s.place === 'interval')
		.sort((a, b) => Number(b.id === shown) - Number(a.id === shown))
		.flatMap((s) =>
			s.columns
				.filter((c) => c.type === 'category' && c.categories.length > 0 && c.categories.length <= MOST_CLASSES && c.key !== 'sample')
				.sort((a, b) => rank(a.key) - rank(b.key))
				.map((c) => ({ key: `${s.id} ${c.key}`, table: s.id, column: c.key, name: `${s.name}: ${c.label}` }))
		);
}

/** Columns of numbers along holes, for curves. */
export const curveOptions = (sets: readonly DataSet[]): LogOption[] =>
	sets
		.filter((s) => s.place === 'interval' || s.place === 'depth')
		.flatMap((s) =>
			s.columns
				.filter((c) => c.type === 'number' && !/^age|_age/i.test(c.key))
				.map((c) => ({ key: `${s.id} ${c.key}`, table: s.id, column: c.key, name: `${s.name}: ${c.label}` }))
		);

/** Tables that look as if they dated depths: a column of ages, or two that ages lie between. */
export function proposeDates(sets: readonly DataSet[]): DateSource[] {
	return sets
		.filter((s) => s.place === 'interval' || s.place === 'depth')
		.flatMap((s): DateSource[] => {
			const ages = s.columns.filter((c) => c.type === 'number' && /age/i.test(c.label)).map((c) => c.key);
			const find = (what: RegExp) => ages.find((k) => what.test(k));
			const error = find(/err|sd|sigma|unc|±/i);
			const [low, high] = [find(/from|young|min|low/i), find(/to(_|$)|old|max|high/i)];
			const age = ages.find((k) => k !== error && k !== low && k !== high) ?? ages.find((k) => k !== error && /top/i.test(k));
			if (age) return [{ table: s.id, age, ...(error ? { error } : {}) }];
			return low && high ? [{ table: s.id, low, high }] : [];
		});
}

/** A tie between two places, with an id that no other has; the left one stands first. */
export function newTie(ties: readonly Pick<Tie, 'id'>[], a: TieEnd, b: TieEnd, name: string): Tie {
	const ids = new Set(ties.map((t) => t.id));
	let n = ties.length + 1;
	while (ids.has(`tie-${n}`)) n++;
	const round = (e: TieEnd) => ({ hole: e.hole, depth: Math.round(e.depth * 1000) / 1000 });
	return { id: `tie-${n}`, name, kind: 'certain', a: round(a), b: round(b) };
}

/** Ties of which an end lay on a boundary, when that goes to another depth. */
export const withMovedEnds = (ties: readonly Tie[], hole: string, from: number, to: number): Tie[] =>
	ties.map((t) => {
		const move = (e: TieEnd): TieEnd => (e.hole === hole && Math.abs(e.depth - from) < 2e-3 ? { hole, depth: to } : e);
		return { ...t, a: move(t.a), b: move(t.b) };
	});
