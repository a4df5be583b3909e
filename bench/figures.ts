import { inBlock, valueAt } from '#core/fields/field';
import { Kriging } from '#core/grades/kriging';
import { covarianceAt, experimentalVariogram, fitVariogram, totalSill, type Variogram } from '#core/grades/variogram';
import { RADIANS } from '#core/geometry/angles';
import { holePath, positionAt } from '#core/holes/path';
import { factorCholesky } from '#core/kernels/cholesky-kernel';
import type { Cholesky } from '#core/linear/cholesky';
import { seededRandom } from '#core/statistics/random';
import { openEdges, solidOf, surfaceOf, unitsIn, volumeOf, type TriangleMesh } from '#core/mesh/extract';
import { buildModel, type BuiltModel } from '#core/model/build';
import { fitGround, type Ground } from '#core/model/fit-ground';
import { faultOffsets } from '#core/model/offsets';
import { unitAt } from '#core/model/walk';
import { unitsAt } from '#core/model/classify';
import { aboveFill, DYKE, p10, p4, P4_THROW, p4Slip, p5, p6, p7, p8, recumbent, STOCK } from './grounds';
import { p1, p2, p3, random, shareRight, surfaceError, type Problem } from './problems';
import { columnOf, sampled, type Truth } from './sampled';

/** One figure of a test problem with what it should be. */
export interface Figure {
	id: string;
	what: string;
	value: number;
	/** Text of the value with its unit. */
	text: string;
	aim: string;
	met: boolean;
}

export const below = (id: string, what: string, value: number, most: number, unit = '', digits = 3): Figure => ({
	id,
	what,
	value,
	text: `${value.toFixed(digits)} ${unit}`,
	aim: `< ${most} ${unit}`,
	met: value < most
});
const above = (id: string, what: string, value: number, least: number, unit = '', digits = 2): Figure => ({
	id,
	what,
	value,
	text: `${value.toFixed(digits)} ${unit}`,
	aim: `> ${least} ${unit}`,
	met: value > least
});

const asProblem = (t: Truth): Pick<Problem, 'input' | 'unitAt'> => ({ input: { extent: t.box } as Problem['input'], unitAt: t.unitAt });
const share = async (p: Problem, ground: Ground) => 100 * (await shareRight(p, (xyz) => unitsAt(ground, xyz), 20_000));
const right = (t: Truth, ground: Ground) => share(asProblem(t) as Problem, ground);

/** Closed, and together as large as the box. */
function whole(id: string, built: BuiltModel, size: number): Figure[] {
	let sum = 0;
	let open = 0;
	for (const u of unitsIn(built.mesh)) {
		const solid = solidOf(built.mesh, u);
		open += openEdges(solid);
		sum += volumeOf(solid);
	}
	return [
		{ id, what: 'open edges of the solids', value: open, text: String(open), aim: '0', met: open === 0 },
		{
			id,
			what: 'volumes against the box',
			value: Math.abs(sum / size - 1),
			text: Math.abs(sum / size - 1).toExponential(1),
			aim: '< 1e-9',
			met: Math.abs(sum / size - 1) < 1e-9
		}
	];
}

/** Vertices − edges + triangles of a closed mesh: 2 for one piece without holes. */
export function eulerNumber(m: TriangleMesh): number {
	return m.positions.length / 3 - m.triangles.length / 2 + m.triangles.length / 3;
}

/** Share of the box that lies in a unit, times its volume, by points in the middle of small cells. */
function volumeOfUnit(t: Truth, unit: number, n: readonly [number, number, number]): number {
	const b = t.box;
	let hits = 0;
	for (let i = 0; i < n[0]; i++)
		for (let j = 0; j < n[1]; j++)
			for (let k = 0; k < n[2]; k++)
				if (
					t.unitAt(
						b.minX + ((i + 0.5) * (b.maxX - b.minX)) / n[0],
						b.minY + ((j + 0.5) * (b.maxY - b.minY)) / n[1],
						b.minZ + ((k + 0.5) * (b.maxZ - b.minZ)) / n[2]
					) === unit
				)
					hits++;
	return (hits / (n[0] * n[1] * n[2])) * (b.maxX - b.minX) * (b.maxY - b.minY) * (b.maxZ - b.minZ);
}

