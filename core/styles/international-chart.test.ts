import { describe, expect, it } from 'vitest';
import { timeColor } from './time-colors';
import { internationalChart } from '../units/international-chart';
import { schemeProblems, validateScheme } from '../units/scheme';

describe('the international time chart', () => {
	const chart = internationalChart('ics', (n) => timeColor(n) ?? '');
	it('is a scheme without contradictions, without gaps, in its colours', () => {
		validateScheme(chart);
		expect(schemeProblems(chart)).toEqual([]);
		for (const rank of [0, 1, 2]) {
			const own = chart.units.filter((u) => u.rank === rank).sort((a, b) => a.top! - b.top!);
			for (let i = 1; i < own.length; i++) expect([own[i]!.name, own[i]!.top]).toEqual([own[i]!.name, own[i - 1]!.base]);
		}
		expect(chart.units.find((u) => u.name === 'Cretaceous')).toMatchObject({ top: 66, base: 145, color: '#7FC64E' });
		expect(chart.units.filter((u) => !u.color).map((u) => u.name)).toEqual(['Series 2']);
	});
});
