import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { DataSet } from '../datasets/dataset';
import type { HolePaths } from '../datasets/hole-paths';
import { plainDefaults, plainStyle } from '../styles/style';
import { drawTrack } from './draw-log';
import { logHoles, trackRange, trackTitle, type LogData, type LogFrame } from './log-parts';
import { joinPages, logPages } from './pages';
import { logSpecSchema, type LogSpec, type LogTrack, type TrackKind } from './spec';
import { stackBlocks, textWidth, wrapText } from './text';

const paths: HolePaths = {
	holes: [
		{ name: 'A', collar: [0, 0, 100], totalDepth: 60, row: 0 },
		{ name: 'B', collar: [50, 0, 80], totalDepth: 100, row: 1 },
		{ name: 'none', collar: [0, 0, 0], totalDepth: 0, row: 2 }
	],
	start: Uint32Array.of(0, 2, 4, 5),
	depths: Float64Array.of(0, 60, 0, 100, 0),
	// A is vertical, B goes down at 30° from the vertical.
	xyz: Float64Array.of(0, 0, 100, 0, 0, 40, 50, 0, 80, 100, 0, 80 - 100 * Math.cos(Math.PI / 6), 0, 0, 0)
};
const base = { id: 'log', name: 'Log', kind: 'intervals' as const, place: 'interval' as const, xyz: new Float64Array(0) };
const log: DataSet = {
	...base,
	rowCount: 4,
	row: Uint32Array.of(0, 1, 2, 3),
	hole: Uint32Array.of(0, 0, 1, 1),
	from: Float32Array.of(0, 20, 0, 30),
	to: Float32Array.of(20, 60, 30, 100),
	columns: [
		{ key: 'code', label: 'Code', type: 'category', values: Uint16Array.of(0, 1, 0, 1), categories: ['Sandstone', 'Mud <b>&'] },
		{ key: 'Cu', label: 'Cu_ppm', type: 'number', unit: 'ppm', values: Float32Array.of(10, 1000, 100, NaN) }
	],
	texts: [{ key: 'description', label: 'Description' }]
};
const gamma: DataSet = {
	...base,
	id: 'gamma',
	name: 'Gamma',
	kind: 'readings',
	place: 'depth',
	rowCount: 300,
	row: Uint32Array.from({ length: 300 }, (_, i) => i),
	hole: new Uint32Array(300),
	from: Float32Array.from({ length: 300 }, (_, i) => i / 5),
	to: Float32Array.from({ length: 300 }, (_, i) => i / 5),
	columns: [
		{
			key: 'API',
			label: 'API',
			type: 'number',
			unit: '',
			values: Float32Array.from({ length: 300 }, (_, i) => (i === 137 ? 500 : 50 + (i % 7)))
		}
	],
	texts: []
};
const walls: DataSet = {
	...base,
	id: 'walls',
	name: 'Walls',
	kind: 'holeOrientations',
	place: 'depth',
	rowCount: 2,
	row: Uint32Array.of(0, 1),
	hole: Uint32Array.of(0, 0),
	from: Float32Array.of(10, 30),
	to: Float32Array.of(10, 30),
	columns: [
		{ key: 'dip', label: 'Dip', type: 'number', unit: '°', values: Float32Array.of(45, 90) },
		{ key: 'dipAzimuth', label: 'Dip azimuth', type: 'number', unit: '°', values: Float32Array.of(90, 180) }
	],
	texts: []
};
const levels: DataSet = {
	...base,
	id: 'levels',
	name: 'Levels',
	kind: 'levels',
	place: 'hole',
	rowCount: 2,
	row: Uint32Array.of(0, 1),
	hole: Uint32Array.of(0, 0),
	from: new Float32Array(0),
	to: new Float32Array(0),
	columns: [
		{ key: 'waterDepth', label: 'Depth to water', type: 'number', unit: 'm', values: Float32Array.of(5, 5.1) },
		{ key: 'date', label: 'Date', type: 'date', unit: '', values: Float64Array.of(20_000, 20_100) }
	],
	texts: []
};
const sets: Record<string, DataSet> = { log, gamma, walls, levels };
const data: LogData = {
	paths,
	set: (t) => sets[t] ?? null,
	style: () => plainStyle('code'),
	defaults: plainDefaults,
	text: (_t, _k, row) => ['yellow, medium grained, cross-bedded and well cemented', 'dark <script>', 'a', 'b'][row]!,
	findings: (hole) =>
		hole === 'A'
			? [
					{ depth: 12, severity: 'held', message: 'overlap "here"' },
					{ depth: 13, severity: 'noted', message: 'x' }
				]
			: [],
	photographs: (hole) => (hole === 'A' ? [{ from: 2, to: 6, href: 'data:image/png;base64,AAAA', name: 'tray <1>' }] : []),
	model: (id, hole) =>
		id === 'm1'
			? {
					name: 'First model',
					runs:
						hole === 0
							? [
									{ from: 3, to: 20, name: 'Sand <1>', color: '#aa8844' },
									{ from: 20, to: 90, name: 'Clay', color: '#448866' }
								]
							: []
				}
			: null,
	lengthUnit: 'm'
};
const track = (kind: TrackKind, table = '', column = '', more: Partial<LogTrack> = {}): LogTrack => ({
	kind,
	width: 20,
	series: table ? [{ table, column, color: '#123456' }] : [],
	log: false,
	range: [null, null],
	fill: 'none',
	...more
});
const spec = (tracks: LogTrack[], more: Partial<LogSpec> = {}): LogSpec => ({
	holes: ['A', 'B'],
	tracks,
	axis: 'depth',
	scale: 500,
	align: null,
	...more
});
const frame: LogFrame = { y: (d) => 2 * d, from: 0, to: 60, top: 0, bottom: 120, text: 2, prefix: 'p' };
const draw = (t: LogTrack, f = frame) => drawTrack(t, logHoles(spec([t]), data)[0]!, data, f, 'depth');

