import { RADIANS } from '#core/geometry/angles';
import type { Box } from '#core/geometry/box';
import type { Raster } from '#core/grids/raster';
import type { FaultSpec } from '#core/model/ground';
import type { Unit } from '#core/units/column';
import { type Random } from './damages';
import type { Truth } from './sampled';

// Grounds that are known at every place, and the imperfections that real data have.
export const BOX: Box = { minX: 0, minY: 0, minZ: -400, maxX: 1000, maxY: 1000, maxZ: 0 };

/** Holes on a jittered grid. */
export function grid(r: Random, nx: number, ny: number, box = BOX): { x: number; y: number }[] {
	const [w, h] = [(box.maxX - box.minX) / nx, (box.maxY - box.minY) / ny];
	return Array.from({ length: nx * ny }, (_, i) => ({
		x: box.minX + w * ((i % nx) + 0.35 + 0.3 * r()),
		y: box.minY + h * (Math.floor(i / nx) + 0.35 + 0.3 * r())
	}));
}
/** A smooth function from −1 to 1, another one for every draw. */
export function waves(r: Random, long = 600, short = 300): (x: number, y: number) => number {
	const parts = Array.from({ length: 4 }, () => {
		const [a, k, p] = [2 * Math.PI * r(), (2 * Math.PI) / (short + (long - short) * r()), 2 * Math.PI * r()];
		return { east: Math.cos(a), north: Math.sin(a), k, p };
	});
	// Places along upright holes lie above each other: they are asked one after the other.
	let [atX, atY, is] = [NaN, NaN, 0];
	return (x, y) => {
		if (x === atX && y === atY) return is;
		let sum = 0;
		for (const { east, north, k, p } of parts) sum += Math.sin(k * (x * east + y * north) + p);
		[atX, atY, is] = [x, y, sum / parts.length];
		return is;
	};
}
export const stack = (names: string, contact: Unit['contact'] = 'conformable') => names.split('').map((n) => [n, contact] as const);
export const below = (bases: readonly number[], z: number) => {
	const k = bases.findIndex((b) => z >= b);
	return k < 0 ? bases.length : k;
};
/** Layers by the elevations of their bases, from the top. */
function layers(r: Random, column: Truth['column'], bases: (x: number, y: number) => number[], more: Partial<Truth> = {}): Truth {
	return { box: BOX, column, unitAt: (x, y, z) => below(bases(x, y), z), holes: grid(r, 9, 8), ...more };
}

