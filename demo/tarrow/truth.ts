import { lineDirection, planeNormal, RADIANS } from '#core/geometry/angles';
import type { StratigraphicColumn } from '#core/units/column';
import {
	aboveMarrick,
	baseHask,
	baseTolven,
	belowConglomerate,
	COLUMN,
	EXTENT,
	LAYERS,
	restored,
	sallowDistance,
	terrainAt,
	type Ground
} from '../truth';

/**
 * All of the Isle of Tarrow: over the layers and the Sallow Fault of `../truth` the cover, the weathering, a stock, its ore, a dyke, a fault that
 * dies out, the water table and what instruments read. Metres, EPSG:32628. Every file of the demo is sampled from this.
 */
const layer = (id: string) => COLUMN.find((u) => u.id === id)!;
export const TARROW_COLUMN: StratigraphicColumn = [
	{ id: 'cover', name: 'Till and alluvium', color: '#D8CFA8', contact: 'erosional' },
	layer('tolven'),
	layer('tuff'),
	{ id: 'dyke', name: 'Pell Dyke', color: '#3E6A52', contact: 'intrusive', form: 'sheet', thinsOut: false },
	{ id: 'granite', name: 'Carrow Granite', color: '#D58C98', contact: 'intrusive', form: 'body', opens: 'both' },
	{ id: 'skarn', name: 'Marrick skarn', color: '#9C3A5E', contact: 'intrusive', form: 'body' },
	layer('fennick'),
	layer('dorrow'),
	layer('marrick'),
	layer('conglomerate'),
	layer('slate')
];
const at = Object.fromEntries(TARROW_COLUMN.map((u, i) => [u.id, i])) as Record<string, number>;

/** Thickness of till and alluvium: along the valley and in patches on low ground, none on the ridge. */
export function coverThickness(x: number, y: number): number {
	const valley = 22 * Math.exp(-(((x - 404350 - 260 * Math.sin(y / 620)) / 330) ** 2));
	const till = 17 * Math.sin(x / 470 + 0.7) * Math.cos(y / 560 + 1.1) * Math.exp(-((Math.max(0, terrainAt(x, y)) / 150) ** 2));
	return Math.min(25, Math.max(0, valley + Math.max(0, till - 3) - 1.5));
}
/** The surface below the cover. */
export const rockhead = (x: number, y: number): number => terrainAt(x, y) - coverThickness(x, y);

/** The weathering below rockhead, youngest first. */
export const WEATHERING_COLUMN: StratigraphicColumn = [
	{ id: 'soil', name: 'Cover and soil', color: '#D8CFA8', contact: 'erosional' },
	{ id: 'high', name: 'Highly weathered', color: '#C08552', contact: 'erosional' },
	{ id: 'moderate', name: 'Moderately weathered', color: '#93A06B', contact: 'erosional' },
	{ id: 'fresh', name: 'Slightly weathered to fresh', color: '#5F7F8F', contact: 'conformable' }
];
const baseOfHigh = (x: number, y: number): number => rockhead(x, y) - 9 - 4 * Math.sin(x / 610) * Math.cos(y / 540);
const baseOfModerate = (x: number, y: number): number => baseOfHigh(x, y) - 14 - 6 * Math.sin(x / 780 + 1) * Math.sin(y / 700);

/** Grade of weathering of a place, as an index into `WEATHERING_COLUMN`. */
export const weatheringAt = (x: number, y: number, z: number): number =>
	z >= rockhead(x, y) - 0.8 ? 0 : z >= baseOfHigh(x, y) ? 1 : z >= baseOfModerate(x, y) ? 2 : 3;

/** The Carrow Granite: a stock about 900 m across that widens downwards. */
export const GRANITE = { x: 402650, y: 4992350, radius: 430 };
/** Distance out of the granite, roughly; below 0 inside. Before the faults moved. */
function outOfGranite(x: number, y: number, z: number): number {
	const [dx, dy] = [x - GRANITE.x, y - GRANITE.y];
	const round = GRANITE.radius * (1 + 0.06 * Math.cos(3 * Math.atan2(dy, dx) + 0.5)) - 0.3 * (z - 100);
	return Math.hypot(dx, dy) - round;
}

