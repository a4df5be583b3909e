import { describe, expect, it } from 'vitest';
import type { DataSet } from '../datasets/dataset';
import type { HolePaths } from '../datasets/hole-paths';
import { plainDefaults, plainStyle } from '../styles/style';
import { drawTrack } from './draw-log';
import { logHoles, type LogData, type LogFrame } from './log-parts';
import type { LogTrack, TrackKind } from './spec';

const paths: HolePaths = {
	holes: [{ name: 'A', collar: [0, 0, 100], totalDepth: 60, row: 0 }],
	start: Uint32Array.of(0, 2),
	depths: Float64Array.of(0, 60),
	xyz: Float64Array.of(0, 0, 100, 0, 0, 40)
};
const base = { name: 'x', xyz: new Float64Array(0), texts: [] as DataSet['texts'] };
const rows = (n: number) => Uint32Array.from({ length: n }, (_, i) => i);
const planes = (dipAzimuth: number[], from = dipAzimuth.map((_, i) => 1 + i)): DataSet => ({
	...base,
	id: 'planes',
	kind: 'holeOrientations',
	place: 'depth',
	rowCount: from.length,
	row: rows(from.length),
	hole: new Uint32Array(from.length),
	from: Float32Array.from(from),
	to: Float32Array.from(from),
	columns: [
		{ key: 'dip', label: 'Dip', type: 'number', unit: '°', values: Float32Array.from(from, () => 30) },
		{ key: 'dipAzimuth', label: 'Dip azimuth', type: 'number', unit: '°', values: Float32Array.from(dipAzimuth) }
	]
});
const samples = (from: number[], to: number[], names: string[]): DataSet => ({
	...base,
	id: 'samples',
	kind: 'intervals',
	place: 'interval',
	rowCount: from.length,
	row: rows(from.length),
	hole: new Uint32Array(from.length),
	from: Float32Array.from(from),
	to: Float32Array.from(to),
	columns: [{ key: 'sample', label: 'Sample', type: 'category', values: Uint16Array.from(names, (_, i) => i), categories: names }]
});
const texts = (n: number): DataSet => ({
	...base,
	id: 'texts',
	kind: 'intervals',
	place: 'interval',
	rowCount: n,
	row: rows(n),
	hole: new Uint32Array(n),
	from: Float32Array.from({ length: n }, (_, i) => (60 * i) / n),
	to: Float32Array.from({ length: n }, (_, i) => (60 * (i + 1)) / n),
	columns: [],
	texts: [{ key: 'description', label: 'Description' }]
});
const curve = (depths: number[], values: number[]): DataSet => ({
	...base,
	id: 'curve',
	kind: 'readings',
	place: 'depth',
	rowCount: depths.length,
	row: rows(depths.length),
	hole: new Uint32Array(depths.length),
	from: Float32Array.from(depths),
	to: Float32Array.from(depths),
	columns: [{ key: 'v', label: 'v', type: 'number', unit: '', values: Float32Array.from(values) }]
});

const frame: LogFrame = { y: (d) => 2 * d, from: 0, to: 60, top: 0, bottom: 120, text: 2, prefix: 'p' };
function draw(
	kind: TrackKind,
	set: DataSet,
	column: string,
	words: (row: number) => string = () => '',
	more: Partial<LogTrack> = {}
): string {
	const data: LogData = {
		paths,
		set: (t) => (t === set.id ? set : null),
		style: () => plainStyle(null),
		defaults: plainDefaults,
		text: (_t, _k, row) => words(row),
		findings: () => [],
		photographs: () => [],
		model: () => null,
		lengthUnit: 'm'
	};
	const track: LogTrack = {
		kind,
		width: 20,
		series: [{ table: set.id, column, color: '#123456' }],
		log: false,
		range: [null, null],
		fill: 'none',
		...more
	};
	return drawTrack(
		track,
		logHoles({ holes: ['A'], tracks: [track], axis: 'depth', scale: 500, align: null }, data)[0]!,
		data,
		frame,
		'depth'
	);
}
const count = (text: string, what: RegExp) => [...text.matchAll(what)].length;

