import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { OfProject } from '$lib/api/of-project';
import type { Preview } from '$lib/api/types';
import type { Workspace } from '$lib/workspace.svelte';
import { doubtsOf } from './doubts';
import { Incoming } from './incoming.svelte';

// The compiler of components does not run here; what it makes of a state is its value.
vi.hoisted(() => {
	const plain = <T>(value: T): T => value;
	Object.assign(globalThis, { $state: Object.assign(plain, { raw: plain }) });
});

/** A server that answers previews when it is told to, and keeps what was asked for. */
let asked: { url: string; body: Record<string, unknown>; answer: () => void }[] = [];
const preview = (more: Partial<Preview> = {}): Preview => ({
	file: { id: 'f', projectId: 'p', name: 'a.csv', size: 10, sha256: '', createdAt: '' },
	as: 'table',
	kind: 'collars',
	header: ['A', 'B'],
	rows: [],
	mapping: { A: 'hole', B: 'totalDepth' },
	units: {},
	written: {},
	missing: [],
	trouble: [],
	...more
});
const workspace = {
	api: new OfProject(
		() => 'p',
		() => null
	),
	objects: [],
	tables: [],
	project: { crs: 0, extent: null, lengthUnit: 'm' },
	object: () => undefined,
	refresh: async () => {}
};

beforeEach(() => {
	asked = [];
	vi.stubGlobal('localStorage', { getItem: () => null, setItem: () => {} });
	vi.stubGlobal('fetch', (url: string, init: RequestInit) => {
		const body = init.body ? (JSON.parse(init.body as string) as Record<string, unknown>) : {};
		return new Promise<Response>((resolve) => {
			const json = url.endsWith('/preview')
				? preview(body)
				: url.endsWith('/imports')
					? { job: 'j' }
					: { state: 'done', share: 1, outcome: { rows: 1 } };
			const answer = () => resolve(new Response(JSON.stringify(json)));
			if (url.endsWith('/preview')) asked.push({ url, body, answer });
			else {
				if (url.endsWith('/imports')) asked.push({ url, body, answer: () => {} });
				answer();
			}
		});
	});
});
afterEach(() => vi.unstubAllGlobals());
const item = () => {
	const i = new Incoming(workspace as unknown as Workspace, 'a.csv');
	i.preview = preview();
	i.title = 'A';
	return i;
};

describe('what is said of a file', () => {
	it('counts although it is brought in before the server has looked at it', async () => {
		const i = item();
		void i.setUnit('B', 'ft');
		const done = i.apply();
		await Promise.resolve();
		expect(asked.filter((a) => a.url.endsWith('/imports'))).toEqual([]);
		asked[0]!.answer();
		await done;
		expect(asked.find((a) => a.url.endsWith('/imports'))!.body['units']).toEqual({ B: 'ft' });
	});
	it('one thing after the other adds up, and an answer that comes late changes nothing', async () => {
		const i = item();
		void i.setRole('A', 'keep');
		void i.setUnit('B', 'ft');
		expect(asked[1]!.body).toMatchObject({ mapping: { A: 'keep', B: 'totalDepth' }, units: { B: 'ft' } });
		asked[1]!.answer();
		await vi.waitFor(() => expect(i.preview!.units).toEqual({ B: 'ft' }));
		asked[0]!.answer();
		await new Promise((r) => setTimeout(r, 5));
		expect(i.preview).toMatchObject({ mapping: { A: 'keep' }, units: { B: 'ft' } });
	});
});

describe('what is not certain about a file', () => {
	it('is nothing when all is said', () => expect(doubtsOf(preview(), false)).toEqual([]));
	it.each<[string, Partial<Preview>, boolean, RegExp]>([
		['a role that no column has', { missing: ['Northing'] }, false, /no column is Northing/],
		['dates of two readings', { ambiguous: ['Date'] }, false, /day or month first in Date/],
		['a kind that was not recognised', { kind: 'other' }, false, /what kind of table/],
		['collars beside collars', {}, true, /there are collars already/],
		['a system without a code', { as: 'layer', system: 'Old grid' }, false, /Old grid/],
		[
			'a picture without a place',
			{ as: 'picture', picture: { width: 1, height: 1, placement: null } },
			false,
			/where does the picture lie/
		],
		[
			'cells that do not fit',
			{ rows: [['1'], ['2']], trouble: [{ row: 0, column: 'A', message: 'x' }] },
			false,
			/is A what its role says\? 1 of 2/
		]
	])('is %s', (_, more, hasCollars, said) => expect(doubtsOf(preview(more), hasCollars).join()).toMatch(said));
	it('one odd cell among many is a finding, not a doubt', () => {
		const rows = Array.from({ length: 20 }, () => ['1', '2']);
		expect(doubtsOf(preview({ rows, trouble: [{ row: 3, column: 'A', message: 'x' }] }), false)).toEqual([]);
	});
	it('a kind that was remembered is certain', () => expect(doubtsOf(preview({ kind: 'other', remembered: true }), false)).toEqual([]));
});
