import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { readDelimited } from '../tables/delimited';
import { editCell, excludeRow } from '../tables/edit';
import type { TableKind } from '../tables/kinds';
import { guessMapping } from '../tables/mapping';
import { readTable, type Table } from '../tables/table';
import { canRecheck, checkTables, recheck, type CheckOptions } from './check';
import type { Finding } from '../tables/finding';
import { RULES } from './rules';
import { clusters } from './rules/code-variants';

const open = (kind: TableKind, text: string) => {
	const raw = readDelimited(new TextEncoder().encode(text), kind);
	const mapping = guessMapping(raw, kind);
	return { raw, mapping, table: readTable(kind, kind, raw, mapping) };
};
const found = (table: Table, options: Partial<CheckOptions> = {}) =>
	checkTables([table], { lengthUnit: 'm', ...options }).findings.map((f) => [f.rule, f.row]);
const plain = (list: readonly Finding[]) => list.map((f) => `${f.table} ${f.rule} ${f.row} ${f.column} ${f.message}`).sort();

describe('after an edit', () => {
	it('checking what it can affect gives what checking everything gives', () => {
		const holes = ['A', 'B', 'C', 'Z'];
		const cell = fc.oneof(
			fc.constantFrom(...holes),
			fc.constantFrom('0', '5', '10', '15', '20', '40', '<5', '', 'x', '-1'),
			fc.constantFrom('SST', 'Sst', 'LST')
		);
		const interval = fc.tuple(
			fc.constantFrom(...holes),
			fc.integer({ min: 0, max: 8 }),
			fc.integer({ min: 0, max: 8 }),
			fc.constantFrom('SST', 'Sst', 'LST')
		);
		fc.assert(
			fc.property(
				fc.array(interval, { minLength: 1, maxLength: 25 }),
				fc.array(fc.tuple(fc.nat(24), fc.nat(4), cell), { minLength: 1, maxLength: 6 }),
				(rows, edits) => {
					const collars = open('collars', 'hole,x,y,z,depth\nA,0,0,10,40\nB,50,0,12,30\nC,80,9,12,20\n').table;
					const log = open('intervals', `hole,from,to,code\n${rows.map(([h, a, b, c]) => `${h},${5 * a},${5 * b},${c}`).join('\n')}\n`);
					const options: CheckOptions = { lengthUnit: 'm' };
					const tables = [collars, log.table];
					const { findings, out } = checkTables(tables, options);
					let now = [...findings];
					for (const [r, position, value] of edits) {
						const row = r % rows.length;
						const affected = new Set([log.table.text['hole']![row]!]);
						const columns = new Set<string>();
						if (position === 4) {
							excludeRow(log.table, row, !log.table.excluded[row]);
							for (const k of ['code', 'from', 'to', 'hole']) columns.add(k);
						} else {
							const key = editCell(
								log.raw,
								log.table,
								{ mapping: log.mapping, units: {}, values: {}, lengthUnit: 'm' },
								row,
								position,
								value
							);
							if (key) columns.add(key);
						}
						affected.add(log.table.text['hole']![row]!);
						expect(canRecheck(log.table, {})).toBe(true);
						const part = recheck(tables, out, { holes: affected, rows: new Map(), columns: new Map([['intervals', columns]]) }, options);
						const isTable = (f: Finding) => RULES.find((x) => x.id === f.rule)!.scope === 'table';
						now = [
							...now.filter((f) => (isTable(f) ? !(f.table === 'intervals' && columns.has(f.column!)) : !affected.has(f.hole ?? ''))),
							...part
						];
						const whole = checkTables(tables, options);
						// A code counts only in rows that are in use; another edit of such a row is seen at the next one of a code.
						const steady = (list: readonly Finding[]) => plain(list.filter((f) => f.rule !== 'code-variants'));
						expect(steady(now)).toEqual(steady(whole.findings));
						expect(out).toEqual(whole.out);
					}
				}
			),
			{ numRuns: 300 }
		);
	});

	it('a rule that compares all rows and holds them back makes every check a whole one', () => {
		const { table } = open('assays', 'hole,from,to,Cu\nA,0,1,2\n');
		expect(canRecheck(table, {})).toBe(true);
		expect(canRecheck(table, { outlier: { severity: 'held' } })).toBe(false);
		expect(canRecheck(open('collars', 'hole,x,y,z,depth\nA,0,0,1,2\n').table, {})).toBe(false);
	});
});

