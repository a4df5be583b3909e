import { describe, expect, it } from 'vitest';
import type { Hole } from '../holes/holes';
import { holePath } from '../holes/path';
import { contactsOf } from './contacts';
import type { StratigraphicColumn, Unit } from './column';

const unit = (id: string, contact: Unit['contact'] = 'conformable'): Unit => ({ id, name: id, color: '#888888', contact });
/** Two young units, the lower of them on an uneven base; older ones below. */
const COLUMN: StratigraphicColumn = [unit('soil'), unit('till', 'erosional'), ...['sand', 'mud', 'lime', 'slate'].map((id) => unit(id))];

/** A hole in which each unit is one row of 30 m. */
function logged(name: string, codes: readonly string[]): Hole {
	const path = holePath([Number(name.slice(1)) * 60, 0, 0], 30 * codes.length, [], { azimuth: 0, inclination: -90 });
	return { name, row: 0, path, intervals: codes.map((code, i) => ({ from: 30 * i, to: 30 * (i + 1), code, table: 'log', row: i })) };
}
const WHOLE = COLUMN.map((u) => u.id);
const sure = (count = 30) =>
	Array.from({ length: count }, (_, i) => logged(`H${i + 2}`, i % 3 ? WHOLE : WHOLE.filter((u) => u !== 'sand')));
const odd = (codes: readonly string[], more: readonly Hole[] = sure()) =>
	contactsOf([logged('H1', codes), ...more], {}, COLUMN)
		.findings.filter((f) => f.rule === 'odd-unit')
		.map((f) => [f.hole, f.row]);

describe('of two runs that would both mend a hole', () => {
	it('the first is odd where no other hole begins like that', () => {
		expect(odd(['sand', 'till', 'sand', 'mud', 'lime', 'slate'])).toEqual([['H1', 0]]);
		expect(odd(['mud', 'till', 'mud', 'lime', 'slate'])).toEqual([['H1', 0]]);
	});
	it('the second is odd where it hides a base that all others show', () => {
		expect(odd(['soil', 'mud', 'sand', 'mud', 'lime', 'slate'])).toEqual([['H1', 1]]);
	});
	it('neither is where both would be usual, as where a fault repeats layers', () => {
		expect(odd(['soil', 'till', 'sand', 'mud', 'sand', 'mud', 'lime', 'slate'])).toEqual([]);
	});
	it('neither is where there are too few holes to tell', () => {
		expect(odd(['sand', 'till', 'sand', 'mud', 'lime', 'slate'], sure(3))).toEqual([]);
	});
});

it('what is upside down is not odd by itself where layers are turned over in other holes, too', () => {
	const turned = sure().map((h, i) => (i % 3 ? h : logged(h.name, ['soil', 'till', 'mud', 'sand', 'mud', 'lime'])));
	expect(odd(['soil', 'mud', 'sand', 'mud', 'lime', 'slate'], turned).filter(([h]) => h === 'H1')).toEqual([]);
});