const BOX_VOLUME = 4e9;

/** Makes the figures of a test problem. @param spacing of the lattice, metres */
export const PROBLEMS: Record<string, (spacing: number) => Promise<Figure[]>> = {
	P1: async (spacing) => {
		const p = p1();
		const { mesh } = await buildModel(fitGround(p.input), { spacing });
		return [below('P1', 'surfaces, RMS', Math.max(...[0, 1, 2].map((s) => surfaceError(p, surfaceOf(mesh, s).positions, s))), 0.01, 'm')];
	},
	P2: async (spacing) => {
		const p = p2();
		const ground = fitGround(p.input);
		const { mesh } = await buildModel(ground, { spacing });
		return [
			below('P2', 'surfaces, RMS', Math.max(...[0, 1, 2].map((s) => surfaceError(p, surfaceOf(mesh, s).positions, s))), 5, 'm'),
			above('P2', 'points in the right unit', await share(p, ground), 99, '%')
		];
	},
	P3: async (spacing) => {
		const p = p3();
		const ground = fitGround(p.input);
		const built = await buildModel(ground, { spacing });
		const throws = faultOffsets(ground, 0).map((o) => o.throw);
		const mean = throws.reduce((a, b) => a + b, 0) / throws.length;
		return [
			below('P3', `throw down the fault (mean of ${throws.length} places) off by`, 100 * Math.abs(mean / P3_SEPARATION - 1), 3, '%'),
			above('P3', 'points in the right unit', await share(p, ground), 98.5, '%'),
			...whole('P3', built, BOX_VOLUME)
		];
	},
	P4: async (spacing) => {
		const t = p4();
		const ground = fitGround(sampled(t));
		const built = await buildModel(ground, { spacing });
		const r = random(12);
		let beyond = 0;
		// What layers are offset by, on the fault: the field differs by it between the sides. Beyond the tips it must not differ.
		const own = ground.sequences[0]!.innerField!;
		const sides = [inBlock(own, 0), inBlock(own, 1)] as const;
		const scale = 130 / (own.levels[0]! - own.levels[1]!);
		const slipAt = (x: number, y: number, z: number) => (valueAt(sides[1], x, y, z) - valueAt(sides[0], x, y, z)) * scale;
		let most = 0;
		for (let y = 510; y < 1500; y += 20)
			for (let z = -840; z < -60; z += 20) most = Math.max(most, slipAt(1000 - z / Math.tan((70 * Math.PI) / 180), y, z));
		for (let i = 0; i < 2000; i++) {
			const p = [2000 * r(), 2000 * r(), -1000 * r()] as const;
			if (p4Slip(...p).slip === 0) beyond = Math.max(beyond, Math.abs(slipAt(...p)));
		}
		return [
			below('P4', `greatest offset (${most.toFixed(1)} m of ${P4_THROW} m) off by`, 100 * Math.abs(most / P4_THROW - 1), 10, '%'),
			below('P4', 'offset beyond the tips', beyond, 0.5, 'm'),
			above('P4', 'points in the right unit', await right(t, ground), 99, '%'),
			...whole('P4', built, BOX_VOLUME)
		];
	},
	P5: async (spacing) => {
		const t = p5();
		const ground = fitGround(sampled(t));
		const built = await buildModel(ground, { spacing });
		const at = unitAt(ground);
		const r = random(3);
		let [n, good] = [0, 0];
		while (n < 4000) {
			const p = [200 + 1600 * r(), 200 + 1600 * r(), -950 + 350 * r()] as const;
			const value = recumbent(...p);
			if (value < 20 || value > 200) continue;
			n++;
			if (at(...p) === t.unitAt(...p)) good++;
		}
		return [
			above('P5', 'points of the overturned limb in the right unit', (100 * good) / n, 95, '%'),
			above('P5', 'points in the right unit', await right(t, ground), 96, '%'),
			...whole('P5', built, BOX_VOLUME)
		];
	},
	P6: async (spacing) => {
		const t = p6();
		const ground = fitGround(sampled(t));
		const built = await buildModel(ground, { spacing });
		const volume = (4 / 3) * Math.PI * STOCK.radii[0] * STOCK.radii[1] * STOCK.radii[2];
		const solid = solidOf(built.mesh, 0);
		return [
			below('P6', 'volume of the stock off by', 100 * Math.abs(built.mesh.volumes.get(0)! / volume - 1), 4, '%', 2),
			{
				id: 'P6',
				what: 'Euler number of its boundary',
				value: eulerNumber(solid),
				text: String(eulerNumber(solid)),
				aim: '2: one piece, no holes',
				met: eulerNumber(solid) === 2
			},
			above('P6', 'points in the right unit', await right(t, ground), 95, '%'),
			...whole('P6', built, BOX_VOLUME)
		];
	},
	P7: async (spacing) => {
		const t = p7();
		const ground = fitGround(sampled(t));
		const built = await buildModel(ground, { spacing });
		const volume = volumeOfUnit(t, 0, [1600, 100, 100]);
		const solid = solidOf(built.mesh, 0);
		return [
			below(
				'P7',
				`mean thickness (${((DYKE * built.mesh.volumes.get(0)!) / volume).toFixed(2)} m of ${DYKE} m) off by`,
				100 * Math.abs(built.mesh.volumes.get(0)! / volume - 1),
				4,
				'%',
				2
			),
			{
				id: 'P7',
				what: 'Euler number of the dyke',
				value: eulerNumber(solid),
				text: String(eulerNumber(solid)),
				aim: '2: one piece, no holes',
				met: eulerNumber(solid) === 2
			},
			...whole('P7', built, BOX_VOLUME)
		];
	},
	P8: async (spacing) => {
		const t = p8();
		const ground = fitGround(sampled(t));
		const built = await buildModel(ground, { spacing });
		let wrong = 0;
		const columns: { isThere: boolean; xyz: number[] }[] = [];
		const steps = 250;
		for (let x = 30; x < 2000; x += 40)
			for (let y = 30; y < 2000; y += 40) {
				// Columns within one spacing of the pinch-out line may go either way.
				const around = [
					aboveFill(x, y),
					aboveFill(x + spacing, y),
					aboveFill(x - spacing, y),
					aboveFill(x, y + spacing),
					aboveFill(x, y - spacing)
				];
				if (Math.min(...around) < 0 && Math.max(...around) > 0) continue;
				columns.push({ isThere: around[0]! < 0, xyz: Array.from({ length: steps }, (_, k) => [x, y, k - 400]).flat() });
			}
		const units = await unitsAt(ground, Float64Array.from(columns.flatMap((c) => c.xyz)));
		columns.forEach(({ isThere }, i) => {
			if (units.subarray(steps * i, steps * (i + 1)).includes(1) !== isThere) wrong++;
		});
		return [
			{
				id: 'P8',
				what: `columns of ${columns.length} where the lower fill is wrongly there or absent`,
				value: wrong,
				text: String(wrong),
				aim: '0, farther than a spacing from its pinch-out',
				met: wrong === 0
			},
			above('P8', 'points in the right unit', await right(t, ground), 99, '%'),
			...whole('P8', built, BOX_VOLUME)
		];
	},
	P10: async (spacing) => {
		const t = p10();
		const ground = fitGround(sampled(t));
		const built = await buildModel(ground, { spacing });
		return [
			above('P10', 'points in the right unit', await right(t, ground), 98, '%'),
			...whole('P10', built, BOX_VOLUME),
			below('P10', 'units of the column missing', columnOf(t.column).length - unitsIn(built.mesh).length, 1, '', 0)
		];
	},
	P12: async () => {
		const truth: Variogram = { nugget: 0.1, structures: [{ shape: 'spherical', sill: 0.9, range: 150 }] };
		const n = 2000;
		const { uniform, normal } = seededRandom(12);
		const xyz = Float64Array.from({ length: 3 * n }, (_, i) => (i % 3 === 2 ? 0 : 2000 * uniform()));
		const apart = (i: number, j: number) => Math.hypot(xyz[3 * i]! - xyz[3 * j]!, xyz[3 * i + 1]! - xyz[3 * j + 1]!);
		// A field with exactly this covariance at the samples: the Cholesky factor times independent normal numbers.
		const factor = factorCholesky(n, (a, stride) => {
			for (let i = 0; i < n; i++) for (let j = 0; j <= i; j++) a[i * stride + j] = covarianceAt(truth, i === j ? 0 : apart(i, j));
		}) as Cholesky;
		const z = Float64Array.from({ length: n }, normal);
		const values = Float64Array.from({ length: n }, (_, i) => {
			let v = 0;
			for (let j = 0; j <= i; j++) v += factor.l[i * factor.stride + j]! * z[j]!;
			return v;
		});
		const found = fitVariogram(experimentalVariogram(xyz, values, { lag: 12, count: 25 }), 'spherical');
		const kriging = new Kriging(xyz, values, truth);
		let [sum, squares] = [0, 0];
		for (let i = 0; i < n; i++) {
			const e = kriging.at(xyz[3 * i]!, xyz[3 * i + 1]!, 0, i);
			const standard = (values[i]! - e.value) / Math.sqrt(e.variance);
			sum += standard / n;
			squares += standard ** 2 / n;
		}
		return [
			below('P12', 'range off by', 100 * Math.abs(found.structures[0]!.range / 150 - 1), 15, '%', 1),
			below('P12', 'sill off by', 100 * Math.abs(totalSill(found) - 1), 12, '%', 1),
			below('P12', 'mean standardised error of cross-validation', Math.abs(sum), 0.05),
			below('P12', 'variance of the standardised errors off 1 by', Math.abs(squares - 1), 0.1)
		];
	}
};

