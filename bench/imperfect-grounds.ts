import { RADIANS } from '#core/geometry/angles';
import type { Box } from '#core/geometry/box';
import type { Raster } from '#core/grids/raster';
import type { Hole } from '#core/holes/holes';
import type { FaultSpec, GroundInput } from '#core/model/ground';
import type { Unit } from '#core/units/column';
import { columnOf, logsOf, type Truth } from './sampled';

// Grounds that are known at every place, and the imperfections that real data have.
const BOX: Box = { minX: 0, minY: 0, minZ: -400, maxX: 1000, maxY: 1000, maxZ: 0 };
type Random = () => number;

/** Holes on a jittered grid. */
function grid(r: Random, nx: number, ny: number, box = BOX): { x: number; y: number }[] {
	const [w, h] = [(box.maxX - box.minX) / nx, (box.maxY - box.minY) / ny];
	return Array.from({ length: nx * ny }, (_, i) => ({
		x: box.minX + w * ((i % nx) + 0.35 + 0.3 * r()),
		y: box.minY + h * (Math.floor(i / nx) + 0.35 + 0.3 * r())
	}));
}
/** A smooth function from −1 to 1, another one for every draw. */
function waves(r: Random, long = 600, short = 300): (x: number, y: number) => number {
	const parts = Array.from({ length: 4 }, () => ({
		a: 2 * Math.PI * r(),
		k: (2 * Math.PI) / (short + (long - short) * r()),
		p: 2 * Math.PI * r()
	}));
	return (x, y) => parts.reduce((s, { a, k, p }) => s + Math.sin(k * (x * Math.cos(a) + y * Math.sin(a)) + p), 0) / parts.length;
}
const stack = (names: string, contact: Unit['contact'] = 'conformable') => names.split('').map((n) => [n, contact] as const);
const below = (bases: readonly number[], z: number) => {
	const k = bases.findIndex((b) => z >= b);
	return k < 0 ? bases.length : k;
};
/** Layers by the elevations of their bases, from the top. */
function layers(r: Random, column: Truth['column'], bases: (x: number, y: number) => number[], more: Partial<Truth> = {}): Truth {
	return { box: BOX, column, unitAt: (x, y, z) => below(bases(x, y), z), holes: grid(r, 9, 8), ...more };
}

/** A case of the table: a ground, and what goes wrong when it is looked at. */
export interface Case {
	name: string;
	truth(r: Random): Truth;
	/** Changes the logs; gives the holes that were damaged. */
	damage?(holes: Hole[], t: Truth, r: Random): string[];
	/** Elevations between which it was drilled; places elsewhere do not count. */
	drilled?: [number, number];
	/** What the user drew or did not know. */
	input?(t: Truth, r: Random): Partial<GroundInput>;
	/** Least share of right places, most relative error of volumes, least overlap of an intrusion. */
	aim: { share?: number; volume?: number; overlap?: number };
}

const folded = (r: Random): Truth => {
	const [a, b] = [waves(r, 1400, 900), waves(r, 900, 600)];
	return layers(r, stack('abcdef'), (x, y) => [-60, -110, -160, -210, -260].map((z) => z + 45 * a(x, y) + 12 * b(x, y) + 0.05 * x - 40));
};
const FAULT: FaultSpec = {
	id: 'f',
	name: 'F',
	trace: [
		[480, 0],
		[520, 1000]
	],
	dip: 70,
	dipAzimuth: 90,
	youngestCut: 'a',
	halfWidth: 2,
	on: true
};
const faulted = (r: Random): Truth => {
	const w = waves(r, 1400, 900);
	const hanging = (x: number, y: number, z: number) => x - 480 - 0.04 * y + z / Math.tan(70 * RADIANS) >= 0;
	const bases = (x: number, y: number) => [-60, -110, -160, -210, -260].map((b) => b - 30 + 35 * w(x, y));
	return {
		box: BOX,
		column: stack('abcdef'),
		unitAt: (x, y, z) => below(bases(x, y), z + (hanging(x, y, z) ? 45 : 0)),
		holes: grid(r, 9, 8),
		faults: [FAULT]
	};
};
/** Layers whose thicknesses vary by a share each. */
const uneven = (r: Random, share: number, thick: readonly number[], names: string, top = -60): Truth => {
	const w = waves(r, 1400, 900);
	const t = thick.map((mean) => ({ mean, of: waves(r, 1100, 600) }));
	return layers(r, stack(names), (x, y) => {
		let z = top + 25 * w(x, y);
		return [z, ...t.map(({ mean, of }) => (z -= mean * (1 + share * of(x, y) * 1.6)))];
	});
};
const pick = <T>(list: readonly T[], r: Random): T => list[Math.floor(r() * list.length)]!;
const inner = (h: Hole) => h.intervals.map((_, k) => k).filter((k) => k > 0 && k < h.intervals.length - 1);

