import { describe, expect, it } from 'vitest';
import type { Hole } from '../holes/holes';
import { holePath } from '../holes/path';
import { sequencesOf, proposeLumping, validateColumn, type ContactKind, type Unit } from './column';
import { contactsOf, type FaultZones } from './contacts';

const unit = (id: string, contact: ContactKind): Unit => ({ id, name: id.toUpperCase(), color: '#888888', contact });
const COLUMN = [
	unit('tuff', 'erosional'),
	unit('dyke', 'intrusive'),
	unit('sand', 'conformable'),
	unit('mud', 'conformable'),
	unit('lime', 'erosional'),
	unit('slate', 'conformable')
];
const LUMPING = Object.fromEntries(COLUMN.map((u) => [u.id, u.id]));

function hole(...runs: [number, number, string][]): Hole {
	return {
		name: 'H',
		row: 0,
		path: holePath([0, 0, 100], 200, []),
		intervals: runs.map(([from, to, code], row) => ({ from, to, code, table: 'log', row }))
	};
}
const of = (h: Hole, faults?: FaultZones) => contactsOf([h], LUMPING, COLUMN, faults);

describe('the column', () => {
	it('is cut into sequences at erosional bases, with intrusions at their age', () => {
		expect(sequencesOf(COLUMN).map((s) => [s.kind, s.units, s.base])).toEqual([
			['strata', [0], 0],
			['intrusion', [1], 1],
			['strata', [2, 3, 4], 4],
			['strata', [5], -1]
		]);
	});

	it('needs two units, each once, on a basement that is no intrusion', () => {
		expect(() => validateColumn([COLUMN[0]!])).toThrow('two units');
		expect(() => validateColumn([COLUMN[0]!, COLUMN[0]!])).toThrow('twice');
		expect(() => validateColumn([COLUMN[0]!, COLUMN[1]!])).toThrow('intrusion');
	});

	it('proposes units for codes that differ by case and punctuation only', () => {
		expect(proposeLumping(['LIME', 'Lime.', 'x', 'SLT'], COLUMN, { Slt: 'mud' })).toEqual({ LIME: 'lime', 'Lime.': 'lime', SLT: 'mud' });
	});
});

describe('contacts from a log', () => {
	it('are placed on the base of the younger unit, at their depth', () => {
		const { points, findings } = of(hole([0, 30, 'sand'], [30, 70, 'mud'], [70, 90, 'lime'], [90, 200, 'slate']));
		expect(points.map((p) => [COLUMN[p.surface]!.id, p.z])).toEqual([
			['sand', 70],
			['mud', 30],
			['lime', 10]
		]);
		expect(findings).toEqual([]);
	});

	it('belong to the erosional base where units below it are cut out', () => {
		const { points } = of(hole([0, 20, 'tuff'], [20, 60, 'mud'], [60, 200, 'slate']));
		// Tuff on mud is the base of the tuff; mud straight on slate is the base of the sequence that ends with the limestone.
		expect(points.map((p) => COLUMN[p.surface]!.id)).toEqual(['tuff', 'lime']);
	});

	it('give both sides of an intrusion to the intrusion, and its cut top to what lies on it', () => {
		expect(of(hole([0, 30, 'sand'], [30, 40, 'dyke'], [40, 200, 'sand'])).points.map((p) => COLUMN[p.surface]!.id)).toEqual([
			'dyke',
			'dyke'
		]);
		expect(of(hole([0, 30, 'tuff'], [30, 200, 'dyke'])).points.map((p) => COLUMN[p.surface]!.id)).toEqual(['tuff']);
	});

	it('that can not be placed become findings with their reason', () => {
		const skipping = contactsOf(
			[hole([0, 30, 'sand'], [30, 200, 'lime']), hole([0, 30, 'sand'], [30, 90, 'mud'], [90, 200, 'lime'])],
			LUMPING,
			COLUMN
		);
		expect(skipping.findings).toMatchObject([{ rule: 'unit-missing', row: 1 }]);
		expect(of(hole([0, 30, 'slate'], [30, 200, 'sand'])).findings[0]).toMatchObject({ rule: 'out-of-order' });
		expect(of(hole([0, 30, 'sand'], [35, 200, 'mud'])).findings[0]).toMatchObject({ rule: 'contact-in-gap' });
		const unknown = of(hole([0, 30, 'sand'], [30, 40, 'mystery'], [40, 200, 'mud']));
		expect(unknown.points).toEqual([]);
		expect(unknown.findings).toMatchObject([{ rule: 'code-without-unit' }]);
	});

	it('are left out in the zone of a fault', () => {
		const fault: FaultZones = {
			count: 1,
			distance: (_f, _x, _y, z) => z - 70.5,
			reach: () => 0,
			name: () => 'F',
			halfWidth: () => 1,
			cuts: () => true,
			lengthUnit: 'm'
		};
		const { points, faulted } = of(hole([0, 30, 'sand'], [30, 70, 'mud'], [70, 200, 'lime']), fault);
		expect(faulted).toBe(1);
		expect(points).toHaveLength(1);
	});

	it('put neighbouring intervals of one unit together and observe the ends that no contact marks', () => {
		const { points, observations } = of(hole([0, 10, 'sand'], [10, 30, 'sand'], [30, 60, 'mud']));
		expect(points).toHaveLength(1);
		expect(observations.map((o) => o.depth)).toEqual([0, 15, 45, 60]);
	});
});

