import { describe, expect, it } from 'vitest';
import { plainStyle } from '#core/styles/style';
import { benchChanges, benchSchema, completeBench, plainBench, withBenchChanges, type BenchState } from './state';

const takes = (change: Partial<Record<keyof BenchState, unknown>>): boolean =>
	benchSchema.isValidSync({ ...plainBench(), ...change }, { strict: true });
const curve = { table: 't', column: 'Cu', side: 90, reach: 50, color: '#2b5fa8', threshold: null, fill: 'above', shape: 'line' };
const slice = { kind: 'vertical', at: [1, 2, 3], azimuth: 30, dip: 90, thickness: 0, flipped: false };

describe('the state of a workbench', () => {
	it('is plain to begin with, and what is stored keeps what newer versions added', () => {
		expect(takes({})).toBe(true);
		expect(completeBench(null)).toEqual(plainBench());
		const old = completeBench({ exaggeration: 3, hidden: { 'unit:a': true } });
		expect(old).toMatchObject({ exaggeration: 3, hidden: { 'unit:a': true }, slice: plainBench().slice, contourInterval: null });
	});

	it.each<[string, Partial<Record<keyof BenchState, unknown>>]>([
		[
			'panes of a stage',
			{
				panes: {
					build: [
						{ view: 'space', settings: {} },
						{ view: 'map', settings: { map: { resolution: 3 } } }
					]
				}
			}
		],
		['a style of a table', { styles: { t: plainStyle('Cu') } }],
		['curves beside holes', { curves: [curve, { ...curve, threshold: 5, fill: 'below', shape: undefined }] }],
		['a slice', { slice: { ...slice, kind: 'free', dip: 40, thickness: 25, flipped: true } }],
		['an order of layers', { order: ['terrain', 'geology'] }],
		['a contour interval', { contourInterval: 12.5 }],
		['a rank', { rank: 's1 2' }]
	])('takes %s', (_, change) => expect(takes(change)).toBe(true));

	it.each<[string, Partial<Record<keyof BenchState, unknown>>]>([
		['a stage without a pane', { panes: { build: [] } }],
		['five panes', { panes: { build: Array.from({ length: 5 }, () => ({ view: 'space', settings: {} })) } }],
		['a view that is none', { panes: { build: [{ view: 'kitchen', settings: {} }] } }],
		['a pane with more to it', { panes: { build: [{ view: 'space', settings: {}, script: 'x' }] } }],
		['a style of another shape', { styles: { t: { by: 5 } } }],
		['a flag that is no yes or no', { hidden: { a: 'yes' } }],
		['an opacity above one', { opacity: { terrain: 1.5 } }],
		['an exaggeration of nothing', { exaggeration: 0 }],
		['an exaggeration without an end', { exaggeration: Infinity }],
		['a colour that is none', { curves: [{ ...curve, color: 'red; background: url(x)' }] }],
		['more curves than can be told apart', { curves: Array.from({ length: 21 }, () => curve) }],
		['a slice at two numbers', { slice: { ...slice, at: [1, 2] } }],
		['a slice of an unknown kind', { slice: { ...slice, kind: 'spiral' } }],
		['a section before the first', { section: -1 }],
		['a contour interval of nothing', { contourInterval: 0 }],
		['a rank by its number alone', { rank: 2 }],
		['a table that is left out', { along: undefined }],
		['something that nobody knows', { theme: 'dark' } as never],
		['more than half a megabyte', { panes: { build: [{ view: 'space', settings: { space: { text: 'x'.repeat(600_000) } } }] } }]
	])('refuses %s', (_, change) => expect(takes(change)).toBe(false));
});

describe('what a page changed', () => {
	const state: BenchState = { ...plainBench(), hidden: { a: true, b: true }, panes: { gather: [{ view: 'map', settings: {} }] } };
	it('is nothing when nothing was', () => expect(benchChanges(state, structuredClone(state))).toBeNull());
	it('names the entries of maps and the values of all else, and makes the one of the other', () => {
		const after: BenchState = { ...structuredClone(state), exaggeration: 2, hidden: { a: false, c: true }, order: ['x'] };
		const changes = benchChanges(state, after)!;
		expect(changes).toEqual({ exaggeration: 2, order: ['x'], hidden: { a: false, b: null, c: true } });
		expect(withBenchChanges(state, changes)).toEqual(after);
	});
	it('leaves what another changed meanwhile', () => {
		const changes = benchChanges(state, { ...state, exaggeration: 2 })!;
		expect(withBenchChanges({ ...state, filled: false, hidden: { z: true } }, changes)).toMatchObject({
			exaggeration: 2,
			filled: false,
			hidden: { z: true }
		});
	});
});
