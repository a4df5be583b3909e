import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { CASES } from '../../bench/imperfect-cases';
import { cutDyke, fromDyke, p7 } from '../../bench/grounds';
import { random } from '../../bench/problems';
import { holesToTheEast, logsOf, sampled, seenIn } from '../../bench/sampled';
import type { Vec3 } from '../geometry/vector';
import { volumeOf, openEdges, solidOf } from '../mesh/extract';
import type { ContactPoint } from '../units/contacts';
import { buildModel } from './build';
import { fitGround } from './fit-ground';
import { interceptsOf, type Intercept } from './intercepts';
import { interceptAt, partSheets } from './part-sheets';
import { alongHoles, bestPlane, crossedOften, isByChance } from './sheet-planes';

/** An intercept of 8 m along the hole, round a depth. */
const met = (hole: string, x: number, y: number, z: number): Intercept => {
	const at = (off: number): ContactPoint => ({ surface: 0, x, y, z: z - off, hole, depth: -z + off, table: 'log', row: 0 });
	return { middle: [x, y, z], contacts: [at(-4), at(4)] };
};
/** Where upright holes on a grid meet surfaces `z(x, y)`. */
const crossings = (surfaces: ((x: number, y: number) => number)[], seed = 1, most = Infinity): Intercept[] => {
	const r = random(seed);
	return Array.from({ length: 60 }, (_, h) => [60 + 120 * (h % 8) + 40 * r(), 60 + 120 * Math.floor(h / 8) + 40 * r()] as const).flatMap(
		([x, y], h) =>
			surfaces
				.map((z) => met(`H${h}`, x, y, z(x, y)))
				.filter((i) => i.middle[2] < 0 && i.middle[2] > -400)
				.slice(0, most)
	);
};

describe('one unit in several sheets', () => {
	it('is parted by planes, one intercept of a hole to each, whatever their order', () => {
		fc.assert(
			fc.property(
				fc.integer({ min: 1, max: 1e6 }),
				fc.integer({ min: 2, max: 4 }),
				fc.double({ min: -0.3, max: 0.3, noNaN: true }),
				(seed, n, dip) => {
					const r = random(seed);
					const surfaces = Array.from(
						{ length: n },
						(_, k) => (x: number, y: number) => -60 - 75 * k + dip * (x - 500) * 0.4 + 0.05 * y + 8 * Math.sin(y / 200 + k) + 2 * r()
					);
					const all = crossings(surfaces, seed);
					const { parts } = partSheets(all);
					expect(parts).toHaveLength(n);
					expect(parts.reduce((sum, p) => sum + p.length, 0)).toBe(all.length);
					for (const p of parts) {
						expect(crossedOften(p)).toBe(0);
						// All of a part belong to one surface.
						const own = p.map((i) => surfaces.findIndex((z) => Math.abs(z(i.middle[0], i.middle[1]) - i.middle[2]) < 8));
						expect(new Set(own).size).toBe(1);
					}
				}
			),
			{ numRuns: 30 }
		);
	});

	it('is one where each hole meets it once: level, steep, folded, stepped a little, or with a wrong intercept here and there', () => {
		const shapes: ((x: number, y: number) => number)[] = [
			() => -200,
			(x, y) => -200 + 0.3 * x - 0.2 * y,
			(x, y) => -200 + 60 * Math.sin(x / 160) + 30 * Math.cos(y / 190),
			(x) => -120 - 0.6 * Math.abs(x - 500),
			(x) => (x < 500 ? -180 : -195)
		];
		for (const shape of shapes) for (const seed of [1, 2, 3]) expect(partSheets(crossings([shape], seed)).parts).toHaveLength(1);
		const some = crossings([() => -200]).map((i, k) => (k % 20 === 0 ? met(`H${k}`, i.middle[0], i.middle[1], -330) : i));
		expect(partSheets(some).parts).toHaveLength(1);
	});

	it('is one where few are known, or where holes cross it twice without any order', () => {
		expect(partSheets([]).parts).toEqual([[]]);
		expect(partSheets([met('A', 0, 0, -10), met('A', 0, 0, -60)]).parts).toHaveLength(1);
		const r = random(5);
		const chance = crossings([() => -20 - 340 * r(), () => -20 - 340 * r()]);
		expect(crossedOften(chance)).toBeGreaterThan(40);
		expect(partSheets(chance).parts).toHaveLength(1);
	});

	it('knows in which of its intercepts a place lies', () => {
		const [upper, lower] = [met('A', 0, 0, -50), met('A', 0, 0, -150)];
		const at = interceptAt([upper, lower], [], 0);
		expect([48, 56, 99, 101, 152].map((depth) => at({ hole: 'A', depth }) === lower)).toEqual([false, false, false, true, true]);
		expect(at({ hole: 'B', depth: 50 })).toBeUndefined();
	});
});

