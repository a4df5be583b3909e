import { describe, expect, it } from 'vitest';
import { ProblemError } from '../problem';
import type { Unit } from '../units/column';
import { plainShaping, shapingSchema, TELLS, thingsNamedBy, validateShaping, WALLS, withRenamed, wordsOf, type Shaping } from './shaping';

const unit = (id: string, more: Partial<Unit> = {}): Unit => ({ id, name: id, color: '#888888', contact: 'conformable', ...more });
const column: Unit[] = [
	unit('reef', { contact: 'intrusive', form: 'sheet' }),
	unit('stock', { contact: 'intrusive', form: 'body' }),
	unit('cover'),
	unit('slate')
];

const line = (more: object) => ({ id: 'l', name: 'Line 1', unit: 'cover', tells: 'base', vertices: [[0, 0, 0]], ...more });
const division = (more: object) => ({ id: 'd', name: 'Parts', unit: 'slate', column: [unit('soft'), unit('hard')], lumping: {}, ...more });
const fault = (more: object) => ({
	id: 'f',
	name: 'F',
	trace: [
		[0, 0],
		[1, 1]
	],
	dip: 60,
	dipAzimuth: 90,
	youngestCut: 'soft',
	...more
});

/** A shaping as it comes from outside: what is left out gets its default. */
const shaping = (parts: object): Shaping => shapingSchema.validateSync(parts);
const problemOf = (parts: object): { kind: string; where?: string | undefined; hint?: string | undefined } | null => {
	try {
		validateShaping(shaping(parts), column);
	} catch (error) {
		if (error instanceof ProblemError) return error.problem;
		throw error;
	}
	return null;
};

