import { expect, it } from 'vitest';
import { stateOf } from './states';

const object = (kind: string, state: Record<string, unknown>, more = {}) =>
	stateOf({ kind, state, missing: false, outOfDate: false, inputs: [], ...more });

it('what is empty is not called up to date', () => {
	expect(object('section', { trace: [] }, { inputs: ['m'] })).toBe('not drawn yet');
	expect(object('section', { trace: [[0, 0]] }, { inputs: ['m'] })).toBe('up to date');
	expect(object('section', { trace: [[0, 0]] }, { inputs: ['m'], outOfDate: true })).toBe('out of date');
	expect(object('column', { units: [] })).toBe('no units yet');
	expect(object('lumping', { codes: {} })).toBe('nothing lumped yet');
	expect(object('faults', { faults: [] })).toBe('none');
	expect(object('table', {})).toBe('source');
	expect(object('model', {}, { missing: true, inputs: ['f'] })).toBe('not built');
});
