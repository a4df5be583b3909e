import jsep from 'jsep';
import { fail } from '../problem';
import { combine, conversion, dimensionless, formatUnit, parseUnit, power, sameDimension, type Unit } from './units';

/**
 * Expressions over the columns of a table, for filters and calculated columns. The syntax is that of arithmetic in most programming
 * languages: numbers, 'text', column names (in `[square brackets]` where they are no plain words), + − * / % **, comparisons
 * (= or ==, !=, <, <=, >, >=), and, or, not, and the functions below. Empty cells give no value, and so does anything made of them.
 */
jsep.addBinaryOp('and', 2);
jsep.addBinaryOp('or', 1);
jsep.addBinaryOp('=', 6);
jsep.addBinaryOp('**', 11, true);
jsep.addBinaryOp('^', 11, true);
jsep.addUnaryOp('not');

/** A column that an expression can use. */
export type Source = { type: 'number'; values: ArrayLike<number>; unit: string } | { type: 'text'; values: ArrayLike<string> };

/** What an expression gives for each row. */
export type Result =
	{ type: 'number'; values: Float64Array; unit: string } | { type: 'text'; values: string[] } | { type: 'boolean'; values: Uint8Array };

type Value =
	| { type: 'number'; at: (row: number) => number; unit: Unit | null }
	| { type: 'text'; at: (row: number) => string }
	| { type: 'boolean'; at: (row: number) => boolean };

/** Functions of numbers; those marked `plain` need a number without unit. */
const FUNCTIONS: Record<string, { count: [number, number]; run: (...v: number[]) => number; plain?: true; unit?: (u: Unit) => Unit }> = {
	abs: { count: [1, 1], run: Math.abs },
	min: { count: [1, 20], run: (...v) => v.reduce((a, b) => (a < b ? a : b)) },
	max: { count: [1, 20], run: (...v) => v.reduce((a, b) => (a > b ? a : b)) },
	round: { count: [1, 1], run: Math.round },
	floor: { count: [1, 1], run: Math.floor },
	ceil: { count: [1, 1], run: Math.ceil },
	sqrt: { count: [1, 1], run: Math.sqrt, unit: (u) => power(u, 0.5) },
	log: { count: [1, 1], run: Math.log, plain: true },
	log10: { count: [1, 1], run: Math.log10, plain: true },
	exp: { count: [1, 1], run: Math.exp, plain: true },
	sin: { count: [1, 1], run: Math.sin, plain: true },
	cos: { count: [1, 1], run: Math.cos, plain: true },
	tan: { count: [1, 1], run: Math.tan, plain: true },
	atan2: { count: [2, 2], run: Math.atan2 }
};

const FUNCTION_NAMES: readonly string[] = [...Object.keys(FUNCTIONS), 'if', 'contains', 'starts', 'empty', 'value', 'unit'];

const LONGEST = 2000;
const DEEPEST = 60;
/** Most characters of a cell, and of all cells of a column. */
const LONGEST_TEXT = 10_000;
const MOST_CHARACTERS = 100_000_000;

/** A text that grew by joining; columns that double each other's texts would fill memory in a few steps. */
const bounded = (text: string): string =>
	text.length > LONGEST_TEXT
		? fail('too-much-text', `the expression makes a text of more than ${LONGEST_TEXT.toLocaleString('en')} characters`, 'Join fewer texts.')
		: text;

/** A compiled expression. */
interface Compiled {
	/** Names of the columns that it uses. */
	columns: string[];
	run: (sources: Readonly<Record<string, Source>>, rowCount: number) => Result;
}

/** Functions of all values of a column at once, with plain numbers behind them: filters of grids, for example. */
export type WholeFunctions = Readonly<
	Record<string, { count: [number, number]; run: (values: Float64Array, ...more: number[]) => Float64Array }>
>;

/**
 * @param wholes further functions that it may call
 * @throws ProblemError `bad-expression` with the place of the error
 */