/** A hole that winds round, by stations each 10 m against the exact curve. */
PROBLEMS['P11'] = async () => {
	const [radius, reach, total] = [8, 500, 1000];
	const rate = 1 / Math.hypot(radius, reach);
	const at = (s: number) => [radius * Math.cos(s * rate) - radius, radius * Math.sin(s * rate), -reach * s * rate] as const;
	const stations = Array.from({ length: total / 10 + 1 }, (_, i) => {
		const s = 10 * i;
		const [dx, dy, dz] = [-radius * rate * Math.sin(s * rate), radius * rate * Math.cos(s * rate), -reach * rate];
		return { depth: s, azimuth: (Math.atan2(dx, dy) / RADIANS + 360) % 360, inclination: Math.atan2(dz, Math.hypot(dx, dy)) / RADIANS };
	});
	const path = holePath([0, 0, 0], total, stations);
	let most = 0;
	for (let s = 0; s <= total; s += 1) {
		const [p, q] = [positionAt(path, s), at(s)];
		most = Math.max(most, Math.hypot(p[0] - q[0], p[1] - q[1], p[2] - q[2]));
	}
	return [below('P11', 'path of a winding hole of 1 000 m off by', 1000 * most, 1, 'mm')];
};

/** What the layers of P3 are offset by down the fault: more than the throw, because they dip. */
const P3_SEPARATION = p3Separation();
function p3Separation(): number {
	const p = p3();
	// Elevations at which the first contact meets the fault on either side, by halving along it.
	const tan = Math.tan((65 * Math.PI) / 180);
	const meet = (side: number) => {
		let [low, high] = [-990, -10];
		const f = (z: number) => p.above(0, 1000 - z / tan + side * 1e-6, 1000, z);
		for (let i = 0; i < 80; i++) {
			const middle = (low + high) / 2;
			if (f(middle) > 0 === f(high) > 0) high = middle;
			else low = middle;
		}
		return (low + high) / 2;
	};
	return meet(-1) - meet(1);
}
