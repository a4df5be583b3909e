import { describe, expect, it } from 'vitest';
import type { GroundInput } from './ground';
import { verdictOf, volumeFindings, type LoggedUnit } from './verdict';

const contact = (x: number) => ({ surface: 0, x, y: 50, z: -50, hole: 'A', depth: 50, table: 'log', row: 0 });
const input = (more: Partial<GroundInput> = {}): GroundInput => ({
	extent: { minX: 0, minY: 0, minZ: -100, maxX: 100, maxY: 100, maxZ: 0 },
	column: [],
	contacts: [contact(50)],
	observations: [],
	orientations: [],
	faults: [],
	terrain: null,
	...more
});
const unit = (agreed: number, volume = 1, logged = 100, named = { length: 0, holes: 0 }): LoggedUnit => ({
	name: 'Slate',
	logged,
	agreed,
	volume,
	named
});
const kinds = (...a: Parameters<typeof verdictOf>) => verdictOf(...a).map((f) => [f.kind, f.severity]);
const terrain = (nx: number, x0 = 0) => ({ x0, y0: 0, dx: 10, dy: 10, nx, ny: 11, values: new Float32Array(nx * 11) });

describe('a model', () => {
	it('that agrees with its data has nothing to be said of it', () =>
		expect(verdictOf(input({ terrain: terrain(11) }), [unit(97)])).toEqual([]));
	it.each<[string, LoggedUnit, string[][]]>([
		[
			'no volume',
			unit(0, 0),
			[
				['unit-vanished', 'held'],
				['logs-disagree', 'held']
			]
		],
		[
			'hardly any of it where it was logged',
			unit(3),
			[
				['unit-vanished', 'held'],
				['logs-disagree', 'held']
			]
		],
		[
			'a third of it',
			unit(33),
			[
				['unit-disagrees', 'held'],
				['logs-disagree', 'held']
			]
		],
		['most of it', unit(80), [['logs-disagree', 'noted']]]
	])('in which a unit has %s', (_, u, expected) => expect(kinds(input(), [u])).toEqual(expected));
	it('in which a unit has a third of it, because rows are wrong, tells how much of that lies in holes that are named', () => {
		const said = (holes: number, length: number) => verdictOf(input(), [unit(33, 1, 100, { length, holes })])[0]!;
		expect(said(12, 60)).toMatchObject({
			severity: 'held',
			message:
				'of what was logged as Slate only 33 % is Slate in the model; 60 % of it lies in 12 holes that are named as off what the neighbours say',
			hint: expect.stringContaining('the model is right')
		});
		expect(said(1, 5)).toMatchObject({
			message: expect.stringContaining('5.0 % of it lies in a hole'),
			hint: expect.stringContaining('fault')
		});
	});
	it('does not hide a unit that vanished behind many that are right', () => {
		expect(kinds(input(), [unit(9900, 1, 10_000), unit(0, 0, 12)])).toEqual([['unit-vanished', 'held']]);
	});
	it('whose terrain ends in the extent, or lies elsewhere', () => {
		expect(kinds(input({ terrain: terrain(7) }), [])).toEqual([['terrain-short', 'noted']]);
		expect(verdictOf(input({ terrain: terrain(11, 5000) }), [])[0]).toMatchObject({
			severity: 'held',
			message: 'the terrain lies outside the extent'
		});
	});
	it('whose extent misses the data', () => {
		expect(kinds(input({ contacts: [contact(500), contact(600)] }), [])).toEqual([['extent-misses-data', 'held']]);
		expect(kinds(input({ contacts: [contact(50), contact(500), contact(600)] }), [])).toEqual([['extent-misses-data', 'noted']]);
	});
});

it('what changed by more than a third since the last build is named, new and lost units are not', () => {
	const now = (unit: string, volume: number) => ({ unit, name: unit.toUpperCase(), volume });
	expect(
		volumeFindings(
			[
				{ unit: 'a', volume: 100 },
				{ unit: 'b', volume: 100 },
				{ unit: 'c', volume: 100 },
				{ unit: 'd', volume: 100 },
				{ unit: 'e', volume: 0 }
			],
			[now('a', 130), now('b', 150), now('c', 40), now('d', 0), now('e', 7), now('new', 9)]
		).map((f) => f.message)
	).toEqual(['B grew by 50 % since the last build', 'C shrank by 60 % since the last build', 'D is gone since the last build']);
	expect(volumeFindings([], [now('a', 1)])).toEqual([]);
});
