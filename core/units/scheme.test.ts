import { describe, expect, it } from 'vitest';
import { HEADER, ROWS, scheme } from './for-tests';
import { chronology, rankConflicts, readScheme, schemeProblems, unitsByName, validateScheme } from './scheme';

describe('a scheme', () => {
	it('is read from rows with parents: ranks from high to low, ages, parents by name', () => {
		const { scheme: s, remarks } = readScheme('s', 'Trees', HEADER, ROWS);
		expect(remarks).toEqual([]);
		expect(s.ranks).toEqual(['Group', 'Formation', 'Member']);
		expect(s.units.map((u) => u.rank)).toEqual([0, 1, 1, 2, 2, 0, 1, 1]);
		const by = unitsByName(s);
		expect(by('birch foot')!.parent).toBe(by('Birch')!.id);
		expect(by('Cedar')).toMatchObject({ top: 60, base: 70, error: 1 });
		expect(schemeProblems(s)).toEqual([]);
		validateScheme(s);
		// The order of the rows of the ranks does not matter.
		expect(readScheme('s', 'Trees', HEADER, [...ROWS].reverse()).scheme.ranks).toEqual(['Group', 'Formation', 'Member']);
	});

	it('is read from one column a rank, and tells a member of two formations', () => {
		const { scheme: s } = readScheme(
			's',
			'Trees',
			['Group', 'Formation', 'Member'],
			[
				['Upper', 'Alder', ''],
				['Upper', 'Birch', 'Knot'],
				['Upper', 'Alder', 'Knot'],
				['', '', ''],
				['Lower', '', '']
			]
		);
		expect(s.ranks).toEqual(['Group', 'Formation', 'Member']);
		expect(s.units.map((u) => u.name)).toEqual(['Upper', 'Alder', 'Birch', 'Knot', 'Lower']);
		expect(schemeProblems(s).map((p) => [p.kind, p.message])).toEqual([['two-parents', 'Knot is a part of Birch and of Alder']]);
	});

	it('names what contradicts itself: parts outside their parents, ages upside down, two of a name', () => {
		const rows = ROWS.map((r) => [...r]);
		rows[3]![3] = '2';
		rows[6]![3] = '75';
		rows.push(['Formation', 'alder', 'Lower Group', '', '', '']);
		const kinds = schemeProblems(scheme(rows)).map((p) => `${p.kind} ${p.unit}`);
		expect(kinds).toEqual(['outside-parent birchtop', 'upside-down cedar', 'doubled-name alder-2']);
		// Half a million years off is within the errors.
		rows[3]![3] = '7.5';
		expect(schemeProblems(scheme(rows)).some((p) => p.unit === 'birchtop')).toBe(false);
	});

	it('lets go what would close a loop, and says so; a scheme that is stored can not have one', () => {
		const rows = [
			['', 'A', 'B', '', '', ''],
			['', 'B', 'A', 'x', '-3', ''],
			['', '', 'B', '', '', ''],
			['', 'C', 'Z', '', '', '']
		];
		const { scheme: s, remarks } = readScheme('s', 'Loop', HEADER, rows);
		expect(remarks.join('\n')).toMatch(
			/"x" is no age.*\n.*"-3" is no age.*\n.*row 3 names no unit.*\n.*C is a part of Z, which no row names/
		);
		expect(remarks.join('\n')).toContain('would be a part of itself');
		validateScheme(s);
		const [a, b] = [s.units[0]!, s.units[1]!];
		const looped = {
			...s,
			ranks: ['one', 'two'],
			units: [
				{ ...a, rank: 1, parent: b.id },
				{ ...b, rank: 0, parent: a.id }
			]
		};
		expect(() => validateScheme(looped)).toThrow('a part of itself');
		expect(() => validateScheme({ ...s, units: [a, a] })).toThrow('two units of the scheme have the id');
		expect(() => validateScheme({ ...s, units: [{ ...a, rank: 7 }] })).toThrow('a rank that Loop does not have');
		expect(() => validateScheme({ ...s, units: [{ ...a, parent: 'gone' }] })).toThrow('not in the scheme');
	});

	it('refuses what is no scheme', () => {
		expect(() => readScheme('s', 'n', ['Unit', 'Parent'], [])).toThrow('no row of this names a unit');
		expect(() => readScheme('s', 'n', ['Depth'], [['1']])).toThrow('this is no scheme');
		expect(() => readScheme('s', 'n', [], [])).toThrow('this is no scheme');
		const many = Array.from({ length: 5000 }, (_, i) => [`u${i}`, '']);
		expect(() => readScheme('s', 'n', ['Unit', 'Parent'], many)).toThrow('a scheme of 5000 rows is not read');
	});

	it('lists what it has from the youngest to the oldest', () => {
		expect(chronology(scheme()).map((u) => u.name)).toEqual(ROWS.map((r) => r[1]));
	});

	it('finds rows whose ranks contradict it', () => {
		const s = scheme();
		const columns = [
			{ header: 'Formation', rank: 1, cells: ['Alder', 'Birch', 'Alder', ''] },
			{ header: 'Member', rank: 2, cells: ['', 'Birch Top', 'Birch Top', 'Birch Top'] }
		];
		expect(rankConflicts(s, columns, [0, 1, 2, 3])).toEqual([
			{ row: 2, column: 'Formation', message: 'Birch Top is a part of Birch, but Alder is logged here' }
		]);
		// Where the scheme does not say what a member is a part of, its formation may not change inside it.
		const open = { ...s, units: s.units.map((u) => (u.name === 'Birch Top' ? { ...u, parent: '' } : u)) };
		expect(rankConflicts(open, columns, [0, 1, 2])[0]!.message).toBe('the boundary of Birch and Alder lies inside Birch Top');
	});
});
