import * as yup from 'yup';
import { rowsWhere, type ReadingColumn, type Readings } from '../../datasets/readings';
import { compile, type Source } from '../../expressions/expression';
import { fail } from '../../problem';
import type { Lumping } from '../../units/column';
import { numbersIn, productOfReadings, readingsIn, textsIn } from '../opened';
import { columnPerhaps, oneOfWords, textOf } from '../parameters';
import { playing, recipe, theOne, type Given } from '../recipe';
import { perhapsOf, READINGS } from '../roles';
import { likelyColumn } from './gridded';

const GIVES = {
	mean: 'mean, weighted by length',
	least: 'least',
	greatest: 'greatest',
	sum: 'sum',
	first: 'first down the hole',
	last: 'last down the hole',
	top: 'elevation of the highest top',
	base: 'elevation of the lowest base',
	thickness: 'length of all together',
	count: 'how many'
} as const;

interface HoleValues {
	gives: keyof typeof GIVES;
	column: string;
	where: string;
}

/** One value for each hole: elevation of the top of a unit, thickness, mean of a grade. */
export const holeValues = recipe<HoleValues>({
	id: 'hole-values',
	title: 'Values by hole',
	about:
		"Places, one a hole: top, base or thickness of what is logged, mean or extreme of what was measured; of some rows only (unit = 'Fennick Sandstone').",
	version: 1,
	previews: true,
	form: 'places',
	roles: {
		readings: { ...READINGS, prefers: ['intervals', 'assays'] },
		log: perhapsOf({ ...READINGS, kinds: ['table'] }, 'Only within rows of'),
		model: { title: 'Units of', kinds: ['model'], part: 'lumping', least: 0, most: 1 }
	},
	parameters: yup
		.object({
			gives: oneOfWords('Gives', GIVES, 'mean'),
			column: columnPerhaps('readings', 'Column', ['number'], {
				when: { parameter: 'gives', is: ['mean', 'least', 'greatest', 'sum', 'first', 'last'] }
			}),
			where: textOf('Where', '', {
				expression: 'columns',
				help: "Over the columns; of a log with a model, unit is the name of the unit: unit = 'Dorrow Mudstone'."
			})
		})
		.noUnknown() as never,
	suggest(inputs) {
		const rows = theOne(inputs, 'readings').rows;
		const isLog = rows?.columns.some((c) => c.key === 'code') ?? false;
		return { gives: isLog ? 'top' : 'mean', column: isLog ? '' : likelyColumn(rows), where: '' };
	},
	refuse(_inputs, p) {
		if (['mean', 'least', 'greatest', 'sum', 'first', 'last'].includes(p.gives) && !p.column)
			fail('input-missing', `"${GIVES[p.gives]}" needs a column`, 'Choose one.', 'column');
	},
	run(inputs, p) {
		const given = theOne(inputs, 'readings');
		const model = playing(inputs, 'model')[0] ?? null;
		const log = playing(inputs, 'log')[0] ?? null;
		const whole = withUnitNames(readingsIn(given), model);
		const r = log ? whole : chosen(whole, p.where);
		const holes = textsIn(given, r, 'hole');
		const values = p.column ? numbersIn(given, r, p.column) : null;
		const [from, to] = ['from', 'to'].map((key) => r.columns.find((c) => c.key === key));
		const ends = (i: number): [number, number] =>
			from && to && from.type !== 'text' && to.type !== 'text' ? [from.values[i]!, to.values[i]!] : [depthOf(r, i), depthOf(r, i)];
		// Of a log, the parts of each hole that count.
		const within = log ? partsByHole(chosen(withUnitNames(readingsIn(log), model), p.where), log) : null;
		interface Sum {
			rows: number[];
			weights: number[];
		}
		const byHole = new Map<string, Sum>();
		for (let i = 0; i < r.rowCount; i++) {
			const [a, b] = ends(i);
			const length = b - a;
			let weight = Number.isFinite(length) && length > 0 ? length : 1;
			if (within) {
				const parts = within.get(holes[i]!) ?? [];
				const common =
					length > 0
						? parts.reduce((s, [c, d]) => s + Math.max(0, Math.min(b, d) - Math.max(a, c)), 0)
						: parts.some(([c, d]) => a >= c && a < d)
							? 1
							: 0;
				if (!(common > 0)) continue;
				weight = common;
			}
			if (values && Number.isNaN(values[i]!)) continue;
			const own = byHole.get(holes[i]!) ?? { rows: [], weights: [] };
			own.rows.push(i);
			own.weights.push(weight);
			byHole.set(holes[i]!, own);
		}
		if (byHole.size === 0)
			fail(
				'no-readings',
				'no row counts',
				p.where ? 'Is the condition right? Text stands in quotes, as it is written in the table.' : 'Choose another column.',
				'where'
			);
		const end = (key: 'top' | 'base', i: number) => {
			const c = r.columns.find((x) => x.key === key);
			return c && c.type !== 'text' ? c.values[i]! : r.z[i]!;
		};
		const results = [...byHole].map(([hole, { rows, weights }]) => {
			const order = rows.map((i, k) => [i, weights[k]!] as const).sort((x, y) => ends(x[0])[0] - ends(y[0])[0]);
			const list = order.map(([i, w]) => ({ i, w, v: values ? values[i]! : NaN }));
			const sum = list.reduce((s, x) => s + x.w, 0);
			const best = (sign: number) => list.reduce((a, x) => (sign * x.v > sign * a.v ? x : a));
			const highest = list.reduce((a, x) => (end('top', x.i) > end('top', a.i) ? x : a));
			const lowest = list.reduce((a, x) => (end('base', x.i) < end('base', a.i) ? x : a));
			const of: Record<HoleValues['gives'], () => { value: number; at: number }> = {
				mean: () => ({ value: list.reduce((s, x) => s + x.w * x.v, 0) / sum, at: list[0]!.i }),
				least: () => ({ value: best(-1).v, at: best(-1).i }),
				greatest: () => ({ value: best(1).v, at: best(1).i }),
				sum: () => ({ value: list.reduce((s, x) => s + x.v, 0), at: list[0]!.i }),
				first: () => ({ value: list[0]!.v, at: list[0]!.i }),
				last: () => ({ value: list[list.length - 1]!.v, at: list[list.length - 1]!.i }),
				top: () => ({ value: end('top', highest.i), at: highest.i }),
				base: () => ({ value: end('base', lowest.i), at: lowest.i }),
				thickness: () => ({ value: sum, at: list[0]!.i }),
				count: () => ({ value: list.length, at: list[0]!.i })
			};
			return { hole, ...of[p.gives](), rows: list.length, length: sum };
		});
		const number = (key: string, label: string, f: (x: (typeof results)[number]) => number): ReadingColumn => ({
			key,
			label,
			type: 'number',
			unit: '',
			values: Float64Array.from(results, f)
		});
		return productOfReadings(
			{
				rowCount: results.length,
				row: Uint32Array.from(results, (x) => r.row[x.at]!),
				x: Float64Array.from(results, (x) => r.x[x.at]!),
				y: Float64Array.from(results, (x) => r.y[x.at]!),
				z: Float64Array.from(results, (x) => (p.gives === 'top' || p.gives === 'base' ? x.value : r.z[x.at]!)),
				columns: [
					{ key: 'hole', label: 'Hole', type: 'text', values: results.map((x) => x.hole) },
					number('value', GIVES[p.gives], (x) => x.value),
					number('rows', 'Rows', (x) => x.rows),
					number('length', 'Length', (x) => x.length)
				]
			},
			{
				holes: results.length,
				words: `${GIVES[p.gives]}${p.column ? ` of "${p.column}"` : ''} of ${given.name}${p.where ? `, where ${p.where}${log ? ` in ${log.name}` : ''}` : ''}, by hole.`
			}
		);
	}
});

