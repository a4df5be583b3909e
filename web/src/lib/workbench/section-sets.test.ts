import { describe, expect, it } from 'vitest';
import { freshSet, keptSection, setsOf, stepFrom } from './section-sets';

const section = (id: string, set?: string) => ({ id, ...(set ? { set } : {}) });
const all = [section('a'), section('b'), section('c', 'Fence 1'), section('d', 'Fence 1'), section('e'), section('f', 'Roads')];

describe('sets of sections', () => {
	it('hold their sections in order, those in none first', () => {
		expect(setsOf(all).map((s) => [s.name, s.sections.map((x) => x.id).join('')])).toEqual([
			['', 'abe'],
			['Fence 1', 'cd'],
			['Roads', 'f']
		]);
		expect(setsOf([])).toEqual([]);
	});
	it('are stepped through one after the other, each in its order', () => {
		const walked = ['a'];
		for (let s = stepFrom(all, 'a', 1); s !== null; s = stepFrom(all, s, 1)) walked.push(s);
		expect(walked.join('')).toBe('abecdf');
		expect([stepFrom(all, 'c', -1), stepFrom(all, 'a', -1), stepFrom(all, 'f', 1)]).toEqual(['e', null, null]);
		// A section that is gone meanwhile leads nowhere.
		expect([stepFrom(all, 'gone', 1), stepFrom(all, undefined, 1), stepFrom([], 'a', 1)]).toEqual([null, null, null]);
	});
	it('get names that are free', () => {
		expect([freshSet(all, 'Fence'), freshSet(all, 'Parallel')]).toEqual(['Fence 2', 'Parallel 1']);
	});
});

describe('the section that is kept', () => {
	it('is found by its id, or the first is shown', () => {
		expect([keptSection(all, 'd'), keptSection(all, 'gone'), keptSection(all, null)].map((s) => s?.id)).toEqual(['d', 'a', 'a']);
		expect(keptSection([], 'd')).toBeUndefined();
	});
	it('is found by its number, as earlier versions kept it', () => {
		expect([keptSection(all, 0), keptSection(all, 2), keptSection(all, 99)].map((s) => s?.id)).toEqual(['a', 'c', 'f']);
		expect(keptSection([], 3)).toBeUndefined();
	});
});
