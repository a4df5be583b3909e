import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { Hole } from '../holes/holes';
import { holePath } from '../holes/path';
import { contactsOf, type Contacts, type FaultZones } from './contacts';
import type { StratigraphicColumn, Unit } from './column';

const unit = (id: string, contact: Unit['contact'] = 'conformable'): Unit => ({ id, name: id.toUpperCase(), color: '#888888', contact });
const COLUMN: StratigraphicColumn = [unit('vein', 'intrusive'), ...['sand', 'mud', 'lime', 'slate'].map((id) => unit(id))];
const ROW = 5;

/** A hole in rows of 5 m: a code, how many rows it has, the next code. */
function logged(name: string, text: string): Hole {
	const rows = [...text.matchAll(/(\w+) (\d+)/g)].flatMap(([, code, count]) => Array.from({ length: Number(count) }, () => code!));
	const path = holePath([Number(name.slice(1)) * 50, 0, 0], ROW * rows.length, [], { azimuth: 0, inclination: -90 });
	return { name, row: 0, path, intervals: rows.map((code, i) => ({ from: ROW * i, to: ROW * (i + 1), code, table: 'log', row: i })) };
}
const SURE = 'sand 6 mud 5 lime 7 slate 6';
const sure = Array.from({ length: 6 }, (_, i) => logged(`H${i + 2}`, SURE));
const seen = (codes: string, more: readonly Hole[] = sure): Contacts => contactsOf([logged('H1', codes), ...more], {}, COLUMN);
const ofHole = (c: Contacts) => ({
	contacts: c.points.filter((p) => p.hole === 'H1').map((p) => [COLUMN[p.surface]!.id, p.depth]),
	odd: c.findings.filter((f) => f.hole === 'H1' && f.rule === 'odd-unit').map((f) => f.row),
	rules: [...new Set(c.findings.filter((f) => f.hole === 'H1').map((f) => f.rule))],
	unknown: c.unknown.filter((s) => s.hole === 'H1').map((s) => [s.from, s.to])
});
const CLEAN = [
	['sand', 30],
	['mud', 55],
	['lime', 90]
];

describe('a row with a wrong code among many right ones', () => {
	it.each<[string, string, number[]]>([
		['the unit below it, in the middle of one', 'sand 3 mud 1 sand 2 mud 5 lime 7 slate 6', [3]],
		['one far below', 'sand 6 mud 2 slate 1 mud 2 lime 7 slate 6', [8]],
		['two beside each other, of different codes', 'sand 6 mud 5 lime 3 slate 1 sand 1 lime 2 slate 6', [14, 15]],
		['two in one unit', 'sand 2 lime 1 sand 1 slate 1 sand 1 mud 5 lime 7 slate 6', [2, 4]]
	])('is named, and the hole has its contacts as if it was right: %s', (_, codes, odd) => {
		const found = ofHole(seen(codes));
		expect(found).toEqual({ contacts: CLEAN, odd, rules: ['odd-unit'], unknown: odd.map((k) => [ROW * k, ROW * (k + 1)]) });
	});
	it('says in words where it is and what it is taken as, and no place in it is known', () => {
		const c = seen('sand 3 mud 1 sand 2 mud 5 lime 7 slate 6');
		expect(c.findings.map((f) => f.message)).toEqual(['MUD from 15 to 20 lies in SAND, and is taken as that']);
		expect(c.observations.filter((o) => o.hole === 'H1' && o.depth > 15 && o.depth < 20)).toEqual([]);
	});
	it('at a contact says nothing: the contact lies somewhere in it', () => {
		const found = ofHole(seen('sand 6 slate 1 mud 4 lime 7 slate 6'));
		expect([found.odd, found.contacts, found.unknown]).toEqual([[6], CLEAN.slice(1), [[30, 35]]]);
	});
	it('where two rows may be the wrong one neither says anything', () => {
		const found = ofHole(seen('sand 6 mud 5 lime 1 mud 1 lime 5 slate 6'));
		expect([found.odd, found.contacts]).toEqual([
			[11, 12],
			[CLEAN[0], CLEAN[2]]
		]);
	});
	it('beside a thin vein is found, too, and the vein stays', () => {
		const found = ofHole(seen('sand 3 lime 1 vein 1 sand 2 mud 5 lime 7 slate 6'));
		expect([found.odd, found.contacts]).toEqual([
			[3],
			[
				['vein', 20],
				['vein', 25],
				['sand', 35],
				['mud', 60],
				['lime', 95]
			]
		]);
	});
	it('of a body that is met in many rows is none of it, nor a hole in it', () => {
		const bodies = sure.map((h) => logged(h.name, 'sand 6 vein 8 sand 2 mud 5 lime 7'));
		const apart = ofHole(seen('sand 2 vein 1 sand 3 vein 3 mud 1 vein 4 mud 5 lime 7', bodies));
		expect(apart.odd).toEqual([2, 9]);
		expect(apart.contacts.filter(([u]) => u === 'vein')).toEqual([
			['vein', 30],
			['vein', 70]
		]);
	});
	it('is believed where somebody says so', () => {
		const codes = 'sand 3 mud 1 sand 2 mud 5 lime 7 slate 6';
		const c = contactsOf([logged('H1', codes), ...sure], {}, COLUMN, undefined, new Set(['H1']));
		expect([ofHole(c).odd, ofHole(c).contacts.length]).toEqual([[], 5]);
	});
});

