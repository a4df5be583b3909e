import { describe, expect, it } from 'vitest';
import { columnOf, holesToTheEast, logsOf, seenIn, type Truth } from '../../bench/sampled';
import { openEdges, solidOf, volumeOf } from '../mesh/extract';
import type { Unit } from '../units/column';
import { buildModel } from './build';
import { unitsAt } from './classify';
import { fitGround } from './fit-ground';
import type { FaultSpec, GroundInput } from './ground';
import { unitAt } from './walk';

const BOX = { minX: 0, minY: 0, minZ: -400, maxX: 1000, maxY: 1000, maxZ: 0 };
const flat = (x: number) => -200 + 0.25 * (x - 500);

/**
 * A steep dyke y at x = 500, 16 m wide, and a gently dipping vein v, 14 m thick, that is there as far as `reaches` says. Upright holes on a
 * grid meet the vein, inclined ones the dyke.
 * @param step off the places of the holes, so that they differ
 */
function veinAtDyke(reaches: (x: number, y: number) => boolean, veinFirst = false, step = 0): Truth {
	const [y, v] = veinFirst ? [1, 0] : [0, 1];
	return {
		box: BOX,
		column: [...(veinFirst ? (['v', 'y'] as const) : (['y', 'v'] as const)).map((id) => [id, 'intrusive'] as const), ['h', 'conformable']],
		unitAt: (px, py, pz) => {
			const inVein = Math.abs(pz - flat(px)) < 7 && reaches(px, py);
			if (Math.abs(px - 500) < 8) return veinFirst && inVein ? v : y;
			return inVein ? v : 2;
		},
		holes: [
			...Array.from({ length: 64 }, (_, i) => ({ x: 62 + 125 * (i % 8) + step, y: 60 + 125 * Math.floor(i / 8) + step })),
			...Array.from({ length: 20 }, (_, i) => ({ x: i % 2 ? 370 : 440, y: 50 + 50 * i, azimuth: 90, inclination: -60, depth: 380 }))
		]
	};
}
const inputOf = (t: Truth, change: (u: Unit) => Partial<Unit> = () => ({}), more: Partial<GroundInput> = {}) =>
	seenIn(t, logsOf(t), { column: columnOf(t.column).map((u) => ({ ...u, ...change(u) })), ...more }).input;
const kinds = (g: ReturnType<typeof fitGround>) => g.findings.map((f) => f.kind);
/** Length of the vein along the line at `y`, from the west to the east. */
const extentOf = (ground: ReturnType<typeof fitGround>, y: number) => {
	const [at, v] = [unitAt(ground), ground.input.column.findIndex((u) => u.id === 'v')];
	const there = Array.from({ length: 999 }, (_, i) => i + 1).filter((x) => at(x, y, flat(x)) === v);
	return [there[0], there.at(-1)];
};
const told = (endsAt: string | null) => (u: Unit) => (u.id === 'v' ? { endsAt } : {});