describe('planes that intercepts lie near', () => {
	const upright = Array.from({ length: 64 }, (_, i) => ({ hole: `H${i}`, x: 60 + 120 * (i % 8), y: 60 + 120 * Math.floor(i / 8) }));
	const along = alongHoles(upright.flatMap((h) => [0, 400].map((depth) => ({ ...h, depth, z: -depth }))));
	const level = { at: [500, 500, -200] as Vec3, normal: [0, 0, 1] as Vec3 };
	const near = 28;
	const off = (k: number, by: number) => met(upright[k]!.hole, upright[k]!.x, upright[k]!.y, -200 + by);
	const thick = (k: number, by: number, half: number): Intercept => {
		const i = off(k, by);
		return { ...i, contacts: [-half, half].map((d) => ({ ...i.contacts[0]!, z: i.middle[2] - d, depth: -i.middle[2] + d })) };
	};
	it('are none by chance: a few nearly exactly on one, or many near it', () => {
		const some = (n: number, by: number) => Array.from({ length: n }, (_, k) => off(k, k % 2 ? by : -by));
		expect(isByChance(level, some(7, 3), near, along, some(7, 3))).toBe(false);
		expect(isByChance(level, some(7, 25), near, along, some(7, 25))).toBe(true);
		expect(isByChance(level, some(30, 25), near, along, some(30, 25))).toBe(false);
		expect(isByChance(level, some(5, 1), near, along, some(60, 1))).toBe(true);
	});
	it('are told from single rows by those that are as thick', () => {
		const on = Array.from({ length: 6 }, (_, k) => thick(k, k % 2 ? 4 : -4, 45));
		const rows = Array.from({ length: 26 }, (_, k) => off(10 + k, 60 + 4 * k));
		expect(isByChance(level, on, near, along, [...on, ...rows])).toBe(false);
		const thin = Array.from({ length: 6 }, (_, k) => off(k, k % 2 ? 4 : -4));
		expect(isByChance(level, thin, near, along, [...thin, ...rows])).toBe(true);
	});
	it('are by chance where no three are as thick as each other, and none where no hole is known', () => {
		const uneven = [2, 6, 20, 60, 180].map((half, k) => thick(k, k % 2 ? 25 : -25, half));
		expect(isByChance(level, uneven, near, along, uneven)).toBe(true);
		expect(isByChance(level, uneven, near, new Map(), uneven)).toBe(false);
	});
	it('are never found by chance in rocks that lie anywhere, but for one time in twenty', () => {
		const r = random(11);
		let found = 0;
		for (let n = 0; n < 60; n++) {
			const anywhere = upright.filter(() => r() < 0.4).map(({ hole, x, y }) => met(hole, x, y, -5 - 390 * r()));
			const best = bestPlane(anywhere, near, along);
			if (best && !isByChance(best.plane, best.on, near, along, anywhere)) found++;
		}
		expect(found).toBeLessThanOrEqual(3);
	});
});