export function compile(text: string, wholes: WholeFunctions = {}): Compiled {
	if (text.length > LONGEST)
		fail('bad-expression', `the expression is longer than ${LONGEST} characters`, 'Split it over several columns.');
	const quoted: string[] = [];
	// Names in brackets become plain words, so that any header can be used.
	const plain = text.replace(/'[^']*'|"[^"]*"|\[([^\]]+)\]/g, (whole, name: string | undefined) =>
		name === undefined ? whole : `__column_${quoted.push(name) - 1}__`
	);
	let tree: jsep.Expression;
	try {
		tree = jsep(plain);
	} catch (error) {
		const { index, description } = error as { index?: number; description?: string };
		return fail(
			'bad-expression',
			`the expression can not be read${index === undefined ? '' : ` at character ${index + 1}`}: ${description ?? (error as Error).message}`,
			"For example: Cu_pct > 0.5 and Lithology = 'Granite'. Names with spaces stand in [brackets]."
		);
	}
	const nameOf = (n: string) => {
		const m = /^__column_(\d+)__$/.exec(n);
		return m ? quoted[Number(m[1])]! : n;
	};
	const columns = new Set<string>();
	let rows = 0;
	collect(tree, 0);
	return {
		columns: [...columns],
		run: (sources, rowCount) => {
			rows = rowCount;
			const v = evaluate(tree, sources);
			if (v.type === 'number')
				return {
					type: 'number',
					values: Float64Array.from({ length: rowCount }, (_, r) => v.at(r)),
					unit: v.unit ? formatUnit(v.unit) : ''
				};
			if (v.type === 'text') {
				let total = 0;
				const values = Array.from({ length: rowCount }, (_, r) => {
					const text = v.at(r);
					total += text.length;
					if (total > MOST_CHARACTERS)
						fail(
							'too-much-text',
							`the expression makes more than ${MOST_CHARACTERS / 1e6} million characters`,
							'Make shorter texts, or fewer.'
						);
					return text;
				});
				return { type: 'text', values };
			}
			return { type: 'boolean', values: Uint8Array.from({ length: rowCount }, (_, r) => Number(v.at(r))) };
		}
	};

	function collect(e: jsep.Expression, depth: number): void {
		if (depth > DEEPEST) fail('bad-expression', 'the expression is nested too deep', 'Split it over several columns.');
		switch (e.type) {
			case 'Literal':
				return;
			case 'Identifier':
				if (!['true', 'false'].includes(String(e['name']))) columns.add(nameOf(String(e['name'])));
				return;
			case 'UnaryExpression':
				return collect(e['argument'] as jsep.Expression, depth + 1);
			case 'BinaryExpression':
				collect(e['left'] as jsep.Expression, depth + 1);
				return collect(e['right'] as jsep.Expression, depth + 1);
			case 'ConditionalExpression':
				for (const part of ['test', 'consequent', 'alternate']) collect(e[part] as jsep.Expression, depth + 1);
				return;
			case 'CallExpression': {
				const name = (e['callee'] as jsep.Expression)['name'];
				if (typeof name !== 'string' || !(FUNCTION_NAMES.includes(name) || Object.hasOwn(wholes, name)))
					fail(
						'bad-expression',
						`there is no function ${typeof name === 'string' ? `"${name}"` : 'of that kind'}`,
						`There are: ${[...FUNCTION_NAMES, ...Object.keys(wholes)].join(', ')}.`
					);
				for (const a of e['arguments'] as jsep.Expression[]) collect(a, depth + 1);
				return;
			}
			default:
				fail(
					'bad-expression',
					e.type === 'Compound'
						? 'there is more than one expression: an operator is missing'
						: 'the expression has a part that has no meaning here',
					`Columns, numbers, 'text', + - * / % **, comparisons, and, or, not, and ${FUNCTION_NAMES.join(', ')}.`
				);
		}
	}

	function evaluate(e: jsep.Expression, sources: Readonly<Record<string, Source>>): Value {
		switch (e.type) {
			case 'Literal':
				return literal(e['value']);
			case 'Identifier': {
				const name = nameOf(String(e['name']));
				if (name === 'true' || name === 'false') return { type: 'boolean', at: () => name === 'true' };
				const s = Object.hasOwn(sources, name)
					? sources[name]!
					: fail(
							'unknown-column',
							`there is no column "${name}"`,
							`The columns are: ${Object.keys(sources).join(', ')}. Text stands in 'quotes'.`
						);
				if (s.type === 'text') return { type: 'text', at: (r) => s.values[r]! };
				return { type: 'number', at: (r) => s.values[r]!, unit: parseUnit(s.unit) };
			}
			case 'UnaryExpression': {
				const v = evaluate(e['argument'] as jsep.Expression, sources);
				if (e['operator'] === '-' || e['operator'] === '+') {
					const n = number(v, String(e['operator']));
					return e['operator'] === '-' ? { ...n, at: (r) => -n.at(r) } : n;
				}
				const b = boolean(v, 'not');
				return { type: 'boolean', at: (r) => !b.at(r) };
			}
			case 'ConditionalExpression':
				return choose(
					evaluate(e['test'] as jsep.Expression, sources),
					evaluate(e['consequent'] as jsep.Expression, sources),
					evaluate(e['alternate'] as jsep.Expression, sources)
				);
			case 'CallExpression': {
				const name = String((e['callee'] as jsep.Expression)['name']);
				const given = (e['arguments'] as jsep.Expression[]).map((a) => evaluate(a, sources));
				return Object.hasOwn(wholes, name) ? ofWhole(name, wholes[name]!, given, rows) : call(name, given);
			}
			default:
				return binary(
					String(e['operator']),
					evaluate(e['left'] as jsep.Expression, sources),
					evaluate(e['right'] as jsep.Expression, sources)
				);
		}
	}
}

