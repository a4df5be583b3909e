import { planeNormal, RADIANS } from '#core/geometry/angles';
import type { FaultSpec } from '#core/model/ground';
import { BOX, random } from './problems';
import type { Truth } from './sampled';

/** Grounds of the test problems P4 to P8 and P10: what is where, and how it was looked at. */
const grid = (step: number, from = 25) => {
	const holes = [];
	for (let x = from; x < 2000; x += step) for (let y = from; y < 2000; y += step) holes.push({ x, y });
	return holes;
};
const places = (n: number, seed: number) => {
	const r = random(seed);
	return Array.from({ length: n }, () => ({ x: 2000 * r(), y: 2000 * r(), z: -100 - 700 * r() }));
};
const unitOf = (levels: readonly number[], v: number) => {
	const i = levels.findIndex((l) => v >= l);
	return i < 0 ? levels.length : i;
};
const PLUNGE = Math.tan(15 * RADIANS);
const [AX, AY] = [Math.sin(20 * RADIANS), Math.cos(20 * RADIANS)];
/** Folds of P2: height above a folded datum. */
export const folds = (x: number, y: number, z: number): number =>
	z - 80 * Math.sin((2 * Math.PI * ((x - 1000) * AY - (y - 1000) * AX)) / 800) + PLUNGE * ((x - 1000) * AX + (y - 1000) * AY);
const LEVELS = [-350, -480, -600];
const LAYERS = [
	['u0', 'conformable'],
	['u1', 'conformable'],
	['u2', 'conformable'],
	['u3', 'conformable']
] as const;

export const P4_THROW = 100;
const P4_TIPS = { elevation: -450, halfLength: 500, halfHeight: 420, reach: 500 };
const p4Normal = planeNormal(70, 90);
const p4Middle = [1000 + 450 / Math.tan(70 * RADIANS), 1000, -450] as const;
/** Distance from the fault of P4, and displacement there: an ellipse of slip that fades away from the fault. */
export function p4Slip(x: number, y: number, z: number): { side: number; slip: number } {
	const d = [x - p4Middle[0], y - p4Middle[1], z - p4Middle[2]] as const;
	const off = p4Normal[0] * d[0] + p4Normal[2] * d[2];
	const down = -p4Normal[2] * d[0] + p4Normal[0] * d[2];
	const r2 = (d[1] / P4_TIPS.halfLength) ** 2 + (down / P4_TIPS.halfHeight) ** 2;
	return { side: off, slip: r2 >= 1 ? 0 : P4_THROW * Math.sqrt(1 - r2) * Math.max(0, 1 - Math.abs(off) / P4_TIPS.reach) };
}
const p4Field = (x: number, y: number, z: number) => {
	const { side, slip } = p4Slip(x, y, z);
	return folds(x, y, z + (side >= 0 ? 0.5 : -0.5) * slip);
};
/** A fault that dies out to all sides in folded layers. */
export const p4 = (): Truth => ({
	box: BOX,
	column: LAYERS,
	unitAt: (x, y, z) => unitOf(LEVELS, p4Field(x, y, z)),
	holes: grid(150),
	layering: { field: p4Field, places: places(60, 5) },
	faults: [
		{
			id: 'f',
			name: 'Dying',
			trace: [
				[1000, 500],
				[1000, 1500]
			],
			dip: 70,
			dipAzimuth: 90,
			youngestCut: 'u0',
			halfWidth: 1,
			on: true,
			tips: P4_TIPS
		}
	]
});

/** Layers folded over about a level axis: below it they are upside down. */
export const recumbent = (x: number, _y: number, z: number): number => 0.25 * (x - 1000) + 0.001 * (z + 500) ** 2;
export const p5 = (): Truth => ({
	box: BOX,
	column: LAYERS,
	unitAt: (x, y, z) => unitOf([190, 110, 30], recumbent(x, y, z)),
	holes: grid(300, 100),
	layering: { field: recumbent, places: places(90, 8) }
});

export const STOCK = { center: [1000, 1000, -520], radii: [420, 360, 330] } as const;
const inStock = (x: number, y: number, z: number) =>
	[x, y, z].reduce((s, v, c) => s + ((v - STOCK.center[c]!) / STOCK.radii[c]!) ** 2, 0) < 1;
/** An ellipsoidal stock through folded layers, met by 60 inclined holes. */
export function p6(seed = 31): Truth {
	const r = random(seed);
	return {
		box: BOX,
		column: [['stock', 'intrusive'], ...LAYERS],
		unitAt: (x, y, z) => (inStock(x, y, z) ? 0 : 1 + unitOf(LEVELS, folds(x, y, z))),
		holes: Array.from({ length: 60 }, () => ({
			x: 150 + 1700 * r(),
			y: 150 + 1700 * r(),
			azimuth: 360 * r(),
			inclination: -55 - 30 * r(),
			depth: 1000
		})),
		layering: { field: folds, places: places(60, 5).filter((p) => !inStock(p.x, p.y, p.z)) }
	};
}

