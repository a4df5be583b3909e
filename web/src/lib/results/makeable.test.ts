import { describe, expect, it } from 'vitest';
import type { ProjectObject, RecipeInfo } from '$lib/api/types';
import { makeableOf } from './choices';

const object = (id: string, kind: string, form: string | null) => ({ id, kind, form }) as unknown as ProjectObject;
const role = (role: string, more: object) => ({ role, title: role, kinds: [], forms: [], least: 1, most: 1, ...more });
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
