import { describe, expect, it } from 'vitest';
import { holesNearSection } from '#core/sections/along-section';
import { classes, dataSet, numbers, workspaceOf } from '../for-tests';
import { barPaths, holeAt, holeNames, pathOf, planeMarks, rowsInBox, rowsPath } from './section-drawing';

/** Ten pixels a metre along, elevation 100 at the top. */
const place = { X: (v: number) => 10 * v, Y: (z: number) => 10 * (100 - z) };
const logged = dataSet('Log', { columns: [classes('code', ['SST', 'SLT', 'SST'])] });
// Both holes of the test project stand on this line, at 0 and about 283 along it.
const trace = [[100, 200], [300, 400]] as [number, number][]; // prettier-ignore

describe('what a section draws of holes', () => {
	const workspace = workspaceOf([logged]);
	const holes = holesNearSection(workspace.sets.paths!, [[50, 150], [350, 450]], 10); // prettier-ignore

	it('one path a colour, with the parts of all holes that have it', () => {
		const paths = barPaths(workspace, logged, holes, place);
		expect(paths.size).toBe(2);
		expect([...paths.values()].map((p) => p.split('M').length - 1).sort()).toEqual([1, 2]);
		expect(barPaths(workspaceOf([logged], { hidden: ['data:Log'] }), logged, holes, place).size).toBe(0);
	});

	it('the parts of the rows that are selected, and the rows that a box meets', () => {
		const parts = (rows: number[]) => rowsPath(logged, new Set(rows), holes, 2, place).split('M').length - 1;
		expect([parts([0]), parts([0, 2]), parts([])]).toEqual([1, 2, 0]);
		const [s, z] = [holes[0]!.points[0]!, holes[0]!.points[1]!];
		expect(rowsInBox(logged, holes, 2, [s - 1, z - 5, s + 1, z])).toEqual([0]);
		expect(rowsInBox(logged, holes, 2, [s - 1, z - 15, s + 1, z - 5])).toEqual([0, 1]);
		expect(rowsInBox(logged, holes, 2, [-1e6, -1e6, 1e6, 1e6])).toEqual([0, 1, 2]);
		expect(rowsInBox(logged, holes, 2, [s + 1, z - 50, s + 2, z])).toEqual([]);
		// A press without a drag is a box of no size.
		expect(rowsInBox(logged, holes, 2, [s, z - 5, s, z - 5])).toEqual([0]);
	});

	it('finds the hole that is pressed within six pixels, with the depth there', () => {
		const h = holes[0]!;
		const [x, y] = [place.X(h.points[0]!), place.Y(40)];
		expect(holeAt(holes, x + 5, y, place)).toEqual({ h, depth: expect.closeTo(10, 6) as number });
		expect(holeAt(holes, x + 7, y, place)).toBeNull();
		expect(holeAt([], x, y, place)).toBeNull();
	});

	it('names those within the frame, and how far off they stand when that is a metre or more', () => {
		const frame = { x0: 0, x1: 5000, y0: 0 };
		const near = holeNames(holes, frame, place, new Set());
		expect(near.map((l) => l.text)).toEqual(['H1', 'H2']);
		const off = holesNearSection(workspace.sets.paths!, [[50, 153], [350, 453]], 10); // prettier-ignore
		expect(holeNames(off, frame, place, new Set()).map((l) => l.text)).toEqual(['H1 ±2', 'H2 ±2']);
		expect(holeNames(holes, { ...frame, x1: 1000 }, place, new Set()).map((l) => l.name)).toEqual(['H1']);
	});

	it('keeps the name of the chosen hole when there is room for one only', () => {
		const crowded = { X: () => 20, Y: place.Y };
		const frame = { x0: 0, x1: 40, y0: 0 };
		expect(holeNames(holes, frame, crowded, new Set(['H2'])).map((l) => l.name)).toContain('H2');
	});
});

describe('planes on a section', () => {
	const planes = dataSet('Planes', {
		kind: 'orientations',
		place: 'map',
		xyz: Float64Array.of(200, 300, 40, 200, 300, 40, 900, 100, 40),
		columns: [numbers('dip', [45, NaN, 45]), numbers('dipAzimuth', [45, 45, 45])]
	});
	const workspace = workspaceOf([planes]);
	(workspace.sets as unknown as { placeOf: unknown }).placeOf = (set: typeof planes, i: number) => [...set.xyz.subarray(3 * i, 3 * i + 3)];

	it('lean as they look on it, exaggerated like the drawing; without a dip or outside the corridor there are none', () => {
		const [mark, ...more] = planeMarks(workspace, { trace, corridor: 20 }, place, 1, 0);
		expect(more).toEqual([]);
		// The section runs to the north-east, which is where the plane dips: its dip is seen whole.
		expect(mark!.dy / mark!.dx).toBeCloseTo(1, 5);
		expect(Math.hypot(mark!.dx, mark!.dy)).toBeCloseTo(11, 6);
		expect([mark!.row, mark!.table]).toEqual([0, 'Planes']);
		const [steep] = planeMarks(workspace, { trace, corridor: 20 }, place, 3, 0);
		expect(steep!.dy / steep!.dx).toBeCloseTo(3, 5);
	});
});

it('a path closes when it is an outline', () => {
	expect(pathOf([0, 100, 1, 99], place)).toBe('M0.0 0.0L10.0 10.0');
	expect(pathOf([0, 100, 1, 99], place, true)).toMatch(/Z$/);
	expect(pathOf([], place)).toBe('');
});
