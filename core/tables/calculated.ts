import { compile, type Result, type Source } from '../expressions/expression';
import { fail, ProblemError } from '../problem';
import { roleOf, tableKind } from './kinds';
import type { Table } from './table';

/** A column that is worked out from others. */
export interface CalculatedColumn {
	name: string;
	/** See `expressions/expression.ts` for what it can be made of. */
	expression: string;
}

/** Unit of measure of a column: what its header states, or what stands in brackets or after the last underscore of its name. */
function unitOfHeader(header: string, stated?: string): string {
	if (stated) return stated;
	const brackets = /[[(]\s*([^\])]{1,12})\s*[\])]\s*$/.exec(header)?.[1];
	if (brackets) return brackets;
	return /_(ppm|ppb|pct|m|ft|cm|mm|deg|MPa|kPa)$/i.exec(header)?.[1]?.replace(/^pct$/i, '%') ?? '';
}

/** Unit of the numbers of a table by key, in the units of the project. */
export function unitOfColumn(
	table: Pick<Table, 'kind' | 'headers' | 'calculated'>,
	key: string,
	lengthUnit: string,
	stated: Readonly<Record<string, string>>
): string {
	const own = table.calculated?.[key];
	if (own) return own.unit;
	const role = tableKind(table.kind).roles.find((r) => r.key === key && !r.many);
	if (role?.unit === 'length' || ['from', 'to', 'depth', 'thickness'].includes(key)) return lengthUnit;
	if (role?.unit === 'angle' || key === 'dipAzimuth') return '°';
	const header = table.headers[key] ?? key;
	return unitOfHeader(header, stated[header]);
}

/** The columns of a table that expressions can use, by the name of their header; columns that follow from others by their key. */
export function sourcesOf(table: Table, lengthUnit: string, stated: Readonly<Record<string, string>>): Record<string, Source> {
	const sources: Record<string, Source> = {};
	for (const [key, values] of Object.entries(table.text)) sources[table.headers[key] ?? key] = { type: 'text', values };
	for (const [key, values] of Object.entries(table.numbers))
		sources[table.headers[key] ?? key] = {
			type: 'number',
			values,
			unit: roleOf(table.kind, key)?.type === 'date' ? 'd' : unitOfColumn(table, key, lengthUnit, stated)
		};
	return sources;
}

const MOST_CALCULATED = 50;

/**
 * Works out calculated columns beside the others of a table, which stays as it is.
 * @returns a table with these calculated columns only
 * @throws ProblemError when a name is taken or an expression can not be worked out on this table
 */
export function validateCalculated(
	table: Table,
	header: readonly string[],
	columns: readonly CalculatedColumn[],
	lengthUnit: string,
	stated: Readonly<Record<string, string>>
): Table {
	if (columns.length > MOST_CALCULATED) fail('too-many-columns', `a table can have at most ${MOST_CALCULATED} calculated columns`);
	const taken = new Set(header);
	for (const c of columns) {
		if (c.name.trim() === '') fail('no-name', 'a calculated column needs a name', undefined, 'name');
		if (taken.has(c.name)) fail('name-taken', `there is a column "${c.name}" already`, 'Choose another name.', 'name');
		taken.add(c.name);
	}
	const plain: Table = { ...table, text: { ...table.text }, numbers: { ...table.numbers }, headers: { ...table.headers }, calculated: {} };
	for (const key of Object.keys(table.calculated ?? {})) {
		delete plain.text[key];
		delete plain.numbers[key];
	}
	addCalculated(plain, columns, lengthUnit, stated, true);
	return plain;
}

/** Works an expression out over the rows of a table. @throws ProblemError */
export function calculate(table: Table, expression: string, lengthUnit: string, stated: Readonly<Record<string, string>>): Result {
	return compile(expression).run(sourcesOf(table, lengthUnit, stated), table.rowCount);
}

/**
 * Adds calculated columns, in turn, so that one can use those before it. One that can not be worked out (any more) is left empty and
 * says why, unless `strict`.
 */
export function addCalculated(
	table: Table,
	columns: readonly CalculatedColumn[],
	lengthUnit: string,
	stated: Readonly<Record<string, string>>,
	strict = false
): void {
	table.calculated = {};
	for (const { name, expression } of columns) {
		try {
			const result = calculate(table, expression, lengthUnit, stated);
			if (result.type === 'text') table.text[name] = result.values;
			else if (result.type === 'boolean') table.text[name] = Array.from(result.values, (v) => (v ? 'yes' : 'no'));
			else table.numbers[name] = result.values;
			table.calculated[name] = { unit: result.type === 'number' ? result.unit : '' };
		} catch (error) {
			if (!(error instanceof ProblemError) || strict) throw error;
			table.numbers[name] = new Float64Array(table.rowCount).fill(NaN);
			table.calculated[name] = { unit: '', problem: error.problem.message };
		}
	}
}