export const DYKE = 15;
const dykeNormal = (y: number) => planeNormal(72, y > 1000 ? 70 : 100);
/** Distance from the middle of a dyke that is kinked where y is 1000. */
export const fromDyke = (x: number, y: number, z: number): number => {
	const n = dykeNormal(y);
	return n[0] * (x - 900) + n[1] * (y - 1000) + n[2] * z;
};
/** A thin, kinked dyke, met by 30 holes across it and seen at the surface. */
export function p7(): Truth {
	const r = random(17);
	return {
		box: BOX,
		column: [
			['dyke', 'intrusive'],
			['host', 'conformable'],
			['floor', 'conformable']
		],
		unitAt: (x, y, z) => (Math.abs(fromDyke(x, y, z)) < DYKE / 2 ? 0 : z > -700 ? 1 : 2),
		holes: Array.from({ length: 30 }, (_, i) => {
			const y = 60 + 65 * i;
			// Drilled from the side that the dyke dips to, against it.
			const n = dykeNormal(y);
			const x = 900 - (n[1] * (y - 1000)) / n[0];
			const out = 120 + 320 * r();
			return { x: x + out, y, azimuth: 270, inclination: -50 - 10 * r(), depth: 900 };
		}),
		traces: Array.from({ length: 20 }, (_, i) => {
			const y = 50 + 100 * i;
			const n = dykeNormal(y);
			return { surface: 0, x: 900 - (n[1] * (y - 1000)) / n[0], y, z: 0 };
		})
	};
}

const valley = (x: number, y: number) =>
	-260 + 90 * Math.sin((2 * Math.PI * x) / 1700) * Math.cos((2 * Math.PI * y) / 2300) - 0.03 * (x - 1000);
const FILL = -235;
/** Folded layers, worn down, and filled up again by layers that lap onto the slopes. */
export const p8 = (): Truth => ({
	box: BOX,
	column: [['fill1', 'conformable'], ['fill2', 'onlapping'], ...LAYERS],
	unitAt: (x, y, z) =>
		z > valley(x, y)
			? z > FILL
				? 0
				: 1
			: 2 +
				unitOf(
					LEVELS.map((l) => l + 80),
					folds(x, y, z)
				),
	holes: grid(150),
	layering: { field: folds, places: places(60, 5).filter((p) => p.z < valley(p.x, p.y) - 5) }
});
/** Height of the valley floor above the contact inside the fill: above 0 the lower fill is absent. */
export const aboveFill = (x: number, y: number): number => valley(x, y) - FILL;

const MAIN: FaultSpec = {
	id: 'main',
	name: 'Main',
	trace: [
		[800, 0],
		[800, 2000]
	],
	dip: 65,
	dipAzimuth: 90,
	youngestCut: 'u0',
	halfWidth: 1,
	on: true
};
const BRANCH: FaultSpec = {
	id: 'branch',
	name: 'Branch',
	trace: [
		[1000, 900],
		[1900, 1100]
	],
	dip: 75,
	dipAzimuth: 0,
	youngestCut: 'u0',
	halfWidth: 1,
	on: true,
	endsOn: 'main'
};
const mainNormal = planeNormal(65, 90);
const branchAzimuth = 90 - Math.atan2(200, 900) / RADIANS - 90;
const branchNormal = planeNormal(75, (branchAzimuth + 360) % 360);
const fromMain = (x: number, z: number) => mainNormal[0] * (x - 800) + mainNormal[2] * z;
const fromBranch = (x: number, y: number, z: number) => branchNormal[0] * (x - 1000) + branchNormal[1] * (y - 900) + branchNormal[2] * z;
const p10Field = (x: number, y: number, z: number) => {
	let up = 0;
	if (fromMain(x, z) >= 0) up += 90 + (fromBranch(x, y, z) >= 0 ? 60 : 0);
	return folds(x, y, z + up);
};
const p10Dyke = (x: number, y: number, z: number) => {
	const n = planeNormal(80, 40);
	return n[0] * (x - 1250) + n[1] * (y - 650) + n[2] * z;
};
/** A dyke that a fault offsets: the fault is younger. */
export function cutDyke(): Truth {
	const fault = planeNormal(60, 0);
	const dyke = (x: number, y: number, z: number) => {
		// North of the fault everything is shifted east by 140 m and down by 60 m.
		const moved = fault[1] * (y - 1000) + fault[2] * z >= 0;
		const n = planeNormal(75, 90);
		return n[0] * (x - (moved ? 140 : 0) - 950) + n[2] * (z + (moved ? 60 : 0));
	};
	return {
		box: BOX,
		column: [
			['dyke', 'intrusive'],
			['host', 'conformable'],
			['floor', 'conformable']
		],
		unitAt: (x, y, z) => (Math.abs(dyke(x, y, z)) < 12 ? 0 : z > -720 ? 1 : 2),
		holes: Array.from({ length: 36 }, (_, i) => ({
			x: 1330 + 40 * (i % 3),
			y: 40 + 55 * i,
			azimuth: 270,
			inclination: -50 - 5 * (i % 4),
			depth: 900
		})),
		faults: [
			{
				id: 'f',
				name: 'F',
				trace: [
					[0, 1000],
					[2000, 1000]
				],
				dip: 60,
				dipAzimuth: 0,
				youngestCut: 'dyke',
				halfWidth: 1,
				on: true
			}
		]
	};
}
/** Two faults, one ending on the other, and a dyke that cuts all of it. */
export const p10 = (): Truth => ({
	box: BOX,
	column: [['dyke', 'intrusive'], ...LAYERS],
	unitAt: (x, y, z) => (Math.abs(p10Dyke(x, y, z)) < 20 ? 0 : 1 + unitOf(LEVELS, p10Field(x, y, z))),
	holes: [
		...grid(150),
		...Array.from({ length: 12 }, (_, i) => ({
			x: 1430 - 75 * i + 250,
			y: 650 + 88 * i - 450 + 250,
			azimuth: 220,
			inclination: -55,
			depth: 700
		})).filter((h) => h.x > 0 && h.y > 0 && h.y < 2000)
	],
	layering: { field: p10Field, places: places(60, 5) },
	faults: [MAIN, BRANCH]
});