it('a run of a unit ends at a gap: what lies in it nobody has seen', () => {
	const { observations } = of(hole([0, 30, 'sand'], [40, 80, 'sand'], [80, 90, 'sand']));
	expect(observations.map((o) => o.depth)).toEqual([0, 15, 30, 40, 65, 90]);
});

describe('across a gap in a log', () => {
	const seen = (...runs: [number, number, string][]) => contactsOf([hole(...runs), whole], LUMPING, COLUMN).findings;
	const whole = { ...hole([0, 30, 'sand'], [30, 60, 'mud'], [60, 90, 'lime'], [90, 200, 'slate']), name: 'whole' };

	it('a unit that belongs there is not missing, and what lies on both sides of it is not odd', () => {
		expect(seen([0, 30, 'sand'], [60, 200, 'lime']).map((f) => [f.rule, f.message])).toEqual([
			['contact-in-gap', 'SAND over LIME: the boundary lies somewhere from 30 to 60']
		]);
		expect(seen([0, 20, 'tuff'], [30, 60, 'mud'], [75, 200, 'slate']).map((f) => f.rule)).toEqual(['contact-in-gap', 'contact-in-gap']);
		// The same without the gap: nobody can say that.
		expect(seen([0, 30, 'sand'], [30, 200, 'lime']).map((f) => f.rule)).toEqual(['unit-missing']);
	});

	it('an older unit above a younger one is odd all the same', () => {
		const found = seen([0, 30, 'sand'], [30, 60, 'mud'], [60, 90, 'lime'], [110, 200, 'tuff']);
		expect(found.filter((f) => f.rule === 'odd-unit').map((f) => [f.hole, f.row])).toEqual([['H', 3]]);
	});

	it('rows with wrong codes are found among right ones on its other side', () => {
		const rows = (from: number, to: number, code: string) =>
			Array.from({ length: (to - from) / 5 }, (_, k): [number, number, string] => [from + 5 * k, from + 5 * (k + 1), code]);
		const short = [...rows(0, 40, 'sand'), ...rows(40, 80, 'mud'), ...rows(120, 160, 'lime'), ...rows(160, 200, 'slate')];
		expect(seen(...short).map((f) => f.rule)).toEqual(['contact-in-gap']);
		const wrong = short.map(([from, to, code]): [number, number, string] => [from, to, from === 130 ? 'sand' : code]);
		expect(seen(...wrong).flatMap((f) => (f.rule === 'odd-unit' ? [f.message] : []))).toEqual([
			'SAND from 130 to 135 lies in LIME, and is taken as that'
		]);
	});
});