describe('text', () => {
	it('is broken at words, and words that are too long in themselves', () => {
		const lines = wrapText('a fine grained sandstone with unbelievablylongwordsinit', 20, 3);
		for (const l of lines) expect(textWidth(l, 3)).toBeLessThanOrEqual(20);
		expect(lines.join('').replaceAll(' ', '')).toBe('afinegrainedsandstonewithunbelievablylongwordsinit');
		expect(wrapText('', 10, 3)).toEqual(['']);
		expect(wrapText('x', 0.1, 3)).toEqual(['x']);
	});
	it('blocks never overlap, keep their order and stay inside as long as they fit', () => {
		fc.assert(
			fc.property(
				fc.array(fc.record({ at: fc.double({ min: 0, max: 100, noNaN: true }), height: fc.double({ min: 0.1, max: 4, noNaN: true }) }), {
					maxLength: 20
				}),
				(list) => {
					const blocks = list.sort((a, b) => a.at - b.at);
					const places = stackBlocks(blocks, 0, 100);
					places.forEach((p, i) => {
						expect(p).toBeGreaterThanOrEqual(-1e-9);
						expect(p + blocks[i]!.height).toBeLessThanOrEqual(100 + 1e-9);
						if (i) expect(p).toBeGreaterThanOrEqual(places[i - 1]! + blocks[i - 1]!.height - 1e-9);
					});
				}
			)
		);
		// With room enough each stands where it wants to.
		expect(
			stackBlocks(
				[
					{ at: 5, height: 3 },
					{ at: 50, height: 3 }
				],
				0,
				100
			)
		).toEqual([5, 50]);
	});
});