function wrongCodes(holes: Hole[], t: Truth, r: Random, count: number): string[] {
	const rows = holes.flatMap((h) => h.intervals.map((_, k) => ({ h, k })));
	const out = new Set<string>();
	for (let n = 0; n < count; n++) {
		const { h, k } = pick(rows, r);
		const others = t.column.map(([id]) => id).filter((id) => id !== h.intervals[k]!.code);
		h.intervals[k] = { ...h.intervals[k]!, code: pick(others, r) };
		out.add(h.name);
	}
	return [...out];
}
function twins(holes: Hole[], r: Random, by: number): string[] {
	const h = pick(
		holes.filter((x) => x.intervals.length > 3),
		r
	);
	const at = h.path.collar;
	const twin = { ...h, name: `${h.name}B`, row: 900, path: { ...h.path, collar: [at[0] + 1, at[1], at[2]] as typeof at } };
	const shifted = logsOf({
		box: BOX,
		column: [['x', 'conformable']],
		unitAt: () => 0,
		holes: [{ x: at[0] + 1, y: at[1], depth: h.path.totalDepth }]
	})[0]!.path;
	holes.push({
		...twin,
		path: shifted,
		intervals: h.intervals.map((v, i, all) => ({
			...v,
			row: v.row + 500,
			from: i === 0 ? 0 : v.from + by,
			to: i === all.length - 1 ? v.to : v.to + by
		}))
	});
	return [`${h.name}B`];
}
const terrainOf = (f: (x: number, y: number) => number): Raster => ({
	x0: -10,
	y0: -10,
	dx: 10,
	dy: 10,
	nx: 103,
	ny: 103,
	values: Float32Array.from({ length: 103 * 103 }, (_, i) => f(-10 + 10 * (i % 103), -10 + 10 * Math.floor(i / 103)))
});
const hills = (r: Random) => {
	const [a, b] = [waves(r, 900, 500), waves(r, 320, 200)];
	return (x: number, y: number) => -45 + 30 * a(x, y) + 8 * b(x, y);
};
/** Three grades of weathering below hills, each of uneven thickness. */
const weathered = (r: Random): Truth => {
	const top = hills(r);
	const t = [14, 18, 25].map((mean) => ({ mean, of: waves(r, 800, 500) }));
	return layers(
		r,
		stack('wxyz'),
		(x, y) => {
			let z = top(x, y);
			return t.map(({ mean, of }) => (z -= mean * (1 + 0.5 * of(x, y))));
		},
		{ surface: top, box: { ...BOX, minZ: -200 } }
	);
};
/** A lens between two layers that pinches out on all sides: about a third of the holes meet it. */
const lens = (r: Random): Truth => {
	const w = waves(r, 1400, 900);
	const [cx, cy, rx, ry, turn] = [420 + 160 * r(), 420 + 160 * r(), 360 + 40 * r(), 270 + 40 * r(), Math.PI * r()];
	return layers(r, stack('abcd'), (x, y) => {
		const [u, v] = [(x - cx) * Math.cos(turn) + (y - cy) * Math.sin(turn), (y - cy) * Math.cos(turn) - (x - cx) * Math.sin(turn)];
		const t = 60 * Math.max(0, 1 - (u / rx) ** 2 - (v / ry) ** 2);
		const middle = -170 + 30 * w(x, y);
		return [-80 + 30 * w(x, y), middle + t / 2, middle - t / 2];
	});
};
const plane = (dip: number, azimuth: number, x0: number, y0: number, z0: number) => {
	const [n, a] = [Math.sin(dip * RADIANS), azimuth * RADIANS];
	return (x: number, y: number, z: number) => n * Math.sin(a) * (x - x0) + n * Math.cos(a) * (y - y0) + Math.cos(dip * RADIANS) * (z - z0);
};
const fans = (r: Random, n: number, azimuth: number, depth = 420) =>
	grid(r, n, Math.ceil(60 / n)).map((p) => ({ ...p, azimuth, inclination: -50 - 15 * r(), depth }));