/** Thickness of the skarn outside the granite: on its eastern side, none on the others. */
function skarnThickness(x: number, y: number): number {
	const off = Math.abs(Math.atan2(y - GRANITE.y, x - GRANITE.x));
	return off > 0.85 ? 0 : 90 * Math.cos((off / 0.85) * (Math.PI / 2));
}

/** The Pell Dyke: steep, strike 060°, 12 to 18 m thick. */
export const DYKE = { strike: 60, dip: 84, dipAzimuth: 150, through: [402700, 4992880, 0] as const };
const dykeNormal = planeNormal(DYKE.dip, DYKE.dipAzimuth);
const dykeAlong = lineDirection(DYKE.strike, 0);
const dykeThickness = (along: number): number => 15 + 3 * Math.sin(along / 410);
function inDyke(x: number, y: number, z: number): boolean {
	const [dx, dy, dz] = [x - DYKE.through[0], y - DYKE.through[1], z - DYKE.through[2]];
	const along = dx * dykeAlong[0] + dy * dykeAlong[1];
	if (along < -3400) return false;
	return Math.abs(dx * dykeNormal[0] + dy * dykeNormal[1] + dz * dykeNormal[2]) < dykeThickness(along) / 2;
}

/** The Wick Fault: strike 110°, dip 70° to the south-southwest, throw 45 m in its middle, dying out to both tips and away from it; west of the Sallow Fault. */
export const WICK = { strike: 110, dip: 70, dipAzimuth: 200, throw: 45, half: 950, reach: 700, through: [402380, 4993420, 100] as const };
const wickNormal = planeNormal(WICK.dip, WICK.dipAzimuth);
const wickAlong = lineDirection(WICK.strike, 0);
const wickEast = lineDirection(WICK.dipAzimuth, 0);
export const wickDistance = (x: number, y: number, z: number): number =>
	wickNormal[0] * (x - WICK.through[0]) + wickNormal[1] * (y - WICK.through[1]) + wickNormal[2] * (z - WICK.through[2]);

/** Where a place was before the Wick Fault moved; `[x, y, z]` of the time before the Sallow Fault, whose footwall alone it cuts. */
function beforeWick(x: number, y: number, z: number): [number, number, number] {
	const off = wickDistance(x, y, z);
	if (off < 0) return [x, y, z];
	const along = (x - WICK.through[0]) * wickAlong[0] + (y - WICK.through[1]) * wickAlong[1];
	const down = (z - WICK.through[2]) / 600;
	const share = 1 - (along / WICK.half) ** 2 - down * down;
	if (share <= 0 || off >= WICK.reach) return [x, y, z];
	const fall = WICK.throw * share * (1 - off / WICK.reach) ** 2;
	const heave = fall / Math.tan(WICK.dip * RADIANS);
	return [x - heave * wickEast[0], y - heave * wickEast[1], z + fall];
}

/** Where a place was before both faults moved. */
const beforeFaults = (x: number, y: number, z: number): [number, number, number] =>
	sallowDistance(x, y, z) >= 0 ? restored(x, y, z) : beforeWick(x, y, z);

/** Unit of a place below the ground, as an index into `TARROW_COLUMN`. */
export function tarrowUnit(x: number, y: number, z: number): number {
	if (z >= rockhead(x, y)) return at['cover']!;
	if (z >= baseHask(x, y)) return z >= baseTolven(x, y) ? at['tolven']! : at['tuff']!;
	const [rx, ry, rz] = beforeFaults(x, y, z);
	if (inDyke(rx, ry, rz)) return at['dyke']!;
	const out = outOfGranite(rx, ry, rz);
	if (out < 0) return at['granite']!;
	const above = aboveMarrick(rx, ry, rz);
	if (belowConglomerate(rx, ry, above)) return at['slate']!;
	if (above >= 230) return at['fennick']!;
	if (above >= 90) return at['dorrow']!;
	if (above < 0) return at['conglomerate']!;
	return out < skarnThickness(rx, ry) ? at['skarn']! : at['marrick']!;
}

export const TARROW: Ground = {
	column: TARROW_COLUMN,
	unitAt: tarrowUnit,
	spellings: {
		...LAYERS.spellings,
		cover: ['TILL', 'Till', 'alluvium'],
		dyke: ['DOL', 'Dolerite', 'dolerite dyke'],
		granite: ['GRA', 'Granite', 'granite'],
		skarn: ['SKN', 'Skarn', 'skarn'],
		marrick: ['LST', 'Lst.', 'Limestone']
	}
};

