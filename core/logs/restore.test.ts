import { expect, it } from 'vitest';
import { restoredTogether, type RestorableRow } from './restore';

const row = (n: number, now: [number, number] | null, before: [number, number] | null): RestorableRow => ({
	n,
	from: now?.[0] ?? before![0],
	to: now?.[1] ?? before![1],
	fromBefore: before?.[0] ?? NaN,
	toBefore: before?.[1] ?? NaN,
	isOut: now === null,
	isCutOff: before === null
});
const together = (rows: RestorableRow[], n: number) => [...restoredTogether(rows, new Set([n]))].sort((a, b) => a - b);

it('takes a boundary back in both intervals', () => {
	const rows = [
		row(0, [0, 12], [0, 10]),
		row(1, [12, 20], [10, 20]),
		row(2, [20, 30], [20, 30]),
		row(3, [30, 44], [30, 40]),
		row(4, [44, 50], [40, 50])
	];
	expect(together(rows, 0)).toEqual([0, 1]);
	expect(together(rows, 1)).toEqual([0, 1]);
	expect(together(rows, 4)).toEqual([3, 4]);
	expect(together(rows, 2)).toEqual([2]);
});

it('takes what was dissolved out of what grew over it', () => {
	const rows = [row(0, [0, 10.3], [0, 10]), row(1, null, [10, 10.3]), row(2, [10.3, 20], [10.3, 20])];
	expect(together(rows, 1)).toEqual([0, 1]);
	expect(together(rows, 0)).toEqual([0, 1]);
});

it('takes a part that was cut off back into its interval', () => {
	const rows = [row(0, [0, 4], [0, 10]), row(1, [10, 20], [10, 20]), row(2, [4, 10], null)];
	expect(together(rows, 2)).toEqual([0, 2]);
});
