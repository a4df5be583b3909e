import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { CategoryColumn, DataSet, NumberColumn } from '../datasets/dataset';
import type { HolePaths } from '../datasets/hole-paths';
import { curvePieces, curveShape, sideOf } from './hole-curves';
import { holeIndex, rowAtDepth, tubeSegments } from './hole-index';
import { placeLabels } from './labels';
import { measureLine, planeThrough } from './measure';
import { sharesByHole } from './shares';

/** Two vertical holes, and one that bends once. */
const paths: HolePaths = {
	holes: ['A', 'B', 'C'].map((name, i) => ({ name, collar: [100 * i, 0, 0] as const, totalDepth: 100, row: i })),
	start: Uint32Array.of(0, 2, 4, 7),
	depths: Float64Array.of(0, 100, 0, 100, 0, 50, 100),
	xyz: Float64Array.of(0, 0, 0, 0, 0, -100, 100, 0, 0, 100, 0, -100, 200, 0, 0, 200, 0, -50, 250, 0, -50)
};
const setOf = (rows: [hole: number, from: number, to: number, value: number][], place: DataSet['place'] = 'interval') => ({
	rowCount: rows.length,
	place,
	hole: Uint32Array.from(rows, (r) => r[0]),
	from: Float32Array.from(rows, (r) => r[1]),
	to: Float32Array.from(rows, (r) => r[2]),
	column: { key: 'v', label: 'v', type: 'number', unit: '', values: Float32Array.from(rows, (r) => r[3]) } as NumberColumn
});
const options = {
	origin: [0, 0, 0] as const,
	rgb: (row: number) => row,
	shown: null,
	size: () => 1,
	resolution: () => 0.01,
	wanted: () => true,
	most: 100_000
};

describe('rows by hole and depth', () => {
	it('are in order whatever the order of the rows', () => {
		const s = setOf([
			[1, 20, 30, 0],
			[0, 5, 6, 0],
			[1, 0, 20, 0],
			[0, 1, 5, 0]
		]);
		const index = holeIndex(s, 3);
		expect([...index.start]).toEqual([0, 2, 4, 4]);
		expect([...index.order]).toEqual([3, 1, 2, 0]);
		expect([rowAtDepth(s, index, 1, 25), rowAtDepth(s, index, 1, 3), rowAtDepth(s, index, 2, 3), rowAtDepth(s, index, 0, 50)]).toEqual([
			0, 2, -1, -1
		]);
	});
});

describe('tubes', () => {
	it('are one segment a row near by, with its ends, colour and size', () => {
		const s = setOf([
			[0, 0, 10, 0],
			[0, 10, 30, 0]
		]);
		const t = tubeSegments(s, paths, { ...options, rgb: (row) => 0x010203 * (row + 1), size: (row) => row + 1 });
		expect(t.count).toBe(2);
		expect([...t.ends]).toEqual([0, 0, 0, 0, 0, -10, 0, 0, -10, 0, 0, -30]);
		expect([...t.colors]).toEqual([1, 2, 3, 2, 4, 6]);
		expect([...t.sizes]).toEqual([1, 2]);
	});
	it('far away look like the longest of the rows that are put together, and reach as far', () => {
		const t = tubeSegments(
			setOf([
				[0, 0, 1, 0],
				[0, 1, 5, 0],
				[0, 5, 6, 0]
			]),
			paths,
			{ ...options, resolution: () => 6 }
		);
		expect(t.count).toBe(1);
		expect([...t.colors]).toEqual([0, 0, 1]);
		expect([t.ends[2], t.ends[5]]).toEqual([0, -6]);
	});
	it('follow the bends of the hole', () => {
		const t = tubeSegments(setOf([[2, 40, 70, 0]]), paths, { ...options, resolution: () => 1 });
		expect(t.count).toBe(2);
		expect([...t.ends]).toEqual([200, 0, -40, 200, 0, -50, 200, 0, -50, 220, 0, -50]);
	});
	it('leave out hidden rows and unwanted holes, and do not bridge gaps', () => {
		const s = setOf([
			[0, 0, 10, 0],
			[0, 10, 20, 0],
			[0, 20, 30, 0],
			[1, 0, 10, 0]
		]);
		const t = tubeSegments(s, paths, { ...options, shown: (row) => row !== 1, wanted: (h) => h === 0, resolution: () => 5 });
		expect(t.count).toBe(2);
		expect([t.ends[5], t.ends[8]]).toEqual([-10, -20]);
	});
	it('never pass the greatest number, and cover the same lengths', () => {
		fc.assert(
			fc.property(fc.integer({ min: 1, max: 300 }), fc.integer({ min: 4, max: 40 }), (n, most) => {
				const s = setOf(
					Array.from(
						{ length: n },
						(_, i) => [i % 2, (50 * Math.floor(i / 2)) / n, (50 * (Math.floor(i / 2) + 1)) / n, 0] as [number, number, number, number]
					)
				);
				const t = tubeSegments(s, paths, { ...options, most });
				expect(t.count).toBeLessThanOrEqual(most);
				let length = 0;
				for (let i = 0; i < t.count; i++) length += Math.abs(t.ends[6 * i + 5]! - t.ends[6 * i + 2]!);
				const whole = Array.from({ length: n }, (_, i) => s.to[i]! - s.from[i]!).reduce((a, b) => a + b);
				expect(length).toBeCloseTo(whole, 3);
			})
		);
	});
	it('a hole of no length makes none that is long', () => {
		expect(tubeSegments(setOf([[0, 5, 5, 0]]), paths, options).ends.every((v, i, all) => i % 6 < 3 || v === all[i - 3])).toBe(true);
	});
});

