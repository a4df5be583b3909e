import { describe, expect, it } from 'vitest';
import type { Raster } from '../grids/raster';
import { readDelimited } from '../tables/delimited';
import type { TableKind } from '../tables/kinds';
import { guessMapping } from '../tables/mapping';
import { readTable, type Table } from '../tables/table';
import { checkTables, countFindings, type CheckOptions } from './check';
import type { Finding } from '../tables/finding';
import { readScheme } from '../units/scheme';
import { boundOf } from './settings';
import { RULES } from './rules';

function table(kind: TableKind, text: string, name: string = kind): Table {
	const raw = readDelimited(new TextEncoder().encode(text), kind);
	return readTable(name, kind, raw, guessMapping(raw, kind));
}
const collars = (text = 'A,0,0,10,100\nB,50,0,12,80\n') => table('collars', `hole,x,y,z,depth\n${text}`);
const log = (text: string) => table('intervals', `hole,from,to,code\n${text}`);
const assays = (text: string) => table('assays', `hole,from,to,sample,Cu\n${text}`);
const survey = (text: string) => table('surveys', `hole,depth,azimuth,inclination\n${text}`);
const flat: Raster = { x0: 0, y0: 0, dx: 10, dy: 10, nx: 11, ny: 11, values: new Float32Array(121).fill(100) };

/** The findings of one rule; all others run as well, because they take rows away from it. */
const of = (rule: string, tables: Table[], options: Partial<CheckOptions> = {}): Finding[] => {
	expect(RULES.map((r) => r.id)).toContain(rule);
	return checkTables(tables, { lengthUnit: 'm', ...options }).findings.filter((f) => f.rule === rule);
};
const rows = (findings: readonly Finding[]) => findings.map((f) => f.row);
const bounds = (rule: string, changed: Record<string, number>): Partial<CheckOptions> => ({ settings: { [rule]: { bounds: changed } } });

describe('a cell that must be a number', () => {
	it('holds the row back where it has no place without, and only notes a measured value', () => {
		const found = of('not-a-number', [collars(), assays('A,0,1,S1,lost\nA,one,2,S2,5\n')]);
		expect(found.map((f) => [f.row, f.column, f.severity])).toEqual([
			[0, 'Cu', 'noted'],
			[1, 'from', 'held']
		]);
		expect(found[0]!.message).toContain('"lost"');
	});
	it('an empty measured value is no finding; an empty depth is', () => {
		expect(rows(of('not-a-number', [collars(), assays('A,0,1,S1,\nA,1,,S2,5\n')]))).toEqual([1]);
	});
	it('a collar may lack its elevation only where a terrain gives it', () => {
		const lacking = [collars('A,20,20,,100\nB,50,20,unknown,80\nC,60,20,99,80\n')];
		expect(of('not-a-number', lacking).map((f) => [f.row, f.severity])).toEqual([
			[0, 'held'],
			[1, 'held']
		]);
		expect(of('not-a-number', lacking, { around: { terrain: flat } }).map((f) => [f.row, f.severity])).toEqual([[1, 'noted']]);
	});
	it('a row of orientations gives a plane or a line, whole', () => {
		const found = of('not-a-number', [
			table('orientations', 'x,y,dip,dipaz,plunge,trend\n1,1,30,90,,\n2,2,,,20,45\n3,3,30,,20,\n4,4,,,,\n')
		]);
		expect([...new Set(rows(found))]).toEqual([2, 3]);
	});
	it('a long cell is not printed whole', () => {
		const [f] = of('not-a-number', [collars(`A,${'x'.repeat(500)},0,10,100\nB,0,0,1,2\n`)]);
		expect(f!.message.length).toBeLessThan(100);
	});
});

describe('ranges', () => {
	it.each<[string, () => Table[], number[]]>([
		['a collar without length', () => [collars('A,0,0,10,0\nB,50,0,12,80\n')], [0]],
		['a negative total depth', () => [collars('A,0,0,10,-5\nB,50,0,12,80\n')], [0]],
		['a station above the collar', () => [collars(), survey('A,-1,0,-60\nA,0,0,-60\n')], [0]],
		['an inclination beyond the vertical', () => [collars(), survey('A,0,0,-91\nA,5,0,-90\nA,9,0,90\nA,12,0,90.5\n')], [0, 3]],
		['an azimuth of more than a turn', () => [collars(), survey('A,0,361,-60\nA,5,360,-60\nA,9,-360,-60\n')], [0]],
		[
			'an alpha above 90',
			() => [collars(), table('holeOrientations', 'hole,depth,alpha,beta\nA,5,91,10\nA,6,90,370\nA,7,45,-20\n')],
			[0, 1]
		],
		['a negative dip of a plane', () => [table('orientations', 'x,y,dip,dipaz\n0,0,-1,10\n0,5,0,10\n5,0,90,10\n')], [0]],
		['a plunge beyond the vertical', () => [table('orientations', 'x,y,plunge,trend\n0,0,91,10\n0,5,90,360\n5,0,5,400\n')], [0, 2]],
		['a negative reading depth', () => [collars(), table('readings', 'hole,depth,gamma\nA,-0.1,50\nA,0,50\n')], [0]]
	])('%s', (_, tables, expected) => expect(rows(of('out-of-range', tables()))).toEqual(expected));
});

