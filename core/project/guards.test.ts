import { describe, expect, it } from 'vitest';
import { demoProject } from '../../demo/generate';
import { faultSchema, finite, id, unitSchema } from './guards';
import { extentSchema, fieldProblems, parseProjectFile, ruleSettingsSchema, sectionLinesSchema, valueRulesSchema } from './project-file';
import { ProblemError } from '../problem';

describe('guards of an interpretation', () => {
	it.each([
		[1, true],
		[-1e300, true],
		[undefined, true],
		[Infinity, false],
		[NaN, false],
		['a', false]
	])('%s as a number', (v, ok) => expect(finite().isValidSync(v)).toBe(ok));
	it.each([
		['u-1_a', true],
		['', false],
		['a b', false],
		['ü', false],
		['a'.repeat(41), false],
		['../x', false]
	])('%j as an id', (v, ok) => expect(id().required().isValidSync(v)).toBe(ok));

	const unit = { id: 'a', name: 'A', color: '#aabbcc', contact: 'conformable' };
	it.each([
		[{}, true],
		[{ contact: 'intrusive', form: 'sheet', thinsOut: false }, true],
		[{ color: '#abc' }, false],
		[{ color: 'url(x)' }, false],
		[{ name: '  ' }, false],
		[{ form: 'sponge' }, false],
		[{ thinsOut: 'no' }, false],
		[{ endsAt: null }, true],
		[{ endsAt: 'a vein that is gone' }, true],
		[{ endsAt: 'x'.repeat(41) }, false],
		[{ endsAt: 5 }, false],
		[{ age: 5 }, false]
	])('a unit with %j', (change, ok) => expect(unitSchema.isValidSync({ ...unit, ...change }, { strict: true })).toBe(ok));

	const fault = {
		id: 'f',
		name: 'F',
		trace: [
			[0, 0],
			[1, 1]
		],
		dip: 60,
		dipAzimuth: 90,
		youngestCut: 'a',
		halfWidth: 5,
		on: true
	};
	it.each([
		[{}, true],
		[{ dip: 90 }, true],
		[{ dip: 0 }, false],
		[{ dip: 90.1 }, false],
		[{ dipAzimuth: -1 }, false],
		[{ halfWidth: -1 }, false],
		[{ trace: [[0, 0, 0]] }, false],
		[{ trace: [[0, NaN]] }, false],
		[{ endsOn: null, tips: null }, true],
		[{ tips: { elevation: 0, halfLength: 0, halfHeight: 10, reach: 10 } }, true],
		[{ tips: { elevation: 0, halfLength: 0, halfHeight: 0, reach: 10 } }, false],
		[{ tips: { elevation: 0, halfLength: 0, halfHeight: 10 } }, false]
	])('a fault with %j', (change, ok) => expect(faultSchema.isValidSync({ ...fault, ...change }, { strict: true })).toBe(ok));
});

describe('guards of a project', () => {
	it.each([
		[{ maxX: 0 }, false],
		[{ maxZ: Infinity }, false],
		[{ depth: 5 }, false],
		[{}, true]
	])('an extent with %j', (change, ok) =>
		expect(extentSchema.isValidSync({ minX: 0, minY: 0, minZ: 0, maxX: 1, maxY: 1, maxZ: 1, ...change }, { strict: true })).toBe(ok)
	);

	it.each<[unknown, boolean]>([
		[{}, true],
		[
			{
				Cu: {
					acts: {
						missing: { act: 'leave' },
						below: { act: 'share', share: 0.5 },
						zero: { act: 'number', number: 1 },
						negative: { act: 'keep' }
					},
					reviewed: ['missing']
				}
			},
			true
		],
		[{ Cu: { acts: { missing: { act: 'guess' } } } }, false],
		[{ Cu: { acts: { odd: { act: 'leave' } } } }, false],
		[{ Cu: { acts: { zero: { act: 'number', number: 'one' } } } }, false],
		[{ Cu: { acts: {}, reviewed: ['everything'] } }, false],
		[{ Cu: {} }, false],
		[{ Cu: null }, false],
		[[], false],
		['x', false]
	])('rules of values %j', (v, ok) => expect(valueRulesSchema.isValidSync(v)).toBe(ok));

	it.each<[unknown, boolean]>([
		[{}, true],
		[{ 'overlapping-intervals': { severity: 'noted', silenced: true, reason: 'known', bounds: { most: 5 } } }, true],
		[{ rule: { severity: 'fatal' } }, false],
		[{ rule: { silenced: 'yes' } }, false],
		[{ rule: { reason: 'x'.repeat(1001) } }, false],
		[{ rule: { bounds: { most: Infinity } } }, false],
		[{ rule: { bounds: 5 } }, false],
		[{ rule: 5 }, false],
		[[], false]
	])('settings of rules %#', (v, ok) => expect(ruleSettingsSchema.isValidSync(v)).toBe(ok));

	it('lines of sections have names and places', () => {
		expect(
			sectionLinesSchema.isValidSync(
				[
					{
						name: 'B',
						trace: [
							[0, 0],
							[1, 1]
						]
					}
				],
				{ strict: true }
			)
		).toBe(true);
		expect(
			sectionLinesSchema.isValidSync(
				[
					{
						name: '',
						trace: [
							[0, 0],
							[1, 1]
						]
					}
				],
				{ strict: true }
			)
		).toBe(false);
		expect(sectionLinesSchema.isValidSync([{ name: 'B', trace: [[0, 0], 'x'] }], { strict: true })).toBe(false);
	});

	it('complaints name their fields in plain words, all at once', () => {
		try {
			parseProjectFile({ ...demoProject(), spacing: -1, crs: 'x', tables: [{ ...demoProject().tables[0], excluded: [0] }] }, 'p.json');
			expect.unreachable();
		} catch (error) {
			const { message, hint } = (error as ProblemError).problem;
			for (const field of ['spacing', 'crs', 'tables[0].excluded[0]']) expect(message).toContain(`  ${field}: `);
			expect(message).not.toContain(': this ');
			expect(hint).toContain('project-file.schema.json');
		}
		expect(fieldProblems({ inner: [], path: undefined, message: 'this is wrong' } as never)).toEqual([{ path: '', message: 'is wrong' }]);
	});
});