describe('curves beside holes', () => {
	const shape = {
		origin: [0, 0, 0] as const,
		side: 90,
		at: (v: number) => v / 100,
		reach: 20,
		threshold: null,
		fill: 'above' as const,
		shape: 'line' as const,
		resolution: () => 0.01,
		wanted: () => true
	};
	it('stand off to their side, square to the hole', () => {
		expect(sideOf([0, 0, -1], 90).map((v) => Math.round(v * 1e9) / 1e9 + 0)).toEqual([1, 0, 0]);
		const inclined = sideOf([Math.SQRT1_2, 0, -Math.SQRT1_2], 90);
		expect(inclined[0] * Math.SQRT1_2 - inclined[2] * Math.SQRT1_2).toBeCloseTo(0, 12);
		// Along the wanted side there is none nearer: any that is square.
		expect(Math.hypot(...sideOf([1, 0, 0], 90))).toBeCloseTo(1, 12);
	});
	it('are steps of intervals and lines of readings', () => {
		const intervals = setOf([
			[0, 0, 10, 50],
			[0, 10, 20, 100]
		]);
		const { lines } = curveShape(intervals, intervals.column, paths, shape);
		expect(lines.map((v) => Math.round(v * 1e6) / 1e6 + 0)).toEqual([10, 0, 0, 10, 0, -10, 10, 0, -10, 20, 0, -10, 20, 0, -10, 20, 0, -20]);
		const readings = setOf(
			[
				[0, 5, 5, 50],
				[0, 10, 10, 100]
			],
			'depth'
		);
		expect(curveShape(readings, readings.column, paths, shape).lines).toHaveLength(6);
	});
	it('break where intervals leave a gap, and keep peaks from far away', () => {
		const gap = setOf([
			[0, 0, 10, 50],
			[0, 40, 50, 50]
		]);
		expect(curveShape(gap, gap.column, paths, shape).lines).toHaveLength(12);
		const peaks = setOf(Array.from({ length: 100 }, (_, i) => [0, i, i + 1, i === 37 ? 100 : 10]));
		const far = curveShape(peaks, peaks.column, paths, { ...shape, resolution: () => 20 });
		expect(Math.max(...far.lines.filter((_, i) => i % 3 === 0))).toBeCloseTo(20, 6);
		expect(far.lines.length).toBeLessThan(120);
	});
	it('are bars from the hole where asked, filled all or beyond the threshold', () => {
		const s = setOf([
			[0, 0, 10, 20],
			[0, 10, 20, 80]
		]);
		const all = curvePieces(s, s.column, Uint32Array.of(0, 1), { at: (v) => v / 100, threshold: null, fill: 'above', shape: 'bars' }, 0);
		expect(all.fills).toEqual([
			[0, 0, 0.2, 10, 0, 0.2],
			[10, 0, 0.8, 20, 0, 0.8]
		]);
		expect(all.lines.slice(0, 3)).toEqual([
			[0, 0, 0, 0.2],
			[0, 0.2, 10, 0.2],
			[10, 0.2, 10, 0]
		]);
		expect(
			curvePieces(s, s.column, Uint32Array.of(0, 1), { at: (v) => v / 100, threshold: 50, fill: 'below', shape: 'bars' }, 0).fills
		).toEqual([[0, 0, 0.2, 10, 0, 0.2]]);
		const rods = setOf([[0, 5, 5, 50]], 'depth');
		expect(
			curvePieces(rods, rods.column, Uint32Array.of(0), { at: (v) => v / 100, threshold: null, fill: 'above', shape: 'bars' }, 0)
		).toEqual({ lines: [[5, 0, 5, 0.5]], fills: [] });
	});
	it('are filled above or below a threshold only', () => {
		const s = setOf([
			[0, 0, 10, 20],
			[0, 10, 20, 80]
		]);
		const above = curveShape(s, s.column, paths, { ...shape, threshold: 50 }).fill;
		expect(Math.min(...above.filter((_, i) => i % 3 === 0))).toBeCloseTo(10, 6);
		expect(Math.max(...above.filter((_, i) => i % 3 === 0))).toBeCloseTo(16, 6);
		const below = curveShape(s, s.column, paths, { ...shape, threshold: 50, fill: 'below' }).fill;
		expect(Math.min(...below.filter((_, i) => i % 3 === 0))).toBeCloseTo(4, 6);
	});
});

