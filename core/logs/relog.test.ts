import { describe, expect, it } from 'vitest';
import type { Table } from '../tables/table';
import { codesOf, differences, Log, pickRows, relog, sumOf, type LogChange } from './relog';

/** A log from rows of hole, from, to, code and what was said. */
function tableOf(rows: [string, number, number, string, string?][]): Table {
	return {
		name: 'log',
		kind: 'intervals',
		rowCount: rows.length,
		lines: new Int32Array(rows.length),
		excluded: new Uint8Array(rows.length),
		text: { hole: rows.map((r) => r[0]), code: rows.map((r) => r[3]), description: rows.map((r) => r[4] ?? '') },
		numbers: { from: Float64Array.from(rows, (r) => r[1]), to: Float64Array.from(rows, (r) => r[2]) },
		notNumbers: [],
		headers: { hole: 'Hole', from: 'From', to: 'To', code: 'Code', description: 'Description' }
	};
}
const logOf = (rows: Parameters<typeof tableOf>[0], out: number[] = []) => {
	const t = tableOf(rows);
	return new Log(
		t,
		Uint8Array.from({ length: t.rowCount }, (_, r) => Number(out.includes(r)))
	);
};
/** The log after a change: as rows would be read again. */
function after(log: Log, change: LogChange): Log {
	const { table } = log;
	const rows = Array.from({ length: table.rowCount }, (_, r): [string, number, number, string] => [
		table.text['hole']![r]!,
		table.numbers['from']![r]!,
		table.numbers['to']![r]!,
		table.text['code']![r]!
	]);
	for (const c of change.cells) rows[c.row]![c.role === 'from' ? 1 : c.role === 'to' ? 2 : 3] = c.value as never;
	for (const a of change.added) rows.push([rows[a.copyOf]![0], a.cells.from, a.cells.to, a.cells.code ?? rows[a.copyOf]![3]]);
	return logOf(rows, [...change.excluded, ...[...log.out].flatMap((o, r) => (o ? [r] : []))]);
}
const said = (log: Log, hole = 'A') => log.of(hole).map((r) => `${r.from}-${r.to} ${r.code}`);

const PLAIN: Parameters<typeof tableOf>[0] = [
	['A', 0, 10, 'S'],
	['A', 10, 10.3, 'L'],
	['A', 10.3, 20, 'S'],
	['A', 20, 30, 'T'],
	['B', 0, 8, 'S'],
	['B', 8, 30, 'T']
];

