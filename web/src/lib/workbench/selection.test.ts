import { describe, expect, it } from 'vitest';
import type { Selection } from '../workspace-parts';
import { afterPress, afterRows, selectionOf, selectionText } from './selection';

describe('a selection in the address', () => {
	it.each<Selection>([
		{ kind: 'hole', name: 'TW-001' },
		{ kind: 'hole', name: 'a~b %41 ü' },
		{ kind: 'holes', names: ['TW-001', 'x~y', '50 %'] },
		{ kind: 'unit', id: 'u1' },
		{ kind: 'fault', id: 'f-2' },
		{ kind: 'object', id: '20253f41-59db-4fa6-b3a2-6e97e48f4885' },
		{ kind: 'objects', ids: ['20253f41-59db', 'b3a2-6e97', 'x'] },
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

describe('objects that are pressed', () => {
	const plain = { ctrlKey: false, metaKey: false, shiftKey: false };
	const more = { ...plain, ctrlKey: true };
	it('are selected alone, or with Ctrl or Shift together, and let go again', () => {
		const one = afterPress({ kind: 'hole', name: 'A' }, 'a', more);
		expect(one).toEqual({ kind: 'object', id: 'a' });
		const two = afterPress(one, 'b', { ...plain, shiftKey: true });
		expect(two).toEqual({ kind: 'objects', ids: ['a', 'b'] });
		expect(afterPress(two, 'a', more)).toEqual({ kind: 'object', id: 'b' });
		expect(afterPress(two, 'c', plain)).toEqual({ kind: 'object', id: 'c' });
		expect(afterPress(one, 'a', more)).toBeNull();
		// An address that names one thing twice names one.
		expect(selectionOf('objects~a~a')).toEqual({ kind: 'object', id: 'a' });
		expect(selectionOf('objects~~')).toBeNull();
	});
});

describe('rows that are pressed or swept', () => {
	const plain = { ctrlKey: false, metaKey: false };
	const more = { ctrlKey: true, metaKey: false };
	it('are selected alone, or besides others of their table; one that is pressed again is let go', () => {
		const one = afterRows({ kind: 'hole', name: 'A' }, 't', [3], more);
		expect(one).toEqual({ kind: 'rows', table: 't', rows: [3] });
		const swept = afterRows(one, 't', [3, 4, 5], more);
		expect(swept).toEqual({ kind: 'rows', table: 't', rows: [3, 4, 5] });
		expect(afterRows(swept, 't', [4], more)).toEqual({ kind: 'rows', table: 't', rows: [3, 5] });
		expect(afterRows(swept, 't', [9], plain)).toEqual({ kind: 'rows', table: 't', rows: [9] });
		expect(afterRows(swept, 'u', [9], more)).toEqual({ kind: 'rows', table: 'u', rows: [9] });
		expect(afterRows(one, 't', [3], more)).toBeNull();
	});
});
