import { lineDirection, planeNormal, RADIANS } from '#core/geometry/angles';
import type { Box } from '#core/geometry/box';
import type { StratigraphicColumn } from '#core/units/column';

/**
 * The ground of the Isle of Tarrow as one mathematical description. Every demo file is sampled from it, so every model built
 * from the files can be compared with it. Metres, EPSG:32628.
 */
export const EXTENT: Box = { minX: 400000, minY: 4990000, minZ: -450, maxX: 406000, maxY: 4995000, maxZ: 450 };

export const COLUMN: StratigraphicColumn = [
	{ id: 'tolven', name: 'Tolven Siltstone', color: '#B9A66B', contact: 'conformable' },
	{ id: 'tuff', name: 'Hask Tuff', color: '#C98F86', contact: 'erosional' },
	{ id: 'fennick', name: 'Fennick Sandstone', color: '#E3C27A', contact: 'conformable' },
	{ id: 'dorrow', name: 'Dorrow Mudstone', color: '#7F8C74', contact: 'conformable' },
	{ id: 'marrick', name: 'Marrick Limestone', color: '#7FB3C8', contact: 'conformable' },
	{ id: 'conglomerate', name: 'Quill Conglomerate', color: '#C4773F', contact: 'erosional' },
	{ id: 'slate', name: 'Skerra Slate', color: '#6B6F86', contact: 'conformable' }
];

/** The Sallow Fault: normal, strike 020°, dip 65° east, throw 120 m. It cuts everything below the Hask Group. */
export const SALLOW = { strike: 20, dip: 65, dipAzimuth: 110, throw: 120, through: [403300, 4992500, 0] as const };

const normal = planeNormal(SALLOW.dip, SALLOW.dipAzimuth);

/** Signed distance to the Sallow Fault, positive in the hanging wall. */
export const sallowDistance = (x: number, y: number, z: number): number =>
	normal[0] * (x - SALLOW.through[0]) + normal[1] * (y - SALLOW.through[1]) + normal[2] * (z - SALLOW.through[2]);

const smooth = (t: number) => {
	const c = Math.min(1, Math.max(0, t));
	return c * c * (3 - 2 * c);
};
const bump = (x: number, y: number, cx: number, cy: number, rx: number, ry: number) =>
	Math.exp(-(((x - cx) / rx) ** 2) - ((y - cy) / ry) ** 2);

/** Height of the ground, or of the sea floor. */
export function terrainAt(x: number, y: number): number {
	const u = (x - 403000) / 2900;
	const v = (y - 4992500) / 2350;
	const coast = 1 + 0.07 * Math.sin(5 * Math.atan2(v, u)) + 0.04 * Math.sin(11 * Math.atan2(v, u) + 1);
	const inland = smooth((coast - Math.hypot(u, v)) / 0.42);
	const ridge = 320 * bump(x, y, 401750, 4992650, 700, 1500) + 90 * bump(x, y, 402350, 4991500, 500, 700);
	const hills = 26 * Math.sin(x / 330 + 0.6 * Math.sin(y / 410)) * Math.cos(y / 370) + 11 * Math.sin(x / 140 + y / 190);
	const valley = -55 * Math.exp(-(((x - 404350 - 260 * Math.sin(y / 620)) / 300) ** 2));
	return -38 + inland * (118 + ridge + hills + valley);
}

/** Base of the Marrick Limestone west of the fault: gently folded, down to the east. */
function baseMarrick(x: number, y: number): number {
	const a = x - 402100;
	return 235 - 0.21 * a - 105 * Math.sin((2 * Math.PI * a) / 5200) + 38 * Math.sin((2 * Math.PI * (y - 4990000)) / 3300 + a / 1600);
}

/** Height of the base of the Marrick above the slate: the conglomerate fills hollows and is missing on swells. */
const hollow = (x: number, y: number): number => Math.min(40, 17 + 27 * Math.sin(x / 430) * Math.cos(y / 520));

/** Base of the Hask Group: erosional, rising to the west. */
export function baseHask(x: number, y: number): number {
	const west = Math.max(0, 403700 - x);
	return 12 + 0.00021 * west * west + 20 * Math.sin(x / 820) * Math.cos(y / 930);
}

export const baseTolven = (x: number, y: number): number => 62 - 0.012 * (x - 404000) + 9 * Math.sin(y / 800);

const heave = SALLOW.throw / Math.tan(SALLOW.dip * RADIANS);
const east = lineDirection(SALLOW.dipAzimuth, 0);

/** Where a point of the hanging wall was before the Sallow Fault moved. */
export function restored(x: number, y: number, z: number): [number, number, number] {
	return sallowDistance(x, y, z) >= 0 ? [x - heave * east[0], y - heave * east[1], z + SALLOW.throw] : [x, y, z];
}

