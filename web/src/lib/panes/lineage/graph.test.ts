import { describe, expect, it } from 'vitest';
import type { ProjectObject } from '$lib/api/types';
import { downstream, MOST_NODES, nameOf, pictureOf, upstream } from './graph';

const object = (id: string, kind: string, inputs: string[], modelId: string | null = null): ProjectObject =>
	({ id, kind, name: id, inputs, modelId, state: {}, form: null, missing: false, outOfDate: false }) as unknown as ProjectObject;
const objects = [
	object('log', 'table', []),
	object('column', 'column', [], 'm'),
	object('fields', 'fields', ['log', 'column'], 'm'),
	object('m', 'model', ['fields'], 'm'),
	object('thick', 'thickness', ['m']),
	object('assays', 'table', [])
];
const ids = (p: ReturnType<typeof pictureOf>) => p.nodes.map((n) => n.object.id).sort();

describe('the lineage', () => {
	it('tells what a thing is made of, and what is made of it', () => {
		expect([...upstream(objects, 'thick')].sort()).toEqual(['column', 'fields', 'log', 'm']);
		expect([...downstream(objects, 'log')].sort()).toEqual(['fields', 'm', 'thick']);
		expect([...downstream(objects, 'assays')]).toEqual([]);
		// A circle, which nobody can make, ends all the same.
		expect([...downstream([object('a', '', ['b']), object('b', '', ['a'])], 'a')]).toEqual(['b']);
	});

	it('goes through a section no further than its line: what is made of it needs nothing that is drawn on it', () => {
		const all = [
			...objects,
			object('A', 'section', ['m']),
			object('profile', 'grid-profile', ['A', 'terrain']),
			object('terrain', 'terrain', [])
		];
		expect([...downstream(all, 'm')].sort()).toEqual(['A', 'thick']);
		expect([...downstream(all, 'A')]).toEqual(['profile']);
		expect([...upstream(all, 'profile')].sort()).toEqual(['A', 'terrain']);
		expect([...upstream(all, 'A')].sort()).toEqual(['column', 'fields', 'log', 'm']);
	});

	it('folds a model into one thing, and unfolds it', () => {
		const folded = pictureOf(objects, new Set(), 'all', null);
		expect(ids(folded)).toEqual(['log', 'm', 'thick']);
		// What hangs together with nothing is named, until it is selected.
		expect(folded.alone.map((o) => o.id)).toEqual(['assays']);
		expect(ids(pictureOf(objects, new Set(), 'all', 'assays'))).toContain('assays');
		expect(folded.edges).toEqual([
			['log', 'm'],
			['m', 'thick']
		]);
		expect(folded.nodes.find((n) => n.object.id === 'm')!.parts.map((o) => o.id)).toEqual(['column', 'fields', 'm']);
		expect(ids(pictureOf(objects, new Set(['m']), 'all', null))).toEqual(['column', 'fields', 'log', 'm', 'thick']);
	});

	it('shows one side of a thing only, of a folded model that of all its parts', () => {
		expect(ids(pictureOf(objects, new Set(), 'upstream', 'thick'))).toEqual(['log', 'm', 'thick']);
		expect(ids(pictureOf(objects, new Set(), 'upstream', 'm'))).toEqual(['log', 'm']);
		expect(ids(pictureOf(objects, new Set(), 'downstream', 'm'))).toEqual(['m', 'thick']);
		expect(ids(pictureOf(objects, new Set(), 'downstream', null))).toHaveLength(3);
	});

	it('draws a set of sections as one thing, and one that is selected by itself', () => {
		const section = (id: string, set?: string) => ({ ...object(id, 'section', ['m']), state: set ? { set } : {} }) as ProjectObject;
		const all = [...objects, section('A'), section('B', 'Fence 1'), section('C', 'Fence 1'), section('D', 'Fence 1'), section('E')];
		const names = (selected: string | null) => pictureOf(all, new Set(), 'all', selected).nodes.map(nameOf).sort();
		expect(names(null)).toEqual(['A', 'E', 'Fence 1, 3 sections', 'log', 'm', 'thick']);
		expect(names('C')).toEqual(['A', 'C', 'E', 'Fence 1, 2 sections', 'log', 'm', 'thick']);
		expect(pictureOf(all, new Set(), 'all', null).edges).toContainEqual(['m', 'B']);
		// What it is made of is the same for all of them; of one that stands alone in its set, its own name.
		expect(pictureOf(all, new Set(), 'upstream', 'C').nodes.map(nameOf).sort()).toEqual(['C', 'log', 'm']);
		expect(names('B')).toContain('Fence 1, 2 sections');
		expect(pictureOf([...objects, section('Z', 'Alone')], new Set(), 'all', null).nodes.map(nameOf)).toContain('Z');
	});

	it('of very many things keeps those that hang together with what is selected, and says how many it left out', () => {
		const many = [...objects, ...Array.from({ length: 2000 }, (_, i) => object(`r${i}`, 'thickness', ['m']))];
		const p = pictureOf(many, new Set(), 'all', 'thick');
		expect(p.nodes).toHaveLength(MOST_NODES);
		expect(p.left).toBe(2003 - MOST_NODES);
		expect(ids(p)).toEqual(expect.arrayContaining(['log', 'm', 'thick']));
	});
});
