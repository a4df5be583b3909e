import { describe, expect, it } from 'vitest';
import type { Selection } from '../workspace-parts';
import { selectionOf, selectionText } from './selection';

describe('a selection in the address', () => {
	it.each<Selection>([
		{ kind: 'hole', name: 'TW-001' },
		{ kind: 'hole', name: 'a~b %41 ü' },
		{ kind: 'holes', names: ['TW-001', 'x~y', '50 %'] },
		{ kind: 'unit', id: 'u1' },
		{ kind: 'fault', id: 'f-2' },
		{ kind: 'object', id: '20253f41-59db-4fa6-b3a2-6e97e48f4885' },
		{ kind: 'rows', table: '20253f41', rows: [0, 7, 12_345] }
	])('comes back as it was: %j', (s) => expect(selectionOf(selectionText(s))).toEqual(s));

	it('is none where there is none, or more than an address holds', () => {
		expect(selectionText(null)).toBe('');
		expect(selectionText({ kind: 'rows', table: 't', rows: Array.from({ length: 2000 }, (_, i) => i) })).toBe('');
	});

	it.each([
		null,
		'',
		'~',
		'hole',
		'hole~',
		'rows~t',
		'rows~t~x',
		'rows~t~1~-2',
		'nonsense~1',
		'holes~%E0%A4%A',
		`hole~${'x'.repeat(2000)}`
	])('is none where the address says nothing that is one: %s', (text) => expect(selectionOf(text)).toBeNull());
});
