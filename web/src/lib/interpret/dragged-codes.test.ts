import { describe, expect, it } from 'vitest';
import { dragCodes, draggedCodes } from './dragged-codes';

describe('codes that are dragged', () => {
	const known = [{ code: 'SST' }, { code: 'TUF' }];
	const holding = (text: string) => ({ getData: () => text });
	it('arrive as they left, those that are there', () => {
		let kept = '';
		dragCodes({ setData: (_kind: string, text: string) => (kept = text), effectAllowed: '' } as unknown as DataTransfer, ['SST', 'XX']);
		expect(draggedCodes(holding(kept), known)).toEqual(['SST']);
	});
	it('are none where something else is dropped', () => {
		for (const text of ['', 'a file', '{}', '[1, null]', '"SST"']) expect(draggedCodes(holding(text), known)).toEqual([]);
		expect(draggedCodes(null, known)).toEqual([]);
		dragCodes(null, ['SST']);
	});
});