describe('a vein that ends at a younger dyke', () => {
	const truth = veinAtDyke((x) => x < 500);
	it('reaches it along its whole length, is not there beyond, and it is said', () => {
		const ground = fitGround(inputOf(truth));
		expect(ground.sequences[1]!.ends).toEqual([{ at: 0, above: expect.any(Boolean) }]);
		expect(kinds(ground)).toContain('ends-at-sheet');
		for (const y of [120, 333, 500, 777]) expect(extentOf(ground, y)).toEqual([1, expect.closeTo(491.5, -0.4)]);
	});
	it('thins out on its way there when it is said to end at none', () => {
		const ground = fitGround(inputOf(truth, told(null)));
		expect(ground.sequences[1]!.ends).toBeUndefined();
		expect(kinds(ground)).not.toContain('ends-at-sheet');
		// The last holes that meet it are at 437; the inclined ones pass it between 485 and 560.
		for (const y of [333, 500]) expect(Math.abs(Number(extentOf(ground, y)[1]) - 500)).toBeGreaterThan(10);
	});
	it('is a closed solid that meets the dyke, and many places say what one says', async () => {
		const ground = fitGround(inputOf(truth));
		const { mesh } = await buildModel(ground, { spacing: 20 });
		const vein = solidOf(mesh, 1);
		expect(openEdges(vein)).toBe(0);
		expect(Math.abs(volumeOf(vein) / (492 * 1000 * 14) - 1)).toBeLessThan(0.03);
		expect([...mesh.volumes.values()].reduce((s, v) => s + v, 0)).toBeCloseTo(4e8, 0);
		const places = Float64Array.from({ length: 3 * 3000 }, (_, i) =>
			i % 3 === 2 ? -400 * ((i * 0.6180339) % 1) : 1000 * ((i * 0.7548776) % 1)
		);
		const at = unitAt(ground);
		expect([...(await unitsAt(ground, places))]).toEqual(
			Array.from({ length: 3000 }, (_, k) => at(places[3 * k]!, places[3 * k + 1]!, places[3 * k + 2]!))
		);
	});
	it('does so from the other side, and where a hole beyond has a wrong code', () => {
		const other = fitGround(inputOf(veinAtDyke((x) => x > 500)));
		expect(extentOf(other, 500)).toEqual([expect.closeTo(508.5, -0.4), 999]);
		expect(other.sequences[1]!.ends![0]!.above).not.toBe(fitGround(inputOf(truth)).sequences[1]!.ends![0]!.above);
		const wrong = veinAtDyke((x, y) => x < 500 || (Math.abs(x - 812) < 3 && Math.abs(y - 435) < 3));
		expect(extentOf(fitGround(inputOf(wrong)), 300)[1]).toBeCloseTo(491.5, -0.4);
	});
	it('is the same wherever the project lies, and in whatever order the holes come', () => {
		const input = inputOf(truth);
		const ground = fitGround({ ...input, contacts: [...input.contacts].reverse(), observations: [...input.observations].reverse() });
		expect(ground.sequences[1]!.ends).toEqual(fitGround(input).sequences[1]!.ends);
		const far = <T extends { x: number; y: number }>(p: T): T => ({ ...p, x: p.x + 612_000, y: p.y + 5_210_000 });
		const moved = fitGround({
			...input,
			extent: { ...BOX, minX: 612_000, maxX: 613_000, minY: 5_210_000, maxY: 5_211_000 },
			contacts: input.contacts.map(far),
			observations: input.observations.map(far)
		});
		expect(moved.sequences[1]!.ends).toEqual(fitGround(input).sequences[1]!.ends);
	});
});

describe('what does not end at a dyke', () => {
	it('goes through it', () => {
		const ground = fitGround(inputOf(veinAtDyke(() => true)));
		expect(ground.sequences[1]!.ends).toBeUndefined();
		expect(extentOf(ground, 500)).toEqual([1, 999]);
	});
	it('ends on its way there by itself, as the holes before the dyke say', () => {
		for (const edge of [250, 380]) {
			const ground = fitGround(inputOf(veinAtDyke((x) => x < edge)));
			expect(ground.sequences[1]!.ends).toBeUndefined();
			expect(extentOf(ground, 500)[1]!).toBeLessThan(edge + 70);
		}
	});
	it('lies beside it: dykes of which few holes tell how they lie', () => {
		const ids = Array.from({ length: 14 }, (_, i) => `d${i}`);
		const beside: Truth = {
			box: BOX,
			column: [...ids.map((id) => [id, 'intrusive'] as const), ['a', 'conformable']],
			unitAt: (x, _y, z) => {
				const k = Math.floor((x + 0.3 * z + 60) / 50);
				return k >= 0 && k < 14 && Math.abs(x + 0.3 * z + 35 - 50 * k) < 8 ? k : 14;
			},
			holes: holesToTheEast()
		};
		expect(kinds(fitGround(inputOf(beside)))).not.toContain('ends-at-sheet');
	});
	it('ends beyond it', () => {
		expect(fitGround(inputOf(veinAtDyke((x) => x < 700))).sequences[1]!.ends).toBeUndefined();
	});
	it('goes on where nobody drilled beyond: the dyke is met from the other side, by holes that end short of the vein', () => {
		const near = veinAtDyke((x) => x < 500);
		const upright = near.holes.filter((h) => !('azimuth' in h) && h.x < 500);
		const west = { ...near, holes: [...upright, ...near.holes.slice(64).map((h) => ({ ...h, x: 600, azimuth: 270, depth: 222 }))] };
		const ground = fitGround(inputOf(west));
		expect(ground.sequences.map((s) => Boolean(s.walls))).toEqual([true, true, false]);
		expect(ground.sequences[1]!.ends).toBeUndefined();
		expect(extentOf(ground, 500)).toEqual([1, 999]);
	});
});

