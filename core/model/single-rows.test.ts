import { describe, expect, it } from 'vitest';
import { asLogged, gaps, inRows } from '../../bench/damages';
import { run } from '../../bench/imperfect';
import { CASES } from '../../bench/imperfect-cases';
import { BOX, below, grid, plane, stack, waves } from '../../bench/imperfect-grounds';
import { random } from '../../bench/problems';
import { logsOf, seenIn, type Truth } from '../../bench/sampled';
import type { Vec3 } from '../geometry/vector';
import type { ContactPoint } from '../units/contacts';
import { fitGround } from './fit-ground';
import { interceptsOf, type Intercept } from './intercepts';
import { furtherSheet, singleRows, withOthers } from './single-rows';

/** An intercept of so many rows of 5 m in an upright hole, round a place. */
function met(hole: string, [x, y, z]: Vec3, rows: number | undefined): Intercept {
	const half = 2.5 * (rows ?? 1);
	const at = (off: number): ContactPoint => ({ surface: 0, x, y, z: z - off, hole, depth: -z + off, table: 'log', row: 0 });
	return { middle: [x, y, z], contacts: [at(-half), at(half)], ...(rows === undefined ? {} : { rows }) };
}
const upright = (n: number) =>
	Array.from({ length: n }, (_, i) => {
		const [x, y] = [100 * (i % 6) + 13 * ((i * 7) % 5), 100 * Math.floor(i / 6) + 11 * ((i * 3) % 5)];
		return { hole: `H${i}`, x, y };
	});
const places = (n: number) =>
	upright(n).flatMap(({ hole, x, y }) => Array.from({ length: 31 }, (_, k) => ({ hole, x, y, z: -10 * k, depth: 10 * k })));
/** A sheet that falls to the east, met by each hole in six rows. */
const sheet = (n: number) => upright(n).map(({ hole, x, y }) => met(hole, [x, y, -60 - 0.3 * x], 6));
/** One wrong row in every hole but a few, anywhere. */
const scattered = (n: number, seed = 3) => {
	const r = random(seed);
	return upright(n).map(({ hole, x, y }) => met(hole, [x, y, -300 * r()], 1));
};

describe('rows that stand alone', () => {
	it('are doubtful among intercepts of many rows, however many they are', () => {
		const [sure, wrong] = [sheet(8), scattered(30)];
		const single = singleRows([...sure, ...wrong], places(30));
		expect(single).toEqual(new Set(wrong));
	});
	it('are not where they make a thin sheet of their own', () => {
		const thin = upright(30).map(({ hole, x, y }) => met(hole, [x, y, -240 + 0.2 * y], 1));
		expect(singleRows([...sheet(8), ...thin], places(30)).size).toBe(0);
	});
	it.each<[string, Intercept[]]>([
		['of a log with one row for each unit', [...sheet(8).map((i) => ({ ...i, rows: 1 })), ...scattered(30)]],
		['where places were drawn and no log tells rows', upright(30).map(({ hole, x, y }) => met(hole, [x, y, -60], undefined))],
		['beside few holes with more', [...sheet(3), ...scattered(30)]],
		[
			'that are hardly shorter than the others',
			[
				...upright(8).map(({ hole, x, y }) => met(hole, [x, y, -60 - 0.3 * x], 2)),
				...upright(30).map((h) => met(h.hole, [h.x, h.y, -60 - 0.3 * h.x], 1))
			]
		]
	])('say nothing %s', (_, intercepts) => {
		expect(singleRows(intercepts, places(30)).size).toBe(0);
	});
	it('go to the sheet that they are nearest to', () => {
		const [low, high] = [sheet(8), sheet(8).map((i) => ({ ...i, middle: [i.middle[0], i.middle[1], i.middle[2] + 150] as Vec3 }))];
		const one = met('H9', [300, 140, -60 - 90 + 140], 1);
		expect(withOthers([low, high], [one]).map((p) => p.length)).toEqual([8, 9]);
		expect(withOthers([low], [one])[0]).toContain(one);
	});
});