const depthOf = (r: Readings, i: number): number => {
	const c = r.columns.find((x) => x.key === 'depth');
	return c && c.type !== 'text' ? c.values[i]! : NaN;
};

/** A log with one more column: the name of the unit of each code, by the lumping of a model. */
function withUnitNames(r: Readings, model: Given | null): Readings {
	const code = r.columns.find((c) => c.key === 'code');
	if (!model || code?.type !== 'text' || r.columns.some((c) => c.key === 'unit')) return r;
	const codes = (model.state['codes'] ?? {}) as Lumping;
	const names = new Map(model.units.map((u) => [u.id, u.name]));
	const nameOf = (c: string) => {
		const id = Object.hasOwn(codes, c) ? codes[c]! : '';
		return names.get(id) ?? id;
	};
	return { ...r, columns: [...r.columns, { key: 'unit', label: 'Unit', type: 'text', values: code.values.map(nameOf) }] };
}

/** The rows that a condition lets through. @throws ProblemError `bad-expression`, `unknown-column` */
export function chosen(r: Readings, where: string): Readings {
	if (!where) return r;
	const compiled = compile(where);
	const sources: Record<string, Source> = {};
	for (const c of r.columns) {
		const source: Source = c.type === 'text' ? { type: 'text', values: c.values } : { type: 'number', values: c.values, unit: c.unit };
		sources[c.key] = source;
		sources[c.label] ??= source;
	}
	const result = compiled.run(sources, r.rowCount);
	if (result.type !== 'boolean')
		return fail('bad-expression', 'the condition must be a yes or no', "For example: Cu_ppm > 50, or code = 'LST'", 'where');
	return rowsWhere(r, (i) => result.values[i] === 1);
}

/** From and to of the rows of a log, by hole. */
function partsByHole(r: Readings, given: Given): Map<string, [number, number][]> {
	const holes = textsIn(given, r, 'hole');
	const [from, to] = [numbersIn(given, r, 'from'), numbersIn(given, r, 'to')];
	const out = new Map<string, [number, number][]>();
	holes.forEach((h, i) => out.set(h, [...(out.get(h) ?? []), [from[i]!, to[i]!]]));
	return out;
}