it('a boundary that can not be says nothing of either side: only the other ends of the two runs are known', () => {
	const sure = hole([0, 30, 'sand'], [30, 60, 'mud'], [60, 200, 'lime']);
	const { observations } = contactsOf([sure, { ...hole([0, 50, 'sand'], [50, 200, 'lime']), name: 'skips' }], LUMPING, COLUMN);
	expect(observations.filter((o) => o.hole === 'skips').map((o) => [COLUMN[o.unit]!.id, o.depth])).toEqual([
		['sand', 0],
		['lime', 200]
	]);
});
it.each<[string, [number, number, string][], number, string]>([
	[
		'an older unit in the middle of younger ones',
		[
			[0, 30, 'sand'],
			[30, 40, 'slate'],
			[40, 60, 'mud'],
			[60, 90, 'lime'],
			[90, 200, 'slate']
		],
		1,
		'SAND OR MUD'
	],
	[
		'a younger one again, far below',
		[
			[0, 30, 'tuff'],
			[30, 50, 'sand'],
			[50, 80, 'mud'],
			[80, 90, 'tuff'],
			[90, 200, 'lime']
		],
		3,
		'MUD OR LIME'
	],
	[
		'one that leaves out its neighbour',
		[
			[0, 30, 'sand'],
			[30, 60, 'lime'],
			[60, 70, 'sand'],
			[70, 90, 'lime'],
			[90, 200, 'slate']
		],
		-1,
		''
	]
])('a wrong code is set aside and named: %s', (_, runs, row, fitting) => {
	const sure = hole([0, 30, 'sand'], [30, 60, 'mud'], [60, 200, 'lime']);
	const { findings, points, observations } = contactsOf([sure, { ...hole(...runs), name: 'wrong' }], LUMPING, COLUMN);
	const odd = findings.filter((f) => f.rule === 'odd-unit');
	expect(odd.map((f) => f.row)).toEqual(row < 0 ? [] : [row]);
	if (row < 0) return;
	expect(odd[0]!.message.toUpperCase()).toContain(fitting);
	const [from, to] = runs[row]!;
	for (const d of [...points, ...observations].filter((p) => p.hole === 'wrong')) expect(d.depth <= from || d.depth >= to).toBe(true);
	expect(points.filter((p) => p.hole === 'wrong' && (p.depth === from || p.depth === to))).toEqual([]);
});
it('what a fault or a fold repeats in order is no wrong code', () => {
	const { findings } = of(hole([0, 20, 'sand'], [20, 40, 'mud'], [40, 60, 'sand'], [60, 80, 'mud'], [80, 200, 'lime']));
	expect(findings).toEqual([]);
});
it('a unit that nobody logged is not missing between two others', () => {
	const { points, findings } = of(hole([0, 30, 'sand'], [30, 200, 'lime']));
	expect([points.map((p) => [COLUMN[p.surface]!.id, p.z]), findings]).toEqual([[['sand', 70]], []]);
});