describe('rules about a whole column', () => {
	const values = (list: (number | string)[]) =>
		open('assays', `hole,from,to,Cu\n${list.map((v, i) => `A,${i},${i + 1},${v}`).join('\n')}\n`).table;
	const spread = Array.from({ length: 60 }, (_, i) => Math.exp(2 + Math.sin(i)));
	const off = { settings: { 'unknown-hole': { silenced: true, reason: 'no collars here' } } };

	it('find a far outlier on a logarithmic scale, and none in what merely spreads', () => {
		expect(found(values(spread), off)).toEqual([]);
		expect(found(values([...spread, 9e9]), off)).toEqual([['outlier', 60]]);
		expect(found(values([...spread, 9e9]), { settings: { ...off.settings, outlier: { bounds: { times: 100 } } } })).toEqual([]);
	});
	it('leave per cent alone that pile up below a hundred, and what the neighbours along a curve have, too', () => {
		const recovery = Array.from({ length: 60 }, (_, i) => 100 - (i % 9));
		expect(found(values([...recovery, 31]), off)).toEqual([]);
		// A value of 9100 % is a slip all the same.
		expect(found(values([...recovery, 9100]), off)).toEqual([['outlier', 60]]);
		const curve = (list: number[]) =>
			found(open('readings', `hole,depth,density\n${list.map((v, i) => `A,${i},${v}`).join('\n')}\n`).table, off);
		const rock = Array.from({ length: 60 }, (_, i) => 2.6 + 0.01 * Math.sin(i));
		expect(curve([...rock, 1.9, 1.91, 1.9])).toEqual([]);
		expect(curve([...rock, 1.9, ...rock])).toEqual([['outlier', 60]]);
	});
	it('find the few negative values of a column that has none, not the many of one that may', () => {
		expect(found(values([...spread, -1]), off)).toEqual([['negative-value', 60]]);
		expect(found(values(spread.map((v, i) => (i % 2 ? v : -v))), off)).toEqual([]);
	});
	it('tell a dip column that holds directions, and a direction column that holds dips', () => {
		const plane = (rows: [number, number][]) =>
			found(open('orientations', `x,y,dip,dipaz\n${rows.map(([d, a], i) => `${i * 10},${i * 7},${d},${a}`).join('\n')}\n`).table, {
				settings: { 'out-of-range': { severity: 'noted' } }
			}).filter(([rule]) => rule === 'strike-or-dip');
		expect(plane(Array.from({ length: 20 }, (_, i) => [i * 18, 30]))).toEqual([['strike-or-dip', -1]]);
		expect(plane(Array.from({ length: 30 }, (_, i) => [30, i * 3]))).toEqual([['strike-or-dip', -1]]);
		expect(plane(Array.from({ length: 30 }, (_, i) => [30, i * 12]))).toEqual([]);
	});
	it('say when all holes point to the sky', () => {
		const survey = open('surveys', 'hole,depth,azimuth,dip\nA,0,0,60\nA,10,0,60\nA,20,0,60\n').table;
		expect(found(survey, off)).toEqual([['mixed-dip-signs', -1]]);
	});
	it('put spellings together that differ by case, punctuation or one slip, but not names that differ by a digit', () => {
		expect(clusters(['LST', 'Lst.', 'lst', 'Sandstone', 'Sandstonne', 'Sadnstone', 'S1', 'S2', 'Siltstone', 'Claystone'])).toEqual([
			['LST', 'Lst.', 'lst'],
			['Sandstone', 'Sandstonne', 'Sadnstone']
		]);
	});
	it('propose the swap of coordinates and the slip of a decimal', () => {
		const collar = (extra: string) =>
			checkTables(
				[
					open(
						'collars',
						`hole,x,y,z,depth\n${Array.from({ length: 9 }, (_, i) => `H${i},${402000 + 90 * i},${4992000 + 70 * ((i * 5) % 9)},10,50`).join('\n')}\n${extra}\n`
					).table
				],
				{ lengthUnit: 'm' }
			).findings;
		expect(collar('S,4992100,402200,10,50')[0]).toMatchObject({
			rule: 'misplaced-collar',
			row: 9,
			message: expect.stringContaining('swapped')
		});
		expect(collar('D,40230.5,4992200,10,50')[0]).toMatchObject({ rule: 'misplaced-collar', row: 9, proposal: '402305' });
		expect(collar('N,402300,4992200,10,50')).toEqual([]);
	});
});

it('every rule says why it matters and what it compares', () => {
	for (const r of RULES) {
		expect(r.reason.length).toBeGreaterThan(20);
		expect(['holes', 'table']).toContain(r.scope);
	}
	expect(new Set(RULES.map((r) => r.id)).size).toBe(RULES.length);
});