describe('what shapes a model', () => {
	it('is nothing to begin with, and that is right', () => {
		expect(problemOf({})).toBeNull();
		expect(shaping({})).toEqual(plainShaping());
	});

	it.each([
		['a line of an unknown unit', { lines: [line({ unit: 'chalk' })] }, 'unknown-unit', 'lines[0].unit'],
		['a line of the base of the lowest unit', { lines: [line({ unit: 'slate' })] }, 'line-of-basement', 'lines[0].tells'],
		[
			'a line below the lowest part of a division',
			{ divisions: [division({})], lines: [line({ unit: 'hard', tells: 'below' })] },
			'line-of-basement',
			'lines[0].tells'
		],
		['a hanging wall of a layer', { lines: [line({ tells: 'hanging' })] }, 'line-of-walls', 'lines[0].tells'],
		['a footwall of a body', { lines: [line({ unit: 'stock', tells: 'foot' })] }, 'line-of-walls', 'lines[0].tells'],
		['a middle without a thickness', { lines: [line({ unit: 'reef', tells: 'middle' })] }, 'line-without-thickness', 'lines[0].thickness'],
		['a line without places', { lines: [line({ vertices: [] })] }, 'bad-line', 'lines[0]'],
		['a division of an unknown unit', { divisions: [division({ unit: 'chalk' })] }, 'unknown-unit', 'divisions[0].unit'],
		[
			'two divisions of one unit',
			{ divisions: [division({}), division({ id: 'e', column: [unit('a'), unit('b')] })] },
			'divided-twice',
			'divisions[1].unit'
		],
		[
			'a part with the id of a unit',
			{ divisions: [division({ column: [unit('cover'), unit('hard')] })] },
			'doubled-unit',
			'divisions[0].column'
		],
		[
			'a part with the id of a part of another division',
			{ divisions: [division({}), division({ id: 'e', unit: 'cover', column: [unit('soft'), unit('b')] })] },
			'doubled-unit',
			'divisions[1].column'
		],
		[
			'a fault that cuts no part',
			{ divisions: [division({ faults: [fault({ youngestCut: 'cover' })] })] },
			'fault-cuts-nothing',
			undefined
		],
		[
			'faults that end on each other in a circle',
			{ divisions: [division({ faults: [fault({ endsOn: 'g' }), fault({ id: 'g', endsOn: 'f' })] })] },
			'fault-circle',
			undefined
		],
		['an intercept that ends above its start', { setAside: [{ unit: 'reef', hole: 'H1', from: 20, to: 10 }] }, 'bad-intercept', 'setAside'],
		['an intercept of an unknown unit', { setAside: [{ unit: 'chalk', hole: 'H1', from: 10, to: 20 }] }, 'unknown-unit', 'setAside'],
		['a trend of an unknown unit', { trends: [{ unit: 'chalk' }] }, 'unknown-unit', 'trends'],
		['a given base of an unknown unit', { made: [{ unit: 'chalk' }] }, 'unknown-unit', 'made'],
		[
			'an outline of two corners',
			{
				limits: [
					{
						kind: 'outline',
						trace: [
							[0, 0],
							[1, 1]
						]
					}
				]
			},
			'bad-limit',
			'limits[0].trace'
		],
		['a distance from data that is left out', { limits: [{ kind: 'near' }] }, 'bad-limit', 'limits[0].distance']
	])('refuses %s', (_, parts, kind, where) => {
		const problem = problemOf(parts);
		expect(problem?.kind).toBe(kind);
		if (where) expect(problem).toMatchObject({ where });
	});

	it.each([
		[
			'walls and middle of a sheet',
			{
				lines: [
					line({ unit: 'reef', tells: 'hanging' }),
					line({ unit: 'reef', tells: 'foot' }),
					line({ unit: 'reef', tells: 'middle', thickness: 3 })
				]
			}
		],
		['the top of the lowest unit', { lines: [line({ unit: 'slate', tells: 'top' })] }],
		['a line of a part', { divisions: [division({})], lines: [line({ unit: 'soft' })] }],
		['a line that takes its places from a layer', { lines: [line({ vertices: undefined, layer: { name: 'Traces' } })] }],
		[
			'two divisions of one unit, one of them off',
			{ divisions: [division({}), division({ id: 'e', on: false, column: [unit('a'), unit('b')] })] }
		],
		['a division that has no parts yet', { divisions: [division({ column: [] })] }]
	])('takes %s', (_, parts) => expect(problemOf(parts)).toBeNull());

	it.each([
		['a ratio of nothing', { trends: [{ unit: 'cover', anisotropy: { dip: 10, dipAzimuth: 20, ratios: [1, 0, 1] } }] }],
		['a dip past the vertical', { made: [{ unit: 'cover', plane: { x: 0, y: 0, z: 0, dip: 90, dipAzimuth: 0 } }] }],
		['an unknown kind of limit', { limits: [{ kind: 'beside' }] }],
		['a vertex of two numbers', { lines: [line({ vertices: [[0, 0]] })] }],
		['a vertex with an elevation that is text', { lines: [line({ vertices: [[0, 0, 'high']] })] }],
		['an error below zero', { dataSets: [{ table: 'Logs', error: -1 }] }],
		['a property that nobody knows', { lines: [line({ colour: 'red' })] }]
	])('has a guard against %s', (_, parts) => expect(() => shapingSchema.validateSync(parts, { strict: true })).toThrow());

	it('names the things that it takes something from, each once', () => {
		const s = shaping({
			log: { table: 'Weathering' },
			lines: [line({ layer: { name: 'Traces' } }), line({ layer: { name: 'Traces' } }), line({})],
			divisions: [division({ log: { table: 'Detail' } })],
			limits: [
				{ kind: 'under', surface: 'terrain' },
				{ kind: 'inside', surface: 'Shell' }
			],
			made: [{ unit: 'cover', surface: 'Rockhead', thickness: 'Isopachs' }]
		});
		expect([...thingsNamedBy(s)].sort()).toEqual(['Detail', 'Isopachs', 'Rockhead', 'Shell', 'Traces', 'Weathering', 'terrain']);
	});

	it('has words for all that a line can tell', () => {
		expect(TELLS.map(wordsOf)).toEqual(['base', 'top', 'inside', 'above', 'below', 'hanging wall', 'footwall', 'middle']);
		expect(WALLS).toEqual({ hanging: 1, middle: 0, foot: -1 });
	});
});

describe('a source that gets another name', () => {
	it('is named so wherever a shaping names it, and nothing else is', () => {
		const log = { table: 'Old', column: '' };
		const s = shapingSchema.cast({
			...plainShaping(),
			log,
			dataSets: [{ table: 'Old' }, { table: 'Other' }],
			limits: [{ id: 'l', kind: 'surface', surface: 'Old', side: 'above' }],
			divisions: [{ id: 'd', name: 'Old', unit: 'u', column: [], lumping: {}, log, faults: [], on: true }],
			lines: [{ id: 'x', name: 'Old', unit: 'u', tells: 'inside', layer: { name: 'Old' } }]
		}) as Shaping;
		const now = withRenamed(s, 'Old', 'New');
		expect(thingsNamedBy(now)).toEqual(new Set(['New']));
		expect(now.dataSets.map((d) => d.table)).toEqual(['New', 'Other']);
		expect([now.divisions[0]!.name, now.lines[0]!.name]).toEqual(['Old', 'Old']);
		expect(withRenamed(s, 'Nobody', 'New')).toEqual(s);
	});
});