export const folded = (r: Random): Truth => {
	const [a, b] = [waves(r, 1400, 900), waves(r, 900, 600)];
	return layers(r, stack('abcdef'), (x, y) => [-60, -110, -160, -210, -260].map((z) => z + 45 * a(x, y) + 12 * b(x, y) + 0.05 * x - 40));
};
export const FAULT: FaultSpec = {
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
export const faulted = (r: Random): Truth => {
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
export const uneven = (r: Random, share: number, thick: readonly number[], names: string, top = -60): Truth => {
	const w = waves(r, 1400, 900);
	const t = thick.map((mean) => ({ mean, of: waves(r, 1100, 600) }));
	return layers(r, stack(names), (x, y) => {
		let z = top + 25 * w(x, y);
		return [z, ...t.map(({ mean, of }) => (z -= mean * (1 + share * of(x, y) * 1.6)))];
	});
};
export const terrainOf = (f: (x: number, y: number) => number): Raster => ({
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
export const weathered = (r: Random): Truth => {
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
export const lens = (r: Random): Truth => {
	const w = waves(r, 1400, 900);
	const [cx, cy, rx, ry, turn] = [420 + 160 * r(), 420 + 160 * r(), 360 + 40 * r(), 270 + 40 * r(), Math.PI * r()];
	return layers(r, stack('abcd'), (x, y) => {
		const [u, v] = [(x - cx) * Math.cos(turn) + (y - cy) * Math.sin(turn), (y - cy) * Math.cos(turn) - (x - cx) * Math.sin(turn)];
		const t = 60 * Math.max(0, 1 - (u / rx) ** 2 - (v / ry) ** 2);
		const middle = -170 + 30 * w(x, y);
		return [-80 + 30 * w(x, y), middle + t / 2, middle - t / 2];
	});
};
export const plane = (dip: number, azimuth: number, x0: number, y0: number, z0: number) => {
	const [n, a] = [Math.sin(dip * RADIANS), azimuth * RADIANS];
	return (x: number, y: number, z: number) => n * Math.sin(a) * (x - x0) + n * Math.cos(a) * (y - y0) + Math.cos(dip * RADIANS) * (z - z0);
};
export const fans = (r: Random, n: number, azimuth: number, depth = 420) =>
	grid(r, n, Math.ceil(60 / n)).map((p) => ({ ...p, azimuth, inclination: -50 - 15 * r(), depth }));
/** A vein whose thickness varies; `edge` ends it in an ellipse. */
export const vein = (r: Random, share: number, edge: number): Truth => {
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
export const twoVeins = (r: Random, ends: boolean): Truth => {
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
export const thickDyke = (r: Random, azimuth: number): Truth => {
	const [w, half] = [waves(r, 1200, 800), 26 + 12 * r()];
	return {
		box: BOX,
		column: [['d', 'intrusive'], ...stack('ab')],
		unitAt: (x, y, z) => (Math.abs(x - 500 + 0.3 * (z + 200) - 8 * w(y, z)) < half ? 0 : z > -200 + 20 * w(x, y) ? 1 : 2),
		holes: grid(r, 12, 6).map((h) => ({ ...h, x: h.x + (azimuth < 180 ? -95 : 95), azimuth, inclination: -65, depth: 440 }))
	};
};
/** A sheet so thin that most holes that meet it have one row of 10 m in it, and so steep that hardly a third of them do. */
export const steepSheet = (r: Random): Truth => {
	const [w, half, azimuth] = [waves(r, 1300, 900), 6 + 1.5 * r(), 360 * r()];
	const from = plane(62 + 8 * r(), azimuth, 420 + 160 * r(), 420 + 160 * r(), -200);
	return {
		box: BOX,
		column: [['v', 'intrusive'], ...stack('ab')],
		unitAt: (x, y, z) => (Math.abs(from(x, y, z) - 8 * w(x + z, y - z)) < half ? 0 : z > -200 + 15 * w(x, y) ? 1 : 2),
		holes: grid(r, 9, 8).map((h) => ({ ...h, azimuth: (azimuth + 180) % 360, inclination: -60, depth: 420 }))
	};
};
/** Dykes that were logged with one code, beside each other or across. */
export const oneCode = (r: Random, across: boolean): Truth => {
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
/** Three steep dykes of one code, crossed at an angle: most holes meet one of them, a few two. */
export const swarm = (r: Random): Truth => {
	const w = waves(r, 1400, 900);
	return {
		box: BOX,
		column: [['v', 'intrusive'], ...stack('abc')],
		unitAt: (x, y, z) =>
			[250, 500, 750].some((c) => Math.abs(x - c + z * 0.25 + 12 * w(y, z)) < 7)
				? 0
				: 1 +
					below(
						[-140, -260].map((b) => b + 25 * w(x, y)),
						z
					),
		holes: grid(r, 9, 8).map((h) => ({ ...h, azimuth: 270, inclination: -60, depth: 420 }))
	};
};
/** Level layers that lie on a slope, one farther up it than the other. */
export const onlap = (r: Random): Truth => {
	const w = waves(r, 1200, 800);
	return layers(r, [...stack('abc'), ['d', 'erosional'], ['e', 'conformable']], (x, y) => {
		const slope = -180 + 0.22 * (x - 500) + 20 * w(x, y);
		return [...[-60, -120, -180].map((b) => Math.max(b, slope)), slope];
	});
};
/** Folded layers below an uneven erosional base, with two units above it. */
export const unconformity = (r: Random): Truth => {
	const [w, e] = [waves(r, 1400, 900), waves(r, 1000, 700)];
	return layers(r, [['p', 'conformable'], ['q', 'erosional'], ...stack('abcde')], (x, y) => {
		const base = -110 + 30 * e(x, y);
		const older = [60, 0, -60, -120].map((b) => b - 180 + 60 * w(x, y) + 0.12 * (x - 500));
		return [base + 45 + 8 * w(y, x), base, ...older.map((z) => Math.min(z, base))];
	});
};
/** A steep body through layers that widens downwards. */
export const stock = (r: Random): Truth => {
	const w = waves(r, 1400, 900);
	const [cx, cy] = [440 + 120 * r(), 440 + 120 * r()];
	const bases = [-90, -170, -260];
	return {
		box: BOX,
		column: [['n', 'intrusive'], ...stack('abcd')],
		unitAt: (x, y, z) => {
			if (z < -60 && Math.hypot((x - cx) / 1.3, y - cy) < 150 - 0.3 * (z + 200) + 20 * w(y, z)) return 0;
			return (
				1 +
				below(
					bases.map((b) => b + 25 * w(x, y)),
					z
				)
			);
		},
		holes: grid(r, 9, 8)
	};
};
/** A body with a wide head on a neck. */
export const overhang = (r: Random): Truth => {
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
/** Rock from below pushed over itself on a flat fault. */
export const thrust = (r: Random): Truth => {
	const w = waves(r, 1200, 800);
	const hanging = (x: number, z: number) => x - 300 + z / Math.tan(35 * RADIANS) > 0;
	return {
		box: BOX,
		column: stack('abcde'),
		unitAt: (x, y, z) =>
			below(
				[-60, -130, -200, -280].map((b) => b + 20 * w(x, y)),
				hanging(x, z) ? z - 80 : z
			),
		holes: grid(r, 9, 8),
		faults: [
			{
				...FAULT,
				dip: 35,
				trace: [
					[300, 0],
					[300, 1000]
				]
			}
		]
	};
};
