import { describe, expect, it } from 'vitest';
import { plainShaping } from '#core/project/shaping';
import { broughtState, readState, stateOf } from './states';
import { problemOf } from '#core/for-tests';

describe('what is stored of an object', () => {
	const units = [{ id: 'a', name: 'Loam', color: '#aabbcc', contact: 'conformable' }];
	it('is read by its kind, and as often as wanted', () => {
		const o = { kind: 'column', name: 'Column', state: { units } };
		expect(stateOf(o, 'column')).toEqual({ units });
		expect(stateOf(o, 'column')).toBe(stateOf({ ...o, state: structuredClone(o.state) }, 'column'));
	});
	it('is told anew when it has changed', () => {
		expect(readState('model', { spacing: 20 }, 'Model').spacing).toBe(20);
		expect(readState('model', { spacing: 30 }, 'Model').spacing).toBe(30);
	});
	it('gets what newer versions added', () => {
		const { certain: _, setAside: __, ...old } = plainShaping();
		expect(readState('shaping', old, 'Shape').setAside).toEqual([]);
	});
	it('can not be changed by who reads it', () => {
		const { codes } = readState('lumping', { codes: { S: 'a' } }, 'Codes');
		expect(() => (codes['S'] = 'b')).toThrow(TypeError);
	});
	it.each([
		['column', {}, 'units'],
		['column', { units: [{ id: 'a', name: 'Loam', color: 'red', contact: 'conformable' }] }, 'colour'],
		['lumping', { codes: ['a'] }, 'codes'],
		['faults', { faults: [{ id: 'f' }] }, 'faults[0]'],
		['section', { trace: 'x', corridor: 10 }, 'trace'],
		['model', { spacing: 0 }, 'spacing'],
		['model', { spacing: 'wide' }, 'spacing'],
		['rules', { rules: { 'unknown-hole': { severity: 'worse' } } }, 'rules'],
		['ties', {}, 'ties'],
		['kept-model', { parts: { column: null } }, 'parts']
	] as const)('that is no %s is named: %o', (kind, state, where) => {
		const problem = problemOf(() => readState(kind, state, 'It'));
		expect(problem?.kind).toBe('damaged-state');
		expect(problem?.message).toContain('"It"');
		expect(`${problem?.where} ${problem?.message}`).toContain(where);
	});
	it('of another kind is a mistake of the program', () => {
		expect(() => stateOf({ kind: 'faults', name: 'Faults', state: { faults: [] } }, 'column')).toThrow('no column');
	});
});

it('how a file was brought in is read, too', () => {
	expect(broughtState({ name: 'Grid', state: { how: { every: 2 }, coordinates: { from: 'x' } } }).how).toEqual({ every: 2 });
	expect(problemOf(() => broughtState({ name: 'Grid', state: { how: 3 } }))?.kind).toBe('damaged-state');
});