/** A vein whose thickness varies; `edge` ends it in an ellipse. */
const vein = (r: Random, share: number, edge: number): Truth => {
	const [w, t] = [waves(r, 1200, 800), waves(r, 700, 400)];
	const from = plane(60, 90, 450, 500, -200);
	return {
		box: BOX,
		column: [
			['v', 'intrusive'],
			['h', 'conformable'],
			['j', 'conformable']
		],
		unitAt: (x, y, z) => {
			const e = edge > 0 ? 1 - ((y - 500) / edge) ** 2 - ((z + 200) / (0.45 * edge)) ** 2 : 1;
			const half = e <= 0 ? 0 : 8 * (1 + share * 1.6 * t(y, z * 2)) * (edge > 0 ? Math.sqrt(e) : 1);
			return Math.abs(from(x, y, z) - 12 * w(y, z)) < half ? 0 : z > -330 ? 1 : 2;
		},
		// Drilled from the hanging wall across it.
		holes: Array.from({ length: 48 }, (_, i) => {
			const [y, z] = [60 + 125 * (i % 8) + 30 * r(), -60 - 50 * Math.floor(i / 8) - 20 * r()];
			const hit = 450 - (z + 200) / Math.tan(60 * RADIANS);
			const inclination = -50;
			const along = -z / Math.sin(-inclination * RADIANS);
			return { x: hit + along * Math.cos(inclination * RADIANS), y, azimuth: 270, inclination, depth: along + 90 };
		}).filter((h) => h.x < 1000)
	};
};

/** A vein that is cut by a younger one, or ends at it. */
const twoVeins = (r: Random, ends: boolean): Truth => {
	const [w, t, t2] = [waves(r, 1200, 800), waves(r, 700, 400), waves(r, 700, 400)];
	const [first, second] = [plane(60, 90, 450, 500, -200), plane(80, 60, 470, 480, -200)];
	const clean = vein(r, 0.2, 0);
	return {
		...clean,
		column: [
			['y', 'intrusive'],
			['v', 'intrusive'],
			['h', 'conformable'],
			['j', 'conformable']
		],
		unitAt: (x, y, z) => {
			const d = first(x, y, z) - 12 * w(y, z);
			if (Math.abs(d) < 8 * (1 + 0.3 * t(y, 2 * z))) return 0;
			if (!(ends && d < 0) && Math.abs(second(x, y, z) - 10 * w(z, y)) < 7 * (1 + 0.3 * t2(y, 2 * z))) return 1;
			return z > -330 ? 2 : 3;
		},
		holes: clean.holes.map((h) => ({ ...h, x: h.x + 60, depth: (h.depth ?? 400) + 160 })).filter((h) => h.x < 1000)
	};
};
/** A steep dyke through the whole ground, met from the side, or by holes that hardly meet more than one of its walls. */
const thickDyke = (r: Random, azimuth: number): Truth => {
	const [w, half] = [waves(r, 1200, 800), 26 + 12 * r()];
	return {
		box: BOX,
		column: [['d', 'intrusive'], ...stack('ab')],
		unitAt: (x, y, z) => (Math.abs(x - 500 + 0.3 * (z + 200) - 8 * w(y, z)) < half ? 0 : z > -200 + 20 * w(x, y) ? 1 : 2),
		holes: grid(r, 12, 6).map((h) => ({ ...h, x: h.x + (azimuth < 180 ? -95 : 95), azimuth, inclination: -65, depth: 440 }))
	};
};
/** Dykes that were logged with one code, beside each other or across. */
const oneCode = (r: Random, across: boolean): Truth => {
	const w = waves(r, 1200, 800);
	const half = 8 + 4 * r();
	const sheets = across
		? [plane(75, 40, 500, 500, -200), plane(80, 310, 500, 500, -200)]
		: [0, 1, 2].map((k) => plane(72 + 8 * r(), 85 + 10 * r(), 280 + 205 * k + 20 * r(), 500, -200));
	return {
		box: BOX,
		column: [['d', 'intrusive'], ...stack('ab')],
		unitAt: (x, y, z) => (sheets.some((from) => Math.abs(from(x, y, z) - 6 * w(y, z)) < half) ? 0 : z > -200 + 20 * w(x, y) ? 1 : 2),
		holes: grid(r, 8, 9).map((h) => ({ ...h, x: h.x + 70, azimuth: 270, inclination: -60, depth: 440 }))
	};
};
/** A body with a wide head on a neck. */
const overhang = (r: Random): Truth => {
	const w = waves(r, 1400, 900);
	const [cx, cy] = [440 + 120 * r(), 440 + 120 * r()];
	const radius = (z: number) => 120 + 170 * Math.exp(-(((z + 150) / 55) ** 2));
	return {
		box: BOX,
		column: [['n', 'intrusive'], ...stack('abc')],
		unitAt: (x, y, z) =>
			z < -90 && Math.hypot((x - cx) / 1.15, y - cy) < radius(z) + 12 * w(y, z)
				? 0
				: 1 +
					below(
						[-120, -260].map((b) => b + 25 * w(x, y)),
						z
					),
		holes: grid(r, 9, 8)
	};
};

