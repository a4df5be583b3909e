import { describe, expect, it } from 'vitest';
import type { Point } from 'ol/geom';
import { classes, dataSet, numbers, workspaceOf } from '../for-tests';
import { rowFeatures, shareFeatures } from './data-features';
import { mapSvg } from './export-map';

const at = Float64Array.of(10, 20, 0, 30, 40, 0, 50, 60, 0);
const spots = dataSet('Spots', {
	kind: 'places',
	place: 'map',
	xyz: at,
	row: Uint32Array.of(4, 5, 6),
	columns: [numbers('Cu', [1, 2, NaN], 'ppm')]
});
const planes = dataSet('Planes', {
	kind: 'orientations',
	place: 'map',
	xyz: at,
	columns: [
		classes('feature', ['bedding', 'joint', '']),
		numbers('dip', [30, 80, NaN]),
		numbers('dipAzimuth', [95, 359.8, 10]),
		numbers('polarity', [1, 1, 1])
	]
});
const rocks = dataSet('Rocks', { columns: [classes('code', ['tuff', 'slate', 'tuff'])] });

describe('rows on the map', () => {
	it('are dots at their places, with what they are coloured by, and select their row', () => {
		const made = rowFeatures(workspaceOf([spots]), 'Spots', spots);
		expect(made.map((f) => (f.getGeometry() as Point).getCoordinates())).toEqual([
			[10, 20],
			[30, 40],
			[50, 60]
		]);
		expect(made[0]!.get('label')).toBe('Spots: 1 ppm');
		expect(made[1]!.get('select')).toEqual({ kind: 'rows', table: 'Spots', rows: [5] });
		expect(made.map((f) => f.get('chosen'))).toEqual([false, false, false]);
		const chosen = rowFeatures(workspaceOf([spots], { selection: { kind: 'rows', table: 'Spots', rows: [6] } }), 'Spots', spots);
		expect(chosen.map((f) => f.get('chosen'))).toEqual([false, false, true]);
	});

	it('of planes are symbols with dip and direction in words; a plane without a dip is none', () => {
		const made = rowFeatures(workspaceOf([planes]), 'Planes', planes);
		expect(made).toHaveLength(2);
		expect(made.map((f) => f.get('symbol'))).toEqual(['bedding', 'joint']);
		expect(made[0]!.get('label')).toMatch(/^bedding 30° to 095°/);
		// A direction just short of north is north, not 360.
		expect(made[1]!.get('label')).toMatch(/^joint 80° to 000°/);
	});

	it('of lines are symbols along their trend', () => {
		const lines = { ...planes, columns: [...planes.columns, numbers('plunge', [12, NaN, 5]), numbers('trend', [200, NaN, 45])] };
		const made = rowFeatures(workspaceOf([lines]), 'Planes', lines);
		expect(made.map((f) => [f.get('symbol'), f.get('dip'), f.get('dipAzimuth')])).toEqual([
			['line', 12, 200],
			['joint', 80, expect.closeTo(359.8, 3)],
			['line', 5, 45]
		]);
	});
});

describe('shares of classes at the collars', () => {
	const my = { pies: 'same', pieFrom: 0, pieTo: 0, pieSize: 12 };
	it('are parts of the length that was logged, hole by hole', () => {
		const made = shareFeatures(workspaceOf([rocks]), my);
		expect(made.map((f) => (f.getGeometry() as Point).getCoordinates())).toEqual([
			[100, 200],
			[300, 400]
		]);
		expect(made[0]!.get('label')).toBe('H1: tuff 33 %, slate 67 % of 30.0 m');
		expect(made[1]!.get('label')).toBe('H2: tuff 100 % of 5.0 m');
		expect(made.map((f) => f.get('radius'))).toEqual([12, 12]);
	});

	it('count between two depths only, and may be as large as what was logged there', () => {
		const made = shareFeatures(workspaceOf([rocks]), { ...my, pies: 'sized', pieFrom: 5, pieTo: 12 });
		expect(made[0]!.get('label')).toBe('H1: tuff 71 %, slate 29 % of 7.0 m');
		expect(made).toHaveLength(1);
		const all = shareFeatures(workspaceOf([rocks]), { ...my, pies: 'sized' });
		expect(all[0]!.get('radius')).toBe(12);
		expect(all[1]!.get('radius')).toBeCloseTo(12 * Math.sqrt(5 / 30), 9);
	});

	it('are none when they are off, of numbers, or of places on the map', () => {
		expect(shareFeatures(workspaceOf([rocks]), { ...my, pies: 'none' })).toEqual([]);
		expect(shareFeatures(workspaceOf([dataSet('Assays', { columns: [numbers('Cu', [1, 2, 3])] })]), my)).toEqual([]);
		expect(shareFeatures(workspaceOf([spots]), my)).toEqual([]);
	});
});

it('the map as a drawing has the picture with round coordinates at its edges', () => {
	const svg = mapSvg([500, 400], [402_000, 4_992_000, 403_000, 4_992_800], 'data:image/png;base64,AAAA');
	expect(svg).toContain('<image width="500" height="400" href="data:image/png;base64,AAAA"/>');
	expect(svg).toContain('>402 400<'.replace(' ', svg.includes('402 400') ? ' ' : '\u2009'));
	// East grows to the right, north upwards.
	const x = [...svg.matchAll(/<path d="M([\d.]+) 400v-6"/g)].map((m) => Number(m[1]));
	const y = [...svg.matchAll(/<path d="M0 ([\d.]+)h6"/g)].map((m) => Number(m[1]));
	expect(x.length).toBeGreaterThan(2);
	expect([...x].sort((a, b) => a - b)).toEqual(x);
	expect([...y].sort((a, b) => b - a)).toEqual(y);
});
