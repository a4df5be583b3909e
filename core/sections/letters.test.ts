import { describe, expect, it } from 'vitest';
import { freshLetters, sectionTitle } from './letters';

describe('letters of sections', () => {
	it('are the next that no section has, with two behind Z', () => {
		expect(freshLetters(['A', 'B', 'Adit', 'D'], 3)).toEqual(['C', 'E', 'F']);
		expect(freshLetters(['A'], 27).slice(-3)).toEqual(['Z', 'AA', 'AB']);
		expect(freshLetters([], 0)).toEqual([]);
	});
	it('stand at both ends; longer names stand by themselves', () => {
		expect([sectionTitle('A'), sectionTitle('AB'), sectionTitle('Tunnel')]).toEqual(['A–A′', 'AB–AB′', 'Tunnel']);
	});
});