describe('one thing twice', () => {
	it('a collar: the first counts, and rows of the hole stay in use', () => {
		const tables = [collars('A,0,0,10,100\nA,1,0,10,100\nA,2,0,10,100\n'), log('A,0,100,S\n')];
		const { findings, out } = checkTables(tables, { lengthUnit: 'm' });
		expect(findings.map((f) => [f.rule, f.row])).toEqual([
			['duplicate-collar', 1],
			['duplicate-collar', 2]
		]);
		expect([...out['intervals']!]).toEqual([0]);
	});
	it('a collar in two tables of collars', () => {
		const [f, ...more] = of('duplicate-collar', [collars(), table('collars', 'hole,x,y,z,depth\nB,5,5,5,5\n', 'second')]);
		expect(more).toEqual([]);
		expect(f).toMatchObject({ table: 'second', row: 0, hole: 'B' });
		expect(f!.others).toBeUndefined();
	});
	it('a station, by depth and hole', () => {
		expect(
			of('duplicate-station', [collars(), survey('A,0,0,-60\nA,10,0,-60\nB,10,0,-60\nA,10,5,-60\n')]).map((f) => [f.row, f.others])
		).toEqual([[3, [1]]]);
	});
	it('a row of a table of places', () => {
		expect(
			of('duplicate-row', [table('orientations', 'x,y,dip,dipaz\n1,2,30,90\n1,2,30,91\n1,2,30,90\n')]).map((f) => [
				f.row,
				f.others,
				f.severity
			])
		).toEqual([[2, [0], 'held']]);
	});
	it('an interval, with or without another answer', () => {
		const found = of('same-interval', [collars(), assays('A,0,1,S1,5\nA,1,2,S2,7\nA,0,1,S3,5\nA,1,2,S4,8\n')]);
		expect(found.map((f) => [f.row, f.column])).toEqual([
			[2, 'from'],
			[3, 'Cu']
		]);
		expect(found[0]!.message).toContain('with the same values');
		expect(found[1]!.message).toContain('another Cu');
	});
	it('two empty answers are the same answer', () => {
		expect(of('same-interval', [collars(), assays('A,0,1,S1,\nA,0,1,S2,\nA,1,2,S3,4\n')])[0]!.message).toContain('with the same values');
	});
	it('a reading, by its depth', () => {
		expect(rows(of('same-interval', [collars(), table('readings', 'hole,depth,gamma\nA,1,50\nA,2,50\nA,1,60\n')]))).toEqual([2]);
	});
	it('a sample number, across holes; empty numbers are not one number', () => {
		expect(
			of('duplicate-sample', [collars(), assays('A,0,1,S1,5\nB,0,1,S1,5\nA,1,2,,5\nB,1,2,,5\n')]).map((f) => [f.row, f.hole, f.others])
		).toEqual([[1, 'B', [0]]]);
	});
});