describe('dykes of one code', () => {
	const truth = CASES.find((c) => c.name === 'three dykes, one code')!.truth(random(6));
	it('are modelled as as many sheets, closed, through all their contacts, and it is said', async () => {
		const { input } = seenIn(truth, logsOf(truth));
		const ground = fitGround(input);
		expect(ground.sequences[0]!.others).toHaveLength(2);
		expect(ground.findings.map((f) => f.kind)).toContain('several-sheets');
		const { mesh, contacts } = await buildModel(ground, { spacing: 25 });
		const dykes = solidOf(mesh, 0);
		expect(openEdges(dykes)).toBe(0);
		expect(Math.abs(volumeOf(dykes) / mesh.volumes.get(0)! - 1)).toBeLessThan(1e-9);
		expect([...mesh.volumes.values()].reduce((s, v) => s + v, 0)).toBeCloseTo(4e8, 0);
		expect([...contacts].filter((c) => c > 1).length).toBeLessThan(0.02 * contacts.length);
	});

	it('that are one, kinked or offset by a fault, stay one', () => {
		expect(fromDyke(900, 1000, 0)).toBeCloseTo(0, 9);
		for (const ground of [fitGround(sampled(p7())), fitGround(sampled(cutDyke()))]) expect(ground.sequences[0]!.others).toBeUndefined();
	});

	it('whose crossings lie in no few planes are one sheet, and it is said', () => {
		const { input } = seenIn(truth, logsOf(truth));
		const r = random(2);
		// The same holes, each moved up or down as a whole.
		const by = new Map<string, number>();
		const moved = <T extends { hole: string; z: number }>(p: T): T => ({
			...p,
			z: p.z + (by.get(p.hole) ?? by.set(p.hole, 900 * (r() - 0.5)).get(p.hole)!)
		});
		const ground = fitGround({
			...input,
			column: input.column.map((u) => (u.id === 'd' ? { ...u, form: 'sheet' as const } : u)),
			contacts: input.contacts.map(moved),
			observations: input.observations.map(moved)
		});
		expect(ground.sequences[0]!.others).toBeUndefined();
		expect(ground.findings.map((f) => f.kind)).toContain('crossed-often');
	});

	it('are found in the intercepts that logs give', () => {
		const { input } = seenIn(truth, logsOf(truth));
		const intercepts = interceptsOf(
			input.contacts.filter((c) => c.surface === 0),
			input.observations,
			0
		);
		expect(partSheets(intercepts).parts).toHaveLength(3);
		// As many as are allowed, or none.
		expect([1, 2, 3].map((most) => partSheets(intercepts, most).parts.length)).toEqual([1, 1, 3]);
	});
});

describe('an intercept', () => {
	const contact = (depth: number): ContactPoint => ({ surface: 1, x: 0, y: 0, z: -depth, hole: 'H', depth, table: 'log', row: 0 });
	const seen = (unit: number, depth: number) => ({ unit, x: 0, y: 0, z: -depth, hole: 'H', depth });
	const depths = (observations: ReturnType<typeof seen>[]) =>
		interceptsOf([contact(10), contact(80)], observations, 1).map((i) => i.contacts.map((c) => c.depth));

	it('goes from one boundary to the next where the hole is inside between them', () => {
		expect(depths([seen(1, 45)])).toEqual([[10, 80]]);
		// What is younger came later, and what lies at the boundaries says nothing.
		expect(depths([seen(1, 45), seen(0, 60), seen(2, 10), seen(2, 80)])).toEqual([[10, 80]]);
		expect(depths([seen(2, 45)])).toEqual([[80], [10]]);
	});
	it('is not taken on to the next sheet where its other end was not logged', () => {
		expect(depths([seen(1, 20), seen(2, 50)])).toEqual([[80], [10]]);
	});
});

describe('a column of many sheets', () => {
	/** Steep dykes beside each other, each of its own unit. */
	const many = (n: number) => {
		const ids = Array.from({ length: n }, (_, i) => `d${i}`);
		const t = {
			box: { minX: 0, minY: 0, minZ: -400, maxX: 1000, maxY: 1000, maxZ: 0 },
			column: [...ids.map((id) => [id, 'intrusive'] as const), ['a', 'conformable'] as const, ['b', 'conformable'] as const],
			unitAt: (x: number, _y: number, z: number) => {
				const k = Math.floor((x + 0.3 * z + 60) / 50);
				return k >= 0 && k < n && Math.abs(x + 0.3 * z + 35 - 50 * k) < 8 ? k : z > -200 ? n : n + 1;
			},
			holes: holesToTheEast()
		};
		return fitGround(seenIn(t, logsOf(t)).input);
	};
	it('is built, or refused with a reason when it would cut the ground into too many parts', async () => {
		const { mesh } = await buildModel(many(10), { spacing: 100 });
		expect([...mesh.volumes.values()].reduce((s, v) => s + v, 0)).toBeCloseTo(4e8, 0);
		await expect(buildModel(many(18), { spacing: 100 })).rejects.toMatchObject({ problem: { kind: 'too-many-parts' } });
	});
});