const CLEAN = { share: 0.99, volume: 0.03 };
const ONE = { share: 0.985, volume: 0.03 };
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
		damage: (h, t, r) => wrongCodes(h, t, r, Math.round(0.05 * h.reduce((n, x) => n + x.intervals.length, 0))),
		aim: { share: 0.95, volume: 0.05 }
	},
	{
		name: 'depths off by 1 m',
		truth: folded,
		aim: ONE,
		damage: (h, _, r) => {
			for (const x of h)
				for (let k = 1; k < x.intervals.length; k++) {
					const by = Math.sqrt(-2 * Math.log(1 - r())) * Math.cos(2 * Math.PI * r());
					const d = Math.min(x.intervals[k]!.to - 0.05, Math.max(x.intervals[k - 1]!.from + 0.05, x.intervals[k]!.from + by));
					x.intervals[k - 1] = { ...x.intervals[k - 1]!, to: d };
					x.intervals[k] = { ...x.intervals[k]!, from: d };
				}
			return [];
		}
	},
	{ name: 'fault dip off by 2°', truth: faulted, input: (_, r) => ({ faults: [{ ...FAULT, dip: r() < 0.5 ? 68 : 72 }] }), aim: ONE },
	{
		name: 'fault trace off by 10 m',
		truth: faulted,
		input: (_, r) => ({ faults: [{ ...FAULT, trace: FAULT.trace.map(([x, y]): [number, number] => [x + (r() < 0.5 ? -10 : 10), y]) }] }),
		aim: ONE
	},
	{ name: 'thickness ±20 %', truth: (r) => uneven(r, 0.2, [50, 50, 50, 50], 'abcdef'), aim: { share: 0.98, volume: 0.03 } },
	{ name: 'thickness ±50 %', truth: (r) => uneven(r, 0.5, [50, 50, 50, 50], 'abcdef'), aim: { share: 0.98, volume: 0.03 } },
	{ name: 'thickness ±70 %', truth: (r) => uneven(r, 0.7, [50, 50, 50, 50], 'abcdef'), aim: { share: 0.98, volume: 0.03 } },
	{
		name: 'seams of 3 m',
		truth: (r) => uneven(r, 0.5, [3, 22, 3, 25, 3, 18, 3, 30, 3, 20, 3], 'abcdefghijklm'),
		aim: { share: 0.98, volume: 0.05 }
	},
	{ name: 'a lens', truth: lens, aim: { share: 0.98, volume: 0.05 } },
	{ name: 'weathering', truth: weathered, input: (t) => ({ terrain: terrainOf(t.surface!) }), aim: { share: 0.98, volume: 0.05 } },
	{ name: 'twins, 1 m', truth: folded, damage: (h, _, r) => twins(h, r, 1), aim: ONE },
	{ name: 'twins, 20 m', truth: folded, damage: (h, _, r) => twins(h, r, 20), aim: ONE },
	{ name: '12 holes', truth: (r) => ({ ...folded(r), holes: grid(r, 4, 3) }), aim: { share: 0.9 } },
	{
		name: 'code without unit',
		truth: folded,
		aim: ONE,
		damage: (h, _, r) => {
			for (let n = 0; n < 4; n++) {
				const x = pick(h, r);
				const k = Math.floor(r() * x.intervals.length);
				x.intervals[k] = { ...x.intervals[k]!, code: 'NOREC' };
			}
			return [];
		}
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
	{ name: 'overhang', truth: overhang, aim: { share: 0.98, overlap: 0.75 } },
	{
		name: 'open neck',
		// Holes end at 260 m: what lies below, nobody knows.
		drilled: [-260, 0],
		aim: { volume: 0.1 },
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
	}
];