/** Height above the base of the Marrick Limestone before the faults moved, and whether a place lies in the slate. */
export const aboveMarrick = (x: number, y: number, z: number): number => z - baseMarrick(x, y);
export const belowConglomerate = (x: number, y: number, above: number): boolean => above < -hollow(x, y);

/** Unit of a place below the ground, as an index into `COLUMN`. */
export function truthUnit(x: number, y: number, z: number): number {
	if (z >= baseHask(x, y)) return z >= baseTolven(x, y) ? 0 : 1;
	const [rx, ry, rz] = restored(x, y, z);
	const above = aboveMarrick(rx, ry, rz);
	if (belowConglomerate(rx, ry, above)) return 6;
	return above >= 230 ? 2 : above >= 90 ? 3 : above >= 0 ? 4 : 5;
}

/** A ground that files can be sampled from. */
export interface Ground {
	column: StratigraphicColumn;
	/** Unit of a place below the ground, as an index into the column. */
	unitAt(x: number, y: number, z: number): number;
	/** How loggers write a unit, by its id. */
	spellings: Readonly<Record<string, readonly string[]>>;
}

/** The layers and the Sallow Fault alone: quick to build, so tests that need a ground and not all of Tarrow use it. */
export const LAYERS: Ground = {
	column: COLUMN,
	unitAt: truthUnit,
	spellings: {
		tolven: ['SLT', 'Siltstone', 'Tolven Siltstone'],
		tuff: ['TUF', 'Tuff', 'tuff'],
		fennick: ['SST', 'Sandstone', 'Sst.'],
		dorrow: ['MDST', 'Mudstone', 'mudstone'],
		marrick: ['LST', 'Lst.', 'Limestone', 'limestone/skarn'],
		conglomerate: ['CGL', 'Conglomerate', 'Congl.'],
		slate: ['SLA', 'Slate', 'slate']
	}
};

/** The parts of the Skerra Slate, the highest of its folded pile first. */
export const SLATE_PARTS: StratigraphicColumn = [
	{ id: 's1', name: 'S1 silty slate', color: '#9AA3BC', contact: 'conformable' },
	{ id: 's2', name: 'S2 banded slate', color: '#7C87A6', contact: 'conformable' },
	{ id: 's3', name: 'S3 black slate', color: '#4B5068', contact: 'conformable' },
	{ id: 's4', name: 'S4 green slate', color: '#71857A', contact: 'conformable' },
	{ id: 's5', name: 'S5 quartzite beds', color: '#C2B8A3', contact: 'conformable' }
];
const SLATE_BASES = [105, 20, -45, -130];

/** Part of the slate, as an index into `SLATE_PARTS`: folded about axes that trend north-northeast, and offset by the Sallow Fault. */
export function truthSlatePart(x: number, y: number, z: number): number {
	const [rx, ry, rz] = restored(x, y, z);
	const across = (rx - 403000) * Math.cos(20 * RADIANS) - (ry - 4992500) * Math.sin(20 * RADIANS);
	const level = rz - 75 * Math.sin((2 * Math.PI * across) / 1900) + 0.03 * across;
	const part = SLATE_BASES.findIndex((b) => level >= b);
	return part < 0 ? 4 : part;
}

/** Dip and dip azimuth of the layering at a place in the Hask or Quill Group. */
export function truthBedding(x: number, y: number, z: number): { dip: number; dipAzimuth: number } {
	const surface = z >= baseHask(x, y) ? baseTolven : baseMarrick;
	const [rx, ry] = z >= baseHask(x, y) ? [x, y] : restored(x, y, z);
	const e = 0.5;
	const gx = (surface(rx + e, ry) - surface(rx - e, ry)) / (2 * e);
	const gy = (surface(rx, ry + e) - surface(rx, ry - e)) / (2 * e);
	return { dip: Math.atan(Math.hypot(gx, gy)) / RADIANS, dipAzimuth: (((Math.atan2(-gx, -gy) / RADIANS) % 360) + 360) % 360 };
}

/** The trace of the Sallow Fault on the ground, from south to north. */
export function sallowTrace(step = 250): [number, number][] {
	const along = lineDirection(SALLOW.strike, 0);
	const points: [number, number][] = [];
	for (let s = -2750; s <= 2750; s += step) {
		let t = 0;
		// Move along the dip until the plane meets the ground.
		for (let i = 0; i < 60; i++) {
			const [x, y] = [SALLOW.through[0] + s * along[0] + t * east[0], SALLOW.through[1] + s * along[1] + t * east[1]];
			t = (-terrainAt(x, y) / Math.tan(SALLOW.dip * RADIANS)) * 0.5 + t * 0.5;
		}
		const [x, y] = [SALLOW.through[0] + s * along[0] + t * east[0], SALLOW.through[1] + s * along[1] + t * east[1]];
		if (x > EXTENT.minX && x < EXTENT.maxX && y > EXTENT.minY && y < EXTENT.maxY)
			points.push([Math.round(x * 10) / 10, Math.round(y * 10) / 10]);
	}
	return points;
}