describe('roses of a log', () => {
	it('have a petal for each direction that was met, and how many there are', () => {
		const svg = draw('rose', planes([5, 10, 15, 95, 98, 185]), 'dipAzimuth');
		expect(count(svg, /fill="#2B5FA8"/g)).toBe(3);
		expect(svg).toMatch(/>6</);
	});
	it('have petals whose area grows with the count, not their length', () => {
		const radii = [...draw('rose', planes([5, 5, 5, 5, 95]), 'dipAzimuth').matchAll(/A([\d.]+) /g)].map((m) => Number(m[1]));
		expect(Math.max(...radii) / Math.min(...radii)).toBeCloseTo(2, 1);
	});
	it('stand one below the other down a long hole, each with its own part of it', () => {
		const svg = draw('rose', planes([5, 5, 185], [2, 4, 58]), 'dipAzimuth');
		const rings = [...svg.matchAll(/<circle cx="10" cy="([\d.]+)"/g)].map((m) => Number(m[1]));
		expect(rings).toHaveLength(2);
		expect(rings[0]!).toBeLessThan(30);
		expect(rings[1]!).toBeGreaterThan(90);
	});
	it('take any turn of the compass, and nothing for no direction', () => {
		expect(draw('rose', planes([365]), 'dipAzimuth')).toBe(draw('rose', planes([5]), 'dipAzimuth'));
		expect(draw('rose', planes([-355]), 'dipAzimuth')).toBe(draw('rose', planes([5]), 'dipAzimuth'));
		for (const none of [planes([NaN]), planes([])]) expect(draw('rose', none, 'dipAzimuth')).not.toMatch(/<circle|NaN/);
	});
});

describe('samples of a log', () => {
	it('have a bracket each, and a name where there is room for it', () => {
		const svg = draw('samples', samples([0, 10, 10.2, 10.4, 40], [2, 10.2, 10.4, 10.6, 42], ['S1', 'S2', 'S3', 'S4', '<S5>']), 'sample');
		expect(count(svg, /<path d="M1 /g)).toBe(5);
		for (const there of ['S1', 'S2', '&lt;S5&gt;']) expect(svg).toContain(there);
		for (const gone of ['>S3<', '>S4<', '<S5>']) expect(svg).not.toContain(gone);
	});
	it('outside the part that is drawn are cut off at its ends', () => {
		const svg = draw('samples', samples([-5, 55], [5, 80], ['a', 'b']), 'sample');
		for (const y of [...svg.matchAll(/V([\d.]+)h/g)].map((m) => Number(m[1]))) expect(y).toBeLessThanOrEqual(120);
	});
});

describe('descriptions of a log', () => {
	const long = 'grey, fine grained, cross-bedded sandstone with thin partings of mudstone, well cemented, joints stained brown';
	it('are written as large as they fit', () => {
		const size = (n: number) => Number(/font-size="([\d.]+)"/.exec(draw('text', texts(n), 'description', () => long))![1]);
		expect(size(2)).toBe(2);
		expect(size(8)).toBeLessThan(2);
		expect(size(8)).toBeGreaterThanOrEqual(2 * 0.55);
	});
	it('that do not fit even so are cut, and say so', () => {
		expect(draw('text', texts(2), 'description', () => long)).not.toContain('…');
		expect(draw('text', texts(30), 'description', () => long)).toContain('…');
	});
	it('of very many rows are those that have room', () => {
		const svg = draw('text', texts(190), 'description', (row) => `row ${row}`);
		expect(count(svg, /row \d+/g)).toBeGreaterThan(20);
		expect(count(svg, /row \d+/g)).toBeLessThan(190);
	});
	it('without words are none', () =>
		expect(
			count(
				draw('text', texts(5), 'description', () => ''),
				/<text/g
			)
		).toBe(0));
});

describe('curves of a log', () => {
	const depths = Array.from({ length: 40 }, (_, i) => i);
	const lines = (svg: string) => count(/<path d="([^"]*)"[^>]*stroke="#123456"/.exec(svg)?.[1] ?? '', /M/g);
	it('are one line where readings follow each other, and are parted where there are none', () => {
		expect(lines(draw('curves', curve(depths, depths), 'v'))).toBe(1);
		expect(lines(draw('curves', curve([...depths.slice(0, 15), ...depths.slice(28)], depths.slice(0, 27)), 'v'))).toBe(2);
	});
	it('leave out readings without a value, and a single one makes no line', () => {
		expect(
			lines(
				draw(
					'curves',
					curve(
						depths,
						depths.map(() => NaN)
					),
					'v'
				)
			)
		).toBe(0);
		expect(lines(draw('curves', curve([5], [1]), 'v'))).toBe(0);
	});
	it('on a scale of powers leave out what has no logarithm', () => {
		const svg = draw(
			'curves',
			curve(
				depths,
				depths.map((d) => (d % 2 ? d : -d))
			),
			'v',
			() => '',
			{ log: true, range: [1, 100] }
		);
		expect(svg).not.toMatch(/NaN|Infinity/);
	});
});
