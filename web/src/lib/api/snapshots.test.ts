import { describe, expect, it } from 'vitest';
import { hasSeen } from './snapshots';

describe('whether an answer has seen a change', () => {
	it.each([
		['100:105:', '99', true],
		['100:105:', '100', true],
		['100:105:100,103', '100', false],
		['100:105:100,103', '102', true],
		['100:105:100,103', '103', false],
		['100:105:', '105', false],
		['18446744073709551610:18446744073709551615:18446744073709551612', '18446744073709551611', true]
	])('%s of transaction %s: %s', (snapshot, xid, seen) => expect(hasSeen(snapshot, xid)).toBe(seen));
	it.each([null, '', 'nonsense', '1:2', '1:2:x'])('is no where the snapshot is none: %s', (s) => expect(hasSeen(s, '1')).toBe(false));
	it('is no where the transaction is none', () => expect(hasSeen('100:105:', '')).toBe(false));
});
