import { describe, expect, it } from 'vitest';
import { framedSvg, legendEntries } from './figure';
import { classes, dataSet, numbers, workspaceOf } from './for-tests';

const units = [
	{ id: 'a', name: 'Sandstone', color: '#d8b25c' },
	{ id: 'b', name: 'Slate', color: '#5c6070' }
];
const rocks = dataSet('Rocks', { columns: [classes('code', ['tuff', 'slate', 'tuff'])] });
const assays = dataSet('Assays', { kind: 'places', place: 'map', columns: [numbers('Cu', [10, 200, 3000], 'ppm')] });
const unitLog = dataSet('Logs', { columns: [classes('unit', ['Sandstone', 'Slate', ''])] });

describe('the legend of a picture', () => {
	it('has the units that are shown, with patterns where cuts are drawn', () => {
		const w = workspaceOf([unitLog], { units, hidden: ['unit:b'] });
		expect(legendEntries(w, 'map')).toEqual([{ label: 'Sandstone', color: '#d8b25c', pattern: null }]);
		expect(legendEntries(w, 'log')[0]!.pattern).not.toBeNull();
		// Units stand there already: the log of units is not listed once more.
		expect(legendEntries(w, 'chart')).toEqual([]);
	});

	it('has a heading for each data set, and its classes below it', () => {
		const entries = legendEntries(workspaceOf([rocks]), 'section');
		expect(entries.map((e) => [e.label, e.heading ?? false])).toEqual([
			['Rocks, code', true],
			['tuff', false],
			['slate', false]
		]);
		expect(entries[1]!.color).not.toBe(entries[2]!.color);
	});

	it('has steps of a scale for numbers, from the least to the greatest', () => {
		const entries = legendEntries(workspaceOf([assays]), 'map');
		expect(entries[0]).toMatchObject({ label: 'Assays, Cu, ppm', heading: true });
		const steps = entries.slice(1).map((e) => Number(e.label));
		expect(steps).toHaveLength(5);
		expect([...steps].sort((a, b) => a - b)).toEqual(steps);
		expect(new Set(entries.slice(1).map((e) => e.color)).size).toBe(5);
	});

	it('leaves out what is hidden and what is not drawn', () => {
		expect(legendEntries(workspaceOf([rocks, assays], { hidden: ['data:Rocks', 'data:Assays'] }), 'map')).toEqual([]);
		// Two sets along the holes: one of them is drawn.
		expect(
			legendEntries(workspaceOf([rocks, dataSet('Other', { columns: rocks.columns })]), 'map')
				.filter((e) => e.heading)
				.map((e) => e.label)
		).toEqual(['Rocks, code']);
	});

	it('says how many more there are than fit', () => {
		const many = Array.from({ length: 60 }, (_, i) => ({ id: `u${i}`, name: `Unit ${i}`, color: '#888888' }));
		const entries = legendEntries(workspaceOf([], { units: many }), 'space');
		expect(entries).toHaveLength(41);
		expect(entries.at(-1)).toEqual({ label: 'and 20 more', color: '', pattern: null, heading: true });
	});
});

describe('a drawing with its frame', () => {
	const svg = '<?xml version="1.0"?>\n<svg xmlns="http://www.w3.org/2000/svg" width="400" height="100"><path d="M0 0"/></svg>';
	const entry = { label: 'Tuff & <slate>', color: '#aa5522', pattern: null };

	it('stays as it is when nothing is wanted around it', () => {
		expect(framedSvg(svg, { title: 't', entries: [], frame: false })).toBe(svg);
		expect(framedSvg('no drawing', { title: 't', entries: [entry], frame: true })).toBe('no drawing');
	});

	it('has room for title, margins and legend, and grows with a long one', () => {
		const size = (text: string) => /width="([\d.]+)" height="([\d.]+)"/.exec(text)!.slice(1).map(Number);
		expect(size(framedSvg(svg, { title: 't', entries: [], frame: true }))).toEqual([420, 140]);
		expect(size(framedSvg(svg, { title: 't', entries: [entry], frame: true }))).toEqual([610, 140]);
		expect(size(framedSvg(svg, { title: 't', entries: Array.from({ length: 20 }, () => entry), frame: true }))).toEqual([610, 442]);
	});

	it('writes names as text, whatever they are made of', () => {
		const out = framedSvg(svg, {
			title: '<script>alert(1)</script>',
			entries: [entry, { label: 'Heading', color: '', pattern: null, heading: true }],
			frame: true
		});
		expect(out).toContain('Tuff &amp; &lt;slate&gt;');
		expect(out).not.toContain('<script>');
		expect(out.match(/<rect[^>]*fill="#aa5522"/g)).toHaveLength(1);
		expect(out).toContain('font-weight="600">Heading');
		expect(out.indexOf('<?xml')).toBe(-1);
	});
});