/** Calls a function of a whole column; what follows the column are numbers that do not change from row to row. */
function ofWhole(name: string, { count, run }: WholeFunctions[string], given: readonly Value[], rows: number): Value {
	if (given.length < count[0] || given.length > count[1])
		fail('bad-expression', `${name} takes ${count[0] === count[1] ? count[0] : `${count[0]} to ${count[1]}`} values, not ${given.length}`);
	const [values, ...more] = given.map((v) => number(v, name));
	const out = run(
		Float64Array.from({ length: rows }, (_, r) => values!.at(r)),
		...more.map((v) => v.at(0))
	);
	return { type: 'number', unit: null, at: (r) => out[r]! };
}

function literal(value: unknown): Value {
	if (typeof value === 'number') return { type: 'number', at: () => value, unit: null };
	if (typeof value === 'string') return { type: 'text', at: () => value };
	if (typeof value === 'boolean') return { type: 'boolean', at: () => value };
	return fail('bad-expression', 'a value is neither number nor text');
}

const KIND = { number: 'a number', text: 'text', boolean: 'a yes or no' };
const wanted = (v: Value, type: keyof typeof KIND, what: string): never =>
	fail('bad-expression', `${what} needs ${KIND[type]}, not ${KIND[v.type]}`);
const number = (v: Value, what: string): Extract<Value, { type: 'number' }> => (v.type === 'number' ? v : wanted(v, 'number', what));
const boolean = (v: Value, what: string): Extract<Value, { type: 'boolean' }> => (v.type === 'boolean' ? v : wanted(v, 'boolean', what));
const textOf = (v: Value, what: string): Extract<Value, { type: 'text' }> => (v.type === 'text' ? v : wanted(v, 'text', what));

/** Two numbers in one unit: a bare number takes the unit of the other. @throws ProblemError `units-differ` */
function alike(
	a: Extract<Value, { type: 'number' }>,
	b: Extract<Value, { type: 'number' }>,
	what: string
): { unit: Unit | null; factor: number } {
	if (a.unit === null || b.unit === null) return { unit: a.unit ?? b.unit, factor: 1 };
	if (!sameDimension(a.unit, b.unit))
		fail(
			'units-differ',
			`${what} puts ${formatUnit(a.unit) || 'a plain number'} and ${formatUnit(b.unit) || 'a plain number'} together`,
			'Bring them to one kind of unit first; value(column) takes the number without its unit.'
		);
	return { unit: a.unit, factor: conversion(b.unit, a.unit) };
}

function binary(operator: string, a: Value, b: Value): Value {
	switch (operator) {
		case 'and':
		case '&&':
		case 'or':
		case '||': {
			const [p, q] = [boolean(a, operator), boolean(b, operator)];
			return { type: 'boolean', at: operator === 'and' || operator === '&&' ? (r) => p.at(r) && q.at(r) : (r) => p.at(r) || q.at(r) };
		}
		case '=':
		case '==':
		case '===':
		case '!=':
		case '!==': {
			const same = operator[0] === '=';
			if (a.type === 'text' && b.type === 'text') return { type: 'boolean', at: (r) => (a.at(r) === b.at(r)) === same };
			if (a.type === 'boolean' && b.type === 'boolean') return { type: 'boolean', at: (r) => (a.at(r) === b.at(r)) === same };
			const [p, q] = [number(a, operator), number(b, operator)];
			const { factor } = alike(p, q, operator);
			// No value equals nothing and differs from nothing.
			return {
				type: 'boolean',
				at: (r) => {
					const [x, y] = [p.at(r), q.at(r) * factor];
					return x === x && y === y && (x === y) === same;
				}
			};
		}
		case '<':
		case '<=':
		case '>':
		case '>=': {
			const [p, q] = [number(a, operator), number(b, operator)];
			const { factor } = alike(p, q, operator);
			const test = {
				'<': (x: number, y: number) => x < y,
				'<=': (x: number, y: number) => x <= y,
				'>': (x: number, y: number) => x > y,
				'>=': (x: number, y: number) => x >= y
			}[operator];
			return { type: 'boolean', at: (r) => test(p.at(r), q.at(r) * factor) };
		}
		case '+':
		case '-':
		case '%': {
			if (operator === '+' && a.type === 'text' && b.type === 'text') return { type: 'text', at: (r) => bounded(a.at(r) + b.at(r)) };
			const [p, q] = [number(a, operator), number(b, operator)];
			const { unit, factor } = alike(p, q, operator);
			const run = { '+': (x: number, y: number) => x + y, '-': (x: number, y: number) => x - y, '%': (x: number, y: number) => x % y }[
				operator
			];
			return { type: 'number', unit, at: (r) => run(p.at(r), q.at(r) * factor) };
		}
		case '*':
		case '/': {
			const [p, q] = [number(a, operator), number(b, operator)];
			const unit =
				p.unit === null && q.unit === null ? null : combine(p.unit ?? dimensionless, q.unit ?? dimensionless, operator === '*' ? 1 : -1);
			return { type: 'number', unit, at: operator === '*' ? (r) => p.at(r) * q.at(r) : (r) => p.at(r) / q.at(r) };
		}
		case '**':
		case '^': {
			const [p, q] = [number(a, operator), number(b, operator)];
			if (p.unit === null) return { type: 'number', unit: null, at: (r) => p.at(r) ** q.at(r) };
			const n = q.at(0);
			return { type: 'number', unit: power(p.unit, n), at: (r) => p.at(r) ** q.at(r) };
		}
		default:
			return fail('bad-expression', `the operator ${operator} has no meaning here`);
	}
}