describe('what many rows speak for off all sheets', () => {
	const along = places(36);
	// A steep plane along the holes, met in a hundred metres of each.
	const steep = upright(36)
		.filter((_, i) => i % 6 === 3)
		.map(({ hole, x, y }, k) => met(hole, [300 + 0.1 * (x - 300), y, -80 - 37 * ((5 * k) % 6)], 20));
	it('is a sheet of its own in one plane that hardly a hole passes', () => {
		expect(furtherSheet([...steep, ...scattered(36).slice(0, 5)], sheet(8), 30, along)).toEqual(steep);
	});
	it('is one of a log with a row for each unit, too, where it was met for long', () => {
		const composite = steep.map((i) => ({ ...i, rows: 1 }));
		expect(furtherSheet(composite, sheet(8), 30, along)).toEqual(composite);
	});
	it('is told by three holes when none passes it, and not when one does', () => {
		const three = steep.slice(0, 3);
		expect(furtherSheet(three, sheet(8), 30, along)).toEqual(three);
		const passes = [
			{ hole: 'P', x: 250, y: 150, z: -150, depth: 0 },
			{ hole: 'P', x: 350, y: 150, z: -150, depth: 100 }
		];
		expect(furtherSheet(three, sheet(8), 30, [...along, ...passes])).toEqual([]);
	});
	it.each<[string, Intercept[]]>([
		['of two holes', steep.slice(0, 2)],
		[
			'of rows that stand alone and are as long as those of the sheet',
			steep.map((i) => met(i.contacts[0]!.hole, i.middle, 6)).map((i) => ({ ...i, rows: 1 }))
		],
		['of no log', steep.map(({ rows: _, ...i }) => i)],
		[
			'that lies anywhere',
			scattered(36)
				.filter((_, k) => [0, 4, 8, 15, 21, 25, 34].includes(k))
				.map((i) => ({ ...i, rows: 4 }))
		]
	])('is none %s', (_, odd) => {
		expect(furtherSheet(odd, sheet(8), 4, along)).toEqual([]);
	});
});

/** Two dykes with codes of their own that holes in all directions cross, each met by few of 64 holes. */
function twoDykes(r: () => number): Truth {
	const w = waves(r, 1400, 900);
	const [d1, d2] = [plane(72, 96, 470, 540, -150), plane(66, 350, 520, 470, -150)];
	return {
		box: BOX,
		column: [['x', 'intrusive'], ['y', 'intrusive'], ...stack('abcd')],
		unitAt: (x, y, z) => {
			if (Math.abs(d1(x, y, z)) < 9) return 0;
			if (Math.abs(d2(x, y, z)) < 8) return 1;
			return (
				2 +
				below(
					[-70, -150, -240].map((b) => b + 28 * w(x, y)),
					z
				)
			);
		},
		holes: grid(r, 8, 8).map((p) => ({ ...p, azimuth: 360 * r(), inclination: -55 - 25 * r(), depth: 330 }))
	};
}

describe('dykes in rows of five metres, one in fifty wrong and one in fourteen missing', () => {
	it.each([3, 9, 10])('are what they are (%d)', async (seed) => {
		const o = await run(
			{
				name: 'two dykes',
				truth: twoDykes,
				damage: (h, t, r) => {
					const damaged = inRows(5, 50)(h, t, r);
					gaps(0.07)(h, t, r);
					return damaged;
				},
				aim: {}
			},
			seed
		);
		expect([o.crash, o.share > 0.99, o.overlap > 0.9, o.named >= 0.85 * o.damaged, o.accused < 0.03]).toEqual([
			undefined,
			true,
			true,
			true,
			true
		]);
	});
	it('of which one hole alone crosses both walls, and four more meet one of them, are sheets', async () => {
		const o = await run(
			CASES.find((c) => c.name === 'as logged, dykes and a sill')!,
			1
		);
		expect([o.share > 0.99, o.volume < 0.05, o.overlap > 0.9]).toEqual([true, true, true]);
	});
	it('tell how many rows speak for each crossing', () => {
		const r = random(4);
		const t = twoDykes(r);
		const holes = logsOf(t);
		asLogged(holes, t, r);
		const { input } = seenIn(t, holes);
		const found = interceptsOf(
			input.contacts.filter((c) => c.surface === 0),
			input.observations,
			0
		);
		for (const {
			contacts: [a, b],
			rows
		} of found) {
			const log = holes.find((h) => h.name === a!.hole)!;
			const inside = log.intervals.filter((v) => v.code === 'x' && b && v.from > a!.depth - 0.01 && v.to < b.depth + 0.01);
			if (b) expect(rows).toBe(inside.length);
			else expect(rows).toBeGreaterThan(0);
		}
		expect(found.some((i) => i.rows! > 2) && fitGround(input).sequences.length).toBeGreaterThan(2);
	});
});