describe('a vein that is told where it ends', () => {
	it('ends at an older dyke, too: at its wall', async () => {
		const truth = veinAtDyke((x) => x < 500, true);
		expect(fitGround(inputOf(truth)).sequences[0]!.ends).toBeUndefined();
		const ground = fitGround(inputOf(truth, told('y')));
		expect(ground.sequences[0]!.ends).toEqual([{ at: 1, above: expect.any(Boolean) }]);
		expect(extentOf(ground, 500)).toEqual([1, expect.closeTo(491.5, -0.4)]);
		const { mesh } = await buildModel(ground, { spacing: 25 });
		expect(openEdges(solidOf(mesh, 0))).toBe(0);
		expect([...mesh.volumes.values()].reduce((s, v) => s + v, 0)).toBeCloseTo(4e8, 0);
	});
	it('says so when it can not', () => {
		const truth = veinAtDyke((x) => x < 500);
		for (const at of ['h', 'nothing', 'v']) {
			const ground = fitGround(inputOf(truth, told(at)));
			expect([at, kinds(ground).includes('ends-at-none')]).toEqual([at, true]);
			expect(ground.sequences[1]!.ends).toBeUndefined();
		}
		// Of two that should end at each other, one does.
		const both = fitGround(inputOf(truth, (u) => (u.id === 'v' ? { endsAt: 'y' } : u.id === 'y' ? { endsAt: 'v' } : {})));
		expect(both.sequences.filter((s) => s.ends)).toHaveLength(1);
		expect(kinds(both)).toContain('ends-at-none');
		// A body ends at nothing.
		expect(kinds(fitGround(inputOf(truth, (u) => (u.id === 'v' ? { endsAt: 'y', form: 'body' } : {}))))).toContain('ends-at-none');
	});
	it("ends at a dyke that ends itself: beside that one's end, too, and no more than its side is gone", () => {
		// A second dyke, across both at y = 700; the first one is there south of it only.
		const plain = veinAtDyke((x) => x < 500);
		const truth: Truth = {
			...plain,
			column: [['u', 'intrusive'], ...plain.column],
			unitAt: (x, y, z) => (Math.abs(y - 700) < 6 ? 0 : y > 700 && Math.abs(x - 500) < 8 ? 3 : plain.unitAt(x, y, z) + 1),
			holes: [
				...plain.holes,
				...Array.from({ length: 20 }, (_, i) => ({ x: 30 + 49 * i, y: i % 2 ? 640 : 600, azimuth: 0, inclination: -60, depth: 380 }))
			]
		};
		const ends: Record<string, string> = { v: 'y', y: 'u' };
		const ground = fitGround(inputOf(truth, (u) => (ends[u.id] ? { endsAt: ends[u.id]! } : {})));
		expect(ground.sequences.map((s) => s.ends?.map((e) => e.at))).toEqual([undefined, [0], [1], undefined]);
		const at = unitAt(ground);
		const unit = (x: number, y: number, z: number) => ground.input.column[at(x, y, z)]!.id;
		expect([unit(500, 300, -100), unit(500, 900, -100), unit(500, 700, -100)]).toEqual(['y', 'h', 'u']);
		for (const y of [300, 900]) expect([y, unit(300, y, flat(300)), unit(700, y, flat(700))]).toEqual([y, 'v', 'h']);
	});
	it('is cut by a fault together with the dyke', async () => {
		const fault: FaultSpec = {
			id: 'f',
			name: 'Fault',
			trace: [
				[0, 520],
				[1000, 520]
			],
			dip: 90,
			dipAzimuth: 0,
			youngestCut: 'y',
			halfWidth: 0,
			on: true
		};
		const truth = veinAtDyke((x) => x < 500);
		const ground = fitGround(inputOf(truth, undefined, { faults: [fault] }));
		expect(ground.sequences[1]!.ends).toHaveLength(1);
		for (const y of [200, 800]) expect(extentOf(ground, y)[1]).toBeCloseTo(491.5, -0.4);
		const { mesh } = await buildModel(ground, { spacing: 25 });
		expect(openEdges(solidOf(mesh, 1))).toBe(0);
	});
});