describe('tracks', () => {
	it('draw the intervals of their hole with pattern, colour and escaped names', () => {
		const svg = draw(track('classes', 'log', 'code'));
		expect(svg).toContain('M0 0h20v40h-20z');
		expect(svg).toContain('M0 40h20v80h-20z');
		expect(svg).toContain('Mud &lt;b&gt;&amp;');
		expect(svg).not.toContain('<b>');
		expect(svg).toContain('id="pc0"');
	});
	it('write texts side by side with their intervals, escaped', () => {
		const svg = draw(track('text', 'log', 'description'));
		expect(svg).toContain('yellow');
		expect(svg).toContain('&lt;script&gt;');
		// A text that is a column of classes can be written too.
		expect(draw(track('text', 'log', 'code'))).toContain('Sandstone');
	});
	it('draw bars to the scale of all holes, by logarithm where asked', () => {
		expect(trackRange(track('bars', 'log', 'Cu'), data)).toEqual([0, 1000]);
		expect(draw(track('bars', 'log', 'Cu'))).toContain('M0 40h20v80h-20z');
		expect(draw(track('bars', 'log', 'Cu'))).toContain('M0 0h0.2v40');
		expect(trackRange(track('bars', 'log', 'Cu', { log: true }), data)).toEqual([10, 1000]);
		expect(draw(track('bars', 'log', 'Cu', { log: true, range: [1, 1000] }))).toContain('h6.67v40');
	});
	it('keep peaks of curves when many values fall onto one place', () => {
		const svg = draw(track('curves', 'gamma', 'API', { range: [0, 500] }), { ...frame, y: (d) => d * 0.1, bottom: 6 });
		const xs = [...svg.matchAll(/[ML]([\d.]+) /g)].map((m) => Number(m[1]));
		expect(Math.max(...xs)).toBe(20);
		expect(xs.length).toBeLessThan(200);
	});
	it('fill curves from the left and between two', () => {
		expect(draw(track('curves', 'gamma', 'API', { fill: 'left' }))).toContain('fill-opacity="0.25"');
		const two = track('curves', 'gamma', 'API', { fill: 'between' });
		two.series.push({ table: 'log', column: 'Cu', color: '#654321' });
		expect(draw(two)).toContain('fill-opacity="0.25"');
	});
	it('draw tadpoles at their dip with the tail where they dip to', () => {
		const svg = draw(track('tadpoles', 'walls', 'dip'));
		expect(svg).toContain('cx="10" cy="20"');
		expect(svg).toContain('M10 20l2.6 0');
		expect(svg).toContain('cx="20" cy="60"');
		expect(svg).toContain('M20 60l0 2.6');
	});
	it('draw roses whose petals stand where planes dip to', () => {
		const svg = draw(track('rose', 'walls', 'dipAzimuth'));
		expect([...svg.matchAll(/fill-opacity="0.6"/g)]).toHaveLength(2);
	});
	it('draw water levels with their days, none over another', () => {
		const svg = draw(track('levels', 'levels', 'waterDepth'));
		const ys = [...svg.matchAll(/<text x="4" y="([\d.]+)"/g)].map((m) => Number(m[1]));
		expect(ys).toHaveLength(2);
		expect(ys[1]! - ys[0]!).toBeGreaterThanOrEqual(2);
		expect(svg).toContain('2024-10-04');
	});
	it('draw findings with their words', () => {
		const svg = draw(track('findings'));
		expect(svg).toContain('<title>overlap &quot;here&quot;</title>');
		expect(svg).toContain('stroke="#A87B12"');
	});
	it('show photographs between their depths, cut to the page, with harmless names', () => {
		const svg = draw(track('photographs'));
		expect(svg).toContain('y="4" width="18.8" height="8"');
		expect(svg).toContain('<title>tray &lt;1&gt;</title>');
		expect(svg).toContain('clip-path="url(#pphoto)"');
		expect(draw(track('photographs'), { ...frame, from: 10 })).not.toContain('<image');
	});
	it('show what the hole passes through in a model, between its depths, with harmless names', () => {
		const svg = draw(track('model', 'm1'));
		expect(svg).toContain('M0 6h20v34h-20z');
		expect(svg).toContain('fill="#aa8844"');
		expect(svg).toContain('Sand &lt;1&gt;');
		// It ends where the page ends.
		expect(svg).toContain('M0 40h20v80h-20z');
		expect(trackTitle(track('model', 'm1'), data).title).toBe('First model');
		expect(trackTitle(track('model', 'gone'), data).title).toBe('');
		expect(drawTrack(track('model', 'gone'), logHoles(spec([]), data)[0]!, data, frame, 'depth')).not.toContain('<path d');
	});
	it('of columns or tables that are gone are empty', () => {
		for (const kind of ['classes', 'text', 'curves', 'bars', 'points', 'tadpoles', 'rose', 'samples', 'levels'] as const) {
			expect(() => draw(track(kind, 'gone', 'x'))).not.toThrow();
			expect(() => draw(track(kind, 'log', 'gone'))).not.toThrow();
			expect(() => draw(track(kind))).not.toThrow();
		}
		expect(trackTitle(track('curves', 'gone', 'x'), data).title).toBe('');
	});
	it('have axes that are sensible for columns that are empty, equal or not positive', () => {
		const of = (values: number[], more: Partial<LogTrack> = {}) =>
			trackRange(track('curves', 'x', 'v', more), {
				...data,
				set: () => ({ ...gamma, columns: [{ key: 'v', label: 'v', type: 'number', unit: '', values: Float32Array.from(values) }] })
			});
		expect(of([NaN, NaN])).toEqual([0, 1]);
		expect(of([5, 5])).toEqual([5, 10]);
		expect(of([-3, 0], { log: true })[0]).toBeGreaterThan(0);
		expect(of([0, 4, 40], { log: true })).toEqual([4, 40]);
	});
});

