import type { GroundInput } from '#core/model/ground';
import { RADIANS } from '#core/geometry/angles';
import {
	asLogged,
	gaps,
	inRows,
	noisy,
	oneWrong,
	pick,
	roughly,
	slipped,
	twins,
	withoutUnit,
	wrongCodes,
	oneInTwenty,
	inner,
	type Damage,
	type Random
} from './damages';
import {
	BOX,
	grid,
	waves,
	stack,
	steepSheet,
	below,
	folded,
	FAULT,
	faulted,
	uneven,
	terrainOf,
	weathered,
	lens,
	plane,
	fans,
	vein,
	twoVeins,
	thickDyke,
	oneCode,
	unconformity,
	stock,
	overhang,
	swarm,
	onlap,
	thrust
} from './imperfect-grounds';
import { columnOf, type Truth } from './sampled';

/** A case of the table: a ground, and what goes wrong when it is looked at. */
export interface Case {
	name: string;
	truth(r: Random): Truth;
	damage?: Damage;
	/** Elevations between which it was drilled; places elsewhere do not count. */
	drilled?: [number, number];
	/** What the user drew or did not know. */
	input?(t: Truth, r: Random): Partial<GroundInput>;
	/** Least share of right places, most relative error of volumes, least overlap of an intrusion. */
	aim: {
		share?: number;
		volume?: number;
		overlap?: number;
	};
}

/** A neck that goes on below the holes: these end at 260 m, and what lies below, nobody knows. */
const NECK: Pick<Case, 'drilled' | 'input' | 'truth'> = {
	drilled: [-260, 0],
	input: (t) => ({ column: columnOf(t.column).map((u) => (u.id === 'n' ? { ...u, opens: 'down' } : u)) }),
	truth: (r) => {
		const w = waves(r, 1400, 900);
		// It lies elsewhere in the grid of holes each time.
		const [cx, cy] = [440 + 120 * r(), 440 + 120 * r()];
		return {
			box: BOX,
			column: [['n', 'intrusive'], ...stack('abc')],
			unitAt: (x, y, z) =>
				Math.hypot((x - cx) / 1.2, y - cy) < 190 + 0.15 * z + 15 * w(y, z)
					? 0
					: 1 +
						below(
							[-120, -260].map((b) => b + 25 * w(x, y)),
							z
						),
			holes: grid(r, 9, 8).map((h) => ({ ...h, depth: 260 }))
		};
	}
};
const CLEAN = { share: 0.99, volume: 0.03 };
const ONE = { share: 0.985, volume: 0.03 };
/** Faults as somebody drew them: each dip off by so many degrees, or each vertex of a trace to one side or the other, metres. */
const dipOff =
	(by: number): Case['input'] =>
	(t, r) => ({ faults: t.faults!.map((f) => ({ ...f, dip: f.dip + (r() < 0.5 ? -by : by) })) });
const traceOff =
	(by: number): Case['input'] =>
	(t, r) => ({
		faults: t.faults!.map((f) => ({ ...f, trace: f.trace.map(([x, y]): [number, number] => [x + (r() < 0.5 ? -by : by), y]) }))
	});
