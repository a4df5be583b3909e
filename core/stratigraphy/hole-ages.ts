import * as yup from 'yup';
import { numberOf, columnOf, NO_CLASS, type DataSet } from '../datasets/dataset';
import type { LogData } from '../logs/log-parts';
import { rowsOf } from '../logs/log-parts';
import { ProblemError, type Problem } from '../problem';
import { ageCurve, datedBoundaries, type AgeCurve, type DatedDepth } from './age-curve';
import type { LoggedRun } from './runs';
import type { Scheme } from '../units/scheme';

/** Columns of a table that date depths: an age with its error, or the ages between which it lies. */
export interface DateSource {
	table: string;
	age?: string | undefined;
	error?: string | undefined;
	low?: string | undefined;
	high?: string | undefined;
}

/** What ages of holes come from: a scheme, whose units are those of the log, and tables of dates. */
export interface AgeSources {
	/** Id of the scheme; empty for none. */
	scheme: string;
	dates: DateSource[];
}

const column = () => yup.string().max(500);
export const ageSourcesSchema = yup
	.object({
		scheme: yup.string().max(60).defined(),
		dates: yup
			.array(
				yup
					.object({ table: yup.string().max(500).required(), age: column(), error: column(), low: column(), high: column() })
					.noUnknown()
					.test('dates', 'needs a column with ages, or two that lie about them', (d) => Boolean(d.age || (d.low && d.high)))
					.required()
			)
			.max(20)
			.required()
	})
	.noUnknown();

/** An age without a stated error is taken to be good to this share of itself. */
const PLAIN_ERROR = 0.02;
const DRAWS = 600;

/** What one row of a table says of an age: its own with an error, else two that it lies between. Ages that are missing or below 0 say nothing. */
export function datedRow(depth: number, name: string, v: { age: number; error: number; low: number; high: number }): DatedDepth[] {
	if (v.age >= 0) return [{ depth, age: v.age, error: v.error > 0 ? v.error : Math.max(1e-3, PLAIN_ERROR * v.age), from: 'sample', name }];
	const [young, old] = [Math.min(v.low, v.high), Math.max(v.low, v.high)];
	return young >= 0 && old > young ? [{ depth, age: (young + old) / 2, error: Infinity, low: young, high: old, from: 'zone', name }] : [];
}

/** The dated depths of a hole in a table. */
function datesOf(data: LogData, source: DateSource, hole: number): DatedDepth[] {
	const set = data.set(source.table);
	if (!set || set.place === 'map' || set.place === 'hole') return [];
	const of = (key: string | undefined) => (key ? (numberOf(set, key)?.values ?? null) : null);
	const [age, error, low, high] = [of(source.age), of(source.error), of(source.low), of(source.high)];
	const name = namer(set);
	const at = (values: ArrayLike<number> | null, i: number) => values?.[i] ?? NaN;
	return Array.from(rowsOf(data, set, hole)).flatMap((i) =>
		datedRow(set.from[i]!, name(i), { age: at(age, i), error: at(error, i), low: at(low, i), high: at(high, i) })
	);
}

/** What a row is called: the first column of classes that says anything. */
function namer(set: DataSet): (row: number) => string {
	const columns = set.columns.flatMap((c) => (c.type === 'category' ? [columnOf(set, c.key)] : []));
	return (row) => {
		for (const c of [...columns].reverse()) if (c?.type === 'category' && c.values[row] !== NO_CLASS) return c.categories[c.values[row]!]!;
		return set.name;
	};
}

/** The age–depth curve of a hole, or why it has none. @param scheme of the log's units, when there is one */
export function holeAges(
	data: LogData,
	sources: AgeSources,
	scheme: Scheme | null,
	hole: { number: number; name: string },
	runs: readonly LoggedRun[],
	draws = DRAWS
): { curve: AgeCurve; problem: null } | { curve: null; problem: Problem } {
	return curveOrWhyNot(
		hole.name,
		scheme,
		runs,
		sources.dates.flatMap((d) => datesOf(data, d, hole.number)),
		draws
	);
}

/** The curve of a hole from what its log and its dates say, or why it has none. @param scheme of the log's units, when there is one */
export function curveOrWhyNot(
	hole: string,
	scheme: Scheme | null,
	runs: readonly LoggedRun[],
	dates: readonly DatedDepth[],
	draws = DRAWS
): { curve: AgeCurve; problem: null } | { curve: null; problem: Problem } {
	try {
		return { curve: ageCurve(hole, [...(scheme ? datedBoundaries(scheme, runs) : []), ...dates], draws), problem: null };
	} catch (error) {
		if (error instanceof ProblemError) return { curve: null, problem: error.problem };
		throw error;
	}
}