describe('holes and depths', () => {
	it('a name that differs by case, blanks or leading zeros is proposed', () => {
		const known = [collars('TW-007,0,0,10,100\nTW-70,5,5,10,90\n'), log('tw 7,0,5,S\nTW70,0,5,S\nTW-8,0,5,S\n,0,5,S\n')];
		const found = of('unknown-hole', known);
		expect(found.map((f) => f.proposal)).toEqual(['TW-007', 'TW-70', undefined, undefined]);
		expect(found[3]!.message).toBe('the row names no hole');
	});
	it('a row may end where the hole ends, or as far below as depths are rounded', () => {
		expect(rows(of('deeper-than-hole', [collars(), log('A,0,100,S\nB,0,80.09,S\n')]))).toEqual([]);
		expect(rows(of('deeper-than-hole', [collars(), log('A,0,100,S\nB,0,80.2,S\n')]))).toEqual([1]);
		expect(
			rows(of('deeper-than-hole', [collars(), log('A,0,100,S\nB,0,80.2,S\n')], bounds('deeper-than-hole', { tolerance: 0.5 })))
		).toEqual([]);
		expect(of('deeper-than-hole', [collars(), log('A,0,328,S\nB,0,80,S\n')])[0]!.message).toContain('feet');
	});
	it('water below the end of the hole', () => {
		expect(rows(of('deeper-than-hole', [collars(), table('levels', 'hole,date,dtw\nA,2024-05-01,99\nA,2024-05-02,101\n')]))).toEqual([1]);
	});
	it('a hole without survey is noted only when there are surveys, and not when its collar gives its direction', () => {
		expect(of('missing-rows', [collars()])).toEqual([]);
		expect(of('missing-rows', [collars(), survey('A,0,0,-60\n')]).map((f) => f.hole)).toEqual(['B']);
		const directed = table('collars', 'hole,x,y,z,depth,azimuth,inclination\nA,0,0,10,100,,\nB,50,0,12,80,90,-60\nC,60,0,12,80,90,\n');
		expect(of('missing-rows', [directed, survey('A,0,0,-60\n')]).map((f) => f.hole)).toEqual(['C']);
	});
	it('one log among several is enough', () => {
		expect(of('missing-rows', [collars(), log('A,0,5,S\n'), table('intervals', 'hole,from,to,code\nB,0,5,S\n', 'other log')])).toEqual([]);
	});
	it('the first interval of a hole, whatever its place in the file', () => {
		expect(rows(of('late-start', [collars(), log('A,5,9,S\nA,2,5,S\nB,0,9,S\n')]))).toEqual([1]);
		expect(of('late-start', [collars(), log('A,2,5,S\nB,0,9,S\n')], bounds('late-start', { least: 3 }))).toEqual([]);
	});
	it('gaps in logs, of the least length that is asked for; assays may have them', () => {
		const tables = () => [collars(), log('A,0,5,S\nA,5.5,9,S\nA,12,20,S\n'), assays('A,0,5,S1,1\nA,50,51,S2,1\n')];
		expect(rows(of('gap', tables()))).toEqual([1, 2]);
		expect(rows(of('gap', tables(), bounds('gap', { least: 1 })))).toEqual([2]);
	});
	it('an interval upside-down or without length', () => {
		expect(rows(of('from-not-above-to', [collars(), log('A,5,5,S\nA,9,8,S\nA,0,5,S\n')]))).toEqual([0, 1]);
	});
});

describe('overlap', () => {
	it('neighbours that touch do not', () => {
		expect(of('overlap', [collars(), log('A,5,9,S\nA,0,5,S\n')])).toEqual([]);
	});
	it('of two the later in the file is held back', () => {
		expect(of('overlap', [collars(), log('A,0,6,S\nA,5,9,S\n')]).map((f) => [f.row, f.others])).toEqual([[1, [0]]]);
	});
	it('a chain is broken with the fewest rows', () => {
		const { findings, out } = checkTables([collars(), log('A,0,10,S\nA,8,22,L\nA,20,30,M\n')], { lengthUnit: 'm' });
		expect(findings.filter((f) => f.rule === 'overlap').map((f) => f.row)).toEqual([1]);
		expect([...out['intervals']!]).toEqual([0, 1, 0]);
	});
	it('holes do not overlap each other, nor tables', () => {
		expect(of('overlap', [collars(), log('A,0,6,S\nB,5,9,S\n'), table('intervals', 'hole,from,to,code\nA,3,4,X\n', 'alteration')])).toEqual(
			[]
		);
	});
});

describe('directions', () => {
	it('the few inclinations of another sign, with the turned sign as proposal', () => {
		expect(of('mixed-dip-signs', [collars(), survey('A,0,0,-60\nA,10,0,60\nA,20,0,-61\n')]).map((f) => [f.row, f.proposal])).toEqual([
			[1, '-60']
		]);
		expect(of('mixed-dip-signs', [collars(), survey('A,0,0,60\nA,10,0,-60\nA,20,0,61\n')]).map((f) => [f.row, f.proposal])).toEqual([
			[1, '60']
		]);
	});
	it('horizontal stations have no sign', () =>
		expect(of('mixed-dip-signs', [collars(), survey('A,0,0,0\nA,10,0,-1\nA,20,0,0\n')])).toEqual([]));
	it('a bend is measured over 30 units of length, by the angle between the directions', () => {
		const bent = (inclination: number, step: number) => of('tight-bend', [collars(), survey(`A,0,90,-60\nA,${step},90,${inclination}\n`)]);
		expect(bent(-81, 30)).toHaveLength(1);
		expect(bent(-79, 30)).toEqual([]);
		expect(bent(-79, 15)).toHaveLength(1);
		expect(bent(-61.9, 0.5)).toEqual([]);
		// Near the vertical the azimuth says little.
		expect(of('tight-bend', [collars(), survey('A,0,0,-89.5\nA,30,180,-89.5\n')])).toEqual([]);
		expect(bent(-81, 30)[0]!.message).toContain('21° over 30 m');
	});
	it("the bound of the bend is the project's", () => {
		expect(of('tight-bend', [collars(), survey('A,0,90,-60\nA,30,90,-70\n')], bounds('tight-bend', { severity: 5 }))).toHaveLength(1);
	});
});

