import { describe, expect, it } from 'vitest';
import type { ProjectObject, RecipeInfo } from '$lib/api/types';
import { firstChoice, isAsked, makeableOf } from './choices';

const object = (id: string, kind: string, form: string | null) => ({ id, kind, form, state: {} }) as unknown as ProjectObject;
const role = (role: string, more: object) => ({ role, title: role, kinds: [], forms: [], prefers: [], least: 1, most: 1, ...more });
const recipe = (id: string, roles: object[], more: object = {}) =>
	({ id, title: id, roles, parameters: [], step: false, ...more }) as unknown as RecipeInfo;
const list = [
	recipe('depth', [role('model', { kinds: ['model'] }), role('terrain', { forms: ['grid'], kinds: ['terrain'] })]),
	recipe('crossed', [role('first', { kinds: ['model'] }), role('second', { kinds: ['model'] })]),
	recipe('on map', [role('model', { kinds: ['model'] })]),
	recipe('inner', [role('model', { kinds: ['model'] })], { step: true })
];
const objects = [
	object('m1', 'model', 'solids'),
	object('m2', 'model', 'solids'),
	object('t', 'terrain', 'grid'),
	object('l', 'layer', 'lines')
];
const names = (...picked: string[]) => makeableOf(objects, list, picked).map((r) => r.id);

describe('what can be made of what is selected', () => {
	it('takes all of it, each in a part of its own, and needs nothing that is not there', () => {
		expect(names('m1', 'm2')).toEqual(['crossed']);
		expect(names('t', 'm1')).toEqual(['depth']);
		expect(names('m1')).toEqual(['on map', 'depth', 'crossed']);
		expect(makeableOf(objects.slice(0, 1), list, ['m1']).map((r) => r.id)).toEqual(['on map']);
	});
	it('is nothing of too much, of what no recipe takes, and of what is gone', () => {
		expect(names('m1', 'm2', 't')).toEqual([]);
		expect(names('l')).toEqual([]);
		expect(names('gone')).toEqual([]);
		expect(names()).toEqual([]);
	});
});

describe('what a part is played by first', () => {
	const table = (id: string, kind: string) => ({ id, kind: 'table', form: 'table', state: { kind } }) as unknown as ProjectObject;
	const all = [table('p', 'places'), table('s', 'stations'), object('g', 'grid', 'grid'), object('h', 'grid', 'grid')];
	it('is the kind of table that suits best, nothing where nothing need be, and all that were picked where several can', () => {
		const survey = recipe('survey', [
			role('readings', { forms: ['table'], prefers: ['stations'] }),
			role('frame', { forms: ['grid'], least: 0 })
		]);
		expect(firstChoice(all, survey, null)).toEqual({ readings: ['s'], frame: [] });
		expect(firstChoice(all, survey, null, ['g'])).toEqual({ readings: ['s'], frame: ['g'] });
		const sum = recipe('sum', [role('grids', { forms: ['grid'], most: 5 })]);
		expect(firstChoice(all, sum, null, ['h', 'g'])).toEqual({ grids: ['h', 'g'] });
	});
	it('and a parameter is asked for where it belongs', () => {
		const p = (more: object) => ({ name: 'p', label: 'P', type: 'number', ...more }) as unknown as RecipeInfo['parameters'][number];
		expect(isAsked(p({ when: { parameter: 'method', is: ['a'] } }), { method: 'b' }, {})).toBe(false);
		expect(isAsked(p({ when: { parameter: 'method', is: ['a'] } }), { method: 'a' }, {})).toBe(true);
		expect(isAsked(p({ whenRole: { role: 'frame', played: false } }), {}, { frame: ['g'] })).toBe(false);
		expect(isAsked(p({}), {}, {})).toBe(true);
	});
});

describe('a section', () => {
	const line = (id: string, trace: number[][]) =>
		({ id, kind: 'section', form: 'drawing', name: id, state: { trace } }) as unknown as ProjectObject;
	const profile = recipe('profile', [role('lines', { forms: ['lines', 'drawing'], kinds: ['section'] })]);
	const drawn = line('A', [
		[0, 0],
		[1, 1]
	]);
	it('can be chosen once it has a line, after what is brought in for it', () => {
		expect(firstChoice([drawn, objects[3]!], profile, null)).toEqual({ lines: ['l'] });
		expect(firstChoice([drawn, objects[3]!], profile, null, ['A'])).toEqual({ lines: ['A'] });
		expect(makeableOf([line('A', [])], [profile], ['A'])).toEqual([]);
		expect(makeableOf([drawn], [profile], ['A'])).toEqual([profile]);
	});
});
