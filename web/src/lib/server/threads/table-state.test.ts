import { expect, it } from 'vitest';
import { ProblemError } from '#core/problem';
import { tableState } from './stored-table';

const whole = {
	kind: 'collars',
	header: ['A', 'B'],
	stated: null,
	reading: {},
	mapping: { A: 'hole' },
	units: {},
	values: {},
	coordinates: {},
	rowCount: 2
};

it('the state of a table is what is stored of it', () => {
	expect(tableState(whole)).toBe(whole);
	expect(tableState({ ...whole, versionOf: 'x', recode: { a: 'b' }, added: [] }).recode).toEqual({ a: 'b' });
});

it.each([
	['kind', 'songs'],
	['kind', undefined],
	['header', 'A,B'],
	['header', [1]],
	['mapping', ['hole']],
	['units', null],
	['values', 3],
	['reading', undefined],
	['coordinates', 'here'],
	['rowCount', -1],
	['rowCount', 1.5],
	['appended', [3]],
	['recode', []],
	['added', {}],
	['calculated', 'x']
])('a damaged one is named with what is wrong: %s %o', (part, value) => {
	const run = () => tableState({ ...whole, [part]: value }, '"Collars"');
	expect(run).toThrow(ProblemError);
	expect(run).toThrow(`"Collars" can not be read: ${part}`);
});