describe('acts of relogging', () => {
	it('give a code to whole intervals, and leave alone what has it already or is not in use', () => {
		const log = logOf(PLAIN, [3]);
		const change = relog(log, { do: 'give', rows: [0, 3, 5, 4, 99], code: 'T' });
		expect(change.cells).toEqual([
			{ row: 0, role: 'code', value: 'T' },
			{ row: 4, role: 'code', value: 'T' }
		]);
	});

	it('paint a stretch over intervals, cutting what reaches beyond it; the hole stays covered without gap or overlap', () => {
		const log = logOf(PLAIN);
		for (const [from, to] of [
			[5, 25],
			[0, 30],
			[2, 3],
			[10, 10.3],
			[9, 10.1],
			[-5, 200]
		] as const) {
			const now = after(log, relog(log, { do: 'stretch', stretches: [{ hole: 'A', from, to }], code: 'X' }));
			const rows = now.of('A');
			rows.forEach((r, i) => i > 0 && expect(r.from).toBeCloseTo(rows[i - 1]!.to, 9));
			expect([rows[0]!.from, rows[rows.length - 1]!.to]).toEqual([0, 30]);
			const painted = rows.filter((r) => r.code === 'X').reduce((n, r) => n + r.to - r.from, 0);
			expect(painted).toBeCloseTo(Math.min(to, 30) - Math.max(from, 0), 9);
		}
		expect(said(log, 'B')).toEqual(['0-8 S', '8-30 T']);
		// Several stretches of one interval, each with a code of its own; of two over each other the later one counts.
		const parts = {
			do: 'stretch',
			code: '',
			stretches: [
				{ hole: 'B', from: -9, to: 99 },
				{ hole: 'B', from: 10, to: 20, code: 'X' },
				{ hole: 'B', from: 18, to: 25, code: 'Y' }
			]
		} as const;
		expect(said(after(log, relog(log, parts)), 'B')).toEqual(['0-8 ', '8-10 ', '10-18 X', '18-25 Y', '25-30 ']);
		expect(() => relog(log, { do: 'stretch', stretches: [{ hole: 'A', from: 5, to: 5 }], code: 'X' })).toThrow(/holds nothing/);
	});

	it('move a boundary with both intervals, and never over a neighbour', () => {
		const log = logOf(PLAIN);
		expect(said(after(log, relog(log, { do: 'move', hole: 'A', from: 20, to: 17.5 })))).toEqual([
			'0-10 S',
			'10-10.3 L',
			'10.3-17.5 S',
			'17.5-30 T'
		]);
		expect(() => relog(log, { do: 'move', hole: 'A', from: 20, to: 10 })).toThrow(/between 10.3 and 30/);
		expect(() => relog(log, { do: 'move', hole: 'A', from: 11, to: 12 })).toThrow(/no boundary at 11/);
		expect(() => relog(log, { do: 'move', hole: 'Z', from: 11, to: 12 })).toThrow(/nothing is logged in Z/);
		// The end of the log borders on nothing: it may grow.
		expect(said(after(log, relog(log, { do: 'move', hole: 'A', from: 30, to: 42 })))[3]).toBe('20-42 T');
		// In a gap it must not come over what lies behind.
		const gap = logOf([
			['A', 0, 10, 'S'],
			['A', 15, 20, 'T']
		]);
		expect(() => relog(gap, { do: 'move', hole: 'A', from: 10, to: 16 })).toThrow(/over the interval from 15 to 20/);
	});

	it('split an interval inside it only', () => {
		const log = logOf(PLAIN);
		expect(said(after(log, relog(log, { do: 'split', row: 3, depth: 24 })))).toContain('24-30 T');
		expect(() => relog(log, { do: 'split', row: 3, depth: 30 })).toThrow(/does not lie inside/);
		expect(() => relog(log, { do: 'split', row: 77, depth: 3 })).toThrow(/no such interval/);
	});

	it('dissolve thin intervals into a neighbour', () => {
		const log = logOf(PLAIN);
		const into = (how: 'above' | 'below' | 'thicker' | 'nearest', rows = [1]) =>
			said(
				after(
					log,
					relog(log, { do: 'dissolve', rows, into: how }, (c) => 'STL'.indexOf(c))
				)
			);
		expect(into('above')).toEqual(['0-10.3 S', '10.3-20 S', '20-30 T']);
		expect(into('below')).toEqual(['0-10 S', '10-20 S', '20-30 T']);
		expect(into('thicker')).toEqual(['0-10.3 S', '10.3-20 S', '20-30 T']);
		// Two that touch go as one; the unit that is nearer in the column takes them.
		expect(into('nearest', [1, 2])).toEqual(['0-10 S', '10-30 T']);
		// What stands first or last has one neighbour; what is alone has none, and is told.
		expect(into('above', [0])).toEqual(['0-10.3 L', '10.3-20 S', '20-30 T']);
		expect(relog(log, { do: 'dissolve', rows: [4, 5], into: 'above' }).left.map((l) => l.row)).toEqual([4, 5]);
	});

	it('between two that go, an interval grows on both sides', () => {
		const log = logOf([
			['A', 0, 1, 'a'],
			['A', 1, 2, 'b'],
			['A', 2, 3, 'c']
		]);
		expect(said(after(log, relog(log, { do: 'dissolve', rows: [0, 2], into: 'below' })))).toEqual(['0-3 b']);
	});

	it('refuse to move boundaries where the log states none', () => {
		const t = tableOf(PLAIN);
		const log = new Log({ ...t, headers: { hole: 'Hole', to: 'To', code: 'Code' } }, new Uint8Array(t.rowCount));
		expect(() => relog(log, { do: 'split', row: 0, depth: 3 })).toThrow(/states no depths/);
		expect(relog(log, { do: 'give', rows: [0], code: 'T' }).cells).toHaveLength(1);
	});

	it('whatever is done, every metre that was logged is logged once', () => {
		let seed = 7;
		const random = () => (seed = (seed * 16807) % 2147483647) / 2147483647;
		for (let n = 0; n < 200; n++) {
			const ends = [0, ...Array.from({ length: 8 }, () => Math.round(random() * 1000) / 10), 100].sort((a, b) => a - b);
			let log = logOf(
				ends.slice(1).flatMap((to, i): [string, number, number, string][] => (to > ends[i]! ? [['A', ends[i]!, to, 'abc'[i % 3]!]] : []))
			);
			for (let k = 0; k < 6; k++) {
				const rows = log.of('A');
				const any = rows[Math.floor(random() * rows.length)]!;
				const what = Math.floor(random() * 4);
				const d = any.from + random() * (any.to - any.from);
				const act =
					what === 0
						? ({ do: 'stretch', stretches: [{ hole: 'A', from: d - 5, to: d + 9 }], code: 'x' } as const)
						: what === 1
							? ({ do: 'split', row: any.row, depth: d } as const)
							: what === 2
								? ({ do: 'dissolve', rows: [any.row], into: 'thicker' } as const)
								: ({ do: 'move', hole: 'A', from: any.to, to: d } as const);
				try {
					log = after(log, relog(log, act));
				} catch (error) {
					expect(String(error)).toMatch(/boundary|lie inside/);
				}
			}
			const rows = log.of('A');
			let at = 0;
			for (const r of rows) {
				expect(r.from).toBeCloseTo(at, 6);
				at = r.to;
			}
		}
	});
});