/** Tungsten (as WO3), tin and arsenic of a place, ppm, as a sample of 2 m would have them without noise. */
export function gradeAt(x: number, y: number, z: number): { wo3: number; tin: number; arsenic: number } {
	const unit = TARROW_COLUMN[tarrowUnit(x, y, z)]!.id;
	const [rx, ry, rz] = beforeFaults(x, y, z);
	const out = outOfGranite(rx, ry, rz);
	const near = Math.exp(-Math.max(0, out) / 60);
	const shoot = 0.5 + 0.5 * Math.sin(rz / 34 + 2.2 * Math.atan2(ry - GRANITE.y, rx - GRANITE.x));
	if (unit === 'skarn') return { wo3: 2400 + 5200 * shoot * near, tin: 420 + 900 * (1 - shoot), arsenic: 60 + 340 * shoot };
	if (unit === 'granite') return { wo3: 14, tin: 24 + 40 * Math.exp(Math.min(0, out) / 80), arsenic: 4 };
	return { wo3: 6 + 260 * near, tin: 14 + 60 * near, arsenic: 2 + 26 * near };
}

/** Height of the water table on a day (days from 1970): a subdued copy of the terrain that rises in winter, at the river in the valley and at the sea on the shore. */
export function waterTableAt(x: number, y: number, day: number): number {
	let mean = 0;
	for (let k = 0; k < 8; k++) mean += terrainAt(x + 160 * Math.cos((k * Math.PI) / 4), y + 160 * Math.sin((k * Math.PI) / 4)) / 8;
	const depth = 3 + 0.12 * Math.max(0, mean);
	const season = 1 + 0.006 * Math.max(0, mean);
	const still = Math.max(0, mean - depth) + season * Math.cos((2 * Math.PI * (day - 45)) / 365.25);
	return Math.min(still, terrainAt(x, y) - 0.4);
}

/** Total magnetic field over the ground without noise, nT: a regional slope, the granite's rim, the tuff, the dyke and the fault. */
export function magneticAt(x: number, y: number): number {
	const rim = Math.hypot(x - GRANITE.x, y - GRANITE.y) - GRANITE.radius;
	const top = TARROW_COLUMN[tarrowUnit(x, y, rockhead(x, y) - 1)]!.id;
	const dyke = (x - DYKE.through[0]) * dykeNormal[0] + (y - DYKE.through[1]) * dykeNormal[1];
	return (
		48760 +
		0.07 * (x - 401000) +
		0.03 * (y - 4990800) +
		170 * Math.exp(-((rim / 95) ** 2)) +
		(top === 'tuff' ? 26 : 0) +
		(x < 403700 ? 85 / (1 + (dyke / 45) ** 2) : 0) -
		18 / (1 + (sallowDistance(x, y, 0) / 120) ** 2)
	);
}

/** Bouguer anomaly over the ground, mGal: the granite is lighter than what it cut, the cover of the valley, too. */
export function bouguerAt(x: number, y: number): number {
	const away = Math.hypot(x - GRANITE.x, y - GRANITE.y);
	return 14 - 5.6 / (1 + (away / 780) ** 2) ** 1.5 - 0.025 * coverThickness(x, y) + 0.0004 * (x - 403000);
}

/** Trace of the Wick Fault on the ground, from its western tip to the Sallow Fault. */
export function wickTrace(step = 150): [number, number][] {
	const points: [number, number][] = [];
	for (let s = -WICK.half; s <= WICK.half; s += step) {
		const place = (t: number): [number, number] => [
			WICK.through[0] + s * wickAlong[0] + t * wickEast[0],
			WICK.through[1] + s * wickAlong[1] + t * wickEast[1]
		];
		let t = 0;
		for (let i = 0; i < 80; i++) t = 0.5 * t - (0.5 * (terrainAt(...place(t)) - WICK.through[2])) / Math.tan(WICK.dip * RADIANS);
		const [x, y] = place(t);
		if (sallowDistance(x, y, terrainAt(x, y)) > 0 || x < EXTENT.minX) continue;
		points.push([Math.round(x * 10) / 10, Math.round(y * 10) / 10]);
	}
	return points;
}