describe('what is no wrong code', () => {
	it('several rows of a unit, once more', () => {
		expect(ofHole(seen('sand 6 mud 5 sand 4 mud 4 lime 7')).odd).toEqual([]);
	});
	it('a row where layers are turned over in other holes, too', () => {
		const turned = sure.map((h) => logged(h.name, 'mud 5 lime 6 mud 5 sand 6'));
		expect(ofHole(seen('sand 3 mud 1 sand 2 mud 5', turned)).odd).toEqual([]);
	});
	it('a unit that is missing once', () => {
		const found = ofHole(seen('sand 6 lime 7 slate 6'));
		expect([found.odd, found.rules]).toEqual([[], ['unit-missing']]);
	});
	it('units of one row each: there a row tells as much as its neighbours', () => {
		const single = 'sand 1 mud 1 lime 1 slate 1';
		const found = ofHole(
			seen(
				`sand 1 mud 1 sand 1 ${single}`,
				sure.map((h) => logged(h.name, single))
			)
		);
		expect(found.odd).toEqual([]);
	});
	it('a log that the column does not fit at all', () => {
		const found = ofHole(seen('slate 1 lime 2 mud 1 sand 2'));
		expect(found.odd).toEqual([]);
	});
});

describe('a wrong row where a fault lays layers on each other again', () => {
	/** A level fault at a depth, drawn to within 12 m. */
	const faultAt = (depth: number): FaultZones => ({
		count: 1,
		distance: (_f, _x, _y, z) => z + depth,
		halfWidth: () => 1,
		reach: () => 12,
		name: () => 'Thrust',
		cuts: () => true,
		lengthUnit: 'm'
	});
	const repeated = sure.map((h) => logged(h.name, 'sand 4 mud 5 lime 5 mud 3 lime 6 slate 6'));
	const oddOf = (codes: string, depth: number, others = repeated) =>
		contactsOf([logged('H1', codes), ...others], {}, COLUMN, faultAt(depth)).findings.flatMap((f) =>
			f.rule === 'odd-unit' ? [[f.hole, f.row]] : []
		);
	it('is told far from it: what the fault made is no fold', () => {
		expect(oddOf('sand 2 mud 1 sand 3 mud 4 lime 4 mud 3 lime 6 slate 6', 70)).toEqual([['H1', 2]]);
	});
	it('is told beside it: a hole goes through a fault once', () => {
		expect(oddOf('sand 4 mud 5 lime 3 sand 1 lime 1 mud 3 lime 6 slate 6', 70)).toEqual([['H1', 12]]);
	});
	it('is none where the fault makes one of its boundaries', () => {
		expect(oddOf('sand 4 mud 5 lime 5 mud 3 lime 6 slate 6', 70)).toEqual([]);
		const short = sure.map((h) => logged(h.name, 'sand 4 mud 5 lime 1 mud 7 lime 6 slate 6'));
		expect(oddOf('sand 4 mud 5 lime 1 mud 7 lime 6 slate 6', 50, short)).toEqual([]);
	});
	it('is told where it would be the second boundary that the fault makes', () => {
		// Drawn 8 m above where it is: what it made lies at 70 m, the wrong row, of which one boundary is in order, 7 m above where it was drawn.
		expect(oddOf('sand 4 mud 5 lime 1 slate 1 lime 3 mud 3 lime 6 slate 6', 62)).toEqual([['H1', 10]]);
		// With what the fault made away from both, either could be its work.
		expect(oddOf('sand 4 mud 5 lime 1 slate 1 lime 12 slate 6', 56, sure)).toEqual([]);
	});
	it('is told where it lies as far from the fault as that may be off, and not where it is nearer', () => {
		expect(oddOf('sand 5 mud 1 sand 2 mud 3 lime 7 slate 6', 41.8, sure)).toEqual([['H1', 5]]);
		expect(oddOf('sand 5 mud 1 sand 1 mud 4 lime 7 slate 6', 34, sure)).toEqual([]);
	});
	it('is told beside what the fault made in its own zone', () => {
		expect(oddOf('sand 4 mud 5 lime 2 slate 1 lime 2 mud 3 lime 6 slate 6', 70)).toEqual([['H1', 11]]);
	});
});

it('of right logs nothing is odd, with one wrong row nothing but its hole', () => {
	fc.assert(
		fc.property(
			fc.array(fc.array(fc.integer({ min: 2, max: 9 }), { minLength: 4, maxLength: 4 }), { minLength: 5, maxLength: 9 }),
			fc.nat(),
			fc.nat(),
			(thick, at, code) => {
				const ids = ['sand', 'mud', 'lime', 'slate'];
				const holes = thick.map((rows, i) => logged(`H${i + 1}`, rows.map((n, k) => `${ids[k]} ${n}`).join(' ')));
				const oddIn = (list: readonly Hole[]) => new Set(contactsOf(list, {}, COLUMN).findings.map((f) => f.hole));
				expect(oddIn(holes).size).toBe(0);
				const first = holes[0]!;
				const k = at % first.intervals.length;
				const wrong = { ...first.intervals[k]!, code: ids[code % 4]! };
				const damaged = { ...first, intervals: first.intervals.map((v, i) => (i === k ? wrong : v)) };
				expect([...oddIn([damaged, ...holes.slice(1)])].every((h) => h === 'H1')).toBe(true);
			}
		)
	);
});
