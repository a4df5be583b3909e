import { describe, expect, it } from 'vitest';
import { holePlaces, isWorstNearby, noteTwins, turnsOf, withTwinErrors, type HoleDatum } from './neighbours';
import { isStrained, loosened, thicknessSpread, usualThickness } from './vary';
import { surfaceField } from '../fields/field';
import type { GroundFinding } from './ground';

const at = (hole: string, x: number, y: number, z: number, group = 0, block = 0): HoleDatum => ({ hole, x, y, z, group, block });
/** Holes 100 apart with contacts 30 apart on a slope of one in ten. */
const grid = (thick = () => 30): HoleDatum[] =>
	Array.from({ length: 25 }, (_, n) => [100 * (n % 5), 100 * Math.floor(n / 5)] as const).flatMap(([x, y], n) => [
		at(`H${n}`, x, y, -50 + x / 10),
		at(`H${n}`, x, y, -50 + x / 10 - thick(), 1)
	]);

describe('twins', () => {
	it('are left out in the same turn; others take turns', () => {
		const turn = turnsOf(holePlaces([...grid(), at('H7B', 201, 100, 0)]));
		expect(turn('H7B')).toBe(turn('H7'));
		expect(new Set(Array.from({ length: 25 }, (_, n) => turn(`H${n}`))).size).toBe(5);
	});
	it('that differ get half of it as their error; those that go with the slope get none', () => {
		const twin = (by: number) => [...grid(), at('B', 201, 100, -30 + by)];
		const odd = withTwinErrors(twin(6));
		expect(odd.most).toBeCloseTo(6, 9);
		expect(odd.points.filter((p) => p.error).map((p) => [p.hole, p.error])).toEqual([
			['H7', 3],
			['B', 3]
		]);
		expect(odd.points.filter((p) => p.nugget)).toHaveLength(2);
		expect(withTwinErrors(twin(0.05)).most).toBe(0);
	});
	it('that differ are named once, with the most; one that is believed is named as believed, and one that is named already not again', () => {
		const { pairs } = withTwinErrors([...grid(), at('B', 201, 100, -24), at('B', 201, 100, -52, 1)]);
		expect(pairs.map((p) => [...p.holes, p.group])).toEqual([['B', 'H7', 1]]);
		expect([pairs[0]!.differ, pairs[0]!.apart]).toEqual([8, 1]);
		const said = (certain: string[], before: GroundFinding[] = []) => {
			const findings = [...before];
			noteTwins(
				pairs,
				(g) => `base ${g}`,
				new Set(certain),
				(by) => `${by} m`,
				findings
			);
			return findings.slice(before.length).map((f) => [f.kind, f.hole, f.message]);
		};
		const message = 'B and H7, 1 m apart, differ by 8 m at base 1';
		expect(said([])).toEqual([['twins-differ', 'H7', message]]);
		expect(said(['B'])).toEqual([['believed', 'B', message]]);
		expect(said([], [{ kind: 'against-neighbours', severity: 'noted', message: '', hint: '', hole: 'B' }])).toEqual([]);
		expect(withTwinErrors(grid()).pairs).toEqual([]);
	});
	it('of another fault block, or holes in a row without any, contradict nobody', () => {
		expect(withTwinErrors([...grid(), at('B', 201, 100, -24, 0, 1)]).most).toBe(0);
		expect(withTwinErrors([at('A', 0, 0, 0)]).most).toBe(0);
		expect(withTwinErrors([]).points).toEqual([]);
	});
});

it('of neighbours that are odd only the worst is, at first; of equals one', () => {
	const places = holePlaces(grid());
	const worst = new Map([
		['H12', 20],
		['H13', 9]
	]);
	expect(['H12', 'H13'].map((h) => isWorstNearby(h, worst, places))).toEqual([true, false]);
	// One that stands alone far away is the worst of its own.
	expect(
		isWorstNearby(
			'far',
			new Map([...worst, ['far', 1]]),
			new Map([
				...places,
				['far', { x: 9000, y: 0 }],
				...Array.from({ length: 9 }, (_, n): [string, { x: number; y: number }] => [`F${n}`, { x: 9000, y: 10 * n + 10 }])
			])
		)
	).toBe(true);
	const equal = new Map([
		['H12', 5],
		['H13', 5]
	]);
	expect(['H12', 'H13'].filter((h) => isWorstNearby(h, equal, places))).toHaveLength(1);
});

describe('thickness', () => {
	it('is told by contacts that follow each other, in either order down the hole', () => {
		expect([usualThickness(grid()), thicknessSpread(grid())]).toEqual([30, 0]);
		const drilledFromBelow = grid().map((p) => ({ ...p, z: -p.z }));
		expect(usualThickness(drilledFromBelow)).toBe(30);
		let n = 0;
		expect(thicknessSpread(grid(() => 20 + 10 * (n++ % 3)))).toBeCloseTo(1.4826 * 10, 6);
		// One odd hole among many is no spread.
		n = 0;
		expect(thicknessSpread(grid(() => (n++ === 7 ? 80 : 30)))).toBe(0);
	});
	it('that is known from no pair is none', () => expect([usualThickness([]), thicknessSpread([at('A', 0, 0, 0)])]).toEqual([0, 0]));
	it('strains one shape when its levels are nearer to each other than the layers', () => {
		const flat = {
			...surfaceField({ x0: 0, y0: 0, dx: 1000, dy: 1000, nx: 2, ny: 2, values: new Float32Array(4) }, 2000),
			levels: Float64Array.of(-0.05, -0.08)
		};
		expect(isStrained(flat, grid())).toBe(false);
		expect(isStrained({ ...flat, levels: Float64Array.of(-0.05, -0.06) }, grid())).toBe(true);
	});
	it('loosens contacts by its share of their relief', () => {
		expect(loosened(grid(), 0)).toEqual(grid());
		const [p] = loosened(grid(), 3);
		// The relief of five steps of ten is the root of two hundred.
		expect(p!.nugget).toBeCloseTo(9 / 200, 9);
		expect(loosened(grid(), 1000)[0]!.nugget).toBe(1);
	});
});
