import { describe, expect, it } from 'vitest';
import { classes, dataSet, workspaceOf } from '../for-tests';
import { liftsOf, textsOf } from './texts';

const log = dataSet('Log', { columns: [classes('code', ['SST', '', 'SLT'])] });
const workspace = workspaceOf([log]);
const looked = (chosen: string[] = []) => {
	const w = Object.create(workspace, { selectedHoles: { value: new Set(chosen) } }) as typeof workspace;
	const style = { ...workspace.sets.style(log), labels: 'code' };
	(w as unknown as { sets: object }).sets = Object.assign(Object.create(workspace.sets), {
		style: () => style,
		placeOf: (_: unknown, i: number) => (i === 2 ? null : [i, i, i])
	});
	return w;
};
const all = { holes: true, names: true, depths: false };

describe('texts of the block', () => {
	it('are the names of the holes that are wanted, the deeper one first', () => {
		const texts = textsOf(looked(), all, () => true, []);
		expect(texts.map((t) => t.text)).toEqual(['H1', 'H2']);
		expect(texts[0]!.rank).toBeGreaterThan(texts[1]!.rank);
		expect(textsOf(looked(), all, (h) => h === 1, []).map((t) => t.text)).toEqual(['H2']);
		expect(textsOf(looked(), { ...all, holes: false }, () => true, [])).toEqual([]);
	});
	it('of a chosen hole are always there, before all others and with its depths', () => {
		const texts = textsOf(looked(['H2']), { ...all, names: false }, () => true, []);
		expect(texts[0]).toMatchObject({ text: 'H2', rank: 900 });
		expect(texts.length).toBeGreaterThan(1);
		for (const t of texts.slice(1)) expect(t.z).toBeLessThan(60);
	});
	it('are labels of rows, where a row has a place and a value', () => {
		expect(textsOf(looked(), { ...all, holes: false }, () => true, [log]).map((t) => t.text)).toEqual(['SST']);
	});
});

it('units are lifted the more the higher they are, and the lowest not at all', () => {
	expect([...liftsOf([4, 2, 0], 10)]).toEqual([
		[4, 20],
		[2, 10],
		[0, 0]
	]);
	expect(liftsOf([], 10).size).toBe(0);
});