describe('labels', () => {
	const label = (x: number, y: number, rank: number) => ({ x, y, rank, text: String(rank), width: 40, height: 12 });
	it('never overlap, and the more important stay', () => {
		fc.assert(
			fc.property(fc.array(fc.tuple(fc.integer({ min: 0, max: 400 }), fc.integer({ min: 0, max: 300 })), { maxLength: 80 }), (places) => {
				const placed = placeLabels(
					places.map(([x, y], i) => label(x, y, i)),
					400,
					300
				);
				for (const a of placed)
					for (const b of placed) if (a !== b) expect(Math.abs(a.x - b.x) >= 40 || Math.abs(a.y - b.y) >= 12).toBe(true);
				if (places.length) expect(placed[0]!.rank).toBe(places.length - 1);
			})
		);
	});
	it('outside of the picture are left out', () => {
		expect(placeLabels([label(-200, 5, 1), label(50, 900, 2), label(50, 50, 3)], 400, 300).map((l) => l.rank)).toEqual([3]);
	});
});

describe('measures', () => {
	it('give length, bearing and plunge', () => {
		expect(measureLine([0, 0, 0], [3, 4, -12])).toMatchObject({ length: 13, horizontal: 5, vertical: -12 });
		expect(measureLine([0, 0, 0], [-1, 0, 0]).bearing).toBe(270);
		expect(measureLine([0, 0, 0], [0, 1, -1]).plunge).toBeCloseTo(45, 12);
		expect(measureLine([5, 5, 5], [5, 5, 5])).toMatchObject({ length: 0, bearing: 0 });
	});
	it('give the plane through three points, and none through a line', () => {
		const p = planeThrough([0, 0, 0], [0, 10, 0], [10, 0, -10])!;
		expect(p.dip).toBeCloseTo(45, 9);
		expect(p.dipAzimuth).toBeCloseTo(90, 9);
		expect(planeThrough([0, 0, 0], [1, 1, 1], [2, 2, 2])).toBeNull();
		expect(planeThrough([0, 0, 0], [0, 0, 0], [1, 0, 0])).toBeNull();
	});
});

describe('shares of classes', () => {
	const s = setOf([
		[0, 0, 10, 0],
		[0, 10, 30, 0],
		[0, 30, 40, 0],
		[1, 0, 5, 0]
	]);
	const column: CategoryColumn = {
		key: 'c',
		label: 'c',
		type: 'category',
		values: Uint16Array.of(0, 1, 0, 0xffff),
		categories: ['a', 'b']
	};
	it('are by length, and sum up to one', () => {
		const [a, b] = sharesByHole(s, column, paths);
		expect(a).toEqual({
			logged: 40,
			shares: [
				{ category: 0, share: 0.5 },
				{ category: 1, share: 0.5 }
			]
		});
		expect(b).toEqual({ logged: 0, shares: [] });
	});
	it('of a range of depths count what lies inside, of the rows that count', () => {
		expect(sharesByHole(s, column, paths, 5, 15)[0]).toEqual({
			logged: 10,
			shares: [
				{ category: 0, share: 0.5 },
				{ category: 1, share: 0.5 }
			]
		});
		expect(sharesByHole(s, column, paths, 0, 100, (row) => row === 2)[0]).toEqual({ logged: 10, shares: [{ category: 0, share: 1 }] });
		expect(sharesByHole(s, column, paths, 50, 50)[0]!.logged).toBe(0);
	});
});
