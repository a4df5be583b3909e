import { describe, expect, it } from 'vitest';
import { freshLetters, freshSet, setsOf, stepFrom } from './sets';

const lines = [{ name: 'B' }, { name: 'C', set: 'Fence 1' }, { name: 'D', set: 'Fence 1' }, { name: 'E' }, { name: 'F', set: 'Roads' }];

describe('sets of sections', () => {
	it('hold their sections in order, those in none with the main line', () => {
		expect(setsOf(lines)).toEqual([
			{ name: '', numbers: [0, 1, 4] },
			{ name: 'Fence 1', numbers: [2, 3] },
			{ name: 'Roads', numbers: [5] }
		]);
		expect(setsOf([])).toEqual([{ name: '', numbers: [0] }]);
	});
	it('are stepped through one after the other, each in its order', () => {
		const walked = [0];
		for (let n = stepFrom(lines, 0, 1); n !== null; n = stepFrom(lines, n, 1)) walked.push(n);
		expect(walked).toEqual([0, 1, 4, 2, 3, 5]);
		expect([stepFrom(lines, 2, -1), stepFrom(lines, 0, -1), stepFrom(lines, 5, 1)]).toEqual([4, null, null]);
		// A section that is gone meanwhile leads nowhere.
		expect(stepFrom(lines, 17, 1)).toBeNull();
	});
	it('get names that are free', () => {
		expect([freshSet(lines, 'Fence'), freshSet(lines, 'Parallel')]).toEqual(['Fence 2', 'Parallel 1']);
		expect(freshLetters(lines, 2)).toEqual(['G', 'H']);
		expect(freshLetters([], 27).slice(-2)).toEqual(['AA', 'AB']);
	});
});
