import { createHash } from 'node:crypto';
import { expect, it } from 'vitest';
import { canonicalJson, downstream, keyOver, lasting, nodeKeys, outOfDate, type GraphNode } from './key';

const hash = (t: string) => createHash('sha256').update(t).digest('hex');
const source = (id: string, contentHash: string): GraphNode => ({ id, kind: 'table', contentHash, recipe: null, inputs: [] });
const derived = (id: string, inputs: string[], recipe: unknown = {}): GraphNode => ({ id, kind: id, contentHash: '', recipe, inputs });

function built(nodes: GraphNode[]): GraphNode[] {
	const keys = nodeKeys(nodes, hash);
	return nodes.map((n) => (n.recipe === null ? n : { ...n, contentHash: keys.get(n.id)! }));
}
const graph = (assay = 'x', log = 'l', spacing = 40) => [
	source('assays', assay),
	source('log', log),
	derived('holes', ['log']),
	derived('model', ['holes'], { spacing })
];

it('marks just what lies downstream of a change as out of date', () => {
	const before = built(graph());
	expect(outOfDate(before, hash)).toEqual(new Set());
	const withHashes = (now: GraphNode[]) =>
		now.map((n, i) => ({ ...n, contentHash: n.recipe === null ? n.contentHash : before[i]!.contentHash }));
	expect(outOfDate(withHashes(graph('changed')), hash)).toEqual(new Set());
	expect(outOfDate(withHashes(graph('x', 'changed')), hash)).toEqual(new Set(['holes', 'model']));
	expect(outOfDate(withHashes(graph('x', 'l', 20)), hash)).toEqual(new Set(['model']));
	// Changing back finds the old key again.
	expect(outOfDate(withHashes(graph()), hash)).toEqual(new Set());
});

it('gives keys that depend neither on the order of inputs nor on that of properties', () => {
	const a = nodeKeys([source('1', 'a'), source('2', 'b'), derived('m', ['1', '2'], { p: 1, q: 2 })], hash).get('m');
	const b = nodeKeys([source('2', 'b'), source('1', 'a'), derived('m', ['2', '1'], { q: 2, p: 1 })], hash).get('m');
	expect(a).toBe(b);
	expect(canonicalJson({ b: [1, { d: undefined, c: null }], a: 'x' })).toBe('{"a":"x","b":[1,{"c":null}]}');
});

it('refuses a circle and finds what is downstream', () => {
	expect(() => nodeKeys([derived('a', ['b']), derived('b', ['a'])], hash)).toThrow('circle');
	expect(downstream(graph(), 'log')).toEqual(new Set(['holes', 'model']));
	expect(downstream(graph(), 'assays')).toEqual(new Set());
});

it('freezes what lasts with all it holds, whose text is that of a copy that does not', () => {
	const value = { b: [1, { d: undefined, c: 'x' }], a: { z: null }, when: [] };
	const text = canonicalJson(structuredClone(value));
	expect(lasting(value)).toBe(value);
	for (let i = 0; i < 2; i++) expect(canonicalJson(value)).toBe(text);
	expect(canonicalJson({ of: value.a, b: value.b })).toBe('{"b":[1,{"c":"x"}],"of":{"z":null}}');
	expect(() => value.b.push(2)).toThrow(TypeError);
	expect(() => ((value.a as Record<string, unknown>)['z'] = 1)).toThrow(TypeError);
	expect(lasting(null)).toBe(null);
});

it('of what is drawn live takes what is said of it, and nothing that it is drawn from', () => {
	const key = (log: string, line: string) =>
		nodeKeys(
			[
				source('log', log),
				derived('model', ['log']),
				{ ...derived('section', ['model'], line), taken: line },
				derived('profile', ['section'])
			],
			hash
		);
	const before = key('l', 'line');
	expect(key('other', 'line').get('profile')).toBe(before.get('profile'));
	expect(key('other', 'line').get('section')).not.toBe(before.get('section'));
	expect(key('l', 'another').get('profile')).not.toBe(before.get('profile'));
});

it('of a recipe that lasts is the same as of one that does not, for whatever inputs and kinds it is asked', () => {
	const parameters = { cell: 10, of: ['a', { b: 1 }] };
	const own = lasting(structuredClone(parameters));
	for (let round = 0; round < 2; round++)
		for (const kind of ['thickness', 'contours'])
			for (let n = 0; n < 12; n++) {
				const key = (recipe: object, roles?: string[]) =>
					keyOver({ id: 'x', kind, contentHash: '', recipe, inputs: ['a', 'b'], ...(roles ? { roles } : {}) }, [`k${n}`, 'l'], hash);
				expect(key(own)).toBe(key(parameters));
				expect(key(own, ['one', 'two'])).toBe(key(parameters, ['one', 'two']));
				expect(key(own, ['one', 'two'])).not.toBe(key(own, ['two', 'one']));
			}
});