describe('a unit that is missing', () => {
	const at = (name: string, x: number, y: number, ...runs: [number, number, string][]): Hole => ({
		...hole(...runs),
		name,
		path: holePath([x, y, 100], 200, [])
	});
	const whole = (name: string, x: number, y: number) =>
		at(name, x, y, [0, 30, 'sand'], [30, 70, 'mud'], [70, 90, 'lime'], [90, 200, 'slate']);
	const lacking = (name: string, x: number, y: number) => at(name, x, y, [0, 40, 'sand'], [40, 90, 'lime'], [90, 200, 'slate']);
	const grid = (lacks: (i: number, j: number) => boolean) =>
		Array.from({ length: 36 }, (_, n) => [n % 6, Math.floor(n / 6)] as const).map(([i, j]) =>
			(lacks(i, j) ? lacking : whole)(`H${i}${j}`, 100 * i, 100 * j)
		);
	const found = (holes: Hole[]) => contactsOf(holes, LUMPING, COLUMN);

	it('in holes side by side pinches out there: the contact counts, and the place of the missing base is kept', () => {
		const { findings, points, absences } = found(grid((i) => i < 2));
		expect(findings).toEqual([]);
		expect(absences).toHaveLength(12);
		expect(absences[0]).toMatchObject({ unit: 3, hole: 'H00', z: 60, depth: 40 });
		expect(points.filter((p) => p.hole === 'H00').map((p) => [COLUMN[p.surface]!.id, p.z])).toEqual([
			['sand', 60],
			['lime', 10]
		]);
	});
	it('in one hole of many is a slip: the code below is taken for a wrong one, or its boundary is refused', () => {
		const { findings, absences } = found(grid((i, j) => i === 3 && j === 2));
		expect([findings.map((f) => [f.rule, f.hole]), absences]).toEqual([[['odd-unit', 'H32']], []]);
	});
	const LAYERS = ['a', 'b', 'c', 'd', 'e'].map((id) => unit(id, 'conformable'));
	const layered = (bases: Record<string, [number, number, string][]>, others: [number, number, string][]) =>
		contactsOf(
			Array.from({ length: 36 }, (_, n) => [n % 6, Math.floor(n / 6)] as const).map(([i, j]) =>
				at(`H${i}${j}`, 100 * i, 100 * j, ...(bases[`${i}${j}`] ?? others))
			),
			Object.fromEntries(LAYERS.map((u) => [u.id, u.id])),
			LAYERS
		);
	const LOG: [number, number, string][] = [
		[0, 30, 'a'],
		[30, 60, 'b'],
		[60, 90, 'c'],
		[90, 120, 'd'],
		[120, 200, 'e']
	];
	const few = ['21', '22', '23'];
	it('in a few beside each other whose next unit is as thick as both has the code of that one', () => {
		const held = LOG.map(([from, to, code]): [number, number, string] => [from, to, code === 'c' ? 'd' : code]);
		expect(layered(Object.fromEntries(few.map((h) => [h, held])), LOG).absences).toEqual([]);
		const thin = LOG.filter((l) => l[2] !== 'c').map(([from, to, code]): [number, number, string] =>
			code === 'd' ? [60, 90, 'd'] : code === 'e' ? [90, 200, 'e'] : [from, to, code]
		);
		expect(
			layered(Object.fromEntries(few.map((h) => [h, thin])), LOG)
				.absences.map((o) => o.hole)
				.sort()
		).toEqual(['H22']);
		// In many it goes over into it.
		const many = Object.fromEntries(Array.from({ length: 18 }, (_, n) => [`${n % 3}${Math.floor(n / 3)}`, held]));
		expect(layered(many, LOG).absences).toHaveLength(18);
	});
	it('is not told by what a fault may have taken away, unless others away from it lack it, too', () => {
		/** Passes by 60 m above the datum in some of the holes, and nowhere in the others. */
		const fault = (passes: (x: number, y: number) => boolean): FaultZones => ({
			count: 1,
			distance: (_f, x, y, z) => (passes(x, y) ? z - 65 : 1000),
			halfWidth: () => 1,
			reach: () => 8,
			name: () => 'Sallow',
			cuts: () => true,
			lengthUnit: 'm'
		});
		const lacks = (i: number, j: number) => i < 2 && j > 0 && j < 3;
		const beside = grid(lacks);
		expect(contactsOf(beside, LUMPING, COLUMN).absences).toHaveLength(4);
		const passing = contactsOf(
			beside,
			LUMPING,
			COLUMN,
			fault(() => true)
		);
		expect([passing.absences, [...new Set(passing.findings.map((f) => f.rule))]]).toEqual([[], ['fault-nearby']]);
		const wide = grid((i) => i < 3);
		expect(
			contactsOf(
				wide,
				LUMPING,
				COLUMN,
				fault((x, y) => x === 100 && y === 200)
			).absences
		).toHaveLength(18);
	});
	it('is not told by a hole whose order is upset beside it', () => {
		const upset = (name: string, x: number, y: number) =>
			at(name, x, y, [0, 20, 'sand'], [20, 40, 'mud'], [40, 60, 'sand'], [60, 90, 'lime'], [90, 200, 'slate']);
		const holes = grid(() => false).map((h) =>
			Number(h.name[1]) < 2 && Number(h.name[2]) < 2 ? upset(h.name, ...(h.path.collar.slice(0, 2) as [number, number])) : h
		);
		expect(found(holes).absences).toEqual([]);
	});
	it('here and there, far from each other, are slips, too', () => {
		const { findings, absences } = found(grid((i, j) => i % 5 === 0 && j % 5 === 0));
		expect([findings.map((f) => f.rule), absences]).toEqual([new Array(4).fill('odd-unit'), []]);
	});
});