export const CASES: Case[] = [
	{ name: 'none', truth: folded, aim: CLEAN },
	{ name: 'none, fault', truth: faulted, aim: CLEAN },
	{ name: 'one wrong code', truth: folded, damage: (h, t, r) => wrongCodes(h, t, r, 1), aim: ONE },
	{
		name: 'one unit skipped',
		truth: folded,
		aim: ONE,
		damage: (h, _, r) => {
			const hole = pick(
				h.filter((x) => inner(x).length > 2),
				r
			);
			const k = pick(inner(hole), r);
			const gone = hole.intervals[k]!;
			const at = hole.intervals[k + 1]!;
			hole.intervals[k + 1] = { ...at, from: gone.from };
			hole.intervals.splice(k, 1);
			return [hole.name];
		}
	},
	{
		name: '5 % wrong codes',
		truth: folded,
		damage: oneInTwenty,
		aim: { share: 0.95, volume: 0.05 }
	},
	{
		name: 'depths off by 1 m',
		truth: folded,
		aim: ONE,
		damage: noisy(1)
	},
	{ name: 'fault dip off by 2°', truth: faulted, input: dipOff(2), aim: ONE },
	{ name: 'fault trace off by 10 m', truth: faulted, input: traceOff(10), aim: ONE },
	{ name: 'thickness ±20 %', truth: (r) => uneven(r, 0.2, [50, 50, 50, 50], 'abcdef'), aim: { share: 0.98, volume: 0.03 } },
	{ name: 'thickness ±50 %', truth: (r) => uneven(r, 0.5, [50, 50, 50, 50], 'abcdef'), aim: { share: 0.98, volume: 0.03 } },
	{ name: 'thickness ±70 %', truth: (r) => uneven(r, 0.7, [50, 50, 50, 50], 'abcdef'), aim: { share: 0.98, volume: 0.03 } },
	{
		name: 'seams of 3 m',
		truth: (r) => uneven(r, 0.5, [3, 22, 3, 25, 3, 18, 3, 30, 3, 20, 3], 'abcdefghijklm'),
		aim: { share: 0.98, volume: 0.05 }
	},
	{ name: 'a lens', truth: lens, aim: { share: 0.98, volume: 0.03 } },
	{ name: 'weathering', truth: weathered, input: (t) => ({ terrain: terrainOf(t.surface!) }), aim: { share: 0.98, volume: 0.05 } },
	{ name: 'twins, 1 m', truth: folded, damage: (h, _, r) => twins(h, r, 1), aim: ONE },
	{ name: 'twins, 20 m', truth: folded, damage: (h, _, r) => twins(h, r, 20), aim: ONE },
	{ name: '12 holes', truth: (r) => ({ ...folded(r), holes: grid(r, 4, 3) }), aim: { share: 0.9 } },
	{
		name: 'code without unit',
		truth: folded,
		aim: ONE,
		damage: withoutUnit
	},
	{
		name: 'unit never logged',
		truth: folded,
		aim: ONE,
		input: (t) => {
			const column = columnOf(t.column);
			return {
				column: [...column.slice(0, 3), { id: 'q', name: 'q', color: '#888888', contact: 'conformable' as const }, ...column.slice(3)]
			};
		}
	},
	{
		name: 'listric fault, places at depth',
		aim: { share: 0.985, volume: 0.05 },
		truth: (r) => {
			const w = waves(r, 1400, 900);
			const bases = (x: number, y: number) => [-60, -110, -160, -210, -260].map((b) => b - 30 + 35 * w(x, y));
			// From 70° at the surface to 25° at depth.
			const curve = (z: number) => 400 - z / Math.tan((70 + (45 * z) / 400) * RADIANS);
			return {
				box: BOX,
				column: stack('abcdef'),
				unitAt: (x, y, z) => below(bases(x, y), z + (x >= curve(z) ? 40 : 0)),
				holes: grid(r, 9, 8),
				faults: [
					{
						...FAULT,
						trace: [
							[400, 0],
							[400, 1000]
						],
						places: [-80, -160, -240, -320].flatMap((z) => [150, 850].map((y) => ({ x: curve(z), y, z })))
					}
				]
			};
		}
	},
	{
		name: 'dykes and a sill',
		aim: { share: 0.97, volume: 0.12 },
		truth: (r) => {
			const w = waves(r, 1400, 900);
			const [d1, d2] = [plane(80, 40, 350, 500, -150), plane(75, 310, 650, 500, -150)];
			return {
				box: BOX,
				column: [['p', 'intrusive'], ['q', 'intrusive'], ['s', 'intrusive'], ...stack('abc')],
				unitAt: (x, y, z) => {
					if (Math.abs(d1(x, y, z)) < 14) return 0;
					if (Math.abs(d2(x, y, z)) < 12) return 1;
					if (Math.abs(z + 200 - 0.06 * x - 15 * w(x, y)) < 12) return 2;
					return (
						3 +
						below(
							[-110, -260].map((b) => b + 25 * w(x, y)),
							z
						)
					);
				},
				holes: fans(r, 8, 220)
			};
		}
	},
	{ name: 'vein ±20 %', drilled: [-360, -40], truth: (r) => vein(r, 0.2, 0), aim: { overlap: 0.9 } },
	{ name: 'vein ±60 %', drilled: [-360, -40], truth: (r) => vein(r, 0.6, 0), aim: { overlap: 0.85 } },
	{ name: 'vein, an ellipse', truth: (r) => vein(r, 0.2, 330), aim: { overlap: 0.6 } },
	{ name: 'a thick dyke', truth: (r) => thickDyke(r, 270), aim: { share: 0.985, overlap: 0.85 } },
	{ name: 'a dyke drilled along its dip', truth: (r) => thickDyke(r, 90), aim: { share: 0.985, overlap: 0.8 } },
	{ name: 'three dykes, one code', truth: (r) => oneCode(r, false), aim: { share: 0.985, volume: 0.05, overlap: 0.85 } },
	{ name: 'dykes that cross, one code', truth: (r) => oneCode(r, true), aim: { share: 0.985, volume: 0.1, overlap: 0.8 } },
	{ name: 'veins that cross', drilled: [-360, -40], truth: (r) => twoVeins(r, false), aim: { share: 0.98, overlap: 0.75 } },
	{ name: 'a vein that ends at another', drilled: [-360, -40], truth: (r) => twoVeins(r, true), aim: { share: 0.98, overlap: 0.85 } },
	{
		name: 'dykes and a sill, a wrong code',
		truth: (r) => CASES.find((c) => c.name === 'dykes and a sill')!.truth(r),
		damage: oneWrong,
		aim: { share: 0.97, volume: 0.12 }
	},
	{
		name: 'vein ±20 %, a wrong code',
		drilled: [-360, -40],
		truth: (r) => vein(r, 0.2, 0),
		damage: oneWrong,
		aim: { share: 0.985, overlap: 0.9 }
	},
	{ name: 'vein, an ellipse, off by 1 m', truth: (r) => vein(r, 0.2, 330), damage: noisy(1), aim: { overlap: 0.6 } },
	{
		name: 'vein ±60 %, code without unit',
		drilled: [-360, -40],
		truth: (r) => vein(r, 0.6, 0),
		damage: withoutUnit,
		aim: { overlap: 0.85 }
	},
	{ name: 'a hole slipped', truth: folded, damage: slipped, aim: ONE },
	{ name: 'a hole slipped, ±50 %', truth: (r) => uneven(r, 0.5, [50, 50, 50, 50], 'abcdef'), damage: slipped, aim: ONE },
	{ name: '5 % wrong codes, unconformity', truth: unconformity, damage: oneInTwenty, aim: { share: 0.95, volume: 0.05 } },
	{ name: '5 % wrong codes, stock', truth: stock, damage: oneInTwenty, aim: { share: 0.95, overlap: 0.75 } },
	{ name: '5 % wrong codes, a lens', truth: lens, damage: oneInTwenty, aim: { share: 0.95, volume: 0.1 } },
	{ name: 'a wrong code, stock', truth: stock, damage: oneWrong, aim: { share: 0.985, volume: 0.03, overlap: 0.84 } },
	{ name: 'rows of 12 m', truth: folded, damage: inRows(12), aim: CLEAN },
	{ name: '5 % wrong rows of 12 m', truth: folded, damage: inRows(12, 20), aim: { share: 0.95, volume: 0.05 } },
	{ name: '5 % wrong rows, fault', truth: faulted, damage: inRows(12, 20), aim: { share: 0.95, volume: 0.05 } },
	{
		name: '5 % wrong rows, ±50 %',
		truth: (r) => uneven(r, 0.5, [50, 50, 50, 50], 'abcdef'),
		damage: inRows(12, 20),
		aim: { share: 0.95, volume: 0.05 }
	},
	{ name: '5 % wrong rows, unconformity', truth: unconformity, damage: inRows(12, 20), aim: { share: 0.95, volume: 0.05 } },
	{ name: '5 % wrong rows, stock', truth: stock, damage: inRows(12, 20), aim: { share: 0.95, volume: 0.05, overlap: 0.75 } },
	{ name: 'a swarm of dykes, a wrong code', truth: swarm, damage: oneWrong, aim: { share: 0.985, overlap: 0.85 } },
	{ name: '5 % wrong codes, a swarm of dykes', truth: swarm, damage: oneInTwenty, aim: { share: 0.95, overlap: 0.8 } },
	{ name: 'onlap', truth: onlap, aim: CLEAN },
	{ name: '5 % wrong codes, onlap', truth: onlap, damage: oneInTwenty, aim: { share: 0.95, volume: 0.1 } },
	{ name: 'gaps in logs', truth: folded, damage: gaps(0.12), aim: CLEAN },
	{ name: 'gaps in logs, seams', truth: (r) => uneven(r, 0.5, [6, 30, 6, 35, 6, 30], 'abcdefgh'), damage: gaps(0.12), aim: CLEAN },
	{ name: 'gaps in logs, a thick dyke', truth: (r) => thickDyke(r, 270), damage: gaps(0.12), aim: { share: 0.985, overlap: 0.85 } },
	{ name: 'a thrust', truth: thrust, damage: inRows(12), aim: CLEAN },
	{
		name: '2 % wrong rows, vein ±60 %',
		drilled: [-360, -40],
		truth: (r) => vein(r, 0.6, 0),
		damage: inRows(12, 50),
		aim: { share: 0.985, overlap: 0.7 }
	},
	{
		name: '2 % wrong rows, three dykes',
		truth: (r) => oneCode(r, false),
		damage: inRows(12, 50),
		aim: { share: 0.985, volume: 0.12, overlap: 0.7 }
	},
	{ name: '5 % wrong rows, a steep sheet', truth: steepSheet, damage: inRows(10, 20), aim: { share: 0.985, overlap: 0.6 } },
	{ name: '2 % wrong rows, a swarm', truth: swarm, damage: inRows(12, 50), aim: { share: 0.985, volume: 0.1, overlap: 0.6 } },
	...(
		[
			['three dykes', (r) => oneCode(r, false)],
			['dykes that cross', (r) => oneCode(r, true)],
			['a thick dyke', (r) => thickDyke(r, 270)]
		] satisfies [string, Case['truth']][]
	).flatMap(([name, truth]): Case[] => [
		{ name: `as logged, ${name}`, truth, damage: asLogged, aim: { share: 0.985, volume: 0.1, overlap: 0.8 } },
		{ name: `roughly logged, ${name}`, truth, damage: roughly, aim: { share: 0.985, volume: 0.15, overlap: 0.7 } }
	]),
	{
		name: 'roughly logged, dykes and a sill',
		truth: (r) => CASES.find((c) => c.name === 'dykes and a sill')!.truth(r),
		damage: roughly,
		aim: { share: 0.985, volume: 0.15, overlap: 0.7 }
	},
	{
		name: 'as logged, dykes and a sill',
		truth: (r) => CASES.find((c) => c.name === 'dykes and a sill')!.truth(r),
		damage: asLogged,
		aim: { share: 0.985, volume: 0.1, overlap: 0.8 }
	},
	{ name: 'as logged, a thrust', truth: thrust, damage: asLogged, aim: { share: 0.985, volume: 0.03 } },
	{ name: 'a thrust, dip off by 2°', truth: thrust, input: dipOff(2), aim: ONE },
	{ name: 'a thrust, trace off by 10 m', truth: thrust, input: traceOff(10), aim: ONE },
	{ name: 'as logged, a thrust, dip off by 2°', truth: thrust, damage: asLogged, input: dipOff(2), aim: { share: 0.985, volume: 0.03 } },
	{
		name: '5 % wrong rows, a thrust, trace off by 10 m',
		truth: thrust,
		damage: inRows(12, 20),
		input: traceOff(10),
		aim: { share: 0.95, volume: 0.05 }
	},
	{ name: 'as logged, open neck', ...NECK, damage: asLogged, aim: { share: 0.985, overlap: 0.8 } },
	{ name: 'a lens, a wrong code', truth: lens, damage: oneWrong, aim: { share: 0.98, volume: 0.03 } },
	{ name: 'overhang', truth: overhang, aim: { share: 0.98, overlap: 0.75 } },
	{ name: 'open neck', ...NECK, aim: { share: 0.98, volume: 0.1, overlap: 0.8 } }
];