describe('rules that pick intervals', () => {
	const log = logOf(PLAIN);
	it('by thickness, also only between two of the same', () => {
		expect(pickRows(log, { by: 'thin', thinner: 0.5, between: 'any' }, (c) => c)).toEqual([1]);
		expect(pickRows(log, { by: 'thin', thinner: 9, between: 'same' }, (c) => c)).toEqual([1]);
		expect(pickRows(log, { by: 'thin', thinner: 9, between: 'same' }, (c) => (c === 'L' ? 'S' : c))).toEqual([]);
	});
	it('beside a unit, within depths, by codes; nothing and everything', () => {
		expect(pickRows(log, { by: 'beside', of: 'T', side: 'above' }, (c) => c)).toEqual([0, 1, 2, 4]);
		expect(pickRows(log, { by: 'beside', of: 'L', side: 'below' }, (c) => c)).toEqual([2, 3]);
		expect(pickRows(log, { by: 'beside', of: 'nobody', side: 'above' }, (c) => c)).toEqual([]);
		expect(pickRows(log, { by: 'depth', from: 8, to: 20 }, (c) => c)).toEqual([1, 2]);
		expect(pickRows(log, { by: 'codes', codes: ['S', 'T', 'L'] }, (c) => c)).toHaveLength(6);
	});
	it('and are summed up', () => {
		expect(sumOf(log, [0, 1, 5])).toMatchObject({ rows: 3, holes: 2, length: 32.3, codes: [{ code: 'T' }, { code: 'S' }, { code: 'L' }] });
		expect(sumOf(log, [])).toEqual({ rows: 0, holes: 0, length: 0, codes: [] });
	});
});

it('tells where two logs differ, by what counts as the same', () => {
	const a = logOf(PLAIN);
	const b = logOf([
		['A', 0, 12, 'S'],
		['A', 12, 30, 'T'],
		['B', 0, 30, 't']
	]);
	const d = differences(a, b, (c) => c.toUpperCase());
	expect(d.list).toEqual([
		{ hole: 'A', from: 10, to: 10.3, a: 'L', b: 'S' },
		{ hole: 'A', from: 12, to: 20, a: 'S', b: 'T' },
		{ hole: 'B', from: 0, to: 8, a: 'S', b: 't' }
	]);
	expect([d.length, d.compared]).toEqual([expect.closeTo(16.3, 9), 60]);
	expect(differences(a, a, (c) => c).list).toEqual([]);
});

it('tells where in the ground each code is', () => {
	const log = logOf([
		['A', 0, 10, 'S', 'grey slaty mudstone with thin sandy beds'],
		['A', 10, 12, 'T'],
		['B', 3, 8, 'S', 'grey slaty mudstone with thin chert']
	]);
	expect(codesOf(log)).toEqual([
		{ code: 'S', count: 2, holes: 2, length: 15, from: 0, to: 10, words: 'grey slaty mudstone with thin' },
		{ code: 'T', count: 1, holes: 1, length: 2, from: 10, to: 12, words: '' }
	]);
});