describe('the last run of a hole', () => {
	const long = (name: string, x: number, y: number, code: string, from = 70): Hole => ({
		...hole([0, 30, 'sand'], [30, from, 'mud'], [from, 200, code]),
		name,
		path: holePath([x, y, 100], 200, [])
	});
	const whole = (name: string, x: number, y: number): Hole => ({
		...hole([0, 30, 'sand'], [30, 70, 'mud'], [70, 200, 'lime']),
		name,
		path: holePath([x, y, 100], 200, [])
	});
	const holes = (last: Hole) => [...Array.from({ length: 12 }, (_, i) => whole(`H${i}`, 100 * (i % 4), 100 * Math.floor(i / 4))), last];
	const wrong = { ...hole([0, 30, 'sand'], [30, 200, 'mud']), name: 'W', path: holePath([150, 150, 100], 200, []) };

	it('that is far thicker than the unit is anywhere around has a wrong code, unless it is believed', () => {
		const { findings, observations } = contactsOf(holes(wrong), LUMPING, COLUMN);
		expect(findings.map((f) => [f.rule, f.hole])).toEqual([['odd-unit', 'W']]);
		expect(findings[0]!.message).toContain('is 4.3 times as thick as around');
		expect(observations.some((o) => o.hole === 'W' && COLUMN[o.unit]!.id === 'mud')).toBe(false);
		expect(contactsOf(holes(wrong), LUMPING, COLUMN, undefined, new Set(['W'])).findings).toEqual([]);
	});
	it('is not measured by what a fault has cut', () => {
		const fault: FaultZones = {
			count: 1,
			distance: (_, x) => (x < 450 ? 5 : 500),
			halfWidth: () => 2,
			reach: () => 15,
			name: () => 'Sallow',
			cuts: () => true,
			lengthUnit: 'm'
		};
		// Only holes beside it go through the unit: nobody knows how thick it is.
		const { findings } = contactsOf(holes({ ...wrong, path: holePath([600, 150, 100], 200, []) }), LUMPING, COLUMN, fault);
		expect(findings).toEqual([]);
	});
	it('may be thicker than around, or of a unit that few holes go through', () => {
		expect(contactsOf(holes(long('L', 150, 150, 'lime', 120)), LUMPING, COLUMN).findings).toEqual([]);
		expect(contactsOf([...holes(wrong).slice(0, 5), wrong], LUMPING, COLUMN).findings).toEqual([]);
	});
});

describe('a boundary that can not be, near a fault', () => {
	const fault = (off: number): FaultZones => ({
		count: 1,
		distance: () => off,
		halfWidth: () => 2,
		reach: () => 15,
		name: () => 'Sallow',
		cuts: () => true,
		lengthUnit: 'm'
	});
	const log = () => [
		hole([0, 30, 'sand'], [30, 200, 'lime']),
		{ ...hole([0, 30, 'sand'], [30, 90, 'mud'], [90, 200, 'lime']), name: 'other' }
	];
	it('is taken as made by it when it may pass there', () => {
		const { findings, faulted, observations } = contactsOf(log(), LUMPING, COLUMN, fault(8));
		expect(findings[0]).toMatchObject({ rule: 'fault-nearby', message: expect.stringContaining('8.0 m from where Sallow was drawn') });
		expect(faulted).toBe(1);
		// Both sides of it are told by what lies there.
		expect(observations.filter((o) => o.hole === 'H' && o.depth === 30).map((o) => COLUMN[o.unit]!.id)).toEqual(['sand', 'lime']);
	});
	it('is refused farther away', () => expect(contactsOf(log(), LUMPING, COLUMN, fault(20)).findings[0]!.rule).toBe('unit-missing'));
	it('is taken as made by it, too, where it is upside down, and is a contact where layers are turned over elsewhere', () => {
		const level: FaultZones = { ...fault(0), distance: (_f, _x, _y, z) => z - 30 };
		const repeated = hole([0, 60, 'sand'], [60, 75, 'mud'], [75, 110, 'sand'], [110, 200, 'mud']);
		const right = Array.from({ length: 4 }, (_, i) => ({ ...hole([0, 60, 'sand'], [60, 200, 'mud']), name: `R${i}` }));
		const found = contactsOf([repeated, ...right], LUMPING, COLUMN, level);
		expect(found.points.filter((p) => p.hole === 'H').map((p) => p.depth)).toEqual([60, 110]);
		expect(found.findings.filter((f) => f.hole === 'H').map((f) => f.rule)).toEqual(['fault-nearby']);
		const folded = right.map((h) => ({ ...hole([0, 20, 'mud'], [20, 60, 'sand'], [60, 200, 'mud']), name: h.name }));
		expect(contactsOf([repeated, ...folded], LUMPING, COLUMN, level).points.filter((p) => p.hole === 'H')).toHaveLength(3);
	});
});