describe('places', () => {
	it('elevations are compared with the terrain where it has one, with the slip that would explain the difference', () => {
		const found = of('against-terrain', [collars('A,20,20,111,10\nB,50,50,109,10\nC,30,30,10,10\nD,40,40,-101,10\nE,900,900,5,10\n')], {
			around: { terrain: flat }
		});
		expect(found.map((f) => [f.row, f.proposal])).toEqual([
			[0, '100.00'],
			[2, '100'],
			[3, '101']
		]);
		expect(found[0]!.message).toContain('11.0 m above');
	});
	it("the greatest difference is the project's", () => {
		const at = (most: number) =>
			of('against-terrain', [collars('A,20,20,103,10\nB,50,50,100,10\n')], {
				around: { terrain: flat },
				...bounds('against-terrain', { most })
			});
		expect([rows(at(2)), rows(at(4))]).toEqual([[0], []]);
	});
	it('a collar outside the extent, and none without one', () => {
		const extent = { minX: 0, minY: 0, minZ: 0, maxX: 40, maxY: 40, maxZ: 9 };
		expect(of('outside-extent', [collars()], { around: { extent } }).map((f) => f.hole)).toEqual(['B']);
		expect(of('outside-extent', [collars()])).toEqual([]);
	});
	it('few collars, or all on one spot, say nothing of where the rest is', () => {
		expect(of('misplaced-collar', [collars('A,0,0,1,2\nB,1,1,1,2\nC,99999999,5,1,2\n')])).toEqual([]);
		expect(of('misplaced-collar', [collars(Array.from({ length: 9 }, (_, i) => `H${i},5,5,1,2`).join('\n'))])).toEqual([]);
	});
});

describe('dates', () => {
	const levels = (dates: string[], today?: number) =>
		of('bad-date', [collars(), table('levels', `hole,date,dtw\n${dates.map((d) => `A,${d},5`).join('\n')}\n`)], {
			around: today === undefined ? {} : { today }
		});
	const today = Date.UTC(2024, 5, 1) / 86_400_000;
	it('that do not exist, lie in the future, or before anybody drilled', () => {
		const found = levels(['2024-05-31', '2024-02-30', '2031-01-01', '1749-01-01', ''], today);
		expect(found.map((f) => f.row)).toEqual([1, 2, 3]);
		expect(found.map((f) => f.message)).toEqual([
			expect.stringContaining('not a date that exists'),
			expect.stringContaining('future'),
			expect.stringContaining('before 1850')
		]);
	});
	it('tomorrow is no future: clocks and places differ', () => expect(levels(['2024-06-02'], today)).toEqual([]));
	it('without a today there is no future', () => expect(levels(['2931-01-01'])).toEqual([]));
});

describe('codes', () => {
	it('the rarer spelling is put to the more frequent one, unless both are one unit', () => {
		const tables = () => [collars(), log('A,0,5,Limestone\nA,5,9,limestone\nA,9,12,Limestone\nA,12,20,Slate\n')];
		expect(of('code-variants', tables()).map((f) => [f.row, f.proposal])).toEqual([[1, 'Limestone']]);
		expect(of('code-variants', tables(), { around: { lumping: { Limestone: 'lst', limestone: 'lst' } } })).toEqual([]);
		expect(of('code-variants', tables(), { around: { lumping: { Limestone: 'lst', limestone: 'other' } } })).toHaveLength(1);
		expect(of('code-variants', tables(), { around: { lumping: { Limestone: '', limestone: '' } } })).toHaveLength(1);
	});

	const column = [
		{ id: 'top', name: 'Top', color: '#aaaaaa', contact: 'conformable' as const },
		{ id: 'dyke', name: 'Dyke', color: '#bbbbbb', contact: 'intrusive' as const },
		{ id: 'base', name: 'Base', color: '#cccccc', contact: 'conformable' as const }
	];
	const lumping = { T: 'top', D: 'dyke', B: 'base' };
	it('an older unit on a younger one is named, unless the younger intrudes it', () => {
		const found = of('unit-order', [collars(), log('A,0,5,B\nA,5,9,T\nB,0,5,B\nB,5,9,D\nB,9,20,B\n')], { around: { column, lumping } });
		expect(found.map((f) => [f.row, f.others])).toEqual([[1, [0]]]);
		expect(found[0]!.message).toContain('Base lies on the younger Top');
	});
	it('codes without a unit say nothing of the order', () => {
		expect(of('unit-order', [collars(), log('A,0,5,B\nA,5,9,X\nA,9,20,B\n')], { around: { column, lumping } })).toEqual([]);
	});
});

