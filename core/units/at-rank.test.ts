import { describe, expect, it } from 'vitest';
import { ranksOf, recodeToRank, unitsAtRank } from './at-rank';
import { scheme } from './for-tests';
import { atRank, unitsByName } from './scheme';

describe('units at a rank', () => {
	it('takes a log to a higher rank, and says of what is logged coarsely that it is not divided', () => {
		const s = scheme();
		expect(recodeToRank(s, ['Birch Top', 'BIRCH FOOT', 'Alder', 'Granite'], 1)).toEqual({
			recode: { 'Birch Top': 'Birch', 'BIRCH FOOT': 'Birch' },
			unknown: ['Granite']
		});
		expect(recodeToRank(s, ['Birch'], 2).recode).toEqual({ Birch: 'Birch, not divided' });
		expect(atRank(s, unitsByName(s)('Birch Foot')!, 0)!.name).toBe('Upper Group');
	});

	it('puts units together in the order of the first of each; what the scheme does not know stays by itself', () => {
		const s = scheme();
		const units = ['Granite', 'alder', 'Birch Foot', 'Cedar', 'Birch Top'].map((name, i) => ({ id: `u${i}`, name, color: `#00000${i}` }));
		expect(unitsAtRank({ scheme: s, rank: 0 }, units)).toEqual([
			{ id: 'u0', name: 'Granite', color: '#000000', of: [0] },
			{ id: 's/uppergroup', name: 'Upper Group', color: '#000001', of: [1, 2, 4] },
			{ id: 's/lowergroup', name: 'Lower Group', color: '#000003', of: [3] }
		]);
		// At the lowest rank there is nothing to put together; a unit that stands above the rank is itself.
		expect(unitsAtRank({ scheme: s, rank: 2 }, units).map((g) => g.name)).toEqual(['Granite', 'alder', 'Birch Foot', 'Cedar', 'Birch Top']);
		expect(unitsAtRank({ scheme: s, rank: 0 }, [])).toEqual([]);
		// What has no name any more is in no group.
		expect(unitsAtRank({ scheme: s, rank: 0 }, [undefined, { name: 'Cedar' }])[0]!.of).toEqual([1]);
	});

	it('puts parts of a divided unit to what the unit is a part of, unless the scheme knows the part itself', () => {
		const units = [
			{ name: 'Birch' },
			{ name: 'grey part', within: 'Birch' },
			{ name: 'Birch Top', within: 'Cedar' },
			{ name: 'odd part', within: 'Granite' }
		];
		expect(unitsAtRank({ scheme: scheme(), rank: 0 }, units).map((g) => [g.name, g.of])).toEqual([
			['Upper Group', [0, 1, 2]],
			['odd part', [3]]
		]);
	});

	it('follows the colours of the scheme where it has some', () => {
		const s = scheme();
		const colored = { ...s, units: s.units.map((u) => (u.name === 'Birch' ? { ...u, color: '#123456' } : u)) };
		expect(unitsAtRank({ scheme: colored, rank: 1 }, [{ name: 'Birch Top', color: '#ffffff' }])[0]).toMatchObject({
			name: 'Birch',
			color: '#123456'
		});
	});

	it('names the scheme of a rank where there are several', () => {
		expect(ranksOf([scheme()]).map((r) => r.name)).toEqual(['Group', 'Formation', 'Member']);
		expect(ranksOf([scheme(), { ...scheme(), id: 't', name: 'Others' }]).map((r) => r.key + r.name)[5]).toBe('t 2Member, Others');
		expect(ranksOf([])).toEqual([]);
	});
});