function choose(test: Value, yes: Value, no: Value): Value {
	const t = boolean(test, 'if');
	if (yes.type === 'number' && no.type === 'number') {
		const { unit, factor } = alike(yes, no, 'if');
		return { type: 'number', unit, at: (r) => (t.at(r) ? yes.at(r) : no.at(r) * factor) };
	}
	if (yes.type === 'text' && no.type === 'text') return { type: 'text', at: (r) => (t.at(r) ? yes.at(r) : no.at(r)) };
	if (yes.type === 'boolean' && no.type === 'boolean') return { type: 'boolean', at: (r) => (t.at(r) ? yes.at(r) : no.at(r)) };
	return fail('bad-expression', `if gives ${KIND[yes.type]} or ${KIND[no.type]}: both must be of one kind`);
}

function call(name: string, values: Value[]): Value {
	const given = (low: number, high = low) => {
		if (values.length < low || values.length > high)
			fail('bad-expression', `${name} takes ${low === high ? low : `${low} to ${high}`} values, not ${values.length}`);
	};
	switch (name) {
		case 'if':
			given(3);
			return choose(values[0]!, values[1]!, values[2]!);
		case 'contains':
		case 'starts': {
			given(2);
			const [a, b] = [textOf(values[0]!, name), textOf(values[1]!, name)];
			return {
				type: 'boolean',
				at:
					name === 'contains'
						? (r) => a.at(r).toLowerCase().includes(b.at(r).toLowerCase())
						: (r) => a.at(r).toLowerCase().startsWith(b.at(r).toLowerCase())
			};
		}
		case 'empty': {
			given(1);
			const v = values[0]!;
			return {
				type: 'boolean',
				at: v.type === 'number' ? (r) => Number.isNaN(v.at(r)) : v.type === 'text' ? (r) => v.at(r) === '' : () => false
			};
		}
		case 'value': {
			given(1);
			return { ...number(values[0]!, name), unit: null };
		}
		case 'unit': {
			given(2);
			const v = number(values[0]!, name);
			const to = parseUnit(textOf(values[1]!, name).at(0)) ?? dimensionless;
			const factor =
				v.unit === null
					? 1
					: sameDimension(v.unit, to)
						? conversion(v.unit, to)
						: fail('units-differ', `${formatUnit(v.unit)} can not be brought to ${formatUnit(to)}`);
			return { type: 'number', unit: to, at: (r) => v.at(r) * factor };
		}
		default: {
			const f = FUNCTIONS[name]!;
			given(...f.count);
			const list = values.map((v) => number(v, name));
			if (f.plain)
				for (const v of list)
					if (v.unit && !sameDimension(v.unit, dimensionless))
						fail(
							'units-differ',
							`${name} needs a plain number, not ${formatUnit(v.unit)}`,
							'Divide by a value of the same unit, or use value(column).'
						);
			const factors = list.map((v, i) => (i === 0 ? 1 : alike(list[0]!, v, name).factor));
			const unit = name === 'atan2' ? null : (list.find((v) => v.unit)?.unit ?? null);
			return {
				type: 'number',
				unit: f.plain ? null : unit && f.unit ? f.unit(unit) : unit,
				at: (r) => f.run(...list.map((v, i) => v.at(r) * factors[i]!))
			};
		}
	}
}