describe('what a project changes in a rule', () => {
	const tables = () => [collars(), log('A,0,5,S\nA,6,9,L\nB,0,5,S\n')];
	it('its severity decides whether the row is used', () => {
		expect([...checkTables(tables(), { lengthUnit: 'm' }).out['intervals']!]).toEqual([0, 0, 0]);
		const { findings, out } = checkTables(tables(), { lengthUnit: 'm', settings: { gap: { severity: 'held' } } });
		expect(findings).toMatchObject([{ rule: 'gap', severity: 'held' }]);
		expect([...out['intervals']!]).toEqual([0, 1, 0]);
	});
	it('a silenced rule is not run', () =>
		expect(of('gap', tables(), { settings: { gap: { silenced: true, reason: 'selective logging' } } })).toEqual([]));
	it("a bound that was not changed is the rule's own", () => {
		const rule = RULES.find((r) => r.id === 'gap')!;
		expect(boundOf(rule, {}, 'least')).toBe(0.001);
		expect(boundOf(rule, { gap: { bounds: { least: 2 } } }, 'least')).toBe(2);
		expect(boundOf(rule, {}, 'nothing')).toBeNaN();
	});
	it('findings are counted by rule and severity', () => {
		const { findings } = checkTables([collars('A,0,0,10,100\nA,0,0,10,100\n'), log('A,0,5,S\nA,6,9,L\nA,10,12,S\n')], { lengthUnit: 'm' });
		expect(countFindings(findings)).toEqual([
			{ rule: 'duplicate-collar', severity: 'held', count: 1 },
			{ rule: 'gap', severity: 'noted', count: 2 }
		]);
		expect(countFindings([])).toEqual([]);
	});
});

it('a row that one rule holds back is not looked at by the next', () => {
	// Row 1 overlaps row 0, and would leave a gap before row 2 were it used.
	const { findings } = checkTables([collars(), log('A,0,10,S\nA,5,7,X\nA,10,20,L\n')], {
		lengthUnit: 'm',
		settings: { 'missing-rows': { silenced: true } }
	});
	expect(findings.map((f) => [f.rule, f.row])).toEqual([['overlap', 1]]);
});

describe('schemes', () => {
	const schemes = [
		readScheme(
			's',
			'Trees',
			['Rank', 'Unit', 'Parent'],
			[
				['Formation', 'Alder', ''],
				['Member', 'Alder Top', 'Alder'],
				['Formation', 'Birch', ''],
				['Member', 'Birch Foot', 'Birch']
			]
		).scheme
	];
	it('name an older unit on a younger one, by the codes of a log', () => {
		const found = of(
			'against-scheme',
			[collars(), log('A,0,5,birch\nA,5,9,ALDER\nB,0,5,Alder\nB,5,9,Alder Top\nB,9,20,Birch Foot\nB,20,30,Sand\n')],
			{
				around: { schemes }
			}
		);
		expect(found.map((f) => [f.row, f.hole])).toEqual([[1, 'A']]);
		expect(found[0]!.message).toContain('Birch lies on the younger Alder at 5 m');
	});
	it('name ranks that disagree, in tables with a column for each', () => {
		const raw = readDelimited(
			new TextEncoder().encode('hole,from,to,Formation,Member\nA,0,5,Alder,Birch Foot\nA,5,9,Birch,Birch Foot\nA,9,12,,Alder Top\n'),
			'tops'
		);
		const tops = readTable('tops', 'other', raw, { hole: 'hole', from: 'from', to: 'to', Formation: 'keep', Member: 'keep' });
		const found = of('ranks-disagree', [collars(), tops], { around: { schemes } });
		expect(found.map((f) => [f.row, f.message])).toEqual([[0, 'Birch Foot is a part of Birch, but Alder is logged here']]);
		expect(of('ranks-disagree', [collars(), tops])).toEqual([]);
	});
});
