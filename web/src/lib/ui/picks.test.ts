import { describe, expect, it } from 'vitest';
import { Picks } from './picks.svelte';

describe('picking from a list', () => {
	const list = ['a', 'b', 'c', 'd', 'e'];
	it('goes one by one, and back', () => {
		const p = new Picks<string>();
		p.press('b', list, false);
		p.press('d', list, false);
		expect(p.of(list)).toEqual(['b', 'd']);
		p.press('b', list, false);
		expect(p.of(list)).toEqual(['d']);
	});
	it('with Shift takes everything from the last one, either way, as the list is shown now', () => {
		const p = new Picks<string>();
		p.press('d', list, false);
		p.press('b', list, true);
		expect(p.of(list)).toEqual(['b', 'c', 'd']);
		const filtered = ['a', 'd', 'e'];
		p.press('e', filtered, true);
		expect(p.of(list)).toEqual(['b', 'c', 'd', 'e']);
	});
	it('with Shift and nothing before it, or one that is filtered away, takes that one alone', () => {
		const p = new Picks<string>();
		p.press('c', list, true);
		expect(p.of(list)).toEqual(['c']);
		p.press('a', ['a', 'b'], true);
		expect(p.of(list)).toEqual(['a', 'c']);
	});
	it('takes all that are shown, and lets go of them when all are taken; what is gone does not count', () => {
		const p = new Picks<string>();
		p.all(['a', 'b']);
		expect(p.of(list)).toEqual(['a', 'b']);
		expect(p.of(['b', 'c'])).toEqual(['b']);
		p.all(['a', 'b']);
		expect(p.of(list)).toEqual([]);
		p.all(list);
		p.clear();
		expect(p.of(list)).toEqual([]);
	});
});