describe('holes of a log', () => {
	it('run by depth, true vertical depth or elevation', () => {
		const [, b] = logHoles(spec([], { axis: 'tvd' }), data);
		expect(b!.axis(100)).toBeCloseTo(100 * Math.cos(Math.PI / 6), 9);
		const [a] = logHoles(spec([], { axis: 'elevation' }), data);
		expect([a!.axis(0), a!.axis(60)]).toEqual([-100, -40]);
	});
	it('are aligned at the top of a class', () => {
		const holes = logHoles(spec([], { align: { table: 'log', column: 'code', category: 'Mud <b>&' } }), data);
		expect(holes.map((h) => h.axis(h.name === 'A' ? 20 : 30) + h.shift)).toEqual([0, 0]);
	});
	it('of no length or of no name are left out', () => {
		expect(logHoles(spec([], { holes: ['none', 'gone', 'A'] }), data).map((h) => h.name)).toEqual(['A']);
	});
});

describe('pages', () => {
	const head = { project: 'Tarrow & Co', author: 'A', date: '2026-01-01', crs: 'EPSG:1' };
	/** Heights of the first track of each hole, mm. */
	const tall = (svg: string) =>
		[...svg.matchAll(/<g transform="translate\(0 0\)"><rect x="0" y="[\d.]+" width="20" height="([\d.]+)"/g)].map((m) => Number(m[1]));
	const tracks = [track('axis'), track('classes', 'log', 'code'), track('bars', 'log', 'Cu')];
	it('are at a true scale: 1 : 500 makes 2 mm of a metre', () => {
		const [page] = logPages(spec(tracks), data, head);
		expect(page!.svg).toMatch(/width="210mm" height="297mm"/);
		// 60 m of hole A on paper.
		expect(tall(page!.svg)[0]).toBeCloseTo(120, 1);
		expect(page!.svg).toContain('1 : 500');
		expect(page!.svg).toContain('Tarrow &amp; Co');
	});
	it('are as many as the length needs, numbered, and none is lost between them', () => {
		const pages = logPages(spec(tracks, { scale: 100, holes: ['B'] }), data, head);
		expect(pages).toHaveLength(5);
		expect(pages[2]!.svg).toContain('page 3 of 5');
		let drawn = 0;
		for (const p of pages) drawn += tall(p.svg)[0]!;
		expect(drawn).toBeCloseTo(1000, 0);
	});
	it('in feet are at a true scale too', () => {
		const [page] = logPages(spec(tracks, { scale: 240 }), { ...data, lengthUnit: 'ft' }, head);
		expect(tall(page!.svg)[0]).toBeCloseTo((60 * 304.8) / 240, 1);
	});
	it('put holes side by side that fit, others on pages of their own, and grow for wide logs', () => {
		expect(logPages(spec(tracks, { scale: 1000 }), data, head)).toHaveLength(1);
		expect(logPages(spec([track('axis', '', '', { width: 150 })], { scale: 1000 }), data, head)).toHaveLength(2);
		expect(
			logPages(spec([track('axis', '', '', { width: 190 }), track('axis', '', '', { width: 190 })], { scale: 1000 }), data, head)[0]!.width
		).toBe(404);
		expect(joinPages(logPages(spec(tracks, { scale: 100 }), data, head))).toContain('viewBox="0 0 210 1485"');
	});
});

describe('the specification', () => {
	it('that the pane makes is taken, others are refused', () => {
		expect(logSpecSchema.isValidSync(spec([track('curves', 'a', 'b')]), { strict: true })).toBe(true);
		for (const bad of [
			{ holes: [] },
			{ tracks: [] },
			{ scale: 0 },
			{ axis: 'time' },
			{ tracks: [track('axis', '', '', { width: 1 })] },
			{ tracks: [{ ...track('axis'), kind: 'video' }] },
			{ align: { table: 'a' } }
		])
			expect(logSpecSchema.isValidSync({ ...spec([track('axis')]), ...bad }, { strict: true })).toBe(false);
	});
});
