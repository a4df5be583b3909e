import { describe, expect, it } from 'vitest';
import { readDelimited } from '../tables/delimited';
import type { TableKind } from '../tables/kinds';
import { guessMapping } from '../tables/mapping';
import { readTable, type Table } from '../tables/table';
import { checkTables } from './check';
import { RULES } from './rules';

function table(kind: TableKind, text: string, excluded: number[] = []): Table {
	const raw = readDelimited(new TextEncoder().encode(text), kind);
	const out = new Uint8Array(raw.rowCount);
	for (const e of excluded) out[e] = 1;
	return readTable(kind, kind, raw, guessMapping(raw, kind), { excluded: out });
}
const collars = (text = 'A,0,0,10,100\nB,50,0,12,80\n') => table('collars', `hole,x,y,z,depth\n${text}`);
const log = (text: string) => table('intervals', `hole,from,to,code\n${text}`);
const found = (tables: Table[]) =>
	checkTables(tables, {
		lengthUnit: 'm',
		settings: { 'missing-rows': { silenced: true, reason: 'other rules are looked at' } }
	}).findings.map((f) => [f.rule, f.row]);

describe('checks', () => {
	it('find nothing in sound tables', () => {
		expect(found([collars(), log('A,0,40,S\nA,40,100,L\nB,0,80,S\n')])).toEqual([]);
	});

	it.each<[string, Table[], [string, number][]]>([
		['text in numbers', [collars('A,0,zero,10,100\nB,1,1,1,9\n')], [['not-a-number', 0]]],
		['an empty number', [collars('A,0,,10,100\nB,1,1,1,9\n')], [['not-a-number', 0]]],
		['a duplicate collar', [collars('A,0,0,1,5\nA,9,9,9,5\n')], [['duplicate-collar', 1]]],
		['an unknown hole', [collars(), log('A,0,5,S\nZ,0,5,S\n')], [['unknown-hole', 1]]],
		['from at to', [collars(), log('A,5,5,S\n')], [['from-not-above-to', 0]]],
		['from below to', [collars(), log('A,9,5,S\n')], [['from-not-above-to', 0]]],
		['an interval deeper than the hole', [collars(), log('A,0,100.5,S\n')], [['deeper-than-hole', 0]]],
		[
			'a survey deeper than the hole',
			[collars(), table('surveys', 'hole,depth,azimuth,dip\nB,0,1,-80\nB,81,1,-80\n')],
			[['deeper-than-hole', 1]]
		],
		['a gap', [collars(), log('A,0,5,S\nA,6,9,L\n')], [['gap', 1]]],
		['a dip over 90°', [table('orientations', 'x,y,dip,dipdirection\n1,2,95,10\n')], [['out-of-range', 0]]]
	])('find %s', (_, tables, expected) => {
		expect(found(tables)).toEqual(expected);
	});

	it('name the one row that overlaps many, and hold back only that', () => {
		const { findings, out } = checkTables([collars('A,0,0,10,90\n'), log('A,0,30,S\nA,30,60,L\nA,60,90,M\nA,10,80,X\n')], {
			lengthUnit: 'm'
		});
		expect(findings).toHaveLength(1);
		expect(findings[0]).toMatchObject({ rule: 'overlap', row: 3, others: [0, 1, 2] });
		expect([...out['intervals']!]).toEqual([0, 0, 0, 1]);
	});

	it('do not look at rows that are excluded', () => {
		expect(found([collars(), table('intervals', 'hole,from,to,code\nA,0,5,S\nZ,0,5,S\n', [1])])).toEqual([]);
	});

	it('take rows of a held-back collar for rows of an unknown hole', () => {
		expect(found([collars('A,bad,0,10,100\nB,0,0,0,50\n'), log('A,0,5,S\nB,0,5,S\n')])).toEqual([
			['not-a-number', 0],
			['unknown-hole', 0]
		]);
	});

	it('give every finding a message and something to do', () => {
		const { findings } = checkTables(
			[collars('A,x,0,1,5\nB,0,0,0,50\n'), log('Z,0,5,S\nB,9,5,S\nB,0,60,S\nB,0,10,S\nB,5,20,S\nB,30,40,S\n')],
			{ lengthUnit: 'm' }
		);
		for (const f of findings) {
			expect(f.message).not.toBe('');
			expect(f.hint).not.toBe('');
			expect(RULES.map((r) => r.id)).toContain(f.rule);
		}
		expect(new Set(findings.map((f) => f.rule)).size).toBeGreaterThan(4);
	});
});
