import { describe, expect, it } from 'vitest';
import { moved, shifted } from './layer-order';

describe('the order of layers', () => {
	const order = ['a', 'b', 'c', 'd'];
	it('changes by putting one before another', () => {
		expect(moved(order, 'd', 'b')).toEqual(['a', 'd', 'b', 'c']);
		expect(moved(order, 'a', 'd')).toEqual(['b', 'c', 'a', 'd']);
		expect(moved(order, 'a', 'nobody')).toEqual(['b', 'c', 'd', 'a']);
	});
	it('and by shifting one, to the end at most', () => {
		expect(shifted(order, 'b', 1)).toEqual(['a', 'c', 'b', 'd']);
		expect(shifted(order, 'b', -5)).toEqual(['b', 'a', 'c', 'd']);
		expect(shifted(order, 'd', 3)).toEqual(order);
		expect(shifted(order, 'nobody', 1)).toEqual(order);
		expect(order).toEqual(['a', 'b', 'c', 'd']);
	});
});
